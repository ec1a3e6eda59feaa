import type { Lens } from '../camera/projection'
import { NEAREST_Z } from '../camera/projection'
import type { LevelPlane } from '../depth/levelPlane'
import { dot, subtract } from '../geometry/point'

/** Where a drawing covers what lies behind: rings of x, y in turn, in the art's own fw, filled even-odd. */
export interface ArtOutline {
  readonly rings: readonly (readonly number[])[]
}

/** The same as a camera sees it: rings of u, v in turn, fw from the frame's middle. What is at or behind the lens is cut off. */
export type SeenRings = readonly Float64Array[]

export function seenRings({ position, right, up, forward, k }: Lens, plane: LevelPlane, { rings }: ArtOutline): SeenRings {
  const q = subtract(plane.origin, position)
  const along = (direction: Lens['right']) => [dot(plane.axisX, direction), dot(plane.axisY, direction), dot(q, direction)] as const
  const [ux, uy, u0] = along(right)
  const [vx, vy, v0] = along(up)
  const [zx, zy, z0] = along(forward)
  const seen: Float64Array[] = []
  for (const ring of rings) {
    const flat = new Float64Array(ring.length)
    let isBehind = false
    for (let i = 0; i < ring.length; i += 2) {
      const [x, y] = [ring[i]!, ring[i + 1]!]
      const z = zx * x + zy * y + z0
      if (z < NEAREST_Z) {
        isBehind = true
        break
      }
      flat[i] = (k * (ux * x + uy * y + u0)) / z
      flat[i + 1] = (k * (vx * x + vy * y + v0)) / z
    }
    if (!isBehind) {
      seen.push(flat)
      continue
    }
    const before = cutBefore(ring, (x, y) => zx * x + zy * y + z0 - NEAREST_Z)
    if (before.length < 6) continue
    for (let i = 0; i < before.length; i += 2) {
      const [x, y] = [before[i]!, before[i + 1]!]
      // What lies on the cut has that very distance.
      const z = Math.max(NEAREST_Z, zx * x + zy * y + z0)
      before[i] = (k * (ux * x + uy * y + u0)) / z
      before[i + 1] = (k * (vx * x + vy * y + v0)) / z
    }
    seen.push(Float64Array.from(before))
  }
  return seen
}

/** What of a ring has a value of 0 or more. */
function cutBefore(ring: readonly number[], valueOf: (x: number, y: number) => number): number[] {
  const kept: number[] = []
  let [px, py] = [ring.at(-2)!, ring.at(-1)!]
  let before = valueOf(px, py)
  for (let i = 0; i < ring.length; i += 2) {
    const [x, y] = [ring[i]!, ring[i + 1]!]
    const value = valueOf(x, y)
    if (value >= 0 !== before >= 0) {
      const t = before / (before - value)
      kept.push(px + (x - px) * t, py + (y - py) * t)
    }
    if (value >= 0) kept.push(x, y)
    ;[px, py, before] = [x, y, value]
  }
  return kept
}

/** A rectangle, as a picture without holes has it. */
export const rectangleOutline = (left: number, bottom: number, right: number, top: number): ArtOutline => ({ rings: [[left, bottom, right, bottom, right, top, left, top]] })
