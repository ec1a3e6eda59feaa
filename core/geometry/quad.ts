import type { Point2 } from './point'

/** Four corners in order around the outline, either way round. */
export type Quad = readonly [Point2, Point2, Point2, Point2]

/** True when the point lies inside or on the edge of a convex quad. */
export function quadContains(quad: Quad, point: Point2): boolean {
  let side = 0
  for (let i = 0; i < 4; i++) {
    const a = quad[i]!
    const b = quad[(i + 1) % 4]!
    const turn = (b.x - a.x) * (point.y - a.y) - (b.y - a.y) * (point.x - a.x)
    if (turn === 0) continue
    if (side === 0) side = Math.sign(turn)
    else if (Math.sign(turn) !== side) return false
  }
  return true
}
