import { inOrder } from '../document/order'
import { placedPanels, shownCell } from '../document/panels'
import { cellIdOf, type Mark } from '../document/records'
import type { Drawing, TakeBody } from '../document/units'
import { Draft } from './draft'
import type { Edit } from './edit'
import { made, refused, type Made } from './refusal'

/** A mark without its place in the pile; it is put on top. */
export type NewMark = Mark extends infer M ? (M extends Mark ? Omit<M, 'order'> : never) : never

/** Adds a mark on top of a drawing. */
export function addMark(drawing: Drawing, drawingId: string, mark: NewMark): Edit {
  const top = inOrder(drawing.marks).at(-1)
  return new Draft(drawing)
    .put('marks', { ...mark, order: (top?.order ?? 0) + 1 } as Mark)
    .edit('mark-add', { kind: 'drawing', id: drawingId })
}

/** Gives a level a drawing of its own from a panel on. */
export function setCell(take: TakeBody, takeId: string, levelId: string, panelId: string, drawingId: string): Made {
  if (take.levels[levelId] === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const cell = { id: cellIdOf(levelId, panelId), levelId, panelId, drawingId }
  return made(new Draft(take).put('cells', cell).edit('cell-set', { kind: 'take', id: takeId }))
}

/** Takes a level's own drawing in a panel away, so that it holds the one before. */
export function clearCell(take: TakeBody, takeId: string, levelId: string, panelId: string): Made {
  const id = cellIdOf(levelId, panelId)
  if (take.cells[id] === undefined) return made()
  return made(new Draft(take).drop('cells', id).edit('cell-clear', { kind: 'take', id: takeId }))
}

/**
 * Puts a mark where the artist drew: into the level's drawing in that panel. A level that holds, or has none yet, or
 * whose drawing another level shares, starts a drawing `newDrawingId` there, so nothing else changes.
 */
export function drawMark(
  take: TakeBody,
  takeId: string,
  drawings: Readonly<Record<string, Drawing>>,
  levelId: string,
  panelId: string,
  mark: NewMark,
  newDrawingId: string,
  continueHeld: boolean,
): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const index = placedPanels(take).findIndex((entry) => entry.panel.id === panelId)
  if (index < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  const shown = shownCell(take, level, index)
  if (shown !== null && (shown.panelId === panelId || continueHeld)) {
    const drawing = drawings[shown.drawingId]
    if (drawing === undefined) return refused({ code: 'missing', what: 'drawing', id: shown.drawingId })
    const sharers = Object.values(take.cells).filter((cell) => cell.drawingId === shown.drawingId)
    if (sharers.length === 1) return made(addMark(drawing, shown.drawingId, mark))
    const copied = new Draft<Drawing>({ marks: {} })
    const marks = inOrder(drawing.marks)
    for (const known of marks) copied.put('marks', known)
    copied.put('marks', { ...mark, order: (marks.at(-1)?.order ?? 0) + 1 } as Mark)
    const cell = setCell(take, takeId, levelId, shown.panelId, newDrawingId)
    return cell.ok ? made(...cell.edits, copied.edit('mark-add', { kind: 'drawing', id: newDrawingId })) : cell
  }
  const cell = setCell(take, takeId, levelId, panelId, newDrawingId)
  return cell.ok ? made(...cell.edits, addMark({ marks: {} }, newDrawingId, mark)) : cell
}
