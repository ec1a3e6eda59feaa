import { randomUUID } from 'node:crypto'
import { filePieces, filmFiles, spanOfPart, createFilmStage, type FilmStage } from '@rubato/core/stage'
import type { Rate } from '@rubato/core/time'
import { QueryTypes, type Transaction } from 'sequelize'
import { factsOf, isByShot } from '#shared/handOver'
import { leadFrames, picturePixels, type Render, type RenderAsk, type RenderFile, type RenderState, type Said } from '#shared/renders'
import { useDatabase } from '../models/database'
import { useBlobs } from '../storage/blobs'
import { dropAsset } from '../services/assets'
import { lockProject } from '../services/editBatches'
import { notify } from '../services/notices'
import { liveProject } from '../services/projects'
import { notFound, refuse } from '../services/refusals'
import { inFilmTurn } from '../services/turns'
import { keepVersion, openVersion } from '../services/versions'
import { sendJob, useQueue, RENDER_QUEUE } from './queue'

/** Frames of a piece: enough to be worth a worker's while, few enough that little is lost with one. */
const PIECE_FRAMES = { least: 96, most: 288 }
const MOST_FILES = 1000
const MOST_RUNNING = 200
const KEPT_DAYS = Number(process.env.RUBATO_RENDER_DAYS || 14)
/** A worker that has not been heard of for so long is not there. */
export const SILENT_SECONDS = Number(process.env.RUBATO_WORKER_SILENT_SECONDS || 12)

export async function rows<T extends object>(sql: string, bind: readonly unknown[] = [], transaction?: Transaction): Promise<T[]> {
  const { sequelize } = await useDatabase()
  return sequelize.query<T>(sql, { bind: [...bind], type: QueryTypes.SELECT, transaction: transaction ?? null })
}
export async function run(sql: string, bind: readonly unknown[], transaction?: Transaction): Promise<void> {
  const { sequelize } = await useDatabase()
  await sequelize.query(sql, { bind: [...bind], transaction: transaction ?? null })
}
export async function tellRenders(projectId: string): Promise<void> {
  const { sequelize } = await useDatabase()
  await notify(sequelize, { project: projectId, of: 'renders' }).catch(() => undefined)
}

/** The film as it stands now, kept for as long as it takes: as the last that something was handed over of, where nothing has changed since. */
async function frozen(projectId: string, author: string): Promise<string> {
  const { sequelize } = await useDatabase()
  return inFilmTurn(projectId, () =>
    sequelize.transaction(async (transaction) => {
      const project = await lockProject(projectId, transaction)
      const [same] = await rows<{ id: string }>(
        `SELECT id FROM versions v WHERE project_id = $1 AND reason = 'out' AND outline_revision = $2
           AND NOT EXISTS (SELECT 1 FROM journal j WHERE j.project_id = $1 AND j.created_at >= v.created_at) ORDER BY created_at DESC LIMIT 1`,
        [projectId, project.revision],
        transaction,
      )
      return same?.id ?? keepVersion(project, `Handed over ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`, author, 'out', transaction)
    }),
  )
}

interface NewPiece {
  readonly kind: 'frames' | 'file' | 'join'
  readonly file: number
  readonly start: number
  readonly end: number
  readonly lead: number
}

const stemOf = (text: string) => text.trim().replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'film'

