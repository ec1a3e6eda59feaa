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
  const speed = (t: number): number => {
    const s = 1 - t
    const [b0, b1, b2] = [s * s, 2 * s * t, t * t]
    const x = d01.x * b0 + d12.x * b1 + d23.x * b2
    const y = d01.y * b0 + d12.y * b1 + d23.y * b2
    const depth = d01.depth * b0 + d12.depth * b1 + d23.depth * b2
    return 3 * Math.sqrt(x * x + y * y + depth * depth)
  }
  const lengthBetween = (t0: number, t1: number): number => {
    const half = (t1 - t0) / 2
    const mid = (t0 + t1) / 2
    let sum = 0
    for (let i = 0; i < 5; i++) sum += WEIGHTS[i]! * speed(mid + half * NODES[i]!)
    return sum * half
  }
  const cuts = knotsOf(d01, d12, d23)
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
    // Newton's step, held between what is too little and what is too much: at a cusp the speed is 0 and it would stall.
    for (let step = 0; step < 40; step++) {
      const off = before + lengthBetween(from, t) - wanted
      if (Math.abs(off) < 1e-12 || t1 - t0 < 1e-15) break
      if (off > 0) t1 = t
      else t0 = t
      const slope = speed(t)
      const next = slope < 1e-9 ? NaN : t - off / slope
      t = next > t0 && next < t1 ? next : (t0 + t1) / 2
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
function knotsOf(d01: Point3, d12: Point3, d23: Point3): readonly number[] {
  const knots = Array.from({ length: SEGMENTS + 1 }, (_, i) => i / SEGMENTS)
  // The curve's derivative is a + b·t + c·t² (thirds left out).
  const b = scale(subtract(d12, d01), 2)
  const c = add(subtract(d01, scale(d12, 2)), d23)
  const squared = (t: number) => {
    const v = add(add(d01, scale(b, t)), scale(c, t * t))
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
