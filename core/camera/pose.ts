import type { Point3 } from '../geometry/point'
import { FOCAL_LENGTH_RANGE_MM, lensRatio, type Optics } from './lens'

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

/** Places reach this far from the set's middle, fw; turns this far, degrees. */
export const POSE_LIMITS = Object.freeze({ placeFw: 1e6, degrees: 36_000 })

/** The pose held to the range that can be kept; null where a number is not finite. */
export function heldPose(pose: CameraPose): CameraPose | null {
  const { x, y, depth, panDegrees, tiltDegrees, rollDegrees, focalLengthMm } = pose
  if (![x, y, depth, panDegrees, tiltDegrees, rollDegrees, focalLengthMm].every(Number.isFinite)) return null
  const held = (value: number, most: number) => Math.min(most, Math.max(-most, value))
  const { placeFw, degrees } = POSE_LIMITS
  return {
    x: held(x, placeFw),
    y: held(y, placeFw),
    depth: held(depth, placeFw),
    panDegrees: held(panDegrees, degrees),
    tiltDegrees: held(tiltDegrees, degrees),
    rollDegrees: held(rollDegrees, degrees),
    focalLengthMm: Math.min(FOCAL_LENGTH_RANGE_MM.max, Math.max(FOCAL_LENGTH_RANGE_MM.min, focalLengthMm)),
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
