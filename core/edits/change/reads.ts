import { z } from 'zod'
import { levelOwner, placedKeys } from '../../document/keys'
import { LEVEL_ASPECTS } from '../../moves/levelValues'
import { sameJson } from './sameJson'
import { DRAWING_COLLECTIONS, drawingsWith, isDrawing, type NamesDrawings } from '../../document/panels'
import { loadedUnit, unitIn, unitRefSchema } from '../../document/unitKinds'
import { takeRef, drawingRef, type Drawing, type Film, type TakeBody, type UnitRef } from '../../document/units'
import { idSchema, type Level, type LevelKey } from '../../document/records'
import { contentHash } from './contentHash'
import type { Edit } from './edit'

/**
 * What a change has looked at without touching it, so that others can't take it away unseen.
 *
 * `content`: a unit that it takes out, or copies, as it was. `shown`: the take in which a drawing that is drawn in can be
 * seen. `way`: of a level that is keyed, the axes that its keys are told in; of one whose whole way is told anew, which keys
 * it has. That a take that is edited is still in the film needs no telling: every edit of one says so.
 */
export const readSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('content'), unit: unitRefSchema, hash: z.string().regex(/^[0-9a-z]{1,16}$/i) }),
  z.strictObject({ kind: z.literal('shown'), drawingId: idSchema, takeId: idSchema }),
  z.strictObject({ kind: z.literal('way'), takeId: idSchema, levelId: idSchema, of: z.enum(['axes', 'placed', 'keys']), hash: z.string().regex(/^[0-9a-z]{1,16}$/i) }),
])
export type Read = Readonly<z.infer<typeof readSchema>>

const shownIn = new WeakMap<object, ReadonlySet<string>>()

/** The drawings that a take shows or keeps under its plan, found once for each frozen body. */
function drawingsIn(take: TakeBody): ReadonlySet<string> {
  const known = shownIn.get(take)
  if (known !== undefined) return known
  const found = new Set(drawingsWith(take))
  shownIn.set(take, found)
  return found
}

export function showsDrawing(take: NamesDrawings, drawingId: string): boolean {
  return drawingsIn(take as TakeBody).has(drawingId)
}

/** A take of the film, loaded and not taken out, that shows a drawing; null where none does. */
export function takeShowing(film: Film, drawingId: string, likely?: string): string | null {
  const shows = (takeId: string) => film.outline.takes[takeId] !== undefined && film.takes[takeId] !== undefined && showsDrawing(film.takes[takeId], drawingId)
  if (likely !== undefined && shows(likely)) return likely
  return Object.keys(film.takes).find(shows) ?? null
}

function contentOf(film: Film, unit: UnitRef): TakeBody | Drawing | null {
  return unit.kind === 'outline' ? null : ((loadedUnit(film, unit) ?? null) as TakeBody | Drawing | null)
}

/** Takes that edits take out of the film. */
export function takesDropped(edits: readonly Edit[]): ReadonlySet<string> {
  return new Set(edits.flatMap((edit) => (edit.unit.kind === 'outline' ? Object.entries(edit.changes.takes ?? {}).flatMap(([id, { after }]) => (after === null ? [id] : [])) : [])))
}

/** What edits that are to be made on a film read of it. Units that are not loaded were not looked at. */
export function readsOf(film: Film, edits: readonly Edit[]): readonly Read[] {
  const touched = new Set(edits.map(({ unit }) => `${unit.kind}:${unit.id}`))
  const contents = new Map<string, UnitRef>()
  const reads: Read[] = []
  const dropped = takesDropped(edits)
  const look = (unit: UnitRef) => {
    const key = `${unit.kind}:${unit.id}`
    // What is touched has its revision checked as it is.
    if (!touched.has(key)) contents.set(key, unit)
  }
  const drawing = (id: string) => look(drawingRef(id))
  let still: ((drawingId: string) => boolean) | null = null
  for (const edit of edits) {
    if (edit.unit.kind === 'outline') {
      for (const [id, { after }] of Object.entries(edit.changes.takes ?? {})) {
        if (after !== null) continue
        look(takeRef(id))
        for (const each of film.takes[id] === undefined ? [] : drawingsWith(film.takes[id])) if (!(still ??= stillShown(film, edits))(each)) drawing(each)
      }
    } else if (edit.unit.kind === 'take' || edit.unit.kind === 'set') {
      if (edit.unit.kind === 'take') reads.push(...waysRead(film.takes[edit.unit.id], edit))
      for (const { before } of namingIn(edit.unit).flatMap((collection) => Object.values(edit.changes[collection] ?? {}))) {
        const id = (before as { readonly drawingId?: string | null } | null)?.drawingId ?? null
        if (isDrawing(id) && !(still ??= stillShown(film, edits))(id)) drawing(id)
      }
    } else {
      const takeId = takeShowing(film, edit.unit.id)
      // Taken out by the same edits, as undo does, it need not be seen.
      const goes = takeId !== null && (dropped.has(takeId) || (touched.has(`take:${takeId}`) && !(still ??= stillShown(film, edits))(edit.unit.id)))
      if (takeId !== null && !goes && film.drawings[edit.unit.id] !== undefined) reads.push({ kind: 'shown', drawingId: edit.unit.id, takeId })
    }
    if (edit.copyOf !== undefined) drawing(edit.copyOf)
  }
  for (const unit of contents.values()) {
    const content = contentOf(film, unit)
    if (content !== null) reads.push({ kind: 'content', unit, hash: contentHash(content) })
  }
  return reads
}

