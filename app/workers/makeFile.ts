import type { Job } from './answerJobs'
import { formatOf, type FrameFormat, type SoundFormat } from './formats'
import type { FrameTaker, Made } from './making'
import type { MadeMovie, MovieProgress, MovieRequest } from './messages'
import { createFrameSender } from './frameSender'
import { movieFrames, moviePixels } from './moviePlan'
import type { PaintCrew } from './paintCrew'

/** Who paints the frames of a request. */
export type CrewOf = (request: MovieRequest, totalFrames: number) => PaintCrew

async function makeSound(format: SoundFormat, request: MovieRequest, { signal, tell }: Job<MovieProgress>): Promise<Made> {
  if (request.sound === null) throw new Error('The film has no sound. Bring some in first.')
  const file = await format.write(request.sound, request.fileName, (done, total) => tell({ phase: 'sound', done, total }), () => signal.aborted)
  if (file === null) throw signal.reason
  return { file, codec: format.codec }
}

async function makeFrames(format: FrameFormat, request: MovieRequest, total: number, { signal, tell }: Job<MovieProgress>, crewOf: CrewOf): Promise<Made> {
  let crew: PaintCrew | null = null
  let taker: FrameTaker | null = null
  try {
    crew = crewOf(request, total)
    if (request.handIn !== undefined) taker = createFrameSender(request.handIn, moviePixels(request))
    else if (format.taker === null) throw new Error(`${format.label} is made on the server.`)
    else taker = await format.taker(request, total)
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

/** Makes what was asked for, in its format. */
export async function makeFile(request: MovieRequest, job: Job<MovieProgress>, crewOf: CrewOf): Promise<MadeMovie> {
  const begun = performance.now()
  const frames = movieFrames(request)
  if (frames === 0) throw new Error('There are no frames to make: the range is empty.')
  const format = formatOf(request.format)
  if (format.needs !== 'frames' && format.needs !== 'sound') throw new Error(`${format.label} is not made of frames or sound.`)
  const made = format.needs === 'sound' ? await makeSound(format, request, job) : await makeFrames(format, request, frames, job, crewOf)
  return { ...made, frames, totalMs: performance.now() - begun }
}
