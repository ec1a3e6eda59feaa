import { add, between, length, scale, subtract, type Point3 } from '../geometry/point'

/**
 * The way between two places. The handles of a bent path are offsets in fw: `leave` from the start, `arrive` from
 * the end, the inner points of a cubic Bézier.
 */
export type Path =
  | { readonly kind: 'straight' }
  | { readonly kind: 'bent'; readonly leave: Point3; readonly arrive: Point3 }

/** A path solved for many evaluations. */
export interface SolvedPath {
  readonly lengthFw: number
  /** The place at `u`, the fraction of arc length, 0…1. Both ends are exact. */
  at(u: number): Point3
}

const SEGMENTS = 32
// Five-point Gauss–Legendre on −1…1.
const NODES = [0, 0.5384693101056831, -0.5384693101056831, 0.906179845938664, -0.906179845938664]
const WEIGHTS = [0.5688888888888889, 0.47862867049936647, 0.47862867049936647, 0.23692688505618908, 0.23692688505618908]

export function createPath(from: Point3, to: Point3, path: Path): SolvedPath {
  if (path.kind === 'straight') {
    return { lengthFw: length(subtract(to, from)), at: (u) => between(from, to, u) }
  }
  return createBezierPath(from, add(from, path.leave), add(to, path.arrive), to)
}

/** A cubic Bézier by arc length; `t` is the curve's parameter, `u` the fraction of its length. */
export function createBezierPath(p0: Point3, p1: Point3, p2: Point3, p3: Point3): SolvedPath {
  const place = (t: number): Point3 => {
    const s = 1 - t
    return add(
      add(scale(p0, s * s * s), scale(p1, 3 * s * s * t)),
      add(scale(p2, 3 * s * t * t), scale(p3, t * t * t)),
    )
  }
  const d01 = subtract(p1, p0)
  const d12 = subtract(p2, p1)
  const d23 = subtract(p3, p2)
  const speed = (t: number): number => {
    const s = 1 - t
    return 3 * length(add(add(scale(d01, s * s), scale(d12, 2 * s * t)), scale(d23, t * t)))
  }
  const lengthBetween = (t0: number, t1: number): number => {
    const half = (t1 - t0) / 2
    const mid = (t0 + t1) / 2
    let sum = 0
    for (let i = 0; i < 5; i++) sum += WEIGHTS[i]! * speed(mid + half * NODES[i]!)
    return sum * half
  }
  const lengths = [0]
  for (let i = 0; i < SEGMENTS; i++) lengths.push(lengths[i]! + lengthBetween(i / SEGMENTS, (i + 1) / SEGMENTS))
  const total = lengths[SEGMENTS]!

  const parameterAt = (u: number): number => {
    const wanted = u * total
    let low = 0
    let high = SEGMENTS
    while (high - low > 1) {
      const mid = (low + high) >> 1
      if (lengths[mid]! <= wanted) low = mid
      else high = mid
    }
    const t0 = low / SEGMENTS
    const t1 = high / SEGMENTS
    const span = lengths[high]! - lengths[low]!
    let t = span === 0 ? t0 : t0 + ((wanted - lengths[low]!) / span) * (t1 - t0)
    for (let step = 0; step < 4; step++) {
      const slope = speed(t)
      if (slope < 1e-12) break
      const off = lengths[low]! + lengthBetween(t0, t) - wanted
      t = Math.min(t1, Math.max(t0, t - off / slope))
      if (Math.abs(off) < 1e-13) break
    }
    return t
  }
  return {
    lengthFw: total,
    at: (u) => (u <= 0 ? p0 : u >= 1 ? p3 : total === 0 ? between(p0, p3, u) : place(parameterAt(u))),
  }
}
