import { labelBetween } from '../../document/labels'
import { FIRST_ORDER, inOrder } from '../../document/order'
import { isInFilm, type Shot } from '../../document/records'
import { outlineRef, type Film, type Outline } from '../../document/units'
import { Draft } from '../change/draft'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { copiedTake, copyArt, wholeTake } from './copyArt'
import { inFilm, labelsTaken, placeAfter, removeShot, shotsOf } from './shots'

const missing = (id: string) => refused({ code: 'missing', what: 'shot', id })

/** Puts shots aside: they are in no frame of the film, and as they were when they are put back. One stays in the film. */
export function trayShots(outline: Outline, projectId: string, ids: readonly string[]): Made {
  const wanted = new Set(ids)
  const draft = new Draft(outline)
  let left = inFilm(outline)
  for (const id of wanted) {
    const shot = outline.shots[id]
    if (shot === undefined) return missing(id)
    if (isInFilm(shot) && --left === 0) return refused({ code: 'last-shot' })
    draft.put('shots', { ...shot, inTray: true })
  }
  return made(draft.edit('shot-tray', outlineRef(projectId)))
}

/** Puts shots from the tray back where they were in their sequence. One whose label another has meanwhile gets the next that is free. */
export function untrayShots(outline: Outline, projectId: string, ids: readonly string[]): Made {
  const draft = new Draft(outline)
  const taken = labelsTaken(outline)
  for (const id of new Set(ids)) {
    const shot = outline.shots[id]
    if (shot === undefined) return missing(id)
    if (isInFilm(shot)) continue
    const { inTray: _, ...rest } = shot
    const label = taken.has(shot.label) ? labelBetween(shot.label, null, taken) : shot.label
    taken.add(label)
    draft.put('shots', { ...rest, label })
  }
  return made(draft.edit('shot-untray', outlineRef(projectId)))
}

/** Shots in film order. */
export function filmOrder(outline: Outline): readonly Shot[] {
  return inOrder(outline.sequences).flatMap((sequence) => shotsOf(outline, sequence.id))
}

/** Moves shots into a sequence, before one of its shots or to its end (null). Labels stay until they are renumbered. */
export function moveShots(outline: Outline, projectId: string, ids: readonly string[], sequenceId: string, beforeId: string | null): Made {
  if (outline.sequences[sequenceId] === undefined) return refused({ code: 'missing', what: 'sequence', id: sequenceId })
  const set = new Set(ids)
  const moving = filmOrder(outline).filter((shot) => set.has(shot.id))
  if (moving.length !== set.size) return missing(ids[0] ?? '')
  const there = shotsOf(outline, sequenceId)
  const asked = beforeId === null ? there.length : there.findIndex((shot) => shot.id === beforeId)
  if (asked < 0) return missing(beforeId!)
  const rest = there.filter((shot) => !set.has(shot.id))
  const at = there.slice(0, asked).filter((shot) => !set.has(shot.id)).length
  const order = [...rest.slice(0, at), ...moving, ...rest.slice(at)]
  if (order.length === there.length && order.every((shot, i) => shot === there[i])) return made()
  const draft = new Draft(outline)
  const orders = draft.room('shots', rest, at, moving.length)
  moving.forEach((shot, i) => draft.put('shots', { ...shot, sequenceId, order: orders[i]! }))
  return made(draft.edit('shot-move', outlineRef(projectId)))
}

/** Takes shots out, with their takes; one stays. */
export function removeShots(outline: Outline, projectId: string, ids: readonly string[]): Made {
  const leaving = new Set(ids)
  if (!Object.values(outline.shots).some((shot) => isInFilm(shot) && !leaving.has(shot.id))) return refused({ code: 'last-shot' })
  const changes: Record<string, Record<string, { before: object | null; after: object | null }>> = {}
  for (const id of new Set(ids)) {
    const one = removeShot(outline, projectId, id)
    if (!one.ok) return one
    for (const [collection, records] of Object.entries(one.edits[0]!.changes)) Object.assign((changes[collection] ??= {}), records)
  }
  return made({ kind: 'shot-remove', unit: outlineRef(projectId), changes })
}

/** Labels shots 010, 020 … in film order: all of them, or those of one sequence. A label used elsewhere is refused. */
export function renumberShots(outline: Outline, projectId: string, sequenceId: string | null, first = 10, step = 10): Made {
  const shots = filmOrder(outline).filter((shot) => sequenceId === null || shot.sequenceId === sequenceId)
  const inside = new Set(shots.map((shot) => shot.id))
  const outside = new Set(Object.values(outline.shots).filter((shot) => !inside.has(shot.id) && isInFilm(shot)).map((shot) => shot.label))
  const digits = Math.max(3, String(first + step * Math.max(0, shots.length - 1)).length)
  const draft = new Draft(outline)
  for (const [index, shot] of shots.entries()) {
    const label = String(first + step * index).padStart(digits, '0')
    if (outside.has(label)) return refused({ code: 'label-taken', label })
    draft.put('shots', { ...shot, label })
  }
  return made(draft.edit('shot-renumber', outlineRef(projectId)))
}

/** A copy of a shot's circled take as a new shot after it, with art of its own. */
export function duplicateShot(film: Film, projectId: string, shotId: string, newId: NewIds): Made {
  const shot = film.outline.shots[shotId]
  const take = shot === undefined ? undefined : film.takes[shot.circledTakeId]
  if (shot === undefined || take === undefined) return missing(shotId)
  const art = copyArt(film, take, null, newId)
  if (typeof art === 'string') return refused({ code: 'missing', what: 'drawing', id: art })
  const [newShot, newTake] = [newId(), newId()]
  const { againOf: _, ...same } = shot
  const draft = new Draft(film.outline)
  const outline = draft
    .put('shots', { ...same, id: newShot, circledTakeId: newTake, ...placeAfter(draft, film.outline, shot) })
    .put('takes', { id: newTake, shotId: newShot, order: FIRST_ORDER, letter: 'A' })
    .edit('shot-duplicate', outlineRef(projectId))
  return made(outline, wholeTake(copiedTake(take, art.names), newTake, 'shot-duplicate'), ...art.edits)
}
