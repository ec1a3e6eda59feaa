import { add, between, length, scale, subtract, type Point3 } from '../geometry/point'
import type { Path } from './path'

/** How far along the chord the handles of a newly bent path lie. */
const HANDLE_SHARE = 1 / 3

/**
 * The path from `from` to `to` that goes through `from + (to − from)/2 + offset` in its middle: a cubic's middle moves by
 * ¾ of what both its handles move.
 */
export function bentThrough(from: Point3, to: Point3, offset: Point3): Path {
  const third = scale(subtract(to, from), HANDLE_SHARE)
  const lift = scale(offset, 4 / 3)
  return { kind: 'bent', leave: add(third, lift), arrive: add(scale(third, -1), lift) }
}

/** The handles that a path has, or would have if it were bent without changing its line. */
export function handlesOf(from: Point3, to: Point3, path: Path): { readonly leave: Point3; readonly arrive: Point3 } {
  if (path.kind === 'bent') return path
  const third = scale(subtract(to, from), HANDLE_SHARE)
  return { leave: third, arrive: scale(third, -1) }
}

/** The other handle at a smooth framing: opposite to the one given, as long as it was. */
export function oppositeHandle(handle: Point3, lengthFw: number): Point3 {
  const own = length(handle)
  return own < 1e-9 ? scale(handle, -1) : scale(handle, -lengthFw / own)
}

/** Handles that take the corner out of a framing between two others: along the line from one neighbour to the other. */
export function smoothHandles(before: Point3, here: Point3, after: Point3): { readonly arrive: Point3; readonly leave: Point3 } {
  const along = subtract(after, before)
  const reach = length(along)
  const direction = reach < 1e-9 ? { x: 0, y: 0, depth: 0 } : scale(along, 1 / reach)
  return {
    arrive: scale(direction, -length(subtract(here, before)) * HANDLE_SHARE),
    leave: scale(direction, length(subtract(after, here)) * HANDLE_SHARE),
  }
}

/** Where the middle of a path is. */
export function middleOf(from: Point3, to: Point3, path: Path): Point3 {
  if (path.kind === 'straight') return between(from, to, 0.5)
  const [p1, p2] = [add(from, path.leave), add(to, path.arrive)]
  return scale(add(add(from, to), scale(add(p1, p2), 3)), 1 / 8)
}