/** Puts a render into the queue; its id. The film may be changed from then on: it is made of what it was. */
export async function askRender(projectId: string, ask: RenderAsk, saidBefore?: Said): Promise<string> {
  await liveProject(projectId)
  const [{ count }] = (await rows<{ count: number }>("SELECT count(*)::int AS count FROM renders WHERE project_id = $1 AND state = 'running'", [projectId])) as [{ count: number }]
  if (count >= MOST_RUNNING) throw refuse(422, 'too-many-renders', `${count} renders of this film are waiting already. Cancel some, or wait for them.`)
  const version = ask.version ?? (await frozen(projectId, ask.author))
  const { outline, takeLengths, name } = await openVersion(projectId, version)
  const versionName = ask.version === undefined ? '' : name
  const project = Object.values(outline.project)[0]!
  const film = createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0)
  const facts = factsOf(ask.format)
  const [leastWidth, leastHeight] = facts.leastPx ?? [0, 0]
  if (project.widthPx * ask.look.size < leastWidth || project.heightPx * ask.look.size < leastHeight) throw refuse(422, 'too-small', `${facts.label} can’t be smaller than ${leastWidth} × ${leastHeight}. Choose a larger size.`)
  const span = spanOfPart(film, ask.of)
  if (span === null) {
    const asked = 'from' in ask.of ? [ask.of.from, ask.of.to] : []
    throw refuse(422, 'no-such-shot', `There is no shot ${asked.find((label) => film.shots.every(({ shot }) => shot.label !== label))} in the film.`)
  }
  const each = isByShot(ask.format) ? 'shot' : facts.needs === 'checks' || facts.needs === 'boards' ? 'whole' : ask.each
  const files = filmFiles(film, span, each, facts.needs === 'frames' || facts.needs === 'sound' ? ask.handles : 0)
  if (files.length === 0) throw refuse(422, 'nothing', 'There are no frames to make: the range is empty.')
  if (files.length > MOST_FILES) throw refuse(422, 'too-many-files', `These are ${files.length} files; at most ${MOST_FILES} are made at once. Choose fewer shots.`)
  if (facts.needs === 'sound' && Object.keys(outline.clips).length === 0) throw refuse(422, 'no-sound', 'The film has no sound yet. Bring some in first.')
  const lead = facts.frame === 'layers' ? 0 : leadFrames(ask.look.dress)
  const pieces: NewPiece[] = files.flatMap((file, i): NewPiece[] => {
    if (facts.needs !== 'frames') return [{ kind: 'file', file: i, ...file.span, lead: 0 }]
    return filePieces(film, file, PIECE_FRAMES.least, PIECE_FRAMES.most).map(({ start, end }, n) => ({ kind: 'frames', file: i, start, end, lead: n === 0 ? lead : 0 }))
  })
  if (facts.needs === 'frames') pieces.push({ kind: 'join', file: 0, start: 0, end: 0, lead: 0 })
  const about = aboutOf(film, ask, span)
  const stem = stemOf(`${project.title}${ask.of.kind === 'film' ? '' : ` ${about}`}${ask.look.depth === null ? '' : ' distances'}`)
  const stems = files.map(({ label }) => (label === null ? stem : stemOf(`${project.title} ${label}`)))
  // Labels that differ by a sign that no file's name has.
  const names = stems.map((each, i) => `${each}${stems.indexOf(each) === i ? '' : `-${i + 1}`}.${facts.extension}`)
  const kept: KeptAsk = {
    ...ask,
    version,
    rate: project.rate,
    said: saidBefore ?? { version: versionName, date: new Date().toISOString().slice(0, 10), who: ask.author },
    title: project.title,
    shape: picturePixels({ project, size: ask.look.size }),
    files: files.map(({ shotId, label, span: { start, end } }, i) => ({ shotId, label, start, end, name: names[i]! })),
  }
  const id = randomUUID()
  const { sequelize } = await useDatabase()
  const jobs = pieces.map(() => randomUUID())
  await sequelize.transaction(async (transaction) => {
    await run(
      'INSERT INTO renders (id, project_id, version_id, format, about, ask, priority, author) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)',
      [id, projectId, version, ask.format, about, JSON.stringify(kept), ask.priority, ask.author],
      transaction,
    )
    await run(
      `INSERT INTO render_pieces (render_id, number, kind, file, span_start, span_end, lead, job_id)
         SELECT $1, (p->>'number')::int, p->>'kind', (p->>'file')::int, (p->>'start')::int, (p->>'end')::int, (p->>'lead')::int, (p->>'job')::uuid FROM jsonb_array_elements($2::jsonb) AS p`,
      [id, JSON.stringify(pieces.map((piece, number) => ({ ...piece, number, job: jobs[number] })))],
      transaction,
    )
  })
  // What is not sent because this process ends here is sent by the next worker that looks.
  for (const [number, { kind }] of pieces.entries()) if (kind !== 'join') await sendJob({ renderId: id, number }, jobs[number]!, ask.priority * 10)
  await tellRenders(projectId)
  return id
}

