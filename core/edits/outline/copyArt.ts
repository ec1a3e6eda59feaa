import { takeRef, drawingRef, type Drawing, type Film, type TakeBody } from '../../document/units'
import { drawingsWith, isDrawing } from '../../document/panels'
import type { Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { renamedDrawing } from '../take/levelDrawings'

/** Drawings of a take under new ids, so that the copies can be drawn on; with `goesOn` in place of them. The id of one that is not loaded. */
export function copyArt(film: Film, take: TakeBody, only: ReadonlySet<string> | null, newId: NewIds, goesOn = false): { readonly names: ReadonlyMap<string, string>; readonly edits: readonly Edit[] } | string {
  const names = new Map<string, string>()
  const edits: Edit[] = []
  for (const drawingId of drawingsWith(take)) {
    if ((only !== null && !only.has(drawingId))) continue
    const drawing: Drawing | undefined = film.drawings[drawingId]
    if (drawing === undefined) return drawingId
    const copy = newId()
    names.set(drawingId, copy)
    edits.push({ kind: 'drawing-copy', unit: drawingRef(copy), changes: { marks: Object.fromEntries(drawing.marks.map((mark) => [mark.id, { before: null, after: mark }])) }, ...(goesOn ? { copyOf: drawingId } : {}) })
  }
  return { names, edits }
}

/** What lies under the plan, with the copies of its drawings. */
export function groundsWith(take: TakeBody, names: ReadonlyMap<string, string>): TakeBody['grounds'] {
  return Object.fromEntries(Object.values(take.grounds).map((ground) => [ground.id, { ...ground, drawingId: names.get(ground.drawingId)! }]))
}

/** A take's body that shows the copies of its drawings. */
export function copiedTake(take: TakeBody, names: ReadonlyMap<string, string>): TakeBody {
  const cells = Object.fromEntries(Object.values(take.cells).map((cell) => [cell.id, { ...cell, drawingId: isDrawing(cell.drawingId) ? names.get(cell.drawingId)! : cell.drawingId }]))
  const levelDrawings = Object.fromEntries(Object.values(take.levelDrawings).map((named) => renamedDrawing(named, named.levelId, names)).map((named) => [named.id, named]))
  return { ...take, cells, levelDrawings, grounds: groundsWith(take, names) }
}

export function wholeTake(body: TakeBody, takeId: string, kind: string): Edit {
  const changes = Object.fromEntries(Object.entries(body).map(([collection, records]) => [collection, Object.fromEntries(Object.entries(records as Record<string, object>).map(([id, record]) => [id, { before: null, after: record }]))]))
  return { kind, unit: takeRef(takeId), changes: Object.fromEntries(Object.entries(changes).filter(([, records]) => Object.keys(records).length > 0)) }
}
