import { add, scale, type Point3 } from '../geometry/point'
import { basisOf, NEAREST_Z, project, rayThrough, type Lens } from './projection'
import { FOCAL_LENGTH_RANGE_MM, lensRatio, type Optics } from './lens'
import type { CameraPose } from './pose'

/**
 * Slides the camera so that art at distance `z` follows a pointer that moved by (du, dv) fw in the picture. Dragging
 * the picture right moves the camera left. By numbers that are not finite it stays where it is.
 */
export function slidePose(pose: CameraPose, optics: Optics, du: number, dv: number, z: number): CameraPose {
  const { right, up } = basisOf(pose)
  if (![du, dv, z].every(Number.isFinite)) return pose
  const reach = z / lensRatio(pose.focalLengthMm, optics.filmBackMm)
  const by = add(scale(right, -du * reach), scale(up, -dv * reach))
  return { ...pose, x: pose.x + by.x, y: pose.y + by.y, depth: pose.depth + by.depth }
}

/**
 * Where a point goes that is dragged by (du, dv) fw in the picture and stays at its depth: the place at that depth which
 * is seen there, however the camera is turned. Null where nothing of that depth is seen there.
 */
export function slidePoint(lens: Lens, point: Point3, du: number, dv: number): Point3 | null {
  const seen = project(lens, point)
  if (!(seen.z >= NEAREST_Z)) return null
  const ray = rayThrough(lens, seen.u + du, seen.v + dv)
  const along = (point.depth - lens.position.depth) / ray.depth
  if (!(along >= NEAREST_Z) || !Number.isFinite(along)) return null
  return { x: lens.position.x + ray.x * along, y: lens.position.y + ray.y * along, depth: point.depth }
}

/** Turns the camera so that the picture follows a pointer that moved by (du, dv) fw. */
export function turnPose(pose: CameraPose, optics: Optics, du: number, dv: number): CameraPose {
  const k = lensRatio(pose.focalLengthMm, optics.filmBackMm)
  const degrees = 180 / Math.PI
  return {
    ...pose,
    panDegrees: pose.panDegrees - Math.atan(du / k) * degrees,
    tiltDegrees: Math.max(-89, Math.min(89, pose.tiltDegrees - Math.atan(dv / k) * degrees)),
  }
}

/**
 * Trucks along the lens axis until art now `z` away is `z / growth` away: it then shows `growth` times as large.
 * The camera stops short of `nearest` fw from that art.
 */
export function truckPose(pose: CameraPose, z: number, growth: number, nearest = 0.02): CameraPose {
  const by = z - Math.max(nearest, z / growth)
  const { forward } = basisOf(pose)
  const moved = add(pose, scale(forward, by))
  return { ...pose, x: moved.x, y: moved.y, depth: moved.depth }
}

/** Zooms the lens: everything grows by `growth`, no parallax. Kept within the range of focal lengths. */
export function zoomPose(pose: CameraPose, growth: number): CameraPose {
  const { min, max } = FOCAL_LENGTH_RANGE_MM
  return { ...pose, focalLengthMm: Math.min(max, Math.max(min, pose.focalLengthMm * growth)) }
}
