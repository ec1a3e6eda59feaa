import { lensRatio, type Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { dot, scale, subtract, type Point2, type Point3 } from '../geometry/point'
import { heightOf, widthOf, type Rectangle } from '../geometry/rectangle'
import { planeOf, turnOf, type Stand } from './carriage'
import { pointOnPlane } from './levelPlane'

/** How much of the frame the art fills, across or up. */
const FILLS = 0.86

/**
 * Where a level's art is looked at square on, as large as the frame has room for, at its own proportions: from the side of its plane that
 * `from` is on, upright as the art is.
 */
export function faceOn(stand: Stand, pivot: Point2 | undefined, art: Rectangle, from: Point3, optics: Optics): CameraPose {
  const plane = planeOf(stand, pivot)
  const middle = pointOnPlane(plane, { x: (art.left + art.right) / 2, y: (art.bottom + art.top) / 2 })
  const side = dot(stand.forward, subtract(middle, from)) >= 0 ? 1 : -1
  const across = Math.max(widthOf(art), heightOf(art) * optics.aspect) * stand.size
  const off = (lensRatio(optics.baseLensMm, optics.filmBackMm) * Math.max(across, 1e-6)) / FILLS
  const forward = scale(stand.forward, side)
  return { x: middle.x - forward.x * off, y: middle.y - forward.y * off, depth: middle.depth - forward.depth * off, ...turnOf({ right: scale(stand.right, side), up: stand.up, forward }), focalLengthMm: optics.baseLensMm }
}
