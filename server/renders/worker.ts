import { randomUUID } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { hostname, tmpdir } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { setTimeout } from 'node:timers/promises'
import type { Transaction } from 'sequelize'
import { factsOf } from '#shared/handOver'
import { leadFrames, type PageJob, type Render } from '#shared/renders'
import { logLine } from '../edge/log'
import { withAsset } from '../services/assets'
import { useBlobs } from '../storage/blobs'
import { storageFull, cannotBeKept } from '../storage/full'
import { ENCODERS, pieceName, type PieceWriter } from './encoders'
import { RENDER_QUEUE, sendJob, useQueue, QUEUE_SCHEMA, type RenderJob } from './queue'
import { dropExpiredRenders, finishRender, rows, run, SILENT_SECONDS, tellRenders, type KeptAsk } from './renders'
import { closeSink, openSink, type Sink } from './sinks'
import { createStagePage, type StagePage } from './stagePage'

const LOOK_EVERY_MS = 500
const ORDER_EVERY_MS = 3000
const BEAT_EVERY_MS = 1000
/** A warm page is kept so long for the next job. */
const PAGE_IDLE_MS = 90_000
const EXPIRE_EVERY_MS = 3600_000
/** So often a piece may fail by itself, or take a worker with it, before its render is given up. */
const MOST_TRIES = 3
const MOST_LOSSES = 20
const MOST_BYTES = 1024 ** 4
/** A page that hands nothing in for so long hangs; the slowest files, of a whole film, are made in less. */
const STALLED_MS = 20 * 60_000

interface Piece {
  readonly render_id: string
  readonly number: number
  readonly kind: 'frames' | 'file' | 'join'
  readonly file: number
  readonly span_start: number
  readonly span_end: number
  readonly lead: number
  readonly state: string
  readonly job_id: string
  readonly render_state: Render['state']
  readonly project_id: string
  readonly ask: KeptAsk
}

/** The piece, or the whole render, is not this worker's any more. */
class NotMine extends Error {}

export interface RenderWorker {
  stop(): Promise<void>
}

/** Takes pieces of renders from the queue, one at a time, and makes them. `address` is this very server, `secret` what it asks for. */
export function startRenderWorker(address: string, secret: string): RenderWorker {
  const me = `${hostname()}-${process.pid}-${randomUUID().slice(0, 8)}`
  const stopping = new AbortController()
  const page = createStagePage(address, secret)
  let idleSince = Date.now()
  let expired = 0
  const wait = (ms: number) => setTimeout(ms, undefined, { signal: stopping.signal }).catch(() => undefined)
  let ordering = false
  // Beside the work: a long piece must not keep others waiting for what a dead worker had.
  const order = async () => {
    if (ordering) return
    ordering = true
    await Promise.all([sayHere(me), putInOrder()]).catch((error: Error) => logLine({ level: 'error', what: `queue: ${error.message}` }))
    ordering = false
  }
  const beat = setInterval(() => void order(), ORDER_EVERY_MS)

  async function turn(): Promise<boolean> {
    const now = Date.now()
    if (now - expired > EXPIRE_EVERY_MS) {
      expired = now
      await dropExpiredRenders()
    }
    const queue = await useQueue(true)
    const [job] = await queue.fetch<RenderJob>(RENDER_QUEUE, { batchSize: 1 })
    if (job === undefined) return false
    await work(job.id, job.data)
    return true
  }

  async function work(jobId: string, job: RenderJob) {
    const queue = await useQueue(true)
    const piece = await takePiece(job, jobId, me)
    if (piece === null) return queue.complete(RENDER_QUEUE, jobId)
    const gate = new AbortController()
    const stalled = new AbortController()
    const signal = AbortSignal.any([gate.signal, stalled.signal, stopping.signal])
    let [done, told, doneAt] = [0, 0, Date.now()]
    const beating = setInterval(() => {
      if (Date.now() - doneAt > STALLED_MS) stalled.abort(new Error(`Nothing came for ${STALLED_MS / 60_000} minutes.`))
      void stillMine(piece, me, done).then(
        (mine) => {
          if (!mine) gate.abort(new NotMine('another has it, or it is not wanted any more'))
          else if (done !== told) void tellRenders(piece.project_id)
          told = done
        },
        // The database is away for a moment: who has the piece then is seen at the end.
        () => undefined,
      )
    }, BEAT_EVERY_MS)
    const folder = await mkdtemp(join(tmpdir(), 'rubato-render-'))
    try {
      const tell = (frames: number) => void ([done, doneAt] = [frames, Date.now()])
      if (piece.kind === 'join') await joinPieces(piece, folder, page, address, me, signal)
      else await makePiece(piece, folder, page, address, me, signal, tell)
      await queue.complete(RENDER_QUEUE, jobId)
      await sendJoin(piece)
      await tellRenders(piece.project_id)
    } catch (error) {
      if (error instanceof NotMine || gate.signal.aborted) return
      await giveBack(piece, me, stopping.signal.aborted ? null : cannotBeKept(error) ? storageFull(error).message : (error as Error).message)
      await queue.fail(RENDER_QUEUE, jobId, { why: (error as Error).message })
    } finally {
      clearInterval(beating)
      await rm(folder, { recursive: true, force: true })
    }
  }

  const ended = (async () => {
    await order()
    while (!stopping.signal.aborted) {
      const worked = await turn().catch((error: Error) => (logLine({ level: 'error', what: `render: ${error.message}` }), false))
      if (worked) idleSince = Date.now()
      else {
        if (Date.now() - idleSince > PAGE_IDLE_MS) await page.close()
        await wait(LOOK_EVERY_MS)
      }
    }
  })()
  return {
    async stop() {
      clearInterval(beat)
      stopping.abort(new Error('the worker is stopped'))
      await Promise.race([ended, setTimeout(3000)])
      await page.close()
      await run('DELETE FROM render_workers WHERE id = $1', [me]).catch(() => undefined)
    },
  }
}

