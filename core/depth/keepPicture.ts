import { NEAREST_Z } from '../camera/projection'
import type { Point3 } from '../geometry/point'

export type DepthRefusal = {
  readonly code: 'depth-not-finite' | 'depth-behind-lens' | 'level-behind-lens'
  /** The depth asked for, or the level's own where that is the trouble. */
  readonly depth: number
  /** Depths must be greater than this. */
  readonly lensDepth: number
}

export type KeptPicture =
  | { readonly ok: true; readonly x: number; readonly y: number; readonly depth: number; readonly scale: number }
  | { readonly ok: false; readonly refusal: DepthRefusal }

/**
 * Sends a level to another depth so that the camera sees no change: a scaling about the lens by
 * λ = (depth' − C.depth) / (P.depth − C.depth). Exact for any camera angle and any turn of the level. Refused when
 * the level, or the depth asked for, is at or behind the lens.
 */
export function keepPicture(camera: Point3, level: Point3 & { readonly scale: number }, depth: number): KeptPicture {
  if (![depth, camera.x, camera.y, camera.depth, level.x, level.y, level.depth, level.scale].every(Number.isFinite)) return { ok: false, refusal: { code: 'depth-not-finite', depth, lensDepth: camera.depth } }
  if (level.depth - camera.depth < NEAREST_Z) {
    return { ok: false, refusal: { code: 'level-behind-lens', depth: level.depth, lensDepth: camera.depth } }
  }
  if (depth - camera.depth < NEAREST_Z) {
    return { ok: false, refusal: { code: 'depth-behind-lens', depth, lensDepth: camera.depth } }
  }
  const ratio = (depth - camera.depth) / (level.depth - camera.depth)
  return {
    ok: true,
    x: camera.x + ratio * (level.x - camera.x),
    y: camera.y + ratio * (level.y - camera.y),
    depth,
    scale: ratio * level.scale,
  }
}
