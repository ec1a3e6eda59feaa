import { shownCell } from '../../document/exposures'
import { placedPanels } from '../../document/panels'
import { cellIdOf, type Mark } from '../../document/records'
import { takeRef, drawingRef, EMPTY_DRAWING, type Drawing, type TakeBody } from '../../document/units'
import { carryMark, type Carrying } from '../../ink/transformMark'
import { Draft } from '../change/draft'
import type { Edit } from '../change/edit'
import { made, refused, type Made } from '../change/refusal'

/** A mark without its place in the pile; it is put on top. */
export type NewMark = Mark extends infer M ? (M extends Mark ? Omit<M, 'order'> : never) : never

/** Where the artist draws: a level in a panel of a take. */
export interface DrawingPlace {
  readonly take: TakeBody
  readonly takeId: string
  readonly drawings: Readonly<Record<string, Drawing>>
  readonly levelId: string
  readonly panelId: string
  /** For the drawing that is started, if one is. */
  readonly newDrawingId: string
  /** What a level holds is itself changed, in every panel that shows it. */
  readonly editHeld: boolean
}

/** Gives a level a drawing of its own from a panel on. */
export function setCell(take: TakeBody, takeId: string, levelId: string, panelId: string, drawingId: string): Made {
  if (take.levels[levelId] === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (take.levels[levelId].kind === 'carrier') return refused({ code: 'carrier-shows-nothing', id: levelId })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const cell = { id: cellIdOf(levelId, panelId), levelId, panelId, drawingId }
  return made(new Draft(take).put('cells', cell).edit('cell-set', takeRef(takeId)))
}

/** Takes a level's own drawing in a panel away, so that it holds the one before. */
export function clearCell(take: TakeBody, takeId: string, levelId: string, panelId: string): Made {
  const level = take.levels[levelId]
  if (level?.locked === true) return refused({ code: 'level-locked', id: levelId })
  const id = cellIdOf(levelId, panelId)
  if (take.cells[id] === undefined) return made()
  return made(new Draft(take).drop('cells', id).edit('cell-clear', takeRef(takeId)))
}

/** From this panel on the level shows nothing, until a later panel has a drawing of its own. */
export function blankCell(take: TakeBody, takeId: string, levelId: string, panelId: string): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const cell = { id: cellIdOf(levelId, panelId), levelId, panelId, drawingId: null }
  return made(new Draft(take).put('cells', cell).edit('cell-blank', takeRef(takeId)))
}

/**
 * Changes what a level shows in a panel. Its own drawing is changed itself; one that other cells share is copied first.
 * A level that only holds starts a drawing here: empty for `new`, what it held for `copy`; with `editHeld` the held
 * drawing is changed instead.
 */
