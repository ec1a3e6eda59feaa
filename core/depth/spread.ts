import { NEAREST_Z } from '../camera/projection'

/** `even`: equal steps of depth. `ratio`: each distance from the lens is the same factor of the one before. */
export type SpreadRule = 'even' | 'ratio'

/**
 * Depths for `count` levels from `nearDepth` to `farDepth`, near first; both ends exact. One level goes to the near
 * end. Null when an end is at or behind the lens, or the ends are not in order.
 */
export function spreadDepths(
  count: number,
  nearDepth: number,
  farDepth: number,
  lensDepth: number,
  rule: SpreadRule,
): readonly number[] | null {
  const near = nearDepth - lensDepth
  const far = farDepth - lensDepth
  if (!(near >= NEAREST_Z) || !(far >= near) || !Number.isFinite(far)) return null
  return Array.from({ length: count }, (_, i) => {
    if (i === 0) return nearDepth
    if (i === count - 1) return farDepth
    const fraction = i / (count - 1)
    return rule === 'even'
      ? nearDepth + (farDepth - nearDepth) * fraction
      : lensDepth + near * (far / near) ** fraction
  })
}
