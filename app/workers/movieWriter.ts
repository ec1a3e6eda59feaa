import { errorOf, type FrameTaker, type Made } from './making'
import type { EncodeAnswer, EncodeAsk } from './messages'

/** Frames handed to the encoder and not taken yet: enough to even out its pace, few enough to hold. */
const AHEAD = 4
const ABANDON_WITHIN_MS = 1000

/** A WebM movie: converted, encoded and written by a worker of its own, beside the painting. */
export function createMovieWriter(begin: Omit<Extract<EncodeAsk, { kind: 'begin' }>, 'kind'>): FrameTaker {
  const worker = new Worker(new URL('./encode.worker.ts', import.meta.url), { type: 'module' })
  const ask = (message: EncodeAsk, transfer: Transferable[] = []) => worker.postMessage(message, transfer)
  let taken = 0
  let made: Made | null = null
  let failure: Error | null = null
  let wake = () => {}
  worker.onerror = (event) => {
    failure = new Error(event.message || 'The encoder could not be started. Reload the page and try again.')
    wake()
  }
  worker.onmessage = ({ data }: MessageEvent<EncodeAnswer>) => {
    if (data.kind === 'taken') taken = data.frames
    else if (data.kind === 'made') made = data
    else failure = errorOf(data)
    wake()
  }
  const until = async (there: () => boolean) => {
    for (;;) {
      if (failure !== null) throw failure
      if (there()) return
      await new Promise<void>((resolve) => (wake = resolve))
    }
  }
  ask({ kind: 'begin', ...begin })
  return {
    async take(index, pixels) {
      ask({ kind: 'frame', index, pixels }, pixels === null ? [] : [pixels])
      await until(() => index + 1 - taken < AHEAD)
    },
    async finish() {
      ask({ kind: 'end' })
      await until(() => made !== null)
      worker.terminate()
      return made!
    },
    async abandon() {
      if (failure === null) {
        ask({ kind: 'abandon' })
        const answered = until(() => false).catch(() => undefined)
        await Promise.race([answered, new Promise((resolve) => setTimeout(resolve, ABANDON_WITHIN_MS))])
      }
      worker.terminate()
    },
  }
}