const sayHere = async (me: string) => {
  await run('INSERT INTO render_workers (id, beat_at) VALUES ($1, now()) ON CONFLICT (id) DO UPDATE SET beat_at = now()', [me])
  await run("DELETE FROM render_workers WHERE beat_at < now() - interval '1 hour'", [])
}

/** The piece of a job, from now on this worker's; null where there is nothing to do for it. Whoever had it before has it no more. */
async function takePiece({ renderId, number }: RenderJob, jobId: string, me: string): Promise<Piece | null> {
  const [piece] = await rows<Piece>(
    `WITH mine AS (
       UPDATE render_pieces p SET state = 'taken', worker = $4, changed_at = now(), done_frames = 0 FROM renders r
       WHERE r.id = p.render_id AND r.state = 'running' AND p.render_id = $1 AND p.number = $2 AND p.job_id = $3 AND p.state IN ('waiting', 'taken') RETURNING p.*)
     SELECT mine.*, r.state AS render_state, r.project_id, r.ask FROM mine JOIN renders r ON r.id = mine.render_id`,
    [renderId, number, jobId, me],
  )
  return piece ?? null
}

async function stillMine({ render_id, number }: Piece, me: string, done: number): Promise<boolean> {
  const found = await rows(
    `UPDATE render_pieces p SET changed_at = now(), done_frames = greatest(p.done_frames, $4) FROM renders r
     WHERE r.id = p.render_id AND r.state = 'running' AND p.render_id = $1 AND p.number = $2 AND p.worker = $3 AND p.state = 'taken' RETURNING p.number`,
    [render_id, number, me, done],
  )
  return found.length > 0
}

