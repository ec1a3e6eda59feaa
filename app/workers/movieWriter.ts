import { createWorkerLine } from '../clients/workerLine'
import { errorOf, type FrameTaker, type Made } from './making'
import type { EncodeAnswer, EncodeAsk } from './messages'

/** Frames handed to the encoder and not taken yet: enough to even out its pace, few enough to hold. */
const AHEAD = 4
const ABANDON_WITHIN_MS = 1000

/** A WebM movie: converted, encoded and written by a worker of its own, beside the painting. */
export function createMovieWriter(begin: Omit<Extract<EncodeAsk, { kind: 'begin' }>, 'kind'>): FrameTaker {
  let taken = 0
  let made: Made | null = null
  let failure: Error | null = null
  let wake = () => {}
  const encoder = createWorkerLine<EncodeAsk, EncodeAnswer>(() => new Worker(new URL('./encode.worker.ts', import.meta.url), { type: 'module' }), {
    answer(answer) {
      if (answer.kind === 'taken') taken = answer.frames
      else if (answer.kind === 'made') made = answer
      else failure = errorOf(answer)
      wake()
    },
    stopped(why) {
      failure = new Error(why.message || 'The encoder could not be started. Reload the page and try again.')
      wake()
    },
  })
  const until = async (there: () => boolean) => {
    for (;;) {
      if (failure !== null) throw failure
      if (there()) return
      await new Promise<void>((resolve) => (wake = resolve))
    }
  }
  encoder.send({ kind: 'begin', ...begin })
  return {
    async take(index, pixels) {
      encoder.send({ kind: 'frame', index, pixels }, pixels === null ? [] : [pixels])
      await until(() => index + 1 - taken < AHEAD)
    },
    async finish() {
      encoder.send({ kind: 'end' })
      await until(() => made !== null)
      encoder.end()
      return made!
    },
    async abandon() {
      if (failure === null) {
        encoder.send({ kind: 'abandon' })
        const answered = until(() => false).catch(() => undefined)
        await Promise.race([answered, new Promise((resolve) => setTimeout(resolve, ABANDON_WITHIN_MS))])
      }
      encoder.end()
    },
  }
}
