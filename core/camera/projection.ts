import { add, cross, dot, point3, scale, subtract, type Point2, type Point3 } from '../geometry/point'
import { lensRatio, type Optics } from './lens'
import type { CameraPose } from './pose'

/** Nothing nearer to the lens than this is drawn (fw along the lens axis). */
export const NEAREST_Z = 0.01

/** The directions of a posed camera, each of length 1. */
export interface CameraBasis {
  readonly forward: Point3
  readonly right: Point3
  readonly up: Point3
}

/** A pose solved for projecting many points. */
export interface Lens extends CameraBasis {
  readonly position: Point3
  /** The lens ratio, focal length over film back. */
  readonly k: number
  /** Half the picture's height in fw. */
  readonly halfHeight: number
}

/** A point as the camera sees it: u, v in fw from the frame's centre; z along the lens axis. */
export interface Projected {
  readonly u: number
  readonly v: number
  readonly z: number
}

const RADIANS = Math.PI / 180

/** Made anew with every frame; see `point3`. */
class Basis implements CameraBasis {
  constructor(
    readonly forward: Point3,
    readonly right: Point3,
    readonly up: Point3,
  ) {}
}

const AHEAD: Point3 = Object.freeze({ x: 0, y: 0, depth: 1 })
function rolled(rollDegrees: number): CameraBasis {
  const [sin, cos] = [Math.sin(rollDegrees * RADIANS), Math.cos(rollDegrees * RADIANS)]
  return new Basis(AHEAD, point3(cos, 0 - sin, 0), point3(sin, cos, 0))
}

/** Pan about y, then tilt, then roll. */
export function basisOf(turn: Pick<CameraPose, 'panDegrees' | 'tiltDegrees' | 'rollDegrees'>): CameraBasis {
  if (turn.panDegrees === 0 && turn.tiltDegrees === 0) return rolled(turn.rollDegrees)
  const sinPan = Math.sin(turn.panDegrees * RADIANS)
  const cosPan = Math.cos(turn.panDegrees * RADIANS)
  const sinTilt = Math.sin(turn.tiltDegrees * RADIANS)
  const cosTilt = Math.cos(turn.tiltDegrees * RADIANS)
  const sinRoll = Math.sin(turn.rollDegrees * RADIANS)
  const cosRoll = Math.cos(turn.rollDegrees * RADIANS)
  // Before the roll right is (cosPan, 0, −sinPan) and up (upX, cosTilt, upDepth).
  const [upX, upDepth] = [-sinPan * sinTilt, -cosPan * sinTilt]
  return new Basis(
    point3(sinPan * cosTilt, sinTilt, cosPan * cosTilt),
    point3(cosPan * cosRoll - upX * sinRoll, 0 - cosTilt * sinRoll, -sinPan * cosRoll - upDepth * sinRoll),
    point3(cosPan * sinRoll + upX * cosRoll, cosTilt * cosRoll, -sinPan * sinRoll + upDepth * cosRoll),
  )
}

export function lensOf(pose: CameraPose, optics: Optics): Lens {
  const { forward, right, up } = basisOf(pose)
  return {
    forward,
    right,
    up,
    position: { x: pose.x, y: pose.y, depth: pose.depth },
    k: lensRatio(pose.focalLengthMm, optics.filmBackMm),
    halfHeight: 1 / (2 * optics.aspect),
  }
}

/** Where a point of the set falls in the picture. Points behind the lens have z <= 0 and meaningless u, v. */
export function project(lens: Lens, point: Point3): Projected {
  const q = subtract(point, lens.position)
  const z = dot(q, lens.forward)
  return { u: (lens.k * dot(q, lens.right)) / z, v: (lens.k * dot(q, lens.up)) / z, z }
}

/** True when the point is before the lens and inside the frame. */
export function inFrame(lens: Lens, seen: Projected): boolean {
  return seen.z >= NEAREST_Z && Math.abs(seen.u) <= 0.5 && Math.abs(seen.v) <= lens.halfHeight
}

/** The point of the set seen at (u, v), `z` along the lens axis. The inverse of `project`. */
export function unproject(lens: Lens, u: number, v: number, z: number): Point3 {
  const ray = rayThrough(lens, u, v)
  return add(lens.position, scale(ray, z))
}

/** The direction through (u, v), with length 1 along the lens axis. */
export function rayThrough(lens: CameraBasis & Pick<Lens, 'k'>, u: number, v: number): Point3 {
  return add(lens.forward, add(scale(lens.right, u / lens.k), scale(lens.up, v / lens.k)))
}

/**
 * Where the ray through (u, v) meets a plane, as coordinates along the plane's two axes from its origin. Null when
 * the plane is edge-on to the ray or met behind the lens.
 */
export function meetPlane(
  lens: Lens,
  u: number,
  v: number,
  plane: { readonly origin: Point3; readonly axisX: Point3; readonly axisY: Point3 },
): Point2 | null {
  const ray = rayThrough(lens, u, v)
  const { axisX, axisY } = plane
  const normal = cross(axisX, axisY)
  const facing = dot(ray, normal)
  // Beside the lengths of both: a small plane is not edge-on for being small.
  if (Math.abs(facing) <= 1e-12 * Math.sqrt(dot(normal, normal) * dot(ray, ray))) return null
  const z = dot(subtract(plane.origin, lens.position), normal) / facing
  if (z <= 0) return null
  const offset = subtract(add(lens.position, scale(ray, z)), plane.origin)
  const xx = dot(axisX, axisX)
  const yy = dot(axisY, axisY)
  const xy = dot(axisX, axisY)
  const determinant = xx * yy - xy * xy
  const ox = dot(offset, axisX)
  const oy = dot(offset, axisY)
  return { x: (ox * yy - oy * xy) / determinant, y: (oy * xx - ox * xy) / determinant }
}
