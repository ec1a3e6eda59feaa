import { add, type Point3 } from '@rubato/core/geometry'
import { middleOf, type MoveSpec } from '@rubato/core/moves'
import type { Px } from './elevation'

/** A key that stands somewhere. */
export interface PathKey<V extends Point3> {
  readonly id: string
  readonly locked: boolean
  readonly move: MoveSpec
  readonly value: V
}

/** Something of a path that can be taken hold of: a handle of a bent move, or the middle that bends a straight one. */
export type PathMark =
  | { readonly kind: 'handle'; readonly keyId: string; readonly end: 'leave' | 'arrive'; readonly at: Px; readonly from: Px }
  | { readonly kind: 'middle'; readonly keyId: string; readonly at: Px }

const HIT_PX = 9
/** Shorter moves have no room for a mark. */
const LEAST_PX = 26

/** The marks of the moves that `shown` tells of (by the index of the key they leave), in a view's px. */
export function pathMarks<V extends Point3>(keys: readonly PathKey<V>[], shown: (index: number) => boolean, toView: (value: V) => Px): readonly PathMark[] {
  return keys.slice(0, -1).flatMap(({ id, locked, move, value }, index): PathMark[] => {
    if (!shown(index) || locked) return []
    const { value: next } = keys[index + 1]!
    const { path, timing } = move
    if (timing.kind === 'hold') return []
    const [from, to] = [toView(value), toView(next)]
    if (path.kind === 'bent') {
      return [
        { kind: 'handle', keyId: id, end: 'leave', from, at: toView({ ...value, ...add(value, path.leave) }) },
        { kind: 'handle', keyId: id, end: 'arrive', from: to, at: toView({ ...next, ...add(next, path.arrive) }) },
      ]
    }
    if (Math.hypot(to.x - from.x, to.y - from.y) < LEAST_PX) return []
    return [{ kind: 'middle', keyId: id, at: toView({ ...value, ...middleOf(value, next, path) }) }]
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
