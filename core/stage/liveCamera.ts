import { liveCameraAt, liveSpans, type LiveSpan } from '../document/liveCamera'
import { takeLengthFrames } from '../document/panels'
import type { TakeBody } from '../document/units'
import { indexAt } from '../time/indexAt'
import { sharedFrames } from './transitions'

/** Frames in which one camera's picture becomes another's, `to` exclusive. */
export interface Dissolve {
  readonly from: number
  readonly to: number
  readonly before: string
  readonly after: string
}

/** Which camera of a take the film sees. */
export interface LiveCamera {
  /** Where another camera becomes live, from the first frame on. */
  readonly spans: readonly LiveSpan[]
  readonly dissolves: readonly Dissolve[]
  /** Null where the take has no camera. */
  at(frame: number): string | null
  /** The dissolve that a frame lies in; null for none. */
  dissolveAt(frame: number): Dissolve | null
}

/** Frames of a dissolve before its cut and after it: half on each side, the odd one after. */
const parts = (frames: number) => ({ before: Math.floor(frames / 2), after: Math.ceil(frames / 2) })

/** Dissolves that would lie over each other share the frames between their cuts in their proportion. */
export function liveCameraOf(take: Pick<TakeBody, 'cuts' | 'cameras' | 'panels'>): LiveCamera {
  const spans = liveSpans(take)
  const length = takeLengthFrames(take)
  const given = spans.map(({ from, dissolveFrames }, i) => {
    const next = spans[i + 1]
    return sharedFrames((next?.from ?? length) - from, parts(dissolveFrames).after, parts(next?.dissolveFrames ?? 0).before)
  })
  const dissolves = spans.flatMap(({ from, cameraId }, i): Dissolve[] => {
    if (i === 0) return []
    const at = { from: from - given[i - 1]!.tail, to: from + given[i]!.head }
    return at.to > at.from ? [{ ...at, before: spans[i - 1]!.cameraId, after: cameraId }] : []
  })
  return {
    spans,
    dissolves,
    at: (frame) => liveCameraAt(spans, frame),
    dissolveAt(frame) {
      const found = dissolves[indexAt(dissolves, frame, (dissolve) => dissolve.from)]
      return found !== undefined && frame < found.to ? found : null
    },
  }
}
