import { basisOf } from '../camera/projection'
import { add, scale, type Point2, type Point3 } from '../geometry/point'

/** Where a level stands (fw), how large its art is, and how it is turned (degrees, as a camera turns). */
export interface LevelPlacement extends Point3 {
  readonly scale: number
  readonly panDegrees: number
  readonly tiltDegrees: number
  readonly rollDegrees: number
}

/** A level's plane: art coordinates (x, y), in fw from the pivot, map to origin + x·axisX + y·axisY. */
export interface LevelPlane {
  readonly origin: Point3
  readonly axisX: Point3
  readonly axisY: Point3
}

export function levelPlane(level: LevelPlacement): LevelPlane {
  const { right, up } = basisOf(level)
  return {
    origin: { x: level.x, y: level.y, depth: level.depth },
    axisX: scale(right, level.scale),
    axisY: scale(up, level.scale),
  }
}

export function pointOnPlane(plane: LevelPlane, art: Point2): Point3 {
  return add(plane.origin, add(scale(plane.axisX, art.x), scale(plane.axisY, art.y)))
}
