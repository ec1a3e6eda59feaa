import { anchoredIn, putAnchored, type Anchored } from '../../document/anchored'
import { shownAt } from '../../document/exposures'
import { placedPanels } from '../../document/panels'
import { cellAt, cellIdOf, PANEL_FRAMES_RANGE, type Panel } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import type { Edit } from '../change/edit'
import { made, refused, type Made, type MakeRefusal } from '../change/refusal'

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

/** Why a panel can't have a length; null where it can. */
export function checkLength(panel: Panel, lengthFrames: number): MakeRefusal | null {
  if (panel.lengthLocked && lengthFrames !== panel.lengthFrames) return { code: 'length-locked', id: panel.id }
  const { min, max } = PANEL_FRAMES_RANGE
  const inRange = Number.isInteger(lengthFrames) && lengthFrames >= min && lengthFrames <= max
  return inRange ? null : { code: 'length-out-of-range', received: lengthFrames, min, max }
}

/**
 * Exposures past the new end of a panel go: runs are not squeezed, so what is on 2s stays on 2s. A panel after it that held one
 * of them shows it as its own.
 */
function trimExposures(draft: Draft<TakeBody>, take: TakeBody, lengths: ReadonlyMap<string, number>): void {
  const past = Object.values(take.cells).filter(({ panelId, offsetFrames = 0 }) => offsetFrames >= (lengths.get(panelId) ?? Infinity))
  if (past.length === 0) return
  const placed = placedPanels(take)
  for (const cell of past) draft.drop('cells', cell.id)
  for (const [levelId, panelId] of new Map(past.map((cell) => [`${cell.levelId} ${cell.panelId}`, [cell.levelId, cell.panelId] as const])).values()) {
    const next = placed[placed.findIndex(({ panel }) => panel.id === panelId) + 1]
    if (next === undefined || take.cells[cellIdOf(levelId, next.panel.id)] !== undefined) continue
    draft.put('cells', cellAt(levelId, next.panel.id, 0, shownAt(take, levelId, next.startFrame)?.drawingId ?? null))
  }
}

/** Panels with their lengths (`exact`: that add up to what they did); keys in them follow `offsetsAfterLength`, later keys move with their panels. */
export function setLengths(take: TakeBody, takeId: string, lengths: ReadonlyMap<string, number>, exact = false): Edit {
  const draft = new Draft(take)
  for (const [panelId, lengthFrames] of lengths) draft.put('panels', { ...take.panels[panelId]!, lengthFrames })
  // Each kind by itself, and of each level: a cut does not make a framing move, nor one level's key another's.
  const together = new Map<string, Anchored[]>()
  for (const each of anchoredIn(take, (panelId) => lengths.has(panelId))) {
    const place = `${each.collection} ${each.record.levelId ?? ''} ${each.record.panelId}`
    const there = together.get(place)
    if (there === undefined) together.set(place, [each])
    else there.push(each)
  }
  for (const own of together.values()) {
    const { panelId } = own[0]!.record
    const offsets = offsetsAfterLength(own.map(({ record }) => record.offsetFrames), take.panels[panelId]!.lengthFrames, lengths.get(panelId)!)
    own.forEach((each, i) => putAnchored(draft, each, { offsetFrames: offsets[i]! }))
  }
  trimExposures(draft, take, lengths)
  const edit = draft.edit('panel-length', takeRef(takeId))
  return exact ? { ...edit, exact } : edit
}

/** Gives one panel a length in frames. The film's other records are left alone: see `retime` for those that follow. */
export function setPanelLength(take: TakeBody, takeId: string, panelId: string, lengthFrames: number): Made {
  const panel = take.panels[panelId]
  if (panel === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const refusal = checkLength(panel, lengthFrames)
  return refusal === null ? made(setLengths(take, takeId, new Map([[panelId, lengthFrames]]))) : refused(refusal)
}
