import { answerJobs, type Job } from './answerJobs'
import type { FrameTaker } from './making'
import type { MadeMovie, MovieProgress, MovieRequest } from './messages'
import { movieFrames, moviePixels } from './moviePlan'
import { createMovieWriter } from './movieWriter'
import { createPaintCrew, paintersFor, type PaintCrew } from './paintCrew'
import { createPictureWriter } from './pictureWriter'
import { writeWav } from './soundWriter'

async function makeSound(request: MovieRequest, { signal, tell }: Job<MovieProgress>): Promise<Pick<MadeMovie, 'file' | 'codec'>> {
  if (request.sound === null) throw new Error('The film has no sound. Bring some in first.')
  const file = await writeWav(request.sound, request.fileName, (done, total) => tell({ phase: 'sound', done, total }), () => signal.aborted)
  if (file === null) throw signal.reason
  return { file, codec: 'WAV, 48 kHz, 24 bits' }
}

async function makePictures(request: MovieRequest, total: number, { signal, tell }: Job<MovieProgress>): Promise<Pick<MadeMovie, 'file' | 'codec'>> {
  let crew: PaintCrew | null = null
  let taker: FrameTaker | null = null
  try {
    crew = createPaintCrew(request, total, paintersFor(total, navigator.hardwareConcurrency))
    taker =
      request.format !== 'png'
        ? createMovieWriter({ fileName: request.fileName, rate: request.project.rate, ...moviePixels(request), container: request.format === 'mp4' ? 'mp4' : 'webm', sound: request.sound })
        : await createPictureWriter(request.fileName, total)
    for (let index = 0; index < total; index++) {
      const data = await crew.frame(index)
      signal.throwIfAborted()
      await taker.take(index, data)
      tell({ phase: 'frames', done: index + 1, total })
    }
    crew.dismiss()
    tell({ phase: 'closing', done: total, total })
    const made = await taker.finish()
    signal.throwIfAborted()
    return made
  } catch (error) {
    crew?.dismiss()
    await taker?.abandon().catch(() => undefined)
    if ((error as Error).name === 'QuotaExceededError') throw new Error('The disk is full. Free some space, or choose a smaller size, and try again.', { cause: error })
    throw error
  }
}

answerJobs<MovieRequest, MadeMovie, MovieProgress>(async (request, job) => {
  const begun = performance.now()
  const frames = movieFrames(request)
  if (frames === 0) throw new Error('There are no frames to make: the range is empty.')
  const made = request.format === 'wav' ? await makeSound(request, job) : await makePictures(request, frames, job)
  return { ...made, frames, totalMs: performance.now() - begun }
})