/** What was asked, with what came of it when the film was looked at. */
export interface KeptAsk extends RenderAsk {
  readonly version: string
  readonly rate: Rate
  readonly said: Said
  readonly title: string
  /** Of the picture, px. */
  readonly shape: { readonly widthPx: number; readonly heightPx: number }
  readonly files: readonly { readonly shotId: string | null; readonly label: string | null; readonly start: number; readonly end: number; readonly name: string }[]
}

function aboutOf(film: FilmStage, { of }: RenderAsk, span: { readonly start: number; readonly end: number }): string {
  if (of.kind === 'film') return 'whole film'
  if (of.kind === 'shots') return of.from === of.to ? of.from : `${of.from}-${of.to}`
  const exact = film.shots.find(({ startFrame, lengthFrames }) => startFrame === span.start && startFrame + lengthFrames === span.end)
  return exact?.shot.label ?? `${span.start}-${span.end - 1}`
}

interface RenderRow {
  readonly id: string
  readonly project_id: string
  readonly format: Render['format']
  readonly about: string
  readonly state: RenderState
  readonly priority: number
  readonly author: string
  readonly why: string | null
  readonly created_at: Date
  readonly ended_at: Date | null
  readonly expires_at: Date | null
  readonly frames: number
  readonly done_frames: number
  readonly pieces: number
  readonly done_pieces: number
  readonly at_work: number
  readonly files: readonly RenderFile[] | null
}

/** A film's renders, the newest first. */
export async function listRenders(projectId: string): Promise<readonly Render[]> {
  await liveProject(projectId)
  const [found, workers] = await Promise.all([
    rows<RenderRow>(
      `SELECT r.id, r.project_id, r.format, r.about, r.state, r.priority, r.author, r.why, r.created_at, r.ended_at, r.expires_at, p.*, f.files
       FROM renders r
       LEFT JOIN LATERAL (
         SELECT coalesce(sum(span_end - span_start + lead) FILTER (WHERE kind = 'frames'), 0)::int AS frames, coalesce(sum(done_frames) FILTER (WHERE kind = 'frames'), 0)::int AS done_frames,
                count(*)::int AS pieces, count(*) FILTER (WHERE state = 'done')::int AS done_pieces, count(*) FILTER (WHERE state = 'taken')::int AS at_work
         FROM render_pieces WHERE render_id = r.id) p ON true
       LEFT JOIN LATERAL (SELECT jsonb_agg(jsonb_build_object('number', number, 'name', name, 'bytes', bytes) ORDER BY number) AS files FROM render_files WHERE render_id = r.id) f ON true
       WHERE r.project_id = $1 ORDER BY r.created_at DESC LIMIT 200`,
      [projectId],
    ),
    workerCount(),
  ])
  return found.map((row) => ({
    id: row.id,
    format: row.format,
    about: row.about,
    state: row.state,
    priority: row.priority,
    author: row.author,
    why: row.why,
    frames: row.frames,
    doneFrames: row.state === 'done' ? row.frames : row.done_frames,
    pieces: row.pieces,
    donePieces: row.done_pieces,
    atWork: row.at_work,
    workers,
    files: row.state === 'done' ? (row.files ?? []) : [],
    createdAt: row.created_at.toISOString(),
    endedAt: row.ended_at?.toISOString() ?? null,
    expiresAt: row.expires_at?.toISOString() ?? null,
  }))
}

const workerCount = async () => (await rows<{ count: number }>(`SELECT count(*)::int AS count FROM render_workers WHERE beat_at > now() - make_interval(secs => ${SILENT_SECONDS})`))[0]!.count

