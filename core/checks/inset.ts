import { EndType, FillRule, inflatePaths, JoinType, ramerDouglasPeuckerPaths, union } from 'clipper2-ts'
import type { ArtOutline } from './outline'

/** Whole numbers that polygons are counted in: a millionth of a fw. */
const UNITS_PER_FW = 1e6

/**
 * Fewer points, at most so far from where they were and never outside: a check that goes by them promises no art that is not there.
 * Rings are filled even-odd. What is narrower than the tolerance goes.
 */
export function insetOutline({ rings }: ArtOutline, toleranceFw: number): ArtOutline {
  const paths = rings.map((ring) => Array.from({ length: ring.length / 2 }, (_, i) => ({ x: Math.round(ring[i * 2]! * UNITS_PER_FW), y: Math.round(ring[i * 2 + 1]! * UNITS_PER_FW) })))
  const half = (toleranceFw / 2) * UNITS_PER_FW
  const inner = inflatePaths(union(paths, FillRule.EvenOdd), -half, JoinType.Miter, EndType.Polygon)
  return { rings: ramerDouglasPeuckerPaths(inner, half * 0.99).filter((path) => path.length > 2).map((path) => path.flatMap(({ x, y }) => [Number(x) / UNITS_PER_FW, Number(y) / UNITS_PER_FW])) }
}
