import type { Lens } from '../camera/projection'
import { dot, subtract } from '../geometry/point'
import type { PlacedLevel } from './takeStage'

/** The image of a square level: (u, v) = (u0, v0) + x·(xu, xv) + y·(yu, yv), in fw, v up. */
export interface SquareImage {
  readonly u0: number
  readonly v0: number
  readonly xu: number
  readonly xv: number
  readonly yu: number
  readonly yv: number
}

/** Throws for a level that is turned against the picture: its image is not affine. */
export function squareImage(lens: Lens, placed: PlacedLevel): SquareImage {
  if (!placed.square) throw new Error(`squareImage: level ${placed.level.id} is turned`)
  const { plane, z } = placed
  const q = subtract(plane.origin, lens.position)
  const factor = lens.k / z
  return {
    u0: dot(q, lens.right) * factor,
    v0: dot(q, lens.up) * factor,
    xu: dot(plane.axisX, lens.right) * factor,
    xv: dot(plane.axisX, lens.up) * factor,
    yu: dot(plane.axisY, lens.right) * factor,
    yv: dot(plane.axisY, lens.up) * factor,
  }
}
