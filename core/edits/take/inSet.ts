import type { CameraPose } from '../../camera/pose'
import { opticsOfFilm } from '../../document/optics'
import { compareOrdered, inOrder } from '../../document/order'
import { isSetLevel, pieceOf, unfoldSome } from '../../document/sets'
import { swayingLater } from '../../document/swayShift'
import { targetOf } from '../../document/spans'
import { setRef, takeRef, type Film, type SetBody, type TakeBody } from '../../document/units'
import type { CameraSpan, Cell, Level, LevelKey, Piece, SetLevel } from '../../document/records'
import { createTakeStage } from '../../stage/takeStage'
import { diffUnits } from '../change/diff'
import { Draft } from '../change/draft'
import { isEmpty, type Edit, type RecordChange } from '../change/edit'
import { made, refused, type Made, type MakeRefusal } from '../change/refusal'
import { sameJson } from '../change/sameJson'
import { applied } from './applied'
import { fastenLevels } from './fasten'

/** The set that is worked in: through which of a take's levels, and what is seen meanwhile. */
export interface OpenedSet {
  readonly takeId: string
  readonly setLevelId: string
  /** Of the shot. */
  readonly frame: number
  readonly camera: CameraPose
}

/** Levels that stay in the shot though a set is open. */
const STAYS: ReadonlySet<Level['kind']> = new Set(['reference', 'set'])

/**
 * Makes an edit on a film in which the pieces of the open set are levels of its shot, and puts what it did to them into the set; levels
 * that it adds become pieces, where they stand at the frame that is seen. What changes panels, other shots or the outline is made on the
 * film as it is. A set has no time and hangs on no camera: what would need either is refused.
 */
export function editInSet(film: Film, open: OpenedSet, make: (film: Film) => Made): Made {
  const take = film.takes[open.takeId]
  const on = take?.levels[open.setLevelId]
  const set = on !== undefined && isSetLevel(on) ? film.sets?.[on.setId] : undefined
  if (take === undefined || on === undefined || !isSetLevel(on) || set === undefined) return make(film)
  const opened = unfoldSome(take, [on], () => set)
  const result = make({ ...film, takes: { ...film.takes, [open.takeId]: opened } })
  if (!result.ok) return result
  if (result.edits.some(({ unit, changes }) => unit.kind === 'outline' || unit.kind === 'set' || (unit.kind === 'take' && (unit.id !== open.takeId || changes.panels !== undefined)))) return make(film)
  return folded(film, open, on, set, opened, result.edits)
}

class Refusal extends Error {
  constructor(readonly why: MakeRefusal) {
    super(why.code)
  }
}

function folded(film: Film, open: OpenedSet, on: SetLevel, set: SetBody, opened: TakeBody, edits: readonly Edit[]): Made {
  const rest = edits.filter(({ unit }) => unit.kind !== 'take')
  const own = edits.filter(({ unit }) => unit.kind === 'take')
  if (own.length === 0) return made(...edits)
  let after = own.reduce(applied, opened)
  const comes = (id: string) => opened.levels[id] === undefined && after.levels[id] !== undefined && !STAYS.has(after.levels[id].kind)
  const isInside = (id: string) => pieceOf(id)?.setLevelId === on.id || comes(id)
  const loose = Object.values(after.levels).filter(({ id, carrier }) => comes(id) && !(carrier?.kind === 'level' && (carrier.levelId === on.id || isInside(carrier.levelId))))
  if (loose.length > 0) {
    const seen = createTakeStage(after, opticsOfFilm(film.outline)).seen(open.frame, open.camera)
    const fastened = fastenLevels(after, open.takeId, loose.map(({ id }) => id), { kind: 'level', levelId: on.id, turn: true, size: true }, seen)
    if (!fastened.ok) return fastened
    after = fastened.edits.reduce(applied, after)
  }
  const all = diffUnits(takeRef(open.takeId), opened, after, own[0]!.kind)
  if (all === null) return made(...rest)
  try {
    const { changes, edit } = split(all, { on, set, opened, after, isInside })
    const take: Edit = { ...all, changes }
    return made(...(isEmpty(take) ? [] : [take]), ...(isEmpty(edit) ? [] : [edit]), ...rest)
  } catch (error) {
    if (error instanceof Refusal) return refused(error.why)
    throw error
  }
}

interface Split {
  readonly on: SetLevel
  readonly set: SetBody
  readonly opened: TakeBody
  readonly after: TakeBody
  readonly isInside: (levelId: string) => boolean
}

