import type { Optics } from './lens'
import type { CameraPose } from './pose'
import { lensOf, NEAREST_Z, project, unproject } from './projection'

/** Centre and corners, as fractions of the half frame. */
const SAMPLES: readonly (readonly [number, number])[] = [
  [0, 0],
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
]

/**
 * How far the picture travels between two poses, in fw: the mean over the frame's centre and corners of what art at
 * `subjectDepth` moves on screen. Pans, trucks, zooms and rolls all count, so it is the speed that the eye sees.
 */
export function screenMotion(a: CameraPose, b: CameraPose, optics: Optics, subjectDepth = 0): number {
  const before = lensOf(a, optics)
  const after = lensOf(b, optics)
  const z = Math.max(0.1, subjectDepth - a.depth)
  let sum = 0
  let count = 0
  for (const [sx, sy] of SAMPLES) {
    const u = sx * 0.5
    const v = sy * before.halfHeight
    const seen = project(after, unproject(before, u, v, z))
    if (seen.z < NEAREST_Z) continue
    sum += Math.hypot(seen.u - u, seen.v - v)
    count++
  }
  return count === 0 ? 0 : sum / count
}
