import { labelBetween } from '../../document/labels'
import { finderOf, knownStep, recordIn, type Collection } from '../../document/collection'
import { FIRST_ORDER } from '../../document/order'
import type { Sequence, Shot } from '../../document/records'
import { anchoredCollections, kindOfAnchored, type AnchoredCollection, type AnchoredRecord } from '../../document/anchored'
import { filmAtWork, UNIT_KINDS, unitIn } from '../../document/unitKinds'
import { takeRef, drawingRef, EMPTY_TAKE, type Film, type UnitRef } from '../../document/units'
import { applyAtWork, type Edit, type RecordChange } from './edit'
import { applyChange, type Change } from './change'
import { contentHolds, readsOf, showsDrawing, takesDropped, takeShowing, wayHolds, type Read } from './reads'
import { sameJson } from './sameJson'

/** One record that a change and what was done meanwhile both touched, in ways that don't go together. */
export interface Clash {
  readonly unit: UnitRef
  readonly collection: string
  readonly id: string
  /** The record as the change left it, and as it is now; null where it is gone. */
  readonly mine: object | null
  readonly theirs: object | null
  /** The fields both gave new values; empty where one side took the record away, or what it stands on. */
  readonly fields: readonly string[]
}

export type Rebased =
  | { readonly ok: true; readonly change: Change; readonly film: Film }
  | { readonly ok: false; readonly clashes: readonly Clash[] }

/**
 * The same change made on a film that has moved on. Records are merged field by field: a field that only one side
 * changed is that side's. What is done already drops out, so a change may come back with no edits. All or nothing.
 */
export function rebaseChange(film: Film, change: Change): Rebased {
  const clashes: Clash[] = (change.reads ?? []).flatMap((read) => {
    if (read.kind === 'content') return contentHolds(film, read) ? [] : [contentClash(read.unit)]
    if (read.kind === 'shown' || wayHolds(film.takes[read.takeId], read)) return []
    // The level is still there: its way is another than the one that was seen.
    const level = film.takes[read.takeId]!.levels[read.levelId] ?? null
    return [{ unit: takeRef(read.takeId), collection: 'levels', id: read.levelId, mine: {}, theirs: level, fields: [] }]
  })
  const edits: Edit[] = []
  const value = filmAtWork(film)
  for (const asked of change.edits) {
    const edit = relabelled(value, asked)
    const done = edit.exact === true && isDone(value, edit)
    const merged = mapRecords(value, edit, (record, now, collection, id) => {
      const result = mergeRecord(record, now, edit.exact === true && !done)
      if (result.fields === null) return result.after
      clashes.push({ unit: edit.unit, collection, id, mine: record.after, theirs: now, fields: result.fields })
      return now
    })
    if (clashes.length > 0) continue
    clashes.push(...samePlaceClashes(value, merged))
    const refusal = applyAtWork(value, merged)
    if (refusal !== null) throw new Error(`rebaseChange: ${refusal.code} at ${refusal.path.join('.')}`)
    edits.push(merged)
  }
  if (clashes.length > 0) return { ok: false, clashes }
  const made = edits.filter((edit) => Object.keys(edit.changes).length > 0)
  const rebased = withReads({ ...change, edits: made }, (change.reads ?? []).map((read) => (read.kind === 'shown' ? { ...read, takeId: takeShowing(value, read.drawingId, read.takeId) ?? read.takeId } : read)))
  const broken = [...structureClashes(value, rebased), ...groundClashes(value, rebased)]
  return broken.length > 0 ? { ok: false, clashes: broken } : { ok: true, change: rebased, film: value }
}

function withReads(change: Change, reads: readonly Read[]): Change {
  const { reads: _, ...rest } = change
  return reads.length === 0 ? rest : { ...rest, reads }
}

function contentClash(unit: UnitRef): Clash {
  return { unit, collection: UNIT_KINDS[unit.kind].home ?? 'outline', id: unit.id, mine: null, theirs: {}, fields: [] }
}

/** All of it is there already: someone did the very same. */
function isDone(film: Film, edit: Edit): boolean {
  const unit = unitIn(film, edit.unit) as unknown as Record<string, Collection>
  return Object.entries(edit.changes).every(([collection, records]) => Object.entries(records).every(([id, { after }]) => sameJson(recordIn(unit[collection], id), after)))
}

