import { FOCAL_LENGTH_RANGE_MM } from './lens'
import type { CameraPose } from './pose'

/**
 * The pose asked for, with its lens changed so that art at `planeDepth` keeps the size that it has from `from`:
 * k / (s − C.depth) stays as it is. Where no lens is long or short enough the distance gives way instead. Null where the
 * plane is at or behind either lens, or a number is not finite.
 */
export function counterZoom(from: CameraPose, asked: CameraPose, planeDepth: number): CameraPose | null {
  const [before, after] = [planeDepth - from.depth, planeDepth - asked.depth]
  if (!(before > 0 && after > 0) || ![before, after, from.focalLengthMm].every(Number.isFinite)) return null
  const wanted = (from.focalLengthMm * after) / before
  const focalLengthMm = Math.min(FOCAL_LENGTH_RANGE_MM.max, Math.max(FOCAL_LENGTH_RANGE_MM.min, wanted))
  return { ...asked, focalLengthMm, depth: focalLengthMm === wanted ? asked.depth : planeDepth - (before * focalLengthMm) / from.focalLengthMm }
}

/** The same the other way: for a lens, the distance at which the plane keeps its size. */
export function counterTruck(from: CameraPose, focalLengthMm: number, planeDepth: number): CameraPose | null {
  const before = planeDepth - from.depth
  if (!(before > 0) || !Number.isFinite(before) || !(focalLengthMm > 0) || !Number.isFinite(focalLengthMm)) return null
  return { ...from, focalLengthMm, depth: planeDepth - (before * focalLengthMm) / from.focalLengthMm }
}
