import type { DepthRange } from '../depth/air'
import { placedPanels } from '../document/panels'
import { keyFrames } from './levelMotion'
import type { TakeStage } from './takeStage'

/** Frames that are looked at, spread over a shot beside its keys. */
const LOOKED_AT = 24
const MOST_LOOKED_AT = 200
/** What stands all at one distance is white, and twice as far is black. */
const LEAST_RATIO = 2

/**
 * The nearest and farthest distance at which anything stands in shots, for pictures of depth that keep their greys from frame to
 * frame: at their keys, their panels' beginnings and some frames between. Reference levels do not count. Null where nothing is seen.
 */
export function depthRangeOf(stages: readonly TakeStage[]): DepthRange | null {
  let [nearest, farthest] = [Infinity, 0]
  for (const stage of stages) {
    const { take, lengthFrames } = stage
    const keys = Object.keys(take.cameras).flatMap((id) => stage.framings(id).map(({ frame }) => frame))
    const moved = Object.keys(take.levels).flatMap((id) => keyFrames(take, id))
    const between = Array.from({ length: LOOKED_AT + 1 }, (_, i) => Math.round((i * (lengthFrames - 1)) / LOOKED_AT))
    const frames = [...new Set([...keys, ...placedPanels(take).map(({ startFrame }) => startFrame), ...between, ...moved])].slice(0, MOST_LOOKED_AT)
    for (const frame of frames) {
      for (const { z, drawingId, layer } of stage.at(frame).levels) {
        if (drawingId === null || layer !== 0 || z <= 0) continue
        nearest = Math.min(nearest, z)
        farthest = Math.max(farthest, z)
      }
    }
  }
  if (farthest === 0) return null
  return { nearest, farthest: Math.max(farthest, nearest * LEAST_RATIO) }
}
