import type { Drawing, TakeBody } from '@rubato/core/document'

/** About what a record costs in memory beside its points. */
const RECORD_BYTES = 400
const sizes = new WeakMap<object, number>()

/** About how much memory a take or a drawing takes. */
export function unitBytes(unit: TakeBody | Drawing): number {
  const known = sizes.get(unit)
  if (known !== undefined) return known
  let bytes = 0
  for (const records of Object.values(unit)) {
    for (const record of Object.values(records as object)) {
      const { points, outlines } = record as { points?: readonly number[]; outlines?: readonly (readonly number[])[] }
      bytes += RECORD_BYTES + 8 * ((points?.length ?? 0) + (outlines ?? []).reduce((sum, outline) => sum + outline.length, 0))
    }
  }
  sizes.set(unit, bytes)
  return bytes
}
