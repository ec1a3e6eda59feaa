import { placedPanels } from '../../document/panels'
import { outlineRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { applyToUnit, isEmpty, merge, type Edit } from '../change/edit'
import { offsetsAfterLength } from '../take/panelLength'

/**
 * What follows from edits in other units: marks on the ruler stay over the panel that they stand over, whatever is done
 * to the panels of their shot's circled take. Over a panel that goes, a mark stays where it is, at the beginning of what
 * comes next. Marks that the edits themselves touch are left to them. To be called on all that an artist does.
 */
export function followMarks(film: Film, projectId: string, edits: readonly Edit[]): readonly Edit[] {
  const marks = Object.values(film.outline.rulerMarks)
  if (marks.length === 0) return edits
  const touched = new Set(edits.flatMap((edit) => (edit.unit.kind === 'outline' ? Object.keys(edit.changes.rulerMarks ?? {}) : [])))
  const draft = new Draft<Outline>(film.outline)
  for (const edit of edits) {
    if (edit.unit.kind !== 'take' || edit.changes.panels === undefined) continue
    const before = film.takes[edit.unit.id]
    const own = before === undefined ? [] : marks.filter((mark) => !touched.has(mark.id) && film.outline.shots[mark.shotId]?.circledTakeId === edit.unit.id)
    if (own.length === 0) continue
    const after = applyToUnit(before!, edit)
    if (!after.ok) continue
    const move = placesAfter(before!, after.value)
    for (const mark of own) draft.put('rulerMarks', { ...mark, offsetFrames: move(mark.offsetFrames) })
  }
  const follow = draft.edit('mark-follow', outlineRef(projectId))
  if (isEmpty(follow)) return edits
  const at = edits.findIndex((edit) => edit.unit.kind === 'outline')
  return at < 0 ? [...edits, follow] : edits.map((edit, i) => (i === at ? { ...merge(edit, follow)!, kind: edit.kind } : edit))
}

/** Where a frame over a panel goes when panels change; one past the shot's end stays as far past it. */
function placesAfter(before: TakeBody, after: TakeBody): (offset: number) => number {
  const [old, now] = [placedPanels(before), placedPanels(after)]
  const starts = new Map(now.map((entry) => [entry.panel.id, entry]))
  const total = now.reduce((sum, { panel }) => sum + panel.lengthFrames, 0)
  // Where the same frames are only divided otherwise, nothing has moved.
  if (sameTime(old, now)) return (offset) => offset
  return (offset) => {
    const at = old.findLastIndex((entry) => entry.startFrame <= offset)
    const over = old[at]
    if (over === undefined) return offset
    const inside = offset - over.startFrame
    if (inside >= over.panel.lengthFrames) return Math.max(0, offset)
    const there = starts.get(over.panel.id)
    if (there !== undefined) return there.startFrame + offsetsAfterLength([inside], over.panel.lengthFrames, there.panel.lengthFrames)[0]!
    const next = old.slice(at + 1).find((entry) => starts.has(entry.panel.id))
    return next === undefined ? Math.max(0, total - 1) : starts.get(next.panel.id)!.startFrame
  }
}

/** A panel split, or some joined: every panel that is in both begins where it did, and the whole is as long. */
function sameTime(old: ReturnType<typeof placedPanels>, now: ReturnType<typeof placedPanels>): boolean {
  const length = (placed: typeof old) => placed.reduce((sum, { panel }) => sum + panel.lengthFrames, 0)
  if (length(old) !== length(now)) return false
  const starts = new Map(old.map((entry) => [entry.panel.id, entry.startFrame]))
  const kept = now.filter((entry) => starts.has(entry.panel.id))
  return kept.length < Math.max(old.length, now.length) && kept.every((entry) => starts.get(entry.panel.id) === entry.startFrame)
}
