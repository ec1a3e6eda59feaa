import { NEAREST_Z } from '../camera/projection'
import { areaOf, middleOf } from './onScreen'
import type { SeenLevel } from './tooNear'

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

/** Which of the levels are to be near: as they lie now, as they were chosen, the largest in the picture, or what stands farthest from its middle. */
export type SpreadOrder = 'lie' | 'chosen' | 'size' | 'centre'

/** Levels that are told near first, in the order that they are to be spread in. Equals stay as they are told. */
export function spreadOrder(lie: readonly SeenLevel[], chosen: readonly string[], order: SpreadOrder): readonly string[] {
  const by = (value: (level: SeenLevel) => number) => [...lie].sort((a, b) => value(b) - value(a)).map(({ id }) => id)
  switch (order) {
    case 'lie':
      return lie.map(({ id }) => id)
    case 'chosen':
      return chosen.filter((id) => lie.some((level) => level.id === id))
    case 'size':
      return by(({ outline }) => areaOf(outline))
    case 'centre':
      return by(({ outline }) => {
        const { x, y } = middleOf(outline)
        return Math.hypot(x, y)
      })
  }
}
