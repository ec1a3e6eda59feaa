import { dot, type Point2, type Point3 } from '../geometry/point'
import { NEAREST_Z, project, type Lens } from './projection'

/** A straight line in the picture, from one point to another; u and v in fw from the frame's centre. */
export type Segment = readonly [Point2, Point2]
/** What of the picture is asked about: |u| and |v| up to these, fw. */
export interface Reach {
  readonly u: number
  readonly v: number
}

/**
 * The horizon of level ground: where rays go neither up nor down, `forward.y + (u·right.y + v·up.y)/k = 0`. Null where the
 * camera looks so far up or down that it does not cross the picture.
 */
export function horizonLine({ right, up, forward, k }: Lens, reach: Reach): Segment | null {
  return clippedLine(right.y / k, up.y / k, forward.y, reach)
}

/** Where the lines along a direction of the set meet in the picture; null for one that the picture is parallel to. */
export function vanishingPoint(lens: Lens, direction: Point3): Point2 | null {
  const z = dot(direction, lens.forward)
  if (Math.abs(z) < 1e-6) return null
  return { x: (lens.k * dot(direction, lens.right)) / z, y: (lens.k * dot(direction, lens.up)) / z }
}

/** The directions of the set, by the axis that they go along. */
export const SET_DIRECTIONS: Readonly<Record<'x' | 'y' | 'depth', Point3>> = Object.freeze({ x: { x: 1, y: 0, depth: 0 }, y: { x: 0, y: 1, depth: 0 }, depth: { x: 0, y: 0, depth: 1 } })

/** So many squares each way are drawn, and none that are smaller in the picture than this, fw. */
const SQUARES = 40
const LEAST_FW = 0.004

/**
 * The lines of squares on level ground `y` high, `step` fw wide, through the set's middle, as the camera sees them: those
 * before it, as far as they can be told apart. Each is cut off at the edges of what is asked about.
 */
export function groundLines(lens: Lens, y: number, step: number, reach: Reach): readonly Segment[] {
  const lines: Segment[] = []
  const { x: atX, depth: atDepth } = lens.position
  const [middle, near] = [Math.round(atX / step), Math.round(atDepth / step)]
  const put = (a: Point3, b: Point3) => {
    const seen = seenSegment(lens, a, b)
    const cut = seen === null ? null : clippedSegment(seen, reach)
    if (cut !== null) lines.push(cut)
  }
  const far = SQUARES * step
  for (let i = -SQUARES; i <= SQUARES; i++) {
    const [x, depth] = [(middle + i) * step, (near + i) * step]
    // Into depth they go on to where they all but meet.
    put({ x, y, depth: atDepth - 10 * far }, { x, y, depth: atDepth + 10 * far })
    // Across: where two of them are as good as one, the rest are left out.
    const [here, next] = [project(lens, { x: atX, y, depth }), project(lens, { x: atX, y, depth: depth + step })]
    if (here.z > NEAREST_Z && next.z > NEAREST_Z && Math.hypot(here.u - next.u, here.v - next.v) < LEAST_FW) continue
    put({ x: atX - far, y, depth }, { x: atX + far, y, depth })
  }
  return lines
}

/** A segment of the set as it is seen, cut off at the lens. */
function seenSegment(lens: Lens, a: Point3, b: Point3): Segment | null {
  const [za, zb] = [project(lens, a).z, project(lens, b).z]
  if (za < NEAREST_Z && zb < NEAREST_Z) return null
  const at = (t: number): Point3 => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t, depth: a.depth + (b.depth - a.depth) * t })
  const cut = (NEAREST_Z - za) / (zb - za)
  const seen = (end: Point3): Point2 => {
    const { u, v } = project(lens, end)
    return { x: u, y: v }
  }
  return [seen(za < NEAREST_Z ? at(cut) : a), seen(zb < NEAREST_Z ? at(cut) : b)]
}

/** The part of a segment inside what is asked about (Liang and Barsky); null for none. */
function clippedSegment([a, b]: Segment, { u, v }: Reach): Segment | null {
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  let [from, to] = [0, 1]
  for (const [goes, room] of [[-dx, a.x + u], [dx, u - a.x], [-dy, a.y + v], [dy, v - a.y]] as const) {
    if (goes === 0) {
      if (room < 0) return null
      continue
    }
    const t = room / goes
    if (goes < 0) from = Math.max(from, t)
    else to = Math.min(to, t)
  }
  return from >= to ? null : [{ x: a.x + dx * from, y: a.y + dy * from }, { x: a.x + dx * to, y: a.y + dy * to }]
}

/** The part of the line a·u + b·v + c = 0 inside what is asked about. */
function clippedLine(a: number, b: number, c: number, reach: Reach): Segment | null {
  const size = a * a + b * b
  if (size < 1e-18) return null
  const [x, y] = [(-a * c) / size, (-b * c) / size]
  const far = 4 * (reach.u + reach.v + Math.hypot(x, y)) / Math.sqrt(size)
  return clippedSegment([{ x: x - b * far, y: y + a * far }, { x: x + b * far, y: y - a * far }], reach)
}

/** Within so many degrees of a way to a vanishing point a line is drawn that way. */
const SNAP_DEGREES = 7

/**
 * Where a line that is drawn from one point of the picture to another is to end so that it goes along a direction of the set:
 * the nearest of them, where one is near enough; as long as it was drawn.
 */
export function snappedToSet(lens: Lens, from: Point2, to: Point2): { readonly to: Point2; readonly along: 'x' | 'y' | 'depth' } | null {
  const [dx, dy] = [to.x - from.x, to.y - from.y]
  const length = Math.hypot(dx, dy)
  if (length < 1e-9) return null
  let best: { to: Point2; along: 'x' | 'y' | 'depth' } | null = null
  let least = Math.sin((SNAP_DEGREES * Math.PI) / 180)
  for (const along of ['x', 'y', 'depth'] as const) {
    const way = wayThrough(lens, from, SET_DIRECTIONS[along])
    if (way === null) continue
    const off = Math.abs(dx * way.y - dy * way.x) / length
    if (off >= least) continue
    const reach = dx * way.x + dy * way.y
    least = off
    best = { to: { x: from.x + way.x * reach, y: from.y + way.y * reach }, along }
  }
  return best
}

/** The way, of length 1, in which a direction of the set goes through a point of the picture; null where it goes straight at it. */
function wayThrough(lens: Lens, at: Point2, direction: Point3): Point2 | null {
  const point = vanishingPoint(lens, direction)
  const [x, y] = point === null ? [dot(direction, lens.right), dot(direction, lens.up)] : [point.x - at.x, point.y - at.y]
  const length = Math.hypot(x, y)
  return length < 1e-9 ? null : { x: x / length, y: y / length }
}