/** What the change was done in, and is no longer in the film: a take, or a drawing that nobody sees any more. */
function groundClashes(film: Film, change: Change): Clash[] {
  const gone: Clash[] = []
  const dropped = takesDropped(change.edits)
  for (const { unit, changes } of change.edits) {
    // A shot that comes back, of which someone has taken all panels meanwhile.
    for (const [id, { before, after }] of Object.entries(unit.kind === 'outline' ? (changes.takes ?? {}) : {})) {
      if (before === null && after !== null && film.takes[id] !== undefined && Object.keys(film.takes[id].panels).length === 0) gone.push({ unit: takeRef(id), collection: 'takes', id, mine: {}, theirs: null, fields: [] })
    }
    if (unit.kind !== 'take') continue
    const panels = Object.keys(film.takes[unit.id]?.panels ?? {}).length
    // A shot of which each took out one half; a new shot that is undone, and someone has gone on in.
    const halves = dropped.has(unit.id) ? panels > 0 && change.edits.some((edit) => edit.unit.id === unit.id && Object.keys(edit.changes.panels ?? {}).length > 0) : panels === 0
    if (halves || (film.outline.takes[unit.id] === undefined && !dropped.has(unit.id))) gone.push({ unit, collection: 'takes', id: unit.id, mine: {}, theirs: null, fields: [] })
  }
  for (const read of change.reads ?? []) {
    if (read.kind !== 'shown') continue
    const take = film.takes[read.takeId]
    const known = film.outline.takes[read.takeId] === undefined || (take !== undefined && !showsDrawing(take, read.drawingId))
    if (known) gone.push({ unit: drawingRef(read.drawingId), collection: 'drawings', id: read.drawingId, mine: {}, theirs: null, fields: [] })
  }
  return gone
}

/** What two at one place differ in. */
const SLOT_FIELD: Readonly<Record<AnchoredCollection, string>> = { framings: 'pose', levelKeys: 'value', airKeys: 'value', cuts: 'cameraId', spans: 'kind', spanEnds: 'spanId', tries: 'samplesId' }

/** Two keys of one track, or two cuts, at one frame: one of them would never be seen. */
function samePlaceClashes(film: Film, edit: Edit): Clash[] {
  if (edit.unit.kind !== 'take') return []
  const take = film.takes[edit.unit.id] ?? EMPTY_TAKE
  return anchoredCollections().flatMap((collection) => {
    const put = edit.changes[collection] ?? {}
    const stands = (record: AnchoredRecord) => `${kindOfAnchored(collection).slotOf(record)} ${record.panelId} ${record.offsetFrames}`
    const others = new Map(Object.values<AnchoredRecord>(take[collection]).flatMap((record) => (put[record.id] === undefined ? [[stands(record), record] as const] : [])))
    return Object.entries(put).flatMap(([id, { before, after }]): Clash[] => {
      if (after === null || (before !== null && stands(before as AnchoredRecord) === stands(after as AnchoredRecord))) return []
      const there = others.get(stands(after as AnchoredRecord))
      return there === undefined ? [] : [{ unit: edit.unit, collection, id, mine: after, theirs: there, fields: [SLOT_FIELD[collection]] }]
    })
  })
}

/** New shots and sequences whose label someone else has given meanwhile get the next that is free. */
function relabelled(film: Film, edit: Edit): Edit {
  if (edit.unit.kind !== 'outline') return edit
  let { changes } = edit
  for (const collection of ['shots', 'sequences'] as const) {
    const put = changes[collection] ?? {}
    const taken = new Map(Object.values<Shot | Sequence>(film.outline[collection]).flatMap(({ id, label }) => (put[id]?.after === null ? [] : [[label, id] as const])))
    for (const [id, { before, after }] of Object.entries(put)) {
      const record = after as Shot | Sequence | null
      if (before !== null || record === null || film.outline[collection][id] !== undefined) continue
      if (taken.has(record.label)) {
        const label = collection === 'shots' ? labelBetween(record.label, null, new Set(taken.keys())) : nextLabel(record.label, new Set(taken.keys()))
        changes = { ...changes, [collection]: { ...changes[collection], [id]: { before, after: { ...record, label } } } }
        taken.set(label, id)
      } else taken.set(record.label, id)
    }
  }
  return changes === edit.changes ? edit : { ...edit, changes }
}

function nextLabel(label: string, taken: ReadonlySet<string>): string {
  let number = Number.parseInt(label, 10) || 1
  while (taken.has(String(number).padStart(2, '0'))) number++
  return String(number).padStart(2, '0')
}

/** The change that puts mine through on a film that has moved on: fields I changed are mine, all others stay theirs. */
export function insistOn(film: Film, change: Change, id: string): Rebased {
  const edits: Edit[] = []
  const value = filmAtWork(film)
  for (const edit of change.edits) {
    const mine = mapRecords(value, withTakes(value, edit), (record, now) => {
      if (record.before === null || record.after === null || now === null) return record.after
      return { ...now, ...Object.fromEntries(changedFields(record.before, record.after).map((field) => [field, (record.after as Fields)[field]])) }
    })
    const refusal = applyAtWork(value, mine)
    if (refusal !== null) throw new Error(`insistOn: ${refusal.code} at ${refusal.path.join('.')}`)
    edits.push(mine)
  }
  const kept = edits.filter((edit) => Object.keys(edit.changes).length > 0)
  const made = withReads({ ...change, id, edits: kept }, readsOf(film, kept))
  const broken = [...structureClashes(value, made), ...groundClashes(value, made)]
  return broken.length > 0 ? { ok: false, clashes: broken } : { ok: true, change: made, film: value }
}

