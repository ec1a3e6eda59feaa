import { indexAt } from '../time/indexAt'
import { firstCamera, placedInTime } from './panels'
import type { TakeBody } from './units'

/** From a frame of the shot on, the camera that the film sees. */
export interface LiveSpan {
  readonly from: number
  readonly cameraId: string
  /** How long the camera before dissolves into this one. */
  readonly dissolveFrames: number
}

/**
 * Which camera is live, from the first frame on; empty for a take without cameras. A shot begins on the camera of its first
 * camera cut, without one on its first camera; from a cut's frame on its camera is live. A cut to the camera that is live
 * already does nothing, nor does one to a camera that is gone.
 */
export function liveSpans(take: Pick<TakeBody, 'cuts' | 'cameras' | 'panels'>): readonly LiveSpan[] {
  const cuts = placedInTime(take, Object.values(take.cuts).filter(({ cameraId }) => Object.hasOwn(take.cameras, cameraId)))
  const opening = cuts[0]?.record.cameraId ?? firstCamera(take)?.id
  if (opening === undefined) return []
  const spans: LiveSpan[] = [{ from: 0, cameraId: opening, dissolveFrames: 0 }]
  for (const { record, frame } of cuts) {
    // Of several at one frame the last wins; it may be back on what was live before.
    if (frame === spans.at(-1)!.from) spans.pop()
    if (spans.at(-1)?.cameraId !== record.cameraId) spans.push({ from: frame, cameraId: record.cameraId, dissolveFrames: frame === 0 ? 0 : record.dissolveFrames })
  }
  return spans
}

const fromOf = (span: LiveSpan) => span.from

/** The camera that is live at a frame; before the first frame the first one's. */
export const liveCameraAt = (spans: readonly LiveSpan[], frame: number): string | null => spans[spans.length < 2 ? 0 : Math.max(0, indexAt(spans, frame, fromOf))]?.cameraId ?? null