/** What keys of a level hang on: its own axes and pivot, and once it has keys of its place also where all of them were sent. Or which it has. */
function wayOf(take: TakeBody, levelId: string, of: WayRead['of']): unknown {
  const level = Object.hasOwn(take.levels, levelId) ? take.levels[levelId]! : null
  if (level === null) return null
  const { carrier, pivot, x, y, depth, scale } = level
  if (of !== 'keys') return { carrier, pivot, ...(of === 'placed' ? { x, y, depth, scale } : {}) }
  return WAY_ASPECTS.map((aspect) => placedKeys(take, levelOwner(levelId, aspect)).map(({ record }) => record.id))
}
const WAY_ASPECTS = LEVEL_ASPECTS.filter((aspect) => aspect !== 'opacity')
type WayRead = Extract<Read, { readonly kind: 'way' }>
const wayRead = (take: TakeBody, takeId: string, levelId: string, of: WayRead['of']): WayRead => ({ kind: 'way', takeId, levelId, of, hash: contentHash(wayOf(take, levelId, of)) })

/** Whether a level's way is still told as it was when a key was put, or all of them were told anew. */
export const wayHolds = (take: TakeBody | undefined, { levelId, of, hash }: WayRead): boolean => take === undefined || contentHash(wayOf(take, levelId, of)) === hash

function waysRead(take: TakeBody | undefined, { unit, changes }: Edit): readonly Read[] {
  if (take === undefined) return []
  const keyed = new Map<string, boolean>()
  for (const { before, after } of Object.values(changes.levelKeys ?? {})) {
    const key = after as LevelKey | null
    if (key !== null && key.of !== 'opacity') keyed.set(key.levelId, keyed.get(key.levelId) === true || before === null)
  }
  const reads: Read[] = []
  for (const [id, { before, after }] of Object.entries(changes.levels ?? {})) {
    // All of its keys are told anew along with it, or would be if it had any.
    if (before !== null && after !== null && (keyed.has(id) || !sameJson((before as Level).carrier, (after as Level).carrier) || !sameJson((before as Level).pivot, (after as Level).pivot))) reads.push(wayRead(take, unit.id, id, 'keys'))
  }
  for (const id of keyed.keys()) if (changes.levels?.[id] === undefined) reads.push(wayRead(take, unit.id, id, placedKeys(take, levelOwner(id, 'place')).length > 0 ? 'placed' : 'axes'))
  return reads
}

/** Where a unit names the drawings that it shows. */
const namingIn = ({ kind }: UnitRef): readonly string[] => (kind === 'take' ? DRAWING_COLLECTIONS : kind === 'set' ? ['art'] : [])

/** Whether a drawing is seen in the takes and sets that edits touch, once they are made. */
function stillShown(film: Film, edits: readonly Edit[]): (drawingId: string) => boolean {
  const after = new Set<string>()
  for (const { unit, changes } of edits) {
    const there = unitIn(film, unit) as unknown as Record<string, Readonly<Record<string, { readonly drawingId: string | null }>>>
    for (const collection of namingIn(unit)) {
      const changed = changes[collection] ?? {}
      for (const [id, record] of Object.entries(there[collection] ?? {})) if (changed[id] === undefined && record.drawingId !== null) after.add(record.drawingId)
      for (const { after: record } of Object.values(changed)) {
        const id = (record as { readonly drawingId?: string | null } | null)?.drawingId ?? null
        if (id !== null) after.add(id)
      }
    }
  }
  return (id) => after.has(id)
}

/** Whether what was read of a unit's content is still so. Of units that are not there it is not known: the server has them. */
export function contentHolds(film: Film, read: Extract<Read, { readonly kind: 'content' }>): boolean {
  const content = contentOf(film, read.unit)
  return content === null || sameContent(content, read)
}

export function sameContent(content: TakeBody | Drawing, { hash }: Extract<Read, { readonly kind: 'content' }>): boolean {
  return contentHash(content) === hash
}
