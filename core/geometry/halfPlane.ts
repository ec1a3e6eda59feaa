import type { Point2 } from './point'

/** a·x + b·y + c, 0 or more where a point is kept. */
export interface HalfPlane {
  readonly a: number
  readonly b: number
  readonly c: number
}

/** The part of a convex outline that half planes keep; empty where they keep no area of it. */
export function keptBy(outline: readonly Point2[], halves: readonly HalfPlane[]): readonly Point2[] {
  let points = outline
  for (const { a, b, c } of halves) {
    const kept: Point2[] = []
    for (const [i, to] of points.entries()) {
      const from = points[(i + points.length - 1) % points.length]!
      const [before, after] = [a * from.x + b * from.y + c, a * to.x + b * to.y + c]
      if (before >= 0 !== after >= 0) {
        const p = before / (before - after)
        kept.push({ x: from.x + (to.x - from.x) * p, y: from.y + (to.y - from.y) * p })
      }
      if (after >= 0) kept.push(to)
    }
    points = kept
  }
  return points.length < 3 ? [] : points
}