/** A piece that could not be made is tried again by whoever comes; after some tries its render is given up. `why` null: it was not the piece's fault. */
async function giveBack(piece: Piece, me: string, why: string | null): Promise<void> {
  const [given] = await rows<{ tries: number }>("UPDATE render_pieces SET state = 'waiting', worker = NULL, changed_at = now(), done_frames = 0, tries = tries + $4 WHERE render_id = $1 AND number = $2 AND worker = $3 AND state = 'taken' RETURNING tries", [piece.render_id, piece.number, me, why === null ? 0 : 1])
  if (given === undefined || why === null) return
  logLine({ level: 'error', what: `render piece: ${why}`, render: piece.render_id, piece: piece.number })
  if (given.tries >= MOST_TRIES) await finishRender(piece.project_id, piece.render_id, 'failed', why)
  else await run('UPDATE renders SET why = $2 WHERE id = $1', [piece.render_id, `Tried again: ${why}`])
  await tellRenders(piece.project_id)
}

/** When all else is done, what makes files of it may begin. */
async function sendJoin({ render_id }: Piece): Promise<void> {
  const [ready] = await rows<{ number: number; job_id: string; priority: number }>(
    `SELECT p.number, p.job_id, r.priority FROM render_pieces p JOIN renders r ON r.id = p.render_id
     WHERE p.render_id = $1 AND p.kind = 'join' AND p.state = 'waiting' AND r.state = 'running' AND NOT EXISTS (SELECT 1 FROM render_pieces o WHERE o.render_id = $1 AND o.kind <> 'join' AND o.state <> 'done')`,
    [render_id],
  )
  // A little before other renders' pieces: what is nearly there is finished first.
  if (ready !== undefined) await sendJob({ renderId: render_id, number: ready.number }, ready.job_id, ready.priority * 10 + 1)
}

/** What workers left that were killed: their pieces go back, and what was never sent is sent. */
async function putInOrder(): Promise<void> {
  const queue = await useQueue(true)
  const lost = await rows<Piece & { losses: number; job_state: string | null; priority: number }>(
    `SELECT p.*, r.project_id, r.priority, j.state::text AS job_state FROM render_pieces p JOIN renders r ON r.id = p.render_id
     LEFT JOIN ${QUEUE_SCHEMA}.job j ON j.name = $1 AND j.id = p.job_id
     WHERE r.state = 'running' AND p.state <> 'done' AND p.changed_at < now() - make_interval(secs => ${SILENT_SECONDS})
       AND (p.state = 'taken' OR j.id IS NULL OR j.state::text NOT IN ('created', 'retry'))
       AND (p.kind <> 'join' OR NOT EXISTS (SELECT 1 FROM render_pieces o WHERE o.render_id = p.render_id AND o.kind <> 'join' AND o.state <> 'done'))
     LIMIT 200`,
    [RENDER_QUEUE],
  )
  for (const piece of lost) {
    // One of several workers that look at once; a job whose worker is silent is given up in favour of a new one.
    const jobId = randomUUID()
    const [mine] = await rows<{ losses: number }>(
      `UPDATE render_pieces SET state = 'waiting', worker = NULL, changed_at = now(), done_frames = 0, job_id = $4, losses = losses + $5
       WHERE render_id = $1 AND number = $2 AND job_id = $3 AND state <> 'done' AND changed_at < now() - make_interval(secs => ${SILENT_SECONDS}) RETURNING losses`,
      [piece.render_id, piece.number, piece.job_id, jobId, piece.state === 'taken' ? 1 : 0],
    )
    if (mine === undefined) continue
    if (piece.job_state === 'active') await queue.cancel(RENDER_QUEUE, piece.job_id)
    if (mine.losses > MOST_LOSSES) {
      await finishRender(piece.project_id, piece.render_id, 'failed', `${mine.losses} workers stopped at the same piece (frames ${piece.span_start} to ${piece.span_end - 1}). It may need more memory than they have: try a smaller size.`)
      continue
    }
    if (piece.state === 'taken') await run('UPDATE renders SET why = $2 WHERE id = $1', [piece.render_id, 'A worker stopped; its piece is made again.'])
    await sendJob({ renderId: piece.render_id, number: piece.number }, jobId, piece.priority * 10)
    await tellRenders(piece.project_id)
  }
}

