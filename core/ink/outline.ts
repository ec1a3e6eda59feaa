import { getStroke } from 'perfect-freehand'

/** Outlines are made at this many units a frame width, where the library's smoothing works as meant. */
export const OUTLINE_UNITS_PER_FW = 1000

export const USUAL_THINNING = 0.5

/**
 * The outline of a pressed line: x, y (fw), pressure … `thinning` is how much the pressure tells: at 0.5 it is of full
 * width at pressure 1 and a third of that at 0. Points come smoothed, so the outline keeps to them. x, y, x, y … in
 * thousandths of a frame width, y up.
 */
export function strokeOutline(points: readonly number[], widthFw: number, thinning = USUAL_THINNING): Float32Array {
  const units = OUTLINE_UNITS_PER_FW
  const input: [number, number, number][] = []
  for (let i = 0; i + 2 < points.length; i += 3) input.push([points[i]! * units, points[i + 1]! * units, points[i + 2]!])
  const outline = getStroke(input, {
    size: widthFw * units,
    thinning,
    smoothing: 0.5,
    streamline: 0,
    simulatePressure: false,
    last: true,
  }) as [number, number][]
  const flat = new Float32Array(outline.length * 2)
  outline.forEach(([x, y], i) => flat.set([x, y], i * 2))
  return flat
}
