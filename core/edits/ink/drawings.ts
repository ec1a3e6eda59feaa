import { namedDrawings, shownAt } from '../../document/exposures'
import { placedPanels } from '../../document/panels'
import { pieceOf } from '../../document/sets'
import { cellAt, showsNothing, type Cell, type Mark } from '../../document/records'
import { takeRef, drawingRef, EMPTY_DRAWING, type Drawing, type TakeBody } from '../../document/units'
import { carryMark, type Carrying } from '../../ink/transformMark'
import { addDrawing } from '../take/levelDrawings'
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
  /** Where in the panel it is drawn: what is shown there is drawn in. Absent: on its first frame. */
  readonly offsetFrames?: number
  /** For the drawing that is started, if one is. */
  readonly newDrawingId: string
  /** What a level holds is itself changed, in every panel that shows it. */
  readonly editHeld: boolean
}

/** Gives a level a drawing of its own from a panel on. */
export function setCell(take: TakeBody, takeId: string, levelId: string, panelId: string, drawingId: string, offsetFrames = 0): Made {
  if (take.levels[levelId] === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (showsNothing(take.levels[levelId])) return refused({ code: 'carrier-shows-nothing', id: levelId })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const draft = new Draft(take).put('cells', cellAt(levelId, panelId, offsetFrames, drawingId))
  // Where drawings have names in the sheet, a new one gets one.
  if (namedDrawings(take, levelId).some(({ kept }) => kept)) addDrawing(draft, take, levelId, drawingId)
  return made(draft.edit('cell-set', takeRef(takeId)))
}

/** A level's own cells in a panel. */
const cellsIn = (take: TakeBody, levelId: string, panelId: string): readonly Cell[] => Object.values(take.cells).filter((cell) => cell.levelId === levelId && cell.panelId === panelId)

/** Takes a level's own drawings in a panel away, so that it holds the one before. */
export function clearCell(take: TakeBody, takeId: string, levelId: string, panelId: string): Made {
  const level = take.levels[levelId]
  if (level?.locked === true) return refused({ code: 'level-locked', id: levelId })
  const draft = new Draft(take)
  for (const { id } of cellsIn(take, levelId, panelId)) draft.drop('cells', id)
  return made(draft.edit('cell-clear', takeRef(takeId)))
}

/** From this panel on the level shows nothing, until a later panel has a drawing of its own. */
export function blankCell(take: TakeBody, takeId: string, levelId: string, panelId: string): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const draft = new Draft(take)
  for (const { id } of cellsIn(take, levelId, panelId)) draft.drop('cells', id)
  return made(draft.put('cells', cellAt(levelId, panelId, 0, null)).edit('cell-blank', takeRef(takeId)))
}

/**
 * Changes what a level shows where it is drawn on. Its own drawing is changed itself; one that another level shows too, or
 * that copies of a panel share, is copied first. A drawing that is exposed inside panels is one drawing wherever the level
 * shows it. A level that only holds starts a drawing in this panel: empty for `new`, what it held for `copy`; with `editHeld`
 * the held drawing is changed instead.
 */
export function changeDrawing(place: DrawingPlace, kind: string, onHeld: 'new' | 'copy', change: (drawing: Drawing, draft: Draft<Drawing>) => void): Made {
  const { take, drawings, levelId, panelId, editHeld } = place
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const index = placedPanels(take).findIndex((entry) => entry.panel.id === panelId)
  if (index < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  const shown = shownAt(take, levelId, placedPanels(take)[index]!.startFrame + (place.offsetFrames ?? 0))
  // A piece of a set shows one drawing, in all panels.
  const isPiece = pieceOf(levelId) !== null
  const changesShown = shown !== null && (shown.panelId === panelId || editHeld || isPiece)
  const start = cellAt(levelId, panelId, 0, null)
  if (shown === null || (!changesShown && onHeld === 'new')) return started(place, [start], kind, EMPTY_DRAWING, change)
  const drawing = drawings[shown.drawingId]
  if (drawing === undefined) return refused({ code: 'missing', what: 'drawing', id: shown.drawingId })
  const sharing = Object.values(take.cells).filter((cell) => cell.drawingId === shown.drawingId)
  const own = sharing.filter((cell) => cell.levelId === levelId)
  const isExposed = isPiece || own.some(({ offsetFrames }) => offsetFrames !== undefined)
  const isShared = sharing.length > own.length || (own.length > 1 && !isExposed)
  if (!changesShown) return started(place, [start], kind, drawing, change)
  if (isShared) return started(place, isExposed ? own : [shown], kind, drawing, change)
  const draft = new Draft(drawing)
  change(drawing, draft)
  return made(draft.edit(kind, drawingRef(shown.drawingId)))
}

/** A drawing of its own in some cells, from what another holds. */
function started({ take, takeId, levelId, newDrawingId }: DrawingPlace, cells: readonly Cell[], kind: string, from: Drawing, change: (drawing: Drawing, draft: Draft<Drawing>) => void): Made {
  const [first, ...rest] = cells as readonly [Cell, ...Cell[]]
  const set = setCell(take, takeId, levelId, first.panelId, newDrawingId, first.offsetFrames)
  if (!set.ok) return set
  const others = new Draft(take)
  for (const cell of rest) others.put('cells', { ...cell, drawingId: newDrawingId })
  const draft = new Draft(EMPTY_DRAWING)
  for (const mark of from.marks) draft.put('marks', mark)
  change(from, draft)
  return made(...set.edits, ...(rest.length === 0 ? [] : [others.edit('cell-set', takeRef(takeId))]), draft.edit(kind, drawingRef(newDrawingId)))
}

/** Puts marks on top of a drawing, in their order. */
export function putOnTop(drawing: Drawing, draft: Draft<Drawing>, marks: readonly NewMark[]): Draft<Drawing> {
  const orders = draft.room('marks', drawing.marks, drawing.marks.length, marks.length)
  marks.forEach((mark, i) => draft.put('marks', { ...mark, order: orders[i]! } as Mark))
  return draft
}

/** Adds a mark on top of a drawing. */
export function addMark(drawing: Drawing, drawingId: string, mark: NewMark): Edit {
  const draft = new Draft(drawing)
  putOnTop(drawing, draft, [mark])
  return draft.edit('mark-add', drawingRef(drawingId))
}

/**
 * Puts a mark where the artist drew. On a level that holds, ink and pictures start a new drawing; what works on the
 * lines that are there (erasing, painting behind, filling), or is for print alone, starts from a copy of them.
 */
export function drawMark(take: TakeBody, takeId: string, drawings: Readonly<Record<string, Drawing>>, levelId: string, panelId: string, mark: NewMark, newDrawingId: string, editHeld: boolean, offsetFrames = 0): Made {
  const isSet = mark.kind === 'fill' && (mark.words !== undefined || mark.arrow !== undefined) && mark.forPrint !== true
  const startsAnew = mark.kind === 'picture' || isSet || (mark.kind === 'stroke' && mark.mode === 'ink')
  const place = { take, takeId, drawings, levelId, panelId, offsetFrames, newDrawingId, editHeld }
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

/** Puts marks in the place of those that had their names, where they lie in the pile. */
export function replaceMarks(place: DrawingPlace, marks: readonly NewMark[]): Made {
  const wanted = new Map(marks.map((mark) => [mark.id, mark]))
  if (marks.length === 0) return refused({ code: 'nothing-selected' })
  return changeDrawing(place, 'marks-replace', 'copy', (drawing, draft) => {
    for (const { id, order } of drawing.marks) if (wanted.has(id)) draft.put('marks', { ...wanted.get(id)!, order } as Mark)
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
