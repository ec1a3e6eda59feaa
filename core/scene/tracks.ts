import type { CameraBasis } from '../camera/projection'
import { cross, length, scale, type Point3 } from '../geometry/point'

/**
 * Rubato's axes are x right, y up, depth away; glTF's x right, y up, z towards whoever looks along −z. So z is −depth, and what is
 * looked at from the front there is looked at from the front here.
 */
export const flipped = ({ x, y, depth }: Point3): readonly [number, number, number] => [x, y, 0 - depth]

/** A unit quaternion x, y, z, w of three directions of length 1 at right angles, in glTF's axes. */
function quaternionOf(x: readonly number[], y: readonly number[], z: readonly number[]): [number, number, number, number] {
  const [m00, m10, m20] = x as [number, number, number]
  const [m01, m11, m21] = y as [number, number, number]
  const [m02, m12, m22] = z as [number, number, number]
  const trace = m00 + m11 + m22
  // By the largest of its four parts, so that none is a difference of nearly equal numbers.
  const made: [number, number, number, number] =
    trace > 0
      ? ((s) => [(m21 - m12) / s, (m02 - m20) / s, (m10 - m01) / s, s / 4] as [number, number, number, number])(Math.sqrt(trace + 1) * 2)
      : m00 > m11 && m00 > m22
        ? ((s) => [s / 4, (m01 + m10) / s, (m02 + m20) / s, (m21 - m12) / s] as [number, number, number, number])(Math.sqrt(1 + m00 - m11 - m22) * 2)
        : m11 > m22
          ? ((s) => [(m01 + m10) / s, s / 4, (m12 + m21) / s, (m02 - m20) / s] as [number, number, number, number])(Math.sqrt(1 + m11 - m00 - m22) * 2)
          : ((s) => [(m02 + m20) / s, (m12 + m21) / s, s / 4, (m10 - m01) / s] as [number, number, number, number])(Math.sqrt(1 + m22 - m00 - m11) * 2)
  const norm = Math.hypot(...made)
  return made.map((part) => part / norm) as [number, number, number, number]
}

/** How a camera is turned, in glTF's axes: it looks along its −z. */
export function turnOfCamera({ right, up, forward }: CameraBasis): [number, number, number, number] {
  return quaternionOf(flipped(right), flipped(up), flipped(scale(forward, -1)))
}

/** How a plane is turned, and how many of its own fw one along it is. */
export function turnOfPlane(axisX: Point3, axisY: Point3): { readonly rotation: [number, number, number, number]; readonly size: number } {
  const size = length(axisX)
  const [x, y] = [scale(axisX, 1 / size), scale(axisY, 1 / length(axisY))]
  // In glTF's axes x × y looks towards whoever sees the art from its front.
  return { rotation: quaternionOf(flipped(x), flipped(y), flipped(scale(cross(x, y), -1))), size }
}

/** The same turn as the other sign of it says, nearer to what went before: what is between is then the short way. */
export function near(before: readonly number[] | undefined, now: [number, number, number, number]): [number, number, number, number] {
  const dot = before === undefined ? 1 : now.reduce((sum, part, i) => sum + part * before[i]!, 0)
  return dot < 0 ? (now.map((part) => 0 - part) as [number, number, number, number]) : now
}

export interface Keys {
  readonly frames: readonly number[]
  readonly values: readonly (readonly number[])[]
}

/** Values a frame, without those that lie on the way between the ones that stay: where all are one, one is left. `mix` is how a reader goes between two. */
export function sparse(values: readonly (readonly number[])[], within: number, mix: (a: readonly number[], b: readonly number[], share: number) => readonly number[]): Keys {
  const off = (a: readonly number[], b: readonly number[]) => a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0)
  const kept: number[] = [0]
  for (let from = 0; from < values.length - 1; ) {
    // As far as one straight way goes: doubled, then halved.
    let [good, step] = [from + 1, 2]
    const goes = (to: number) => {
      for (let at = from + 1; at < to; at++) if (off(mix(values[from]!, values[to]!, (at - from) / (to - from)), values[at]!) > within) return false
      return true
    }
    while (from + step < values.length && goes(from + step)) {
      good = from + step
      step *= 2
    }
    let bad = Math.min(values.length, from + step)
    while (bad - good > 1) {
      const middle = (good + bad) >> 1
      if (goes(middle)) good = middle
      else bad = middle
    }
    kept.push(good)
    from = good
  }
  const first = values[0]!
  if (values.every((value) => off(value, first) <= within)) return { frames: [0], values: [first] }
  return { frames: kept, values: kept.map((frame) => values[frame]!) }
}

export const straight = (a: readonly number[], b: readonly number[], share: number): readonly number[] => a.map((value, i) => value + (b[i]! - value) * share)

/** Between two unit quaternions, evenly turned, as glTF's linear interpolation of turns is. */
export function slerp(a: readonly number[], b: readonly number[], share: number): readonly number[] {
  const dot = a.reduce((sum, value, i) => sum + value * b[i]!, 0)
  const sign = dot < 0 ? -1 : 1
  const angle = Math.acos(Math.min(1, Math.abs(dot)))
  if (angle < 1e-6) return straight(a, b.map((value) => value * sign), share)
  const sin = Math.sin(angle)
  const [wa, wb] = [Math.sin((1 - share) * angle) / sin, (Math.sin(share * angle) / sin) * sign]
  return a.map((value, i) => value * wa + b[i]! * wb)
}
