import { NEAREST_Z, type Lens } from '../camera/projection'
import { keptBy } from '../geometry/halfPlane'
import { dot, subtract, type Point2, type Point3 } from '../geometry/point'
import { cornersOf, rectangleAround, type Rectangle } from '../geometry/rectangle'
import { pointOnPlane, type LevelPlane } from './levelPlane'

/** A convex outline in the picture, (x, y) = (u, v) in fw from the frame's centre. */
export type Outline = readonly Point2[]

/** What of a rectangle of a level's art the camera can see, frame or no frame; null where all of it is at or behind the lens. */
export function seenOutline(lens: Lens, plane: LevelPlane, bounds: Rectangle): Outline | null {
  const points = cornersOf(bounds).map((corner) => {
    const q = subtract(pointOnPlane(plane, corner), lens.position)
    return { x: dot(q, lens.right), y: dot(q, lens.up), z: dot(q, lens.forward) }
  })
  const seen: Point2[] = []
  for (const [i, a] of points.entries()) {
    const b = points[(i + 1) % points.length]!
    if (a.z >= NEAREST_Z) seen.push({ x: (lens.k * a.x) / a.z, y: (lens.k * a.y) / a.z })
    if (a.z >= NEAREST_Z === b.z >= NEAREST_Z) continue
    const t = (NEAREST_Z - a.z) / (b.z - a.z)
    seen.push({ x: (lens.k * (a.x + (b.x - a.x) * t)) / NEAREST_Z, y: (lens.k * (a.y + (b.y - a.y) * t)) / NEAREST_Z })
  }
  return seen.length < 3 ? null : seen
}

/** What of a level's art falls within a window of the picture. */
export interface SeenArt {
  /** The part of the art, in its own fw. */
  readonly art: Rectangle
  /** How near to the lens it comes and how far from it, along the lens axis. */
  readonly nearest: number
  readonly farthest: number
}

/** What of a rectangle of a level's art the camera sees within a window (u, v in fw from the frame's centre); null for nothing. */
export function seenArt(lens: Lens, plane: LevelPlane, bounds: Rectangle, window: Rectangle): SeenArt | null {
  const q = subtract(plane.origin, lens.position)
  // Along any direction of the lens a point of the art goes with its own x and y; so do the window's edges.
  const along = (direction: Point3) => ({ a: dot(plane.axisX, direction), b: dot(plane.axisY, direction), c: dot(q, direction) })
  const z = along(lens.forward)
  const edge = (direction: Point3, at: number, sign: 1 | -1) => {
    const { a, b, c } = along(direction)
    return { a: sign * (lens.k * a - at * z.a), b: sign * (lens.k * b - at * z.b), c: sign * (lens.k * c - at * z.c) }
  }
  const seen = keptBy(cornersOf(bounds), [{ ...z, c: z.c - NEAREST_Z }, edge(lens.right, window.left, 1), edge(lens.right, window.right, -1), edge(lens.up, window.bottom, 1), edge(lens.up, window.top, -1)])
  const art = rectangleAround(seen)
  const distances = seen.map(({ x, y }) => z.a * x + z.b * y + z.c)
  return art === null ? null : { art, nearest: Math.min(...distances), farthest: Math.max(...distances) }
}

/** How wide what the frame shows is at a distance along the lens axis, fw. */
export const fieldWidth = (lens: Pick<Lens, 'k'>, z: number): number => z / lens.k

/** How far art goes past each side of the frame, fw in the picture; below 0 it ends that far inside. */
export interface Overhang {
  readonly left: number
  readonly right: number
  readonly bottom: number
  readonly top: number
}

/**
 * How far a convex outline goes past the frame, at each side as far as it does everywhere along that side. An outline's edge
 * bends outwards only, so what it leaves over is least at one of the frame's corners; where the outline does not reach them,
 * at its own last point there.
 */
export function overhangOf(outline: Outline, halfHeight: number): Overhang {
  const [left, right] = endsAlong(outline, halfHeight, ({ y }) => y, ({ x }) => x)
  const [bottom, top] = endsAlong(outline, 0.5, ({ x }) => x, ({ y }) => y)
  return { left: -0.5 - left, right: right - 0.5, bottom: -halfHeight - bottom, top: top - halfHeight }
}

/** The least far that an outline reaches both ways across, between −half and half along. */
function endsAlong(outline: Outline, half: number, along: (point: Point2) => number, across: (point: Point2) => number): readonly [number, number] {
  const places = outline.map(along)
  const ends = [-half, half].map((end) => Math.min(Math.max(...places), Math.max(Math.min(...places), end)))
  let [low, high] = [-Infinity, Infinity]
  for (const end of ends) {
    const met: number[] = []
    for (const [i, a] of outline.entries()) {
      const b = outline[(i + 1) % outline.length]!
      const [from, to] = [along(a), along(b)]
      if ((from < end && to < end) || (from > end && to > end)) continue
      if (from === to) met.push(across(a), across(b))
      else met.push(across(a) + ((across(b) - across(a)) * (end - from)) / (to - from))
    }
    low = Math.max(low, Math.min(...met))
    high = Math.min(high, Math.max(...met))
  }
  return [low, high]
}

/** Whether two convex outlines have more than an edge in common: no edge of either has one on each side of it. */
export function overlap(a: Outline, b: Outline): boolean {
  const apart = (one: Outline, other: Outline) =>
    one.some((from, i) => {
      const to = one[(i + 1) % one.length]!
      const [nx, ny] = [to.y - from.y, from.x - to.x]
      const reach = (points: Outline) => points.map(({ x, y }) => x * nx + y * ny)
      const [mine, theirs] = [reach(one), reach(other)]
      return Math.max(...mine) <= Math.min(...theirs) || Math.max(...theirs) <= Math.min(...mine)
    })
  return !apart(a, b) && !apart(b, a)
}

const crossOf = (a: Point2, b: Point2) => a.x * b.y - b.x * a.y

/** Of an outline, fw². */
export const areaOf = (outline: Outline): number => Math.abs(outline.reduce((sum, a, i) => sum + crossOf(a, outline[(i + 1) % outline.length]!), 0)) / 2

/** The middle of an outline's area; of its corners where it has none. */
export function middleOf(outline: Outline): Point2 {
  const doubled = outline.reduce((sum, a, i) => sum + crossOf(a, outline[(i + 1) % outline.length]!), 0)
  const mean = (of: (point: Point2) => number) => outline.reduce((sum, point) => sum + of(point), 0) / outline.length
  if (Math.abs(doubled) < 1e-12) return { x: mean(({ x }) => x), y: mean(({ y }) => y) }
  const moment = (of: (point: Point2) => number) =>
    outline.reduce((sum, a, i) => {
      const b = outline[(i + 1) % outline.length]!
      return sum + (of(a) + of(b)) * crossOf(a, b)
    }, 0) / (3 * doubled)
  return { x: moment(({ x }) => x), y: moment(({ y }) => y) }
}
