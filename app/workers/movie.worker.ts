import { createPaintCrew, paintersFor, type PaintCrew } from './paintCrew'
import type { FrameTaker } from './making'
import type { MovieAnswer, MovieRequest, WorkerMessages } from './messages'
import { movieFrames, moviePixels } from './moviePlan'
import { createMovieWriter } from './movieWriter'
import { createPictureWriter } from './pictureWriter'
import { writeWav } from './soundWriter'

const TELL_EVERY_MS = 100

class Cancelled extends Error {}

let cancelled = false
const say = (answer: MovieAnswer) => postMessage(answer)

self.onmessage = ({ data }: MessageEvent<WorkerMessages['movie']['ask']>) => {
  if (data.kind === 'cancel') cancelled = true
  else void make(data)
}

async function makeSound(request: MovieRequest, begun: number) {
  if (request.sound === null) throw new Error('The film has no sound. Bring some in first.')
  let told = 0
  const file = await writeWav(
    request.sound,
    request.fileName,
    (done, total) => {
      const now = performance.now()
      if (now - told < TELL_EVERY_MS) return
      told = now
      say({ kind: 'progress', phase: 'sound', done, total })
    },
    () => cancelled,
  )
  if (file === null) throw new Cancelled()
  say({ kind: 'done', file, frames: movieFrames(request), codec: 'WAV, 48 kHz, 24 bits', totalMs: performance.now() - begun })
}

async function make(request: MovieRequest) {
  let crew: PaintCrew | null = null
  let taker: FrameTaker | null = null
  try {
    const begun = performance.now()
    const total = movieFrames(request)
    if (total > 0 && request.format === 'wav') return await makeSound(request, begun)
    if (total === 0) throw new Error('There are no frames to make: the range is empty.')
    crew = createPaintCrew(request, total, paintersFor(total, navigator.hardwareConcurrency))
    taker =
      request.format !== 'png'
        ? createMovieWriter({ fileName: request.fileName, rate: request.project.rate, ...moviePixels(request), container: request.format === 'mp4' ? 'mp4' : 'webm', sound: request.sound })
        : await createPictureWriter(request.fileName, total)
    let told = 0
    for (let index = 0; index < total; index++) {
      const data = await crew.frame(index)
      if (cancelled) throw new Cancelled()
      await taker.take(index, data)
      const now = performance.now()
      if (now - told < TELL_EVERY_MS) continue
      told = now
      say({ kind: 'progress', phase: 'frames', done: index + 1, total })
    }
    crew.dismiss()
    say({ kind: 'progress', phase: 'closing', done: total, total })
    const { file, codec } = await taker.finish()
    if (cancelled) throw new Cancelled()
    say({ kind: 'done', file, frames: total, codec, totalMs: performance.now() - begun })
  } catch (error) {
    crew?.dismiss()
    await taker?.abandon().catch(() => undefined)
    if (error instanceof Cancelled) return say({ kind: 'cancelled' })
    const { name, message } = error as Error
    say({ kind: 'failed', what: name === 'QuotaExceededError' ? 'The disk is full. Free some space, or choose a smaller size, and try again.' : message })
  }
}