const framesOf = ({ span_start, span_end, lead }: Piece) => span_end - span_start + lead
const jobOf = ({ project_id, ask, file, span_start, span_end, lead }: Piece, address: string, token: string): PageJob => ({
  projectId: project_id,
  version: ask.version,
  format: ask.format,
  look: ask.look,
  shotId: ask.files[file]!.shotId,
  start: span_start,
  end: span_end,
  lead: lead > 0,
  fileSpan: { start: ask.files[file]!.start, end: ask.files[file]!.end },
  said: ask.said,
  url: `${address}/api/stage/${token}`,
  as: ENCODERS[ask.format] === undefined ? 'file' : 'frames',
})

/** Has the page do a job, and takes what it hands in. */
async function withSink(page: StagePage, job: (token: string) => PageJob, sink: Sink, signal: AbortSignal): Promise<void> {
  const token = randomUUID()
  openSink(token, sink)
  try {
    await page.run(job(token), signal)
  } finally {
    closeSink(token)
  }
}

const noFrames = async () => {
  throw new Error('Frames were handed in where a file was asked for.')
}
/** Has the page make a whole file. */
async function madeFile(page: StagePage, path: string, job: (token: string) => PageJob, signal: AbortSignal): Promise<void> {
  let taken = false
  await withSink(page, job, { frame: noFrames, file: async (body) => (await pipeline(body, createWriteStream(path)), void (taken = true)) }, signal)
  if (!taken) throw new Error('Nothing was handed in.')
}

async function makePiece(piece: Piece, folder: string, page: StagePage, address: string, me: string, signal: AbortSignal, tell: (done: number) => void): Promise<void> {
  const path = pieceName(folder, piece.number)
  const encoder = ENCODERS[piece.ask.format]
  if (piece.kind === 'file' || encoder === undefined) {
    await madeFile(page, path, (token) => jobOf(piece, address, token), signal)
  } else {
    let writer: PieceWriter | null = null
    let frames = 0
    const sink: Sink = {
      async frame(bytes, widthPx, heightPx) {
        writer ??= encoder.begin(path, { rate: piece.ask.rate, widthPx, heightPx })
        await writer.take(bytes)
        tell(++frames)
      },
      file: async () => {
        throw new Error('A file was handed in where frames were asked for.')
      },
    }
    try {
      await withSink(page, (token) => jobOf(piece, address, token), sink, signal)
      if (frames !== framesOf(piece)) throw new Error(`${frames} of ${framesOf(piece)} frames came.`)
      await (writer as PieceWriter | null)!.finish()
    } catch (error) {
      await (writer as PieceWriter | null)?.abandon()
      throw error
    }
  }
  signal.throwIfAborted()
  const frames = piece.kind === 'frames' ? framesOf(piece) : 0
  await keep(path, (hash, bytes, transaction) =>
    rows("UPDATE render_pieces SET state = 'done', changed_at = now(), done_frames = $4, hash = $5, bytes = $6 WHERE render_id = $1 AND number = $2 AND worker = $3 AND state = 'taken' RETURNING number", [piece.render_id, piece.number, me, frames, hash, bytes], transaction),
  )
  if (piece.kind === 'file') await finishFiles(piece)
}

/** Where every file is a piece of its own, the last one ends the render. */
async function finishFiles({ render_id, project_id, ask }: Piece): Promise<void> {
  const pieces = await rows<{ file: number; state: string; hash: string; bytes: string }>('SELECT file, state, hash, bytes FROM render_pieces WHERE render_id = $1 ORDER BY file', [render_id])
  if (pieces.some(({ state }) => state !== 'done')) return
  await finishRender(project_id, render_id, 'done', null, (transaction) =>
    rows(`INSERT INTO render_files (render_id, number, name, hash, bytes) SELECT render_id, file, $2::jsonb->>file, hash, bytes FROM render_pieces WHERE render_id = $1 RETURNING number`, [render_id, JSON.stringify(ask.files.map(({ name }) => name))], transaction),
  )
}

