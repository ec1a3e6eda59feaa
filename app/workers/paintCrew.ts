import { createWorkerLine } from '../clients/workerLine'
import { errorOf } from './making'
import type { MovieRequest, PaintAnswer, PaintAsk } from './messages'

/** Painters at work on one export: frames don't depend on each other, so several are painted at once. */
export interface PaintCrew {
  /** A frame's data; null where it is the one before. Frames must be asked for in order, from 0. */
  frame(index: number): Promise<ArrayBuffer | null>
  dismiss(): void
}

const MOST_PAINTERS = 4
/** Below this, a second painter takes longer to get ready than it saves. */
const FRAMES_WORTH_A_PAINTER = 24

export function paintersFor(frames: number, cores: number): number {
  return Math.max(1, Math.min(MOST_PAINTERS, cores, Math.floor(frames / FRAMES_WORTH_A_PAINTER)))
}

export function createPaintCrew(request: MovieRequest, totalFrames: number, painters: number): PaintCrew {
  const arrived = new Map<number, ArrayBuffer | null>()
  let next = 0
  let failure: Error | null = null
  let wake = () => {}
  const crew = Array.from({ length: painters }, () => {
    const line = createWorkerLine<PaintAsk, PaintAnswer>(() => new Worker(new URL('./paint.worker.ts', import.meta.url), { type: 'module' }), {
      answer(answer) {
        if (answer.kind === 'failed') failure = errorOf(answer)
        else {
          arrived.set(answer.index, answer.data)
          painter.busy--
        }
        wake()
      },
      stopped(why) {
        failure = new Error(why.message || 'A painter could not be started. Reload the page and try again.')
        wake()
      },
    })
    const painter = { line, busy: 0 }
    line.send({ kind: 'begin', request, painters })
    return painter
  })
  // Each has the next frame waiting when it is done with one; no more than that is held.
  const window = painters * 2
  const hand = (consumed: number) => {
    while (next < Math.min(totalFrames, consumed + window)) {
      const painter = crew.reduce((least, other) => (other.busy < least.busy ? other : least))
      painter.line.send({ kind: 'paint', index: next })
      painter.busy++
      next++
    }
  }
  return {
    async frame(index) {
      hand(index)
      for (;;) {
        if (failure !== null) throw failure
        const data = arrived.get(index)
        if (data !== undefined) {
          arrived.delete(index)
          return data
        }
        await new Promise<void>((resolve) => (wake = resolve))
      }
    },
    dismiss() {
      for (const { line } of crew) line.end()
    },
  }
}
