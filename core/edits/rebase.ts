import { finderOf, recordIn, type Collection } from '../document/collection'
import { outlineProblems, takeProblems, type DocumentProblem } from '../document/checkTake'
import { EMPTY_DRAWING, EMPTY_TAKE, type Film, type Unit, type UnitRef } from '../document/units'
import { applyToFilm, type Edit, type RecordChange } from './edit'
import { applyChange, type Change } from './change'
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
  const clashes: Clash[] = []
  const edits: Edit[] = []
  let value = film
  for (const edit of change.edits) {
    const merged = mapRecords(value, edit, (record, now, collection, id) => {
      const result = mergeRecord(record, now)
      if (result.fields === null) return result.after
      clashes.push({ unit: edit.unit, collection, id, mine: record.after, theirs: now, fields: result.fields })
      return now
    })
    if (clashes.length > 0) continue
    const applied = applyToFilm(value, merged)
    if (!applied.ok) throw new Error(`rebaseChange: ${applied.refusal.code} at ${applied.refusal.path.join('.')}`)
    value = applied.value
    edits.push(merged)
  }
  if (clashes.length > 0) return { ok: false, clashes }
  const rebased = { ...change, edits: edits.filter((edit) => Object.keys(edit.changes).length > 0) }
  const broken = structureClashes(value, rebased)
  return broken.length > 0 ? { ok: false, clashes: broken } : { ok: true, change: rebased, film: value }
}

/** The change that puts mine through on a film that has moved on: fields I changed are mine, all others stay theirs. */
export function insistOn(film: Film, change: Change, id: string): Rebased {
  const edits: Edit[] = []
  let value = film
  for (const edit of change.edits) {
    const mine = mapRecords(value, edit, (record, now) => {
      if (record.before === null || record.after === null || now === null) return record.after
      return { ...now, ...Object.fromEntries(changedFields(record.before, record.after).map((field) => [field, (record.after as Fields)[field]])) }
    })
    const applied = applyToFilm(value, mine)
    if (!applied.ok) throw new Error(`insistOn: ${applied.refusal.code} at ${applied.refusal.path.join('.')}`)
    value = applied.value
    edits.push(mine)
  }
  const made = { ...change, id, edits: edits.filter((edit) => Object.keys(edit.changes).length > 0) }
  const broken = structureClashes(value, made)
  return broken.length > 0 ? { ok: false, clashes: broken } : { ok: true, change: made, film: value }
}

/** Undoes `waiting` (newest last), lets `under` change the film, and does `waiting` again where it still goes. */
export function rebaseOver(film: Film, waiting: readonly Change[], under: (film: Film) => Film): { readonly film: Film; readonly kept: readonly Change[]; readonly clashing: readonly { readonly change: Change; readonly clashes: readonly Clash[] }[] } {
  let value = film
  for (const change of [...waiting].reverse()) value = reverted(value, change)
  value = under(value)
  const kept: Change[] = []
  const clashing: { change: Change; clashes: readonly Clash[] }[] = []
  for (const change of waiting) {
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
function mergeRecord({ before, after }: RecordChange, now: object | null): { readonly after: object | null; readonly fields: readonly string[] | null } {
  if (sameJson(now, before) || sameJson(now, after)) return { after, fields: null }
  if (before === null || after === null || now === null) return { after: now, fields: [] }
  const mine = changedFields(before, after)
  const theirs = new Set(changedFields(before, now))
  const both = mine.filter((field) => theirs.has(field) && !sameJson((after as Fields)[field], (now as Fields)[field]))
  if (both.length > 0) return { after: now, fields: both }
  return { after: { ...now, ...Object.fromEntries(mine.map((field) => [field, (after as Fields)[field]])) }, fields: null }
}

/** The edit with every record's `before` as it is now and `after` as `map` says; records left as they are drop out. */
function mapRecords(film: Film, edit: Edit, map: (record: RecordChange, now: object | null, collection: string, id: string) => object | null): Edit {
  const unit = unitOf(film, edit.unit) as unknown as Record<string, Collection>
  const changes: Record<string, Record<string, RecordChange>> = {}
  for (const [collection, records] of Object.entries(edit.changes)) {
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

function unitOf(film: Film, { kind, id }: UnitRef): Unit {
  if (kind === 'outline') return film.outline
  return kind === 'take' ? (film.takes[id] ?? EMPTY_TAKE) : (film.drawings[id] ?? EMPTY_DRAWING)
}

/** Records that would say of each other what cannot be: a key in a panel that someone has deleted. */
function structureClashes(film: Film, change: Change): Clash[] {
  const clashes: Clash[] = []
  const seen = new Set<string>()
  for (const { unit } of change.edits) {
    const key = `${unit.kind}:${unit.id}`
    if (seen.has(key)) continue
    seen.add(key)
    // A drawing's marks say nothing of each other.
    if (unit.kind === 'drawing') continue
    const value = unitOf(film, unit)
    const problems: readonly DocumentProblem[] =
      unit.kind === 'outline' ? outlineProblems(value as never) : takeProblems(value as never)
    for (const { path } of problems) {
      const [collection, id] = path as [string, string]
      clashes.push({ unit, collection, id, mine: recordIn((value as unknown as Record<string, Collection>)[collection], id), theirs: null, fields: [] })
    }
  }
  return clashes
}
