/** What a project's cameras share. Millimetres; `aspect` is width over height. All positive and finite. */
export interface Optics {
  readonly filmBackMm: number
  readonly baseLensMm: number
  readonly aspect: number
}

export const DEFAULT_FILM_BACK_MM = 36
export const FOCAL_LENGTH_RANGE_MM = Object.freeze({ min: 4, max: 2000 })
/** The nearest length that there is. */
export const heldLens = (mm: number): number => Math.min(FOCAL_LENGTH_RANGE_MM.max, Math.max(FOCAL_LENGTH_RANGE_MM.min, mm))
/** The lenses offered by name; any other length may be typed. */
export const TRADE_FOCAL_LENGTHS_MM: readonly number[] = Object.freeze([14, 18, 24, 28, 35, 50, 65, 85, 100, 135, 200])

/** k, the lens ratio: how far off a thing one frame wide must be to fill the frame, in frame widths. */
export function lensRatio(focalLengthMm: number, filmBackMm: number): number {
  return focalLengthMm / filmBackMm
}

/** The horizontal field of view in degrees. */
export function fieldAngleDegrees(focalLengthMm: number, filmBackMm: number): number {
  return (2 * Math.atan(filmBackMm / (2 * focalLengthMm)) * 180) / Math.PI
}
