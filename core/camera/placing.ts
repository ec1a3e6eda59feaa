import { add, dot, scale, subtract, type Point3 } from '../geometry/point'
import type { CameraBasis } from './projection'
import { rayThrough } from './projection'

/** Which of a camera's numbers may change so that a point is seen where it should be. */
export interface FreeAxes {
  readonly x: boolean
  readonly y: boolean
  readonly depth: boolean
}

/**
 * Where a camera, turned as it is, sees `point` at (u, v): `from` with its free axes changed. With depth free the point stays
 * `distance` fw away along the lens axis. With only some axes free as much of it is kept as they can: u by x and v by y, unless
 * a roll has each of them see to the other. `from` itself where nothing can be done.
 */
export function placeSeeing(point: Point3, { u, v }: { readonly u: number; readonly v: number }, basis: CameraBasis, k: number, axes: FreeAxes, from: Point3, distance: number): Point3 {
  const ray = rayThrough({ ...basis, k }, u, v)
  if (axes.depth && axes.x && axes.y) return subtract(point, scale(ray, distance))
  if (axes.x && axes.y) {
    const z = (point.depth - from.depth) / ray.depth
    return Number.isFinite(z) && z > 0 ? { x: point.x - ray.x * z, y: point.y - ray.y * z, depth: from.depth } : from
  }
  const free = AXES.filter((axis) => axes[axis])
  if (free.length === 0) return from
  // What holds u, and what holds v, each a plane through the point that the camera is to lie in; and its distance.
  const across: Rule = { normal: subtract(basis.right, scale(basis.forward, u / k)), offset: 0 }
  const along: Rule = { normal: subtract(basis.up, scale(basis.forward, v / k)), offset: 0 }
  const away: Rule = { normal: basis.forward, offset: distance }
  const beside: Axis = axes.x ? 'x' : 'y'
  const [first, second] = axes.x ? [across, along] : [along, across]
  const screen = Math.abs(first.normal[beside]) * 2 >= Math.abs(second.normal[beside]) ? first : second
  return solved(free, free.length === 1 ? [axes.depth ? away : screen] : [screen, away], subtract(point, from), from)
}

type Axis = 'x' | 'y' | 'depth'
const AXES: readonly Axis[] = ['x', 'y', 'depth']
/** `normal · (point − camera) = offset`. */
interface Rule {
  readonly normal: Point3
  readonly offset: number
}
/** Less than this and a rule says nothing of an axis. */
const LEAST = 1e-9

function solved([a, b]: readonly Axis[], [p, q]: readonly Rule[], way: Point3, from: Point3): Point3 {
  const rest = (rule: Rule) => dot(rule.normal, way) - rule.offset
  if (b === undefined || q === undefined) {
    const slope = p!.normal[a!]
    return Math.abs(slope) < LEAST ? from : { ...from, [a!]: from[a!] + rest(p!) / slope }
  }
  const determinant = p!.normal[a!] * q.normal[b] - p!.normal[b] * q.normal[a!]
  if (Math.abs(determinant) < LEAST) return from
  const byA = (rest(p!) * q.normal[b] - rest(q) * p!.normal[b]) / determinant
  const byB = (p!.normal[a!] * rest(q) - q.normal[a!] * rest(p!)) / determinant
  return { ...from, [a!]: from[a!] + byA, [b]: from[b] + byB }
}

const DEGREES = 180 / Math.PI

/**
 * How a camera turns, its roll staying, so that what lies along `way` from it is seen at (u, v). With r = (u/k, v/k, 1) as they
 * are without the roll and n = |r|: tilt = asin(n·y / (|way|·√(1 + r_v²))) − atan r_v, pan = atan2(x, depth) − atan2(r_u,
 * cos tilt − r_v·sin tilt). Where the asin has no value, the nearest that can be.
 */
export function turnSeeing(way: Point3, { u, v }: { readonly u: number; readonly v: number }, k: number, rollDegrees: number): { readonly panDegrees: number; readonly tiltDegrees: number } {
  const [sin, cos] = [Math.sin(rollDegrees / DEGREES), Math.cos(rollDegrees / DEGREES)]
  const [across, along] = [(u * cos + v * sin) / k, (v * cos - u * sin) / k]
  const n = Math.sqrt(1 + across * across + along * along)
  const far = Math.sqrt(dot(way, way))
  const sine = far === 0 ? 0 : (n * way.y) / (far * Math.sqrt(1 + along * along))
  const tilt = Math.asin(Math.min(1, Math.max(-1, sine))) - Math.atan(along)
  const pan = Math.atan2(way.x, way.depth) - Math.atan2(across, Math.cos(tilt) - along * Math.sin(tilt))
  return { panDegrees: pan * DEGREES, tiltDegrees: tilt * DEGREES }
}

/** The lens ratio with which a point `far` away, seen at (u, v), has `k / z` as `ratio` says. */
export function ratioHolding(ratio: number, far: number, { u, v }: { readonly u: number; readonly v: number }): number {
  return Math.sqrt(Math.max(0, ratio * ratio * far * far - u * u - v * v))
}

/** A place so far along a camera's own axes from where it is. */
export const alongAxes = (from: Point3, { right, up }: CameraBasis, across: number, upward: number): Point3 => add(from, add(scale(right, across), scale(up, upward)))
