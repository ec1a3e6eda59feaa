import { add, between, dot, length, point3, scale, subtract, type Point3 } from '../geometry/point'

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
  /** The place at `u`, the fraction of arc length. 0 and 1 are exact; beyond them the way goes straight on. */
  at(u: number): Point3
  /** The path from one fraction of the length to another, as one of its own. */
  stretch(from: number, to: number): Path
}

const SEGMENTS = 32
// Five-point Gauss–Legendre on −1…1.
const NODES = [0, 0.5384693101056831, -0.5384693101056831, 0.906179845938664, -0.906179845938664]
const WEIGHTS = [0.5688888888888889, 0.47862867049936647, 0.47862867049936647, 0.23692688505618908, 0.23692688505618908]

export function createPath(from: Point3, to: Point3, path: Path): SolvedPath {
  if (path.kind === 'straight') {
    return { lengthFw: length(subtract(to, from)), at: (u) => between(from, to, u), stretch: () => path }
  }
  return createBezierPath(from, add(from, path.leave), add(to, path.arrive), to)
}

/** A cubic Bézier by arc length; `t` is the curve's parameter, `u` the fraction of its length. */
export function createBezierPath(p0: Point3, p1: Point3, p2: Point3, p3: Point3): SolvedPath {
  // Both are asked for many times a frame: number by number, without points in between.
  const place = (t: number): Point3 => {
    const s = 1 - t
    const [b0, b1, b2, b3] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
    return point3(p0.x * b0 + p1.x * b1 + (p2.x * b2 + p3.x * b3), p0.y * b0 + p1.y * b1 + (p2.y * b2 + p3.y * b3), p0.depth * b0 + p1.depth * b1 + (p2.depth * b2 + p3.depth * b3))
  }
  const d01 = subtract(p1, p0)
  const d12 = subtract(p2, p1)
  const d23 = subtract(p3, p2)
  // A third of the curve's derivative is a + b·t + c·t²; its square has five numbers, whatever the curve.
  const [b, c] = [scale(subtract(d12, d01), 2), add(subtract(d01, scale(d12, 2)), d23)]
  const [q0, q1, q2, q3, q4] = [dot(d01, d01), 2 * dot(d01, b), dot(b, b) + 2 * dot(d01, c), 2 * dot(b, c), dot(c, c)]
  const speed = (t: number): number => 3 * Math.sqrt(Math.max(0, (((q4 * t + q3) * t + q2) * t + q1) * t + q0))
  /** How fast the speed's square changes. */
  const speeding = (t: number): number => 9 * (((4 * q4 * t + 3 * q3) * t + 2 * q2) * t + q1)
  const lengthBetween = (t0: number, t1: number): number => {
    const half = (t1 - t0) / 2
    const mid = (t0 + t1) / 2
    let sum = 0
    for (let i = 0; i < 5; i++) sum += WEIGHTS[i]! * speed(mid + half * NODES[i]!)
    return sum * half
  }
  const cuts = knotsOf(d01, b, c)
  const lengths = [0]
  for (let i = 0; i + 1 < cuts.length; i++) lengths.push(lengths[i]! + lengthBetween(cuts[i]!, cuts[i + 1]!))
  const total = lengths.at(-1)!
  const speeds = cuts.map(speed)

  const parameterAt = (u: number): number => {
    if (u <= 0) return 0
    if (u >= 1) return 1
    const wanted = u * total
    let low = 0
    let high = lengths.length - 1
    while (high - low > 1) {
      const mid = (low + high) >> 1
      if (lengths[mid]! <= wanted) low = mid
      else high = mid
    }
    let [t0, t1] = [cuts[low]!, cuts[high]!]
    const before = lengths[low]!
    const span = lengths[high]! - before
    let t = span === 0 ? t0 : firstGuess((wanted - before) / span, t0, t1, span / speeds[low]!, span / speeds[high]!)
    const from = t0
    // A step leaves its cube behind, by as much as speed can change between two cuts: after one so small less than 1e-12.
    const smallest = 3e-4 * (t1 - t0)
    // Halley's step, held between what is too little and what is too much: at a cusp the speed is 0 and it would stall.
    for (let step = 0; step < 40; step++) {
      const off = before + lengthBetween(from, t) - wanted
      if (Math.abs(off) < 1e-12 || t1 - t0 < 1e-15) break
      if (off > 0) t1 = t
      else t0 = t
      const slope = speed(t)
      const by = off / slope
      const next = t - by * (1 + (by * speeding(t)) / (4 * slope * slope))
      const isBetween = slope >= 1e-9 && next > t0 && next < t1
      t = isBetween ? next : (t0 + t1) / 2
      if (isBetween && Math.abs(by) < smallest) break
    }
    return t
  }
  /** De Casteljau's points of the curve from t = a to t = b. */
  const blossom = (a: number, b: number, c: number): Point3 => {
    const q = [between(p0, p1, a), between(p1, p2, a), between(p2, p3, a)] as const
    const r = [between(q[0], q[1], b), between(q[1], q[2], b)] as const
    return between(r[0], r[1], c)
  }
  const tangent = (ends: readonly Point3[]): Point3 => {
    const found = ends.map((end) => ({ end, size: length(end) })).find(({ size }) => size > 1e-12)
    return found === undefined ? { x: 0, y: 0, depth: 0 } : scale(found.end, 1 / found.size)
  }
  return {
    lengthFw: total,
    at: (u) => {
      if (u === 0) return p0
      if (u === 1) return p3
      if (total === 0) return between(p0, p3, u)
      if (u < 0) return add(p0, scale(tangent([d01, subtract(p2, p0), subtract(p3, p0)]), u * total))
      if (u > 1) return add(p3, scale(tangent([d23, subtract(p3, p1), subtract(p3, p0)]), (u - 1) * total))
      return place(parameterAt(u))
    },
    stretch(from, to) {
      const [a, b] = [parameterAt(from), parameterAt(to)]
      return { kind: 'bent', leave: subtract(blossom(a, a, b), blossom(a, a, a)), arrive: subtract(blossom(a, b, b), blossom(b, b, b)) }
    },
  }
}

