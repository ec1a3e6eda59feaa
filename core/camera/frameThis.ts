import { add, dot, scale, type Point3 } from '../geometry/point'
import { FOCAL_LENGTH_RANGE_MM, lensRatio, type Optics } from './lens'
import type { CameraPose } from './pose'
import { basisOf } from './projection'

export type FramedThis =
  | { readonly ok: true; readonly pose: CameraPose }
  | { readonly ok: false; readonly code: 'nothing-to-frame' | 'not-finite' }
  | { readonly ok: false; readonly code: 'no-such-lens'; readonly focalLengthMm: number }

/** The camera comes no nearer than this to what it frames, fw. */
const NEAREST_FW = 0.02
const MOST_MARGIN = 0.45

/**
 * The pose that brings points of the set into the picture, as large as can be, with `margin` of the frame's width left
 * free at its sides and of its height above and below. The camera turns as `turn` says and slides; it comes closer by
 * `truck`, or stays as far off as it is and takes another `lens`.
 *
 * In the camera's own axes a point (X, Y, Z) is inside when k·|X − cx| ≤ U·(Z − cz) and k·|Y − cy| ≤ V·(Z − cz), with
 * U = ½ − margin and V alike: straight lines in cx, cy and cz, so the nearest place is found exactly.
 */
export function frameThis(points: readonly Point3[], turn: Pick<CameraPose, 'panDegrees' | 'tiltDegrees' | 'rollDegrees'>, from: CameraPose, optics: Optics, margin: number, by: 'truck' | 'lens'): FramedThis {
  if (points.length === 0) return { ok: false, code: 'nothing-to-frame' }
  if (![...points.flatMap(({ x, y, depth }) => [x, y, depth]), turn.panDegrees, turn.tiltDegrees, turn.rollDegrees, from.x, from.y, from.depth, from.focalLengthMm, margin].every(Number.isFinite)) return { ok: false, code: 'not-finite' }
  const { right, up, forward } = basisOf(turn)
  const free = 1 - 2 * Math.min(MOST_MARGIN, Math.max(0, margin))
  const [U, V] = [free / 2, free / 2 / optics.aspect]
  const own = points.map((point) => ({ X: dot(point, right), Y: dot(point, up), Z: dot(point, forward) }))
  const nearest = Math.min(...own.map(({ Z }) => Z)) - NEAREST_FW
  const at = (cx: number, cy: number, cz: number, focalLengthMm: number): FramedThis => {
    const place = add(add(scale(right, cx), scale(up, cy)), scale(forward, cz))
    const { panDegrees, tiltDegrees, rollDegrees } = turn
    return { ok: true, pose: { x: place.x, y: place.y, depth: place.depth, panDegrees, tiltDegrees, rollDegrees, focalLengthMm } }
  }
  if (by === 'truck') {
    const k = lensRatio(from.focalLengthMm, optics.filmBackMm)
    const most = (value: (point: (typeof own)[number]) => number) => Math.max(...own.map(value))
    const [a, b] = [most(({ X, Z }) => k * X - U * Z), most(({ X, Z }) => -k * X - U * Z)]
    const [c, d] = [most(({ Y, Z }) => k * Y - V * Z), most(({ Y, Z }) => -k * Y - V * Z)]
    const cz = Math.min(-(a + b) / (2 * U), -(c + d) / (2 * V), nearest)
    return at((a - b) / (2 * k), (c - d) / (2 * k), cz, from.focalLengthMm)
  }
  // As far off as the middle of the points is now, along the axis that the camera has now.
  const middle = scale(points.reduce(add), 1 / points.length)
  const now = dot({ x: middle.x - from.x, y: middle.y - from.y, depth: middle.depth - from.depth }, basisOf(from).forward)
  const cz = Math.min(dot(middle, forward) - Math.max(now, NEAREST_FW), nearest)
  const x = centred(own.map(({ X, Z }) => ({ at: X, distance: Z - cz })))
  const y = centred(own.map(({ Y, Z }) => ({ at: Y, distance: Z - cz })))
  const k = Math.min(x.slope === 0 ? Infinity : U / x.slope, y.slope === 0 ? Infinity : V / y.slope)
  const focalLengthMm = k * optics.filmBackMm
  if (focalLengthMm < FOCAL_LENGTH_RANGE_MM.min || focalLengthMm > FOCAL_LENGTH_RANGE_MM.max) return { ok: false, code: 'no-such-lens', focalLengthMm }
  return at(x.place, y.place, cz, focalLengthMm)
}

/** The place from which the widest slope |at − place| / distance is least: where the two that bound it meet. */
function centred(points: readonly { readonly at: number; readonly distance: number }[]): { readonly place: number; readonly slope: number } {
  const slopeFrom = (place: number) => Math.max(...points.map(({ at, distance }) => Math.abs(at - place) / distance))
  let best = { place: points[0]!.at, slope: slopeFrom(points[0]!.at) }
  for (const low of points) {
    for (const high of points) {
      if (high.at <= low.at) continue
      // (high − place)/dh = (place − low)/dl
      const place = (high.at * low.distance + low.at * high.distance) / (low.distance + high.distance)
      const slope = slopeFrom(place)
      if (slope < best.slope) best = { place, slope }
    }
  }
  return best
}