async function renderOf(projectId: string, renderId: string): Promise<{ readonly state: RenderState; readonly ask: KeptAsk }> {
  await liveProject(projectId)
  const [found] = await rows<{ state: RenderState; ask: KeptAsk }>('SELECT state, ask FROM renders WHERE project_id = $1 AND id = $2', [projectId, renderId])
  if (found === undefined) throw notFound('render', renderId)
  return found
}

/** One that is running is ended and its pieces are let go of; any other is taken off the list, with its files. */
export async function endRender(projectId: string, renderId: string): Promise<void> {
  const { state } = await renderOf(projectId, renderId)
  if (state === 'running') await finishRender(projectId, renderId, 'cancelled', null)
  else await dropRender(renderId)
  await tellRenders(projectId)
}

/** The same once more, of the same film. */
export async function againRender(projectId: string, renderId: string): Promise<string> {
  const { files: _, rate: __, said, title: ___, shape: ____, ...ask } = (await renderOf(projectId, renderId)).ask
  return askRender(projectId, ask, said)
}

/** A render ends only once; `also` may still say no, with no row. True where this was it. */
export async function finishRender(projectId: string, renderId: string, state: Exclude<RenderState, 'running'>, why: string | null, also?: (transaction: Transaction) => Promise<readonly object[]>): Promise<boolean> {
  const { sequelize } = await useDatabase()
  const ended = await sequelize.transaction(async (transaction) => {
    const [row] = await rows<{ id: string }>("SELECT id FROM renders WHERE id = $1 AND state = 'running' FOR UPDATE", [renderId], transaction)
    if (row === undefined || (also !== undefined && (await also(transaction)).length === 0)) return false
    await run('UPDATE renders SET state = $2, why = $3, ended_at = now(), expires_at = now() + make_interval(days => $4) WHERE id = $1', [renderId, state, why, KEPT_DAYS], transaction)
    return true
  })
  if (!ended) return false
  await letGoOfPieces(renderId)
  await tellRenders(projectId)
  return true
}

async function letGoOfPieces(renderId: string): Promise<void> {
  const pieces = await rows<{ job_id: string; hash: string | null; state: string }>('SELECT job_id, hash, state FROM render_pieces WHERE render_id = $1', [renderId])
  const queue = await useQueue()
  const waiting = pieces.filter(({ state }) => state !== 'done').map(({ job_id }) => job_id)
  if (waiting.length > 0) await queue.cancel(RENDER_QUEUE, waiting)
  await run('UPDATE render_pieces SET hash = NULL WHERE render_id = $1', [renderId])
  await dropBlobs(pieces.map(({ hash }) => hash))
}

const dropBlobs = async (hashes: readonly (string | null)[]) => {
  for (const hash of new Set(hashes)) if (hash !== null) await dropAsset(hash, 'AND false', [], true)
}

async function dropRender(renderId: string): Promise<void> {
  const files = await rows<{ hash: string | null }>('SELECT hash FROM render_files WHERE render_id = $1 UNION SELECT hash FROM render_pieces WHERE render_id = $1', [renderId])
  await run('DELETE FROM renders WHERE id = $1', [renderId])
  await dropBlobs(files.map(({ hash }) => hash))
}

/** Lets go of what was kept as long as was said. */
export async function dropExpiredRenders(): Promise<number> {
  const old = await rows<{ id: string; project_id: string }>("SELECT id, project_id FROM renders WHERE state <> 'running' AND expires_at < now()")
  for (const { id, project_id } of old) {
    await dropRender(id)
    await tellRenders(project_id)
  }
  return old.length
}

export async function renderedFile(projectId: string, renderId: string, number: number) {
  await renderOf(projectId, renderId)
  if (!Number.isInteger(number)) throw notFound('file', renderId)
  const [file] = await rows<{ name: string; hash: string; bytes: string }>('SELECT name, hash, bytes FROM render_files WHERE render_id = $1 AND number = $2', [renderId, number])
  if (file === undefined) throw notFound('file', `${renderId}/${number}`)
  const blob = await useBlobs().read(file.hash)
  if (blob === null) throw refuse(410, 'gone', `${file.name} is not in the server’s storage any more. Make it again.`)
  return { name: file.name, ...blob }
}
