import { add, between, dot, length, ORIGIN, scale, subtract, type Point3 } from '../geometry/point'
import type { Path } from './path'

/** A drawn line as few bent paths that go through without a corner. */
export interface FittedPath {
  /** Where the paths begin and end: which of the line's points, first and last among them. */
  readonly knots: readonly number[]
  /** From each knot to the next. */
  readonly paths: readonly Path[]
}

const ROUNDS = 6

/**
 * Fits as few cubic Béziers as go through a drawn line with no point farther off than `tolerance` (fw): least squares over
 * chord lengths, bettered by Newton's step, split where it is farthest off. After Schneider, “An Algorithm for Automatically
 * Fitting Digitized Curves”, Graphics Gems (1990). Null for fewer than two different points.
 */
export function fitPath(points: readonly Point3[], tolerance: number): FittedPath | null {
  const line = points.map((point, index) => ({ point, index })).filter(({ point }, i) => i === 0 || distance(point, points[i - 1]!) > 1e-9)
  if (line.length < 2) return null
  const knots = [line[0]!.index]
  const paths: Path[] = []
  const places = line.map(({ point }) => point)
  const fit = (from: number, to: number, leave: Point3, arrive: Point3) => {
    const { path, worst, off } = bestOver(places, from, to, leave, arrive)
    if (off <= tolerance || to - from < 2) {
      paths.push(path)
      knots.push(line[to]!.index)
      return
    }
    const through = directionAt(places, worst)
    fit(from, worst, leave, scale(through, -1))
    fit(worst, to, through, arrive)
  }
  const last = places.length - 1
  fit(0, last, directionAt(places, 0), scale(directionAt(places, last), -1))
  return { knots, paths }
}

/**
 * The cubic Bézier from the first of some points to the last that comes nearest to all between: least squares of both handles,
 * whatever their directions, for points that lie on a way exactly and not as a hand has drawn them.
 */
export function fitOneBend(places: readonly Point3[]): { readonly path: Path; readonly off: number } {
  const [start, goal] = [places[0]!, places.at(-1)!]
  let shares = chordShares(places, 0, places.length - 1)
  let best: { readonly path: Path; readonly off: number } | null = null
  for (let round = 0; round < FREE_ROUNDS; round++) {
    const [p1, p2] = innerPoints(places, shares, start, goal)
    const curve = curveOf(start, p1, p2, goal)
    const off = Math.max(...places.map((place, i) => distance(curve.at(shares[i]!), place)))
    if (best === null || off < best.off) best = { path: bent(subtract(p1, start), subtract(p2, goal)), off }
    if (off < 1e-7) break
    shares = shares.map((t, i) => bettered(curve, t, places[i]!))
  }
  return best!
}
const FREE_ROUNDS = 60

function innerPoints(places: readonly Point3[], shares: readonly number[], start: Point3, goal: Point3): readonly [Point3, Point3] {
  let [c00, c01, c11] = [0, 0, 0]
  let [x0, x1] = [ORIGIN, ORIGIN]
  shares.forEach((t, i) => {
    const s = 1 - t
    const [b0, b1, b2, b3] = [s * s * s, 3 * t * s * s, 3 * t * t * s, t * t * t]
    const rest = subtract(places[i]!, add(scale(start, b0), scale(goal, b3)))
    c00 += b1 * b1
    c01 += b1 * b2
    c11 += b2 * b2
    x0 = add(x0, scale(rest, b1))
    x1 = add(x1, scale(rest, b2))
  })
  const determinant = c00 * c11 - c01 * c01
  // With a single point between there are many: the one of thirds.
  if (Math.abs(determinant) < 1e-9) return [between(start, goal, 1 / 3), between(start, goal, 2 / 3)]
  return [scale(subtract(scale(x0, c11), scale(x1, c01)), 1 / determinant), scale(subtract(scale(x1, c00), scale(x0, c01)), 1 / determinant)]
}

const distance = (a: Point3, b: Point3) => length(subtract(a, b))
function unit(vector: Point3): Point3 {
  const own = length(vector)
  return own < 1e-12 ? { x: 0, y: 0, depth: 0 } : scale(vector, 1 / own)
}
/** Over the neighbours on both sides; over more of them where a hand shakes. */
const directionAt = (places: readonly Point3[], at: number) => unit(subtract(places[Math.min(places.length - 1, at + 2)]!, places[Math.max(0, at - 2)]!))