/** The parameter at a share of a stretch's length: the cubic with its slopes at both ends (Hermite), where it stays between them. */
function firstGuess(share: number, t0: number, t1: number, slope0: number, slope1: number): number {
  const rest = 1 - share
  const t = rest * rest * ((1 + 2 * share) * t0 + share * slope0) + share * share * ((3 - 2 * share) * t1 - rest * slope1)
  return t > t0 && t < t1 ? t : t0 + share * (t1 - t0)
}

/**
 * Where the curve is cut for its length to be summed: evenly, and at the places where its speed is least, closer and
 * closer. At a cusp the speed is |t − c|, which no rule for smooth functions sums across.
 */
function knotsOf(a: Point3, b: Point3, c: Point3): readonly number[] {
  const knots = Array.from({ length: SEGMENTS + 1 }, (_, i) => i / SEGMENTS)
  // Point by point: near a cusp the five numbers would have lost its place.
  const squared = (t: number) => {
    const v = add(add(a, scale(b, t)), scale(c, t * t))
    return dot(v, v)
  }
  for (let i = 1; i < 2 * SEGMENTS; i++) {
    let [low, high] = [(i - 1) / (2 * SEGMENTS), (i + 1) / (2 * SEGMENTS)]
    const mid = i / (2 * SEGMENTS)
    if (squared(mid) > squared(low) || squared(mid) > squared(high)) continue
    for (let step = 0; step < 60; step++) {
      const [p, q] = [low + (high - low) / 3, high - (high - low) / 3]
      if (squared(p) < squared(q)) high = q
      else low = p
    }
    const least = (low + high) / 2
    for (const off of NEAR_CUSP) for (const t of [least - off, least + off]) if (t > 0 && t < 1) knots.push(t)
    knots.push(least)
  }
  return [...new Set(knots)].sort((x, y) => x - y)
}

const NEAR_CUSP: readonly number[] = [1e-2, 3e-3, 1e-3, 1e-4, 1e-5]
