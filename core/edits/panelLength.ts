import { PANEL_FRAMES_RANGE } from '../document/records'
import type { TakeBody } from '../document/units'
import { Draft } from './draft'
import { made, refused, type Made } from './refusal'

/**
 * Where keys at `offsets` go when their panel changes from `oldLength` to `newLength` frames. A key on the last frame
 * stays on the last; the others keep their distance from the start, and where the panel shrinks past one of them all
 * are drawn in proportionally. With fewer frames than keys some share a frame, and none is lost.
 */
export function offsetsAfterLength(offsets: readonly number[], oldLength: number, newLength: number): number[] {
  // In a panel of one frame its only frame counts as the first.
  const isLast = (offset: number) => offset === oldLength - 1 && oldLength > 1
  const anyLast = offsets.some(isLast)
  const limit = Math.max(0, newLength - 1 - (anyLast ? 1 : 0))
  const furthest = Math.max(0, ...offsets.filter((offset) => !isLast(offset)))
  const factor = furthest > limit ? limit / furthest : 1
  return offsets.map((offset) => (isLast(offset) ? newLength - 1 : Math.round(offset * factor)))
}

/** Gives a panel a length in frames; keys in it follow `offsetsAfterLength`, later keys move with their panels. */
export function setPanelLength(take: TakeBody, takeId: string, panelId: string, lengthFrames: number): Made {
  const panel = take.panels[panelId]
  if (panel === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  if (panel.lengthLocked && lengthFrames !== panel.lengthFrames) return refused({ code: 'length-locked', id: panelId })
  const { min, max } = PANEL_FRAMES_RANGE
  if (!Number.isInteger(lengthFrames) || lengthFrames < min || lengthFrames > max) {
    return refused({ code: 'length-out-of-range', received: lengthFrames, min, max })
  }
  const draft = new Draft(take).put('panels', { ...panel, lengthFrames })
  for (const collection of ['framings', 'cuts'] as const) {
    const keys = Object.values(take[collection]).filter((key) => key.panelId === panelId)
    const offsets = offsetsAfterLength(keys.map((key) => key.offsetFrames), panel.lengthFrames, lengthFrames)
    keys.forEach((key, i) => draft.put(collection, { ...key, offsetFrames: offsets[i]! } as never))
  }
  return made(draft.edit('panel-length', { kind: 'take', id: takeId }))
}
