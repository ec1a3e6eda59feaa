import type { FocusValue, HazeValue } from '../moves/airValues'

/** What is between the lens and the levels at one frame: null where there is none. */
export interface Air {
  readonly haze: HazeValue | null
  readonly focus: FocusValue | null
}
export const CLEAR_AIR: Air = Object.freeze({ haze: null, focus: null })

/** How far a colour at distance z (fw before the lens) goes towards the haze's, 0…1: 1 − exp(−density · (z − start)) past its start. */
export function hazeAt({ density, start }: Pick<HazeValue, 'density' | 'start'>, z: number): number {
  return z <= start ? 0 : 1 - Math.exp(-density * (z - start))
}

/** The distance at which haze has hidden so much of a colour, fw; infinite where it never does. */
export const hazeReaches = ({ density, start }: Pick<HazeValue, 'density' | 'start'>, share: number): number => (density <= 0 ? Infinity : start - Math.log(1 - share) / density)

/** The widest that a point is ever softened to, fw: what surrounds the frame is only known so far. */
export const SOFTEST_FW = 0.2

/** How wide a point at distance z becomes in the picture, fw: |1/z − 1/sharp| · strength, at most `SOFTEST_FW`. */
export function softnessAt({ sharp, strength }: FocusValue, z: number): number {
  return Math.min(SOFTEST_FW, Math.abs(1 / z - 1 / sharp) * strength)
}

/** A disc of width w spreads as a bell of this deviation does: w/4. */
export const deviationOf = (softness: number): number => softness / 4

/** The distances that are white and black in a picture of depth, fw. */
export interface DepthRange {
  readonly nearest: number
  readonly farthest: number
}

/**
 * The grey of a distance in a picture of depth, 0 (farthest) … 1 (nearest), even in 1/z: equal steps of grey are equal steps of
 * parallax when a camera goes sideways.
 */
export function depthGrey({ nearest, farthest }: DepthRange, z: number): number {
  const [near, far] = [1 / nearest, 1 / farthest]
  return near <= far ? 1 : Math.min(1, Math.max(0, (1 / z - far) / (near - far)))
}
