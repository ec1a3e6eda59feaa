import type { Point3 } from '../geometry/point'
import { lensRatio, type Optics } from './lens'

/** Where the camera is (fw), how it is turned (degrees), and its lens (mm). */
export interface CameraPose extends Point3 {
  readonly panDegrees: number
  readonly tiltDegrees: number
  readonly rollDegrees: number
  readonly focalLengthMm: number
}

/** The camera nobody has touched: art at depth 0 shows 1:1. */
export function untouchedPose(optics: Optics): CameraPose {
  return {
    x: 0,
    y: 0,
    depth: -lensRatio(optics.baseLensMm, optics.filmBackMm),
    panDegrees: 0,
    tiltDegrees: 0,
    rollDegrees: 0,
    focalLengthMm: optics.baseLensMm,
  }
}

export function posesEqual(a: CameraPose, b: CameraPose, tolerance = 0): boolean {
  return (
    Math.abs(a.x - b.x) <= tolerance &&
    Math.abs(a.y - b.y) <= tolerance &&
    Math.abs(a.depth - b.depth) <= tolerance &&
    Math.abs(a.panDegrees - b.panDegrees) <= tolerance &&
    Math.abs(a.tiltDegrees - b.tiltDegrees) <= tolerance &&
    Math.abs(a.rollDegrees - b.rollDegrees) <= tolerance &&
    Math.abs(a.focalLengthMm - b.focalLengthMm) <= tolerance
  )
}