/** Puts a file of ours where all workers find it. `record` says that it is needed, while nobody can take it away; where it has no row to say so in, another has made it. */
async function keep(path: string, record: (hash: string, bytes: number, transaction: Transaction) => Promise<readonly object[]>): Promise<void> {
  await useBlobs().put(createReadStream(path), MOST_BYTES, async (_, bytes) => ({ keepBytes: bytes }), ({ hash, bytes }, place) =>
    withAsset([hash], 'alone', async (transaction) => {
      await place()
      if ((await record(hash, bytes, transaction)).length === 0) throw new NotMine('another has made it')
    }),
  )
}

/** A piece whose file is missing is made again, and the rest of this waits for it. */
async function fetchPiece(renderId: string, number: number, hash: string, path: string): Promise<void> {
  const blob = await useBlobs().read(hash)
  if (blob === null) {
    await run("UPDATE render_pieces SET state = 'waiting', hash = NULL, changed_at = now() - interval '1 minute', job_id = gen_random_uuid() WHERE render_id = $1 AND number = $2", [renderId, number])
    throw new Error('A piece was missing from the storage; it is made again.')
  }
  await pipeline(blob.stream, createWriteStream(path))
}

async function joinPieces(piece: Piece, folder: string, page: StagePage, address: string, me: string, signal: AbortSignal): Promise<void> {
  const { render_id, project_id, ask } = piece
  const encoder = ENCODERS[ask.format]!
  const all = await rows<{ number: number; file: number; hash: string }>("SELECT number, file, hash FROM render_pieces WHERE render_id = $1 AND kind = 'frames' ORDER BY number", [render_id])
  for (const [index, file] of ask.files.entries()) {
    const parts: string[] = []
    for (const { number, hash } of all.filter((each) => each.file === index)) {
      signal.throwIfAborted()
      const path = pieceName(folder, number)
      await fetchPiece(render_id, number, hash, path)
      parts.push(path)
    }
    const wav = join(folder, 'sound.wav')
    const withSound = factsOf(ask.format).sound === true && ask.look.sound && (await madeSound(page, wav, (token) => ({ ...jobOf(piece, address, token), format: 'wav', as: 'file', shotId: file.shotId, start: file.start, end: file.end, lead: leadFrames(ask.look.dress) > 0 }), signal))
    const whole = join(folder, 'whole')
    const of = { film: ask.title, shot: file.label ?? '', rate: ask.rate, ...ask.shape, firstFrame: file.start, sound: withSound ? wav : null, stem: file.name.replace(/\.[^.]+$/, ''), date: new Date(`${ask.said.date}T12:00:00`) }
    await encoder.join(parts, whole, of, signal)
    await keep(whole, (hash, bytes, transaction) =>
      rows(
        `INSERT INTO render_files (render_id, number, name, hash, bytes) SELECT $1, $4, $5, $6, $7 FROM render_pieces WHERE render_id = $1 AND number = $2 AND worker = $3 AND state = 'taken'
         ON CONFLICT (render_id, number) DO UPDATE SET hash = excluded.hash, bytes = excluded.bytes RETURNING number`,
        [render_id, piece.number, me, index, file.name, hash, bytes],
        transaction,
      ),
    )
    await rm(whole)
    for (const path of parts) await rm(path)
  }
  const done = await finishRender(project_id, render_id, 'done', null, (transaction) => rows("UPDATE render_pieces SET state = 'done', changed_at = now() WHERE render_id = $1 AND number = $2 AND worker = $3 AND state = 'taken' RETURNING number", [render_id, piece.number, me], transaction))
  if (!done) throw new NotMine('another has made it')
}

/** False where the film has no sound. */
async function madeSound(page: StagePage, path: string, job: (token: string) => PageJob, signal: AbortSignal): Promise<boolean> {
  const asked = job('')
  const [row] = await rows<{ sounds: number }>("SELECT (SELECT count(*) FROM jsonb_object_keys(outline->'clips'))::int AS sounds FROM versions WHERE project_id = $1 AND id = $2", [asked.projectId, asked.version])
  if (row === undefined) throw new Error('The version that this is made of has been deleted.')
  if (row.sounds === 0) return false
  await madeFile(page, path, job, signal)
  return true
}