/** A shot that comes back needs a take to be seen: the one it circled, where its body is still what it was. */
function withTakes(film: Film, edit: Edit): Edit {
  if (edit.unit.kind !== 'outline') return edit
  const takes: Record<string, RecordChange> = {}
  for (const { before, after } of Object.values(edit.changes.shots ?? {})) {
    const shot = after as Shot | null
    if (before === null || shot === null || film.outline.takes[shot.circledTakeId] !== undefined || edit.changes.takes?.[shot.circledTakeId] !== undefined) continue
    // Undoing a new shot empties its take: that is not to be brought back.
    if (Object.keys(film.takes[shot.circledTakeId]?.panels ?? {}).length === 0) continue
    takes[shot.circledTakeId] = { before: null, after: { id: shot.circledTakeId, shotId: shot.id, order: FIRST_ORDER, letter: 'A' } }
  }
  return Object.keys(takes).length === 0 ? edit : { ...edit, changes: { ...edit.changes, takes: { ...edit.changes.takes, ...takes } } }
}

/** Undoes `waiting` (newest last), lets `under` change the film, and does `waiting` again where it still goes, but for `without`. */
export function rebaseOver(film: Film, waiting: readonly Change[], under: (film: Film) => Film, without: ReadonlySet<string> = new Set()): { readonly film: Film; readonly kept: readonly Change[]; readonly clashing: readonly { readonly change: Change; readonly clashes: readonly Clash[] }[] } {
  let value = film
  for (const change of [...waiting].reverse()) value = reverted(value, change)
  value = under(value)
  const kept: Change[] = []
  const clashing: { change: Change; clashes: readonly Clash[] }[] = []
  for (const change of waiting) {
    if (without.has(change.id)) continue
    const rebased = rebaseChange(value, change)
    if (!rebased.ok) clashing.push({ change, clashes: rebased.clashes })
    else {
      value = rebased.film
      if (rebased.change.edits.length > 0) kept.push(rebased.change)
    }
  }
  return { film: value, kept, clashing }
}

function reverted(film: Film, change: Change): Film {
  const back = { edits: [...change.edits].reverse().map((edit) => ({ ...edit, changes: flipped(edit) })) }
  const applied = applyChange(film, back)
  if (!applied.ok) throw new Error(`rebaseOver: "${change.label}" is not what the film holds (${applied.refusal.path.join('.')})`)
  return applied.value
}

function flipped(edit: Edit): Edit['changes'] {
  return Object.fromEntries(
    Object.entries(edit.changes).map(([collection, records]) => [
      collection,
      Object.fromEntries(Object.entries(records).map(([id, { before, after }]) => [id, { before: after, after: before }])),
    ]),
  )
}

type Fields = Readonly<Record<string, unknown>>

export function changedFields(before: object, after: object): string[] {
  const [b, a] = [before as Fields, after as Fields]
  return [...new Set([...Object.keys(b), ...Object.keys(a)])].filter((field) => !sameJson(b[field], a[field]))
}

/** `fields` is null where the two go together, else what both gave new values. */
function mergeRecord({ before, after }: RecordChange, now: object | null, exact = false): { readonly after: object | null; readonly fields: readonly string[] | null } {
  if (sameJson(now, before) || (sameJson(now, after) && !exact)) return { after, fields: null }
  if (before === null || after === null || now === null) return { after: now, fields: [] }
  const mine = changedFields(before, after)
  const theirs = new Set(changedFields(before, now))
  const both = mine.filter((field) => theirs.has(field) && (exact || !sameJson((after as Fields)[field], (now as Fields)[field])))
  if (both.length > 0) return { after: now, fields: both }
  return { after: { ...now, ...Object.fromEntries(mine.map((field) => [field, (after as Fields)[field]])) }, fields: null }
}

/** The edit with every record's `before` as it is now and `after` as `map` says; records left as they are drop out. */
function mapRecords(film: Film, edit: Edit, map: (record: RecordChange, now: object | null, collection: string, id: string) => object | null): Edit {
  const unit = unitIn(film, edit.unit) as unknown as Record<string, Collection>
  const changes: Record<string, Record<string, RecordChange>> = {}
  for (const [collection, records] of Object.entries(edit.changes)) {
    // All of them are as they were left.
    if (unit[collection] !== undefined && knownStep(unit[collection], records) !== null) {
      changes[collection] = { ...records }
      continue
    }
    const entries = Object.entries(records)
    const find = finderOf(unit[collection], entries.length)
    for (const [id, record] of entries) {
      const now = find(id)
      const after = map(record, now, collection, id)
      if (!sameJson(now, after)) (changes[collection] ??= {})[id] = { before: now, after }
    }
  }
  return { ...edit, changes }
}

/** Records that would say of each other what cannot be: a key in a panel that someone has deleted. */
function structureClashes(film: Film, change: Change): Clash[] {
  const clashes: Clash[] = []
  const seen = new Set<string>()
  for (const { unit } of change.edits) {
    const key = `${unit.kind}:${unit.id}`
    if (seen.has(key)) continue
    seen.add(key)
    const value = unitIn(film, unit)
    for (const { path } of UNIT_KINDS[unit.kind].problems(value)) {
      const [collection, id] = path as [string, string]
      clashes.push({ unit, collection, id, mine: recordIn((value as unknown as Record<string, Collection>)[collection], id), theirs: null, fields: [] })
    }
  }
  return clashes
}
