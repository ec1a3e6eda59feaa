import type { Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { lensOf, meetPlane, NEAREST_Z, project, unproject, type Lens } from '../camera/projection'
import { levelPlane } from '../depth/levelPlane'
import type { TakeBody } from '../document/units'

const GRID: readonly number[] = [-1, -0.5, 0, 0.5, 1]
/** Between the points that are looked at a picture may move a little further. */
const SLACK = 1.02
/** Art this far off or farther moves as if it stood at the horizon. */
const HORIZON_FW = 1e4

/** The depths at which a take has art that can be seen, nearest first; the picture plane where it has none. */
export function artDepths(take: Pick<TakeBody, 'levels'>): readonly number[] {
  const depths: number[] = []
  for (const level of Object.values(take.levels)) {
    if (!level.visible || level.kind === 'reference') continue
    const { origin, axisX, axisY } = levelPlane(level)
    // A turned level reaches nearer and farther than its pivot.
    const reach = Math.abs(axisX.depth) + Math.abs(axisY.depth)
    depths.push(origin.depth)
    if (reach > 1e-9) depths.push(origin.depth - reach, origin.depth + reach)
  }
  return depths.length === 0 ? [0] : [...new Set(depths)].sort((a, b) => a - b)
}

/**
 * How far the picture of one pose differs from another's, in fw: the most that art in the frame, at any of `depths`, is
 * seen elsewhere. Of a run of depths the ends and the middle are looked at: between them a point's shift lies on a line.
 * Stops counting once it is past `enough`.
 */
export function pictureShift(before: CameraPose, after: CameraPose, optics: Optics, depths: readonly number[], enough = Infinity): number {
  if (before === after) return 0
  const [a, b] = [lensOf(before, optics), lensOf(after, optics)]
  const planes = [...new Set([depths[0]!, depths[depths.length >> 1]!, depths.at(-1)!])]
  let most = 0
  for (const depth of planes) {
    for (const gx of GRID) {
      for (const gy of GRID) {
        const shift = shiftAt(a, b, gx * 0.5, gy * a.halfHeight, depth)
        if (shift > most) most = shift
        if (most * SLACK > enough) return most * SLACK
      }
    }
  }
  return most * SLACK
}

function shiftAt(a: Lens, b: Lens, u: number, v: number, depth: number): number {
  const plane = { origin: { x: 0, y: 0, depth }, axisX: { x: 1, y: 0, depth: 0 }, axisY: { x: 0, y: 1, depth: 0 } }
  const met = meetPlane(a, u, v, plane)
  // Behind the lens, or edge-on: nothing of that depth is seen there.
  const point = met === null ? unproject(a, u, v, HORIZON_FW) : { x: met.x, y: met.y, depth }
  const seen = project(b, point)
  return seen.z < NEAREST_Z ? Infinity : Math.hypot(seen.u - u, seen.v - v)
}
