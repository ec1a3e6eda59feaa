import type { AssetKind, StoredAsset, UploadKind, UploadState } from '#shared/assets'
import type { BatchAccepted } from '#shared/edits'
import type { ProjectCard } from '#shared/projects'
import { api, Refused, Unreachable } from './client'

const TRIES = 8
/** Uploads whose parts the server still has, though it could not keep the file: by what the file is. */
const unfinished = new Map<string, string>()
const nameOf = (file: Blob, kind: UploadKind) => (file instanceof File ? `${kind}/${file.size}/${file.lastModified}/${file.name}` : null)
/** Answers that say: not now. */
const LATER: ReadonlySet<number> = new Set([429, 503])
/** The server has no room, or has left: what has arrived stays there. */
const ROOM = 507
const pause = (ms: number, gate: AbortSignal) =>
  new Promise<void>((resolve, reject) => {
    const timer = setTimeout(resolve, ms)
    gate.addEventListener('abort', () => (clearTimeout(timer), reject(gate.reason as Error)), { once: true })
  })

/** Takes a film in from its file; `incomplete` also where something is missing in it. */
export const uploadArchive = (file: File, incomplete: boolean, onProgress: (share: number) => void, gate: AbortSignal): Promise<ProjectCard> => upload(file, 'archive', (id) => api.takeInUploaded(id, incomplete), onProgress, gate)

/**
 * Sends a file part by part. A part that is lost on the way is sent again, for some minutes; what has arrived is not.
 * `onProgress` hears the share that is there, 0…1.
 */
export const uploadFile = (file: Blob, kind: AssetKind, onProgress: (share: number) => void, gate: AbortSignal): Promise<StoredAsset> => upload(file, kind, (id) => api.finishUpload(id), onProgress, gate)

/** Sends changes that are too large for one request: part by part, as a file. */
export function uploadBatch(projectId: string, body: Blob): Promise<BatchAccepted> {
  const gate = new AbortController()
  return upload(body, 'batch', (id) => api.sendUploadedBatch(projectId, id), () => undefined, gate.signal)
}

async function upload<T>(file: Blob, kind: UploadKind, finish: (id: string) => Promise<T>, onProgress: (share: number) => void, gate: AbortSignal): Promise<T> {
  const again = async <T>(work: () => Promise<T>): Promise<T> => {
    for (let tries = 0; ; tries++) {
      gate.throwIfAborted()
      try {
        return await work()
      } catch (error) {
        gate.throwIfAborted()
        const passing = error instanceof Unreachable || (error instanceof Refused && (error.data.code === 'cut-short' || LATER.has(error.status)))
        if (!passing || tries >= TRIES) throw error
        await pause(Math.min(30_000, 500 * 2 ** tries), gate)
      }
    }
  }
  let begun: UploadState | null = null
  try {
    const name = nameOf(file, kind)
    const known = name === null ? undefined : unfinished.get(name)
    const there = known === undefined ? null : await api.uploadState(known).catch(() => null)
    begun = there ?? (await again(() => api.beginUpload(kind, file.size)))
    const { id, partBytes } = begun
    if (name !== null) unfinished.set(name, id)
    const has = new Set(begun.parts)
    const count = Math.max(1, Math.ceil(file.size / partBytes))
    for (let part = 0; part < count; part++) {
      if (!has.has(part)) await again(() => api.sendPart(id, part, file.slice(part * partBytes, (part + 1) * partBytes), gate))
      onProgress((part + 1) / count)
    }
    const stored = await again(() => finish(id))
    begun = null
    if (name !== null) unfinished.delete(name)
    return stored
  } catch (error) {
    if (error instanceof Refused && (error.status === ROOM || error.data.code === 'incomplete-archive')) begun = null
    throw error
  } finally {
    if (begun !== null) void api.dropUpload(begun.id).catch(() => undefined)
  }
}
