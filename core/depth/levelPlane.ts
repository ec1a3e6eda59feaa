import { basisOf } from '../camera/projection'
import { add, point3, scale, subtract, type Point2, type Point3 } from '../geometry/point'

/**
 * Where a level's pivot stands (fw), how large its art is, and how it is turned (degrees, as a camera turns). The pivot is a
 * point of the art, in its own fw: its middle where none is said.
 */
export interface LevelPlacement extends Point3 {
  readonly scale: number
  readonly panDegrees: number
  readonly tiltDegrees: number
  readonly rollDegrees: number
  readonly pivot?: Point2 | undefined
}

/** A level's plane: art coordinates (x, y), in the art's own fw, map to origin + x·axisX + y·axisY. */
export interface LevelPlane {
  readonly origin: Point3
  readonly axisX: Point3
  readonly axisY: Point3
}

/** Made anew with every frame; see `point3`. */
class Plane implements LevelPlane {
  constructor(
    readonly origin: Point3,
    readonly axisX: Point3,
    readonly axisY: Point3,
  ) {}
}

export function levelPlane(level: LevelPlacement): LevelPlane {
  const { x, y, depth } = level
  return planeTurned({ x, y, depth }, level, level.scale, level.pivot)
}

/** The plane of art so many times its own size, turned so, whose pivot stands at a place. */
export function planeTurned(place: Point3, turn: Pick<LevelPlacement, 'panDegrees' | 'tiltDegrees' | 'rollDegrees'>, size: number, pivot: Point2 | undefined): LevelPlane {
  if (turn.panDegrees !== 0 || turn.tiltDegrees !== 0) {
    const { right, up } = basisOf(turn)
    return planeAbout(place, scale(right, size), scale(up, size), pivot)
  }
  const [x, y] = [size * Math.cos(turn.rollDegrees * RADIANS), size * Math.sin(turn.rollDegrees * RADIANS)]
  return planeAbout(place, point3(x, 0 - y, 0), point3(y, x, 0), pivot)
}
const RADIANS = Math.PI / 180

/** The plane with these axes whose art stands with its pivot at a place. */
export function planeAbout(place: Point3, axisX: Point3, axisY: Point3, pivot: Point2 | undefined): LevelPlane {
  return new Plane(pivot === undefined ? place : subtract(place, add(scale(axisX, pivot.x), scale(axisY, pivot.y))), axisX, axisY)
}

export function pointOnPlane(plane: LevelPlane, art: Point2): Point3 {
  return add(plane.origin, add(scale(plane.axisX, art.x), scale(plane.axisY, art.y)))
}