export function changeDrawing(place: DrawingPlace, kind: string, onHeld: 'new' | 'copy', change: (drawing: Drawing, draft: Draft<Drawing>) => void): Made {
  const { take, drawings, levelId, panelId, editHeld } = place
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const index = placedPanels(take).findIndex((entry) => entry.panel.id === panelId)
  if (index < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  const shown = shownCell(take, level, index)
  const changesShown = shown !== null && (shown.panelId === panelId || editHeld)
  if (shown === null || (!changesShown && onHeld === 'new')) return started(place, panelId, kind, EMPTY_DRAWING, change)
  const drawing = drawings[shown.drawingId]
  if (drawing === undefined) return refused({ code: 'missing', what: 'drawing', id: shown.drawingId })
  const shared = Object.values(take.cells).filter((cell) => cell.drawingId === shown.drawingId).length > 1
  if (!changesShown || shared) return started(place, changesShown ? shown.panelId : panelId, kind, drawing, change)
  const draft = new Draft(drawing)
  change(drawing, draft)
  return made(draft.edit(kind, drawingRef(shown.drawingId)))
}

function started(place: DrawingPlace, panelId: string, kind: string, from: Drawing, change: (drawing: Drawing, draft: Draft<Drawing>) => void): Made {
  const cell = setCell(place.take, place.takeId, place.levelId, panelId, place.newDrawingId)
  if (!cell.ok) return cell
  const draft = new Draft(EMPTY_DRAWING)
  for (const mark of from.marks) draft.put('marks', mark)
  change(from, draft)
  return made(...cell.edits, draft.edit(kind, drawingRef(place.newDrawingId)))
}

/** Puts marks on top of a drawing, in their order. */
export function putOnTop(drawing: Drawing, draft: Draft<Drawing>, marks: readonly NewMark[]): void {
  const orders = draft.room('marks', drawing.marks, drawing.marks.length, marks.length)
  marks.forEach((mark, i) => draft.put('marks', { ...mark, order: orders[i]! } as Mark))
}

/** Adds a mark on top of a drawing. */
export function addMark(drawing: Drawing, drawingId: string, mark: NewMark): Edit {
  const draft = new Draft(drawing)
  putOnTop(drawing, draft, [mark])
  return draft.edit('mark-add', drawingRef(drawingId))
}

/**
 * Puts a mark where the artist drew. On a level that holds, ink and pictures start a new drawing; what works on the
 * lines that are there (erasing, painting behind, filling) starts from a copy of them.
 */
export function drawMark(take: TakeBody, takeId: string, drawings: Readonly<Record<string, Drawing>>, levelId: string, panelId: string, mark: NewMark, newDrawingId: string, editHeld: boolean): Made {
  const startsAnew = mark.kind === 'picture' || (mark.kind === 'stroke' && mark.mode === 'ink')
  const place = { take, takeId, drawings, levelId, panelId, newDrawingId, editHeld }
  return changeDrawing(place, 'mark-add', startsAnew ? 'new' : 'copy', (drawing, draft) => putOnTop(drawing, draft, [mark]))
}

/** Puts marks on top of what a level shows in a panel, as pasting does. */
export function addMarks(place: DrawingPlace, marks: readonly NewMark[]): Made {
  if (marks.length === 0) return refused({ code: 'nothing-selected' })
  return changeDrawing(place, 'marks-add', 'copy', (drawing, draft) => putOnTop(drawing, draft, marks))
}

/** Carries marks of a drawing elsewhere on its level. Those that are not there any more are passed over. */
export function carryMarks(place: DrawingPlace, ids: readonly string[], carrying: Carrying): Made {
  const wanted = new Set(ids)
  return changeDrawing(place, 'marks-carry', 'copy', (drawing, draft) => {
    for (const mark of drawing.marks) if (wanted.has(mark.id)) draft.put('marks', carryMark(mark, carrying))
  })
}

export function removeMarks(place: DrawingPlace, ids: readonly string[]): Made {
  if (ids.length === 0) return refused({ code: 'nothing-selected' })
  const wanted = new Set(ids)
  return changeDrawing(place, 'marks-remove', 'copy', (drawing, draft) => {
    for (const mark of drawing.marks) if (wanted.has(mark.id)) draft.drop('marks', mark.id)
  })
}

/** Gives strokes and fills another tone. */
export function recolourMarks(place: DrawingPlace, ids: readonly string[], colour: string, opacity: number): Made {
  const wanted = new Set(ids)
  return changeDrawing(place, 'marks-recolour', 'copy', (drawing, draft) => {
    for (const mark of drawing.marks) if (wanted.has(mark.id) && mark.kind !== 'picture') draft.put('marks', { ...mark, colour, opacity })
  })
}

/** Puts a figure's backing under all its marks, in the place of an earlier one. */
export function backFigure(place: DrawingPlace, back: Omit<Extract<Mark, { kind: 'fill' }>, 'order' | 'purpose' | 'mode' | 'kind'>): Made {
  return changeDrawing(place, 'figure-back', 'copy', (drawing, draft) => {
    for (const mark of drawing.marks) if (mark.kind === 'fill' && mark.purpose === 'back') draft.drop('marks', mark.id)
    // Behind what is there, not at the bottom of the pile: what was erased inside the figure must not become a hole.
    putOnTop(drawing, draft, [{ ...back, kind: 'fill', mode: 'behind', purpose: 'back' }])
  })
}
