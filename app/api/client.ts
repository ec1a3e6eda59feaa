import { ref } from 'vue'
import type { BatchAccepted, BatchRefusal } from '#shared/edits'
import type { Catchup } from '#shared/live'
import type { StoredAsset, UploadKind, UploadState } from '#shared/assets'
import type { FoundCaption } from '#shared/captions'
import type { CutTaken, NewCut } from '#shared/cuts'
import type { Render, RenderAsk } from '#shared/renders'
import type { Compared, Version } from '#shared/versions'
import type { KnownFacts, LoadedBreakdown, LoadedDrawing, LoadedSet, LoadedTake, LoadedTry, NewProject, OpenedProject, ProjectCard, ProjectCover, ProjectPatch, SetUsers, Shelf, WorkChange } from '#shared/projects'
import { KNOWN_LIMIT } from '#shared/live'
import { LOAD_LIMIT } from '#shared/projects'

/** The server said no. `data` is its reason for programs, `message` for people. */
export class Refused extends Error {
  readonly status: number
  readonly data: { readonly code: string } & Record<string, unknown>

  constructor(status: number, message: string, data: { readonly code: string } & Record<string, unknown>) {
    super(message)
    this.status = status
    this.data = data
  }
}

/** No answer came: the server is down, or the connection is. */
export class Unreachable extends Error {}

/** An answer came, and it was that the server failed. */
export class ServerFailed extends Unreachable {}

/** The server asks for its secret before it goes on. */
export const signInWanted = ref(false)

const ANSWER_WITHIN_MS = 20_000

async function ask<T>(path: string, init: RequestInit = {}): Promise<T> {
  let response: Response
  try {
    response = await fetch(path, { signal: AbortSignal.timeout(ANSWER_WITHIN_MS), ...init })
  } catch (error) {
    if (init.signal?.aborted) throw error
    throw new Unreachable('The server does not answer.', { cause: error })
  }
  if (response.status === 204) return undefined as T
  const body: unknown = await response.json().catch(() => null)
  if (response.ok) return body as T
  if (response.status === 401) signInWanted.value = true
  const said = body as { message?: string; data?: { code: string } } | null
  if (response.status >= 500 && said?.data === undefined) throw new ServerFailed(`The server failed (${response.status}).`)
  throw new Refused(response.status, said?.message ?? `The server answered ${response.status}.`, said?.data ?? { code: 'unknown' })
}

/** An answer that is a file; refusals are JSON as everywhere. */
async function askFile(path: string, signal: AbortSignal): Promise<Blob> {
  const response = await fetch(path, { signal: AbortSignal.any([signal, AbortSignal.timeout(120_000)]) }).catch((error: unknown) => {
    if (signal.aborted) throw error
    throw new Unreachable('The server does not answer.', { cause: error })
  })
  if (response.ok) return response.blob()
  const said = (await response.json().catch(() => null)) as { message?: string; data?: { code: string } } | null
  throw new Refused(response.status, said?.message ?? `The server answered ${response.status}.`, said?.data ?? { code: 'unknown' })
}

const json = (method: string, value: unknown): RequestInit => ({
  method,
  headers: { 'Content-Type': 'application/json' },
  body: JSON.stringify(value),
})

async function inPortions<T>(ids: readonly string[], load: (part: readonly string[]) => Promise<readonly T[]>, limit = LOAD_LIMIT): Promise<T[]> {
  const found: T[] = []
  for (let at = 0; at < ids.length; at += limit) found.push(...(await load(ids.slice(at, at + limit))))
  return found
}

