import { EndType, FillRule, inflatePaths, JoinType, ramerDouglasPeucker, ramerDouglasPeuckerPaths, union } from 'clipper2-ts'
import type { ArtOutline } from './outline'

/** Whole numbers that polygons are counted in: a millionth of a fw. */
const UNITS_PER_FW = 1e6

/** Of the tolerance, what points are thinned by first: whatever follows has a fifth of them to go through. */
const THINNED_SHARE = 0.2

/**
 * Fewer points, at most so far from where they were and never outside: a check that goes by them promises no art that is not there.
 * Rings are filled even-odd. What is narrower than the tolerance goes.
 *
 * Thinning moves a ring by up to its own tolerance, outwards too; going inwards by as much, and by as much again as the last thinning
 * takes, has every point of the result within the rings as they were: whatever lies farther from a thinned ring than it was moved is on
 * the same side of it as before.
 */
export function insetOutline({ rings }: ArtOutline, toleranceFw: number): ArtOutline {
  const half = (toleranceFw / 2) * UNITS_PER_FW
  const first = half * 2 * THINNED_SHARE
  // One ring after the other: those of a scribble have thousands of points each.
  const thinned = rings.map((ring) => ramerDouglasPeucker(Array.from({ length: ring.length / 2 }, (_, i) => ({ x: Math.round(ring[i * 2]! * UNITS_PER_FW), y: Math.round(ring[i * 2 + 1]! * UNITS_PER_FW) })), first))
  const inner = inflatePaths(union(thinned, FillRule.EvenOdd), -half, JoinType.Miter, EndType.Polygon)
  return { rings: ramerDouglasPeuckerPaths(inner, (half - first) * 0.99).filter((path) => path.length > 2).map((path) => path.flatMap(({ x, y }) => [Number(x) / UNITS_PER_FW, Number(y) / UNITS_PER_FW])) }
}
