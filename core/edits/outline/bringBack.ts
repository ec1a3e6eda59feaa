import { exposuresOf, shownAt } from '../../document/exposures'
import { newLevel } from '../../document/newLevel'
import { compareOrdered, FIRST_ORDER, inOrder } from '../../document/order'
import { rackLevels } from '../../document/panels'
import { cellAt, type Level, type Mark, type Picture, type Piece } from '../../document/records'
import { shorten } from '../../document/text'
import { drawingRef, EMPTY_DRAWING, setRef, takeRef, type Drawing, type Film, type LevelOwner, type SetBody, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import type { Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { putOnTop, type NewMark } from '../ink/drawings'

/** Art that was painted elsewhere, and the drawing of a level that it is. */
export interface PaintedBack {
  readonly levelId: string
  readonly drawingId: string
  readonly picture: Pick<Picture, 'assetHash' | 'widthPx' | 'heightPx' | 'x' | 'y' | 'widthFw'>
}
const ROUGH_OPACITY = 0.5

/** What a level shows: of a set's piece its one drawing. */
export function drawingsOfLevel(film: Film, { kind, id }: LevelOwner, levelId: string): ReadonlySet<string> {
  if (kind === 'set') return new Set([film.sets?.[id]?.art[levelId]?.drawingId ?? []].flat())
  return new Set(exposuresOf(film.takes[id]!, levelId).flatMap(({ cell }) => cell.drawingId ?? []))
}

/**
 * Puts painted art into the drawings that it was laid out for, and so wherever they are seen. What was drawn there lies under it from then on,
 * as a reference that goes along with its level. Painted again, the new takes the place of the old; what was drawn on that goes to the
 * reference too.
 */
export function bringBack(film: Film, owner: LevelOwner, painted: readonly PaintedBack[], keepsRough: boolean, newId: NewIds): Made {
  const body = owner.kind === 'take' ? film.takes[owner.id] : film.sets?.[owner.id]
  if (body === undefined) return refused({ code: 'missing', what: owner.kind, id: owner.id })
  const levels: Readonly<Record<string, Level>> = owner.kind === 'take' ? (body as TakeBody).levels : (body as SetBody).pieces
  const edits: Edit[] = []
  const roughs = new Map<string, Map<string, string>>()
  for (const { levelId, drawingId, picture } of painted) {
    const level = levels[levelId]
    if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
    if (level.locked) return refused({ code: 'level-locked', id: levelId })
    const drawing = film.drawings[drawingId]
    if (drawing === undefined || !drawingsOfLevel(film, owner, levelId).has(drawingId)) return refused({ code: 'missing', what: 'drawing', id: drawingId })
    const draft = new Draft(drawing)
    for (const { id } of drawing.marks) draft.drop('marks', id)
    draft.put('marks', { id: newId(), order: FIRST_ORDER, kind: 'picture', ...picture })
    edits.push(draft.edit('bring-back', drawingRef(drawingId)))
    if (!keepsRough) continue
    const there = roughOf(film, owner, levelId, drawingId)
    const drawn = there === null ? drawing.marks : drawing.marks.filter(({ kind }) => kind !== 'picture')
    const roughId = there ?? (drawn.length === 0 ? null : newId())
    if (roughId === null) continue
    if (drawn.length > 0) edits.push(onTop(film.drawings[roughId] ?? EMPTY_DRAWING, drawn, newId).edit('bring-back', drawingRef(roughId)))
    roughs.set(levelId, (roughs.get(levelId) ?? new Map<string, string>()).set(drawingId, roughId))
  }
  if (roughs.size > 0) edits.push(owner.kind === 'take' ? inTake(body as TakeBody, owner.id, roughs, newId) : inSet(body as SetBody, owner.id, roughs, newId))
  return made(...edits)
}

/** Marks in the place of all that a level’s drawing has, wherever it is seen: as it was changed elsewhere. */
export function redraw(film: Film, owner: LevelOwner, levelId: string, drawingId: string, marks: readonly NewMark[]): Made {
  const body = owner.kind === 'take' ? film.takes[owner.id] : film.sets?.[owner.id]
  const levels: Readonly<Record<string, Level>> | undefined = owner.kind === 'take' ? (body as TakeBody | undefined)?.levels : (body as SetBody | undefined)?.pieces
  const level = levels?.[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const drawing = film.drawings[drawingId]
  if (drawing === undefined || !drawingsOfLevel(film, owner, levelId).has(drawingId)) return refused({ code: 'missing', what: 'drawing', id: drawingId })
  const draft = new Draft(drawing)
  const before = new Map(drawing.marks.map((mark) => [mark.id, mark]))
  for (const { id } of drawing.marks) draft.drop('marks', id)
  // What lies as it lay keeps its place, so that only what was changed is a change.
  const kept: Mark[] = []
  for (const mark of marks) {
    const was = before.get(mark.id)
    if (was === undefined || (kept.length > 0 && compareOrdered(kept.at(-1)!, was) >= 0)) break
    kept.push({ ...mark, order: was.order } as Mark)
  }
  for (const mark of kept) draft.put('marks', mark)
  return made(putOnTop({ marks: kept }, draft, marks.slice(kept.length)).edit('redraw', drawingRef(drawingId)))
}

/** Marks of one drawing on top of those of another. */
function onTop(under: Drawing, marks: readonly Mark[], newId: NewIds): Draft<Drawing> {
  const draft = new Draft(under)
  const taken = new Set(under.marks.map(({ id }) => id))
  const orders = draft.room('marks', under.marks, under.marks.length, marks.length)
  marks.forEach((mark, i) => draft.put('marks', { ...mark, id: taken.has(mark.id) ? newId() : mark.id, order: orders[i]! }))
  return draft
}

/** The reference that goes along with a level; null where it has none. */
const referenceOf = (levels: Readonly<Record<string, Level>>, levelId: string): Level | null =>
  Object.values(levels).find((level) => level.kind === 'reference' && (level.sequence ?? null) === null && level.carrier?.kind === 'level' && level.carrier.levelId === levelId) ?? null

/** The drawing that a level's reference shows where the level shows one. */
function roughOf(film: Film, owner: LevelOwner, levelId: string, drawingId: string): string | null {
  if (owner.kind === 'set') {
    const set = film.sets![owner.id]!
    const reference = referenceOf(set.pieces, levelId)
    return reference === null ? null : (set.art[reference.id]?.drawingId ?? null)
  }
  const take = film.takes[owner.id]!
  const reference = referenceOf(take.levels, levelId)
  if (reference === null) return null
  for (const { frame, cell } of exposuresOf(take, levelId)) if (cell.drawingId === drawingId) return shownAt(take, reference.id, frame)?.drawingId ?? null
  return null
}

/** A reference under a level, as it stands whatever that does. */
const referenceUnder = (level: Level, id: string) =>
  newLevel({ id, name: `${shorten(level.name, 110)}, rough`, kind: 'reference', over: false, opacity: ROUGH_OPACITY, locked: true, carrier: { kind: 'level', levelId: level.id, turn: true, size: true }, ...(level.pivot === undefined ? {} : { pivot: level.pivot }), ...(level.repeat === undefined ? {} : { repeat: level.repeat }) } as const)

function inTake(take: TakeBody, takeId: string, roughs: ReadonlyMap<string, ReadonlyMap<string, string>>, newId: NewIds): Edit {
  const draft = new Draft(take)
  for (const [levelId, own] of roughs) {
    const level = take.levels[levelId]!
    const before = referenceOf(take.levels, levelId)
    const id = before?.id ?? newId()
    if (before === null) {
      const rack = rackLevels(draft.value())
      const [order] = draft.room('levels', rack, rack.findIndex((each) => each.id === levelId) + 1, 1)
      draft.put('levels', { ...referenceUnder(level, id), order: order! })
    }
    // Where the level shows something else, what lay under that stays.
    for (const cell of Object.values(take.cells)) if (cell.levelId === id) draft.drop('cells', cell.id)
    for (const { cell, frame } of exposuresOf(take, levelId)) {
      const shown = cell.drawingId === null ? null : (own.get(cell.drawingId) ?? (before === null ? null : (shownAt(take, id, frame)?.drawingId ?? null)))
      draft.put('cells', cellAt(id, cell.panelId, cell.offsetFrames ?? 0, shown))
    }
  }
  return draft.edit('bring-back', takeRef(takeId))
}

function inSet(set: SetBody, setId: string, roughs: ReadonlyMap<string, ReadonlyMap<string, string>>, newId: NewIds): Edit {
  const draft = new Draft(set)
  for (const [levelId, own] of roughs) {
    const before = referenceOf(set.pieces, levelId)
    const id = before?.id ?? newId()
    if (before === null) {
      const there = inOrder(draft.value().pieces)
      const [order] = draft.room('pieces', there, there.findIndex((each) => each.id === levelId) + 1, 1)
      draft.put('pieces', { ...referenceUnder(set.pieces[levelId]!, id), order: order! } as Piece)
    }
    draft.put('art', { id, drawingId: [...own.values()][0]! })
  }
  return draft.edit('bring-back', setRef(setId))
}