export const api = {
  signIn: (secret: string) => ask<undefined>('/api/sign-in', json('POST', { secret })),
  projects: (shelf: Shelf = 'desk') => ask<ProjectCard[]>(`/api/projects?shelf=${shelf}`),
  patchProject: (id: string, patch: ProjectPatch) => ask<ProjectCard>(`/api/projects/${id}`, json('PATCH', patch)),
  duplicateProject: (id: string) => ask<ProjectCard>(`/api/projects/${id}/duplicate`, { method: 'POST', signal: AbortSignal.timeout(120_000) }),
  deleteForGood: (id: string) => ask<undefined>(`/api/projects/${id}/trash`, { method: 'DELETE' }),
  createProject: (settings: NewProject) => ask<ProjectCard>('/api/projects', json('POST', settings)),
  trashProject: (id: string) => ask<undefined>(`/api/projects/${id}`, { method: 'DELETE' }),
  restoreProject: (id: string) => ask<ProjectCard>(`/api/projects/${id}/restore`, { method: 'POST' }),
  openProject: (id: string) => ask<OpenedProject>(`/api/projects/${id}`),
  cover: (id: string) => ask<ProjectCover>(`/api/projects/${id}/cover`),
  takes: (id: string, ids: readonly string[]) =>
    inPortions(ids, (part) => ask<LoadedTake[]>(`/api/projects/${id}/takes?ids=${part.join(',')}`)),
  drawings: (id: string, ids: readonly string[]) =>
    inPortions(ids, (part) => ask<LoadedDrawing[]>(`/api/projects/${id}/drawings?ids=${part.join(',')}`)),
  tries: (id: string, ids: readonly string[]) => inPortions(ids, (part) => ask<LoadedTry[]>(`/api/projects/${id}/tries?ids=${part.join(',')}`)),
  versionTries: (id: string, version: string, ids: readonly string[]) => inPortions(ids, (part) => ask<LoadedTry[]>(`/api/projects/${id}/versions/${version}/tries?ids=${part.join(',')}`)),
  sets: (id: string, ids: readonly string[]) => inPortions(ids, (part) => ask<LoadedSet[]>(`/api/projects/${id}/sets?ids=${part.join(',')}`)),
  versionSets: (id: string, version: string, ids: readonly string[]) => inPortions(ids, (part) => ask<LoadedSet[]>(`/api/projects/${id}/versions/${version}/sets?ids=${part.join(',')}`)),
  breakdowns: (id: string, ids: readonly string[]) => inPortions(ids, (part) => ask<LoadedBreakdown[]>(`/api/projects/${id}/breakdowns?ids=${part.join(',')}`)),
  versionBreakdowns: (id: string, version: string, ids: readonly string[]) => inPortions(ids, (part) => ask<LoadedBreakdown[]>(`/api/projects/${id}/versions/${version}/breakdowns?ids=${part.join(',')}`)),
  facts: (id: string, signal?: AbortSignal) => ask<KnownFacts>(`/api/projects/${id}/facts`, signal === undefined ? {} : { signal }),
  /** Works out what is not known of these; at most `FACTS_AT_ONCE` of them. */
  factsOf: (id: string, takeIds: readonly string[], signal: AbortSignal) => ask<KnownFacts>(`/api/projects/${id}/facts?ids=${takeIds.join(',')}`, { signal }),
  workHistory: (id: string, workId: string) => ask<WorkChange[]>(`/api/projects/${id}/breakdown-history?of=${encodeURIComponent(workId)}`),
  setUsers: (id: string) => ask<SetUsers>(`/api/projects/${id}/set-users`),
  changesAfter: (id: string, after: number) => ask<Catchup>(`/api/projects/${id}/changes?after=${after}`),
  knownChanges: (id: string, ids: readonly string[]) => inPortions(ids, (part) => ask<string[]>(`/api/projects/${id}/known`, json('POST', { ids: part })), KNOWN_LIMIT),
  findCaptions: (id: string, words: string, exactCase: boolean) => ask<FoundCaption[]>(`/api/projects/${id}/captions?${new URLSearchParams({ q: words, case: exactCase ? '1' : '0' })}`),
  healthy: () => ask<{ ok: boolean }>('/api/health').then(({ ok }) => ok, () => false),
  /** `body` is a `Batch` as lines. */
  async sendBatch(id: string, body: Blob): Promise<BatchAccepted> {
    const bytes = await body.arrayBuffer()
    return ask(`/api/projects/${id}/edits`, { method: 'POST', headers: { 'Content-Type': body.type }, body: bytes, signal: AbortSignal.timeout(60_000) })
  },
  /** Changes that came up in parts. */
  sendUploadedBatch: (id: string, upload: string) => ask<BatchAccepted>(`/api/projects/${id}/edits/${upload}`, { method: 'POST', signal: AbortSignal.timeout(300_000) }),
  beginUpload: (kind: UploadKind, bytes: number) => ask<UploadState>('/api/uploads', json('POST', { kind, bytes })),
  sendPart: (id: string, part: number, bytes: Blob, signal: AbortSignal) => ask<undefined>(`/api/uploads/${id}/parts/${part}`, { method: 'PUT', body: bytes, signal: AbortSignal.any([signal, AbortSignal.timeout(120_000)]) }),
  uploadState: (id: string) => ask<UploadState>(`/api/uploads/${id}`),
  takeInUploaded: (upload: string, incomplete: boolean) => ask<ProjectCard>(`/api/archives/${upload}${incomplete ? '?incomplete=1' : ''}`, { method: 'POST', signal: AbortSignal.timeout(1_800_000) }),
  finishUpload: (id: string) => ask<StoredAsset>(`/api/uploads/${id}/finish`, { method: 'POST', signal: AbortSignal.timeout(300_000) }),
  forgetUnused: (files: readonly StoredAsset[]) => ask<{ gone: number }>('/api/pictures/unused', json('POST', { files: files.map(({ hash, touchedAt }) => ({ hash, touchedAt })) })),
  dropUpload: (id: string) => ask<undefined>(`/api/uploads/${id}`, { method: 'DELETE' }),
  cut: (id: string, query: Readonly<Record<string, string>>, signal: AbortSignal) => askFile(`/api/projects/${id}/cut?${new URLSearchParams(query)}`, signal),
  filmOfCut: (cut: NewCut) => ask<CutTaken>('/api/cuts', { ...json('POST', cut), signal: AbortSignal.timeout(120_000) }),
  renders: (id: string) => ask<Render[]>(`/api/projects/${id}/renders`),
  startRender: (id: string, render: RenderAsk) => ask<{ id: string }>(`/api/projects/${id}/renders`, { ...json('POST', render), signal: AbortSignal.timeout(60_000) }),
  endRender: (id: string, render: string) => ask<undefined>(`/api/projects/${id}/renders/${render}`, { method: 'DELETE' }),
  againRender: (id: string, render: string) => ask<{ id: string }>(`/api/projects/${id}/renders/${render}/again`, { method: 'POST' }),
  renderedUrl: (id: string, render: string, file: number) => `/api/projects/${id}/renders/${render}/files/${file}`,
  versions: (id: string) => ask<Version[]>(`/api/projects/${id}/versions`),
  makeVersion: (id: string, name: string, author: string, reason: 'hand' | 'before' = 'hand') =>
    ask<{ id: string }>(`/api/projects/${id}/versions`, { ...json('POST', { name, author, reason }), signal: AbortSignal.timeout(60_000) }),
  deleteVersion: (id: string, version: string) => ask<undefined>(`/api/projects/${id}/versions/${version}`, { method: 'DELETE' }),
  versionCover: (id: string, version: string) => ask<ProjectCover>(`/api/projects/${id}/versions/${version}/cover`),
  compareVersion: (id: string, version: string) => ask<Compared[]>(`/api/projects/${id}/versions/${version}/compare`),
  openVersion: (id: string, version: string) => ask<OpenedProject & { readonly name: string }>(`/api/projects/${id}/versions/${version}`),
  bringBack: (id: string, version: string, shotIds: readonly string[] | null, author: string) =>
    ask<{ keptAs: string; changes: number }>(`/api/projects/${id}/versions/${version}/bring-back`, { ...json('POST', { shotIds, author }), signal: AbortSignal.timeout(120_000) }),
  versionTakes: (id: string, version: string, ids: readonly string[]) =>
    inPortions(ids, (part) => ask<LoadedTake[]>(`/api/projects/${id}/versions/${version}/takes?ids=${part.join(',')}`)),
  versionDrawings: (id: string, version: string, ids: readonly string[]) =>
    inPortions(ids, (part) => ask<LoadedDrawing[]>(`/api/projects/${id}/versions/${version}/drawings?ids=${part.join(',')}`)),
  soundUrl: (hash: string) => `/api/sounds/${hash}`,
  /** `side`: at most this many px along its longest side. */
  pictureUrl: (hash: string, side: number | null) => `/api/pictures/${hash}${side === null ? '' : `?side=${side}`}`,
}

/** Where a worker finds pictures: it has no address of its own. */
export const pictureBase = () => `${location.origin}/api/pictures/`

export function isBatchRefusal(error: unknown): error is Refused & { data: BatchRefusal } {
  return error instanceof Refused && (error.data.code === 'stale-revision' || error.data.code === 'invalid-edit')
}