interface Fit {
  readonly path: Path
  readonly worst: number
  readonly off: number
}

function bestOver(places: readonly Point3[], from: number, to: number, leave: Point3, arrive: Point3): Fit {
  const [start, goal] = [places[from]!, places[to]!]
  const third = distance(start, goal) / 3
  if (to - from < 2) return { path: bent(scale(leave, third), scale(arrive, third)), worst: from, off: 0 }
  let shares = chordShares(places, from, to)
  let best: Fit | null = null
  for (let round = 0; round < ROUNDS; round++) {
    const [a, b] = handleLengths(places, from, shares, leave, arrive, start, goal)
    const path = bent(scale(leave, a), scale(arrive, b))
    const curve = curveOf(start, add(start, path.leave), add(goal, path.arrive), goal)
    let [worst, off] = [from + 1, 0]
    for (let i = 1; i < shares.length - 1; i++) {
      const error = distance(curve.at(shares[i]!), places[from + i]!)
      if (error > off) [worst, off] = [from + i, error]
    }
    if (best === null || off < best.off) best = { path, worst, off }
    shares = shares.map((t, i) => bettered(curve, t, places[from + i]!))
  }
  return best!
}

const bent = (leave: Point3, arrive: Point3) => ({ kind: 'bent', leave, arrive }) as const

function chordShares(places: readonly Point3[], from: number, to: number): number[] {
  const shares = [0]
  for (let i = from + 1; i <= to; i++) shares.push(shares.at(-1)! + distance(places[i]!, places[i - 1]!))
  const total = shares.at(-1)!
  return shares.map((share) => share / total)
}

/** The lengths of both handles, along their directions, that come nearest to all points. */
function handleLengths(places: readonly Point3[], from: number, shares: readonly number[], leave: Point3, arrive: Point3, start: Point3, goal: Point3): readonly [number, number] {
  let [c00, c01, c11, x0, x1] = [0, 0, 0, 0, 0]
  shares.forEach((t, i) => {
    const s = 1 - t
    const [b0, b1, b2, b3] = [s * s * s, 3 * t * s * s, 3 * t * t * s, t * t * t]
    const [a0, a1] = [scale(leave, b1), scale(arrive, b2)]
    const rest = subtract(places[from + i]!, add(scale(start, b0 + b1), scale(goal, b2 + b3)))
    c00 += dot(a0, a0)
    c01 += dot(a0, a1)
    c11 += dot(a1, a1)
    x0 += dot(a0, rest)
    x1 += dot(a1, rest)
  })
  const determinant = c00 * c11 - c01 * c01
  const chord = distance(start, goal)
  const [a, b] = Math.abs(determinant) < 1e-12 ? [0, 0] : [(x0 * c11 - x1 * c01) / determinant, (c00 * x1 - c01 * x0) / determinant]
  // Handles that point back make loops: then a third of the way, as a straight one has.
  return a > chord * 1e-6 && b > chord * 1e-6 ? [a, b] : [chord / 3, chord / 3]
}

function curveOf(p0: Point3, p1: Point3, p2: Point3, p3: Point3) {
  const mixed = (a: number, b: number, c: number, d: number): Point3 => add(add(scale(p0, a), scale(p1, b)), add(scale(p2, c), scale(p3, d)))
  return {
    at: (t: number) => mixed((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t ** 3),
    first: (t: number) => mixed(-3 * (1 - t) ** 2, 3 * (1 - t) ** 2 - 6 * t * (1 - t), 6 * t * (1 - t) - 3 * t * t, 3 * t * t),
    second: (t: number) => mixed(6 * (1 - t), -12 * (1 - t) + 6 * t, 6 * (1 - t) - 12 * t, 6 * t),
  }
}

/** A parameter nearer to a point than this one. */
function bettered(curve: ReturnType<typeof curveOf>, t: number, point: Point3): number {
  const [off, first, second] = [subtract(curve.at(t), point), curve.first(t), curve.second(t)]
  const slope = dot(first, first) + dot(off, second)
  return Math.abs(slope) < 1e-12 ? t : Math.min(1, Math.max(0, t - dot(off, first) / slope))
}