/** What of the changes is the take's, and the edit of the set. */
function split(all: Edit, { on, set, opened, after, isInside }: Split) {
  const changes: Record<string, Record<string, RecordChange>> = {}
  const keep = (collection: string, id: string, change: RecordChange) => ((changes[collection] ??= {})[id] = change)
  const draft = new Draft<SetBody>(set)
  const idOf = (levelId: string) => pieceOf(levelId)?.pieceId ?? levelId
  const carrierIn = ({ id, carrier }: Level): Level['carrier'] => {
    if (carrier?.kind !== 'level' || (carrier.levelId !== on.id && !isInside(carrier.levelId))) throw new Refusal({ code: 'piece-stays', id })
    return carrier.levelId === on.id ? undefined : { ...carrier, levelId: idOf(carrier.levelId) }
  }
  // What sways in a set is told by the set's frames.
  const asKept = (level: Level | null) => (level === null || !isInside(level.id) ? level : swayingLater(level, -(on.laterFrames ?? 0)))
  const moved: string[] = []
  for (const [id, { before, after: now }] of Object.entries(all.changes.levels ?? {})) {
    const [was, is] = [asKept(before as Level | null), asKept(now as Level | null)]
    if (!isInside(id)) {
      if (is?.carrier?.kind === 'level' && isInside(is.carrier.levelId)) throw new Refusal({ code: 'piece-carries', id })
      keep('levels', id, { before, after: now })
      continue
    }
    const pieceId = idOf(id)
    if (is === null) {
      draft.drop('pieces', pieceId)
      if (set.art[pieceId] !== undefined) draft.drop('art', pieceId)
      continue
    }
    if (is.kind === 'set' || (is.kind === 'reference' && (is.sequence ?? null) !== null)) throw new Refusal({ code: 'set-has-no-references', id })
    const raw = set.pieces[pieceId]
    const piece = was === null || raw === undefined ? { ...is, id: pieceId } : changedOf(raw, was, is)
    const carrier = was !== null && sameJson(was.carrier, is.carrier) ? raw?.carrier : carrierIn(is)
    const { carrier: _, ...plain } = piece
    draft.put('pieces', { ...plain, order: raw?.order ?? is.order, ...(carrier === undefined ? {} : { carrier }) } as Piece)
    if (was === null || was.order !== is.order) moved.push(id)
  }
  order(draft, set, after, isInside, idOf, new Set(moved))
  const art = new Map<string, Set<string | null>>()
  for (const [id, { before, after: now }] of Object.entries(all.changes.cells ?? {})) {
    const { levelId } = (now ?? before) as Cell
    if (!isInside(levelId)) keep('cells', id, { before, after: now })
    else if (after.levels[levelId] !== undefined) art.set(levelId, (art.get(levelId) ?? new Set()).add((now as Cell | null)?.drawingId ?? null))
  }
  for (const [levelId, shown] of art) {
    const id = idOf(levelId)
    const isNew = opened.levels[levelId] === undefined
    const drawings = [...shown].filter((each) => !(isNew && each === null))
    if (drawings.length > 1 || drawings[0] === null) throw new Refusal({ code: 'set-has-no-time', id: levelId })
    if (drawings[0] !== undefined) draft.put('art', { id, drawingId: drawings[0] })
  }
  for (const [collection, records] of Object.entries(all.changes)) {
    if (collection === 'levels' || collection === 'cells') continue
    for (const [id, change] of Object.entries(records)) {
      const record = (change.after ?? change.before) as { readonly levelId?: string }
      if (collection === 'levelKeys' && isInside((record as LevelKey).levelId)) {
        if (change.after !== null) throw new Refusal({ code: 'set-has-no-time', id: (record as LevelKey).levelId })
      } else if (collection === 'levelDrawings' && isInside(record.levelId!)) continue
      else {
        const target = collection === 'spans' && change.after !== null ? targetOf(change.after as CameraSpan) : null
        if (target !== null && isInside(target.levelId)) throw new Refusal({ code: 'piece-followed', id: target.levelId })
        keep(collection, id, change)
      }
    }
  }
  return { changes, edit: draft.edit(all.kind, setRef(on.setId)) }
}

/** A piece with what was changed of it as a level of the shot. */
function changedOf(raw: Piece, was: Level, is: Level): Level {
  const fields = new Map<string, unknown>(Object.entries(raw))
  const [before, after] = [was, is] as unknown as readonly Record<string, unknown>[]
  for (const name of new Set([...Object.keys(before!), ...Object.keys(after!)])) {
    if (name === 'id' || sameJson(before![name], after![name])) continue
    if (after![name] === undefined) fields.delete(name)
    else fields.set(name, after![name])
  }
  return Object.fromEntries(fields) as unknown as Level
}

/** Pieces that were listed elsewhere, or are new, get places between those that stayed. */
function order(draft: Draft<SetBody>, set: SetBody, after: TakeBody, isInside: (levelId: string) => boolean, idOf: (levelId: string) => string, moved: ReadonlySet<string>): void {
  if (moved.size === 0) return
  const listed = Object.values(after.levels).filter(({ id }) => isInside(id)).sort(compareOrdered)
  const movedIds = new Set([...moved].map(idOf))
  let there = inOrder(set.pieces).filter(({ id }) => !movedIds.has(id) && draft.now('pieces', id) !== null)
  for (const [i, { id }] of listed.entries()) {
    if (!moved.has(id)) continue
    const before = i === 0 ? 0 : there.findIndex((piece) => piece.id === idOf(listed[i - 1]!.id)) + 1
    const [key] = draft.room('pieces', there, before, 1)
    const piece = { ...draft.now('pieces', idOf(id))!, order: key! }
    draft.put('pieces', piece)
    there = [...there.slice(0, before), piece, ...there.slice(before)].map((each) => draft.now('pieces', each.id)!)
  }
}
