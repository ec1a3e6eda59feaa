import type { CameraPose } from '@rubato/core/camera'
import type { PlacedFraming } from '@rubato/core/document'
import { add } from '@rubato/core/geometry'
import { middleOf } from '@rubato/core/moves'
import type { Px } from './elevation'

/** Something of a camera's path that can be taken hold of: a handle of a bent move, or the middle that bends a straight one. */
export type PathMark =
  | { readonly kind: 'handle'; readonly framingId: string; readonly end: 'leave' | 'arrive'; readonly at: Px; readonly from: Px }
  | { readonly kind: 'middle'; readonly framingId: string; readonly at: Px }

const HIT_PX = 9
/** Shorter moves have no room for a mark. */
const LEAST_PX = 26

/** The marks of the moves that `shown` tells of (by the index of the framing they leave), in a view's px. */
export function pathMarks(framings: readonly PlacedFraming[], shown: (index: number) => boolean, toView: (pose: CameraPose) => Px): readonly PathMark[] {
  return framings.slice(0, -1).flatMap(({ framing }, index): PathMark[] => {
    if (!shown(index) || framing.locked) return []
    const { framing: next } = framings[index + 1]!
    const { path, timing } = framing.move
    if (timing.kind === 'hold') return []
    const [from, to] = [toView(framing.pose), toView(next.pose)]
    if (path.kind === 'bent') {
      return [
        { kind: 'handle', framingId: framing.id, end: 'leave', from, at: toView({ ...framing.pose, ...add(framing.pose, path.leave) }) },
        { kind: 'handle', framingId: framing.id, end: 'arrive', from: to, at: toView({ ...next.pose, ...add(next.pose, path.arrive) }) },
      ]
    }
    if (Math.hypot(to.x - from.x, to.y - from.y) < LEAST_PX) return []
    return [{ kind: 'middle', framingId: framing.id, at: toView({ ...framing.pose, ...middleOf(framing.pose, next.pose, path) }) }]
  })
}

export function hitPathMark(marks: readonly PathMark[], x: number, y: number): PathMark | null {
  let best: PathMark | null = null
  let nearest = HIT_PX
  for (const mark of marks) {
    const distance = Math.hypot(mark.at.x - x, mark.at.y - y)
    if (distance <= nearest) [best, nearest] = [mark, distance]
  }
  return best
}
