import type { Drawing, TakeBody } from '@rubato/core/document'

/** About what a record costs in memory beside its points. */
const RECORD_BYTES = 400
const sizes = new WeakMap<object, number>()

/** About how much memory a take or a drawing takes. Of its collections those that stay the same are counted once. */
export function unitBytes(unit: TakeBody | Drawing): number {
  const known = sizes.get(unit)
  if (known !== undefined) return known
  let bytes = 0
  for (const records of Object.values(unit) as object[]) {
    const own = sizes.get(records) ?? bytesOf(Array.isArray(records) ? records : Object.values(records))
    sizes.set(records, own)
    bytes += own
  }
  sizes.set(unit, bytes)
  return bytes
}

function bytesOf(records: readonly { readonly points?: readonly number[]; readonly outlines?: readonly (readonly number[])[] }[]): number {
  let bytes = 0
  for (const { points, outlines } of records) bytes += RECORD_BYTES + 8 * ((points?.length ?? 0) + (outlines ?? []).reduce((sum, outline) => sum + outline.length, 0))
  return bytes
}
