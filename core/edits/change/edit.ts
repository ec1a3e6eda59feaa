import { z } from 'zod'
import { finderOf, knownStep, noteStep, withRecords, type Collection } from '../../document/collection'
import { idSchema, recordIdSchema } from '../../document/records'
import { textSchema } from '../../document/text'
import { putAtWork, UNIT_KINDS, unitIn, unitRefSchema, withUnit } from '../../document/unitKinds'
import { freeze, type Film, type Unit, type UnitRef } from '../../document/units'
import { sameJson } from './sameJson'

/** One record before and after; null where it does not exist. */
export interface RecordChange {
  readonly before: object | null
  readonly after: object | null
}

export type ChangeSet = Readonly<Record<string, Readonly<Record<string, RecordChange>>>>

export interface Edit {
  readonly kind: string
  readonly unit: UnitRef
  readonly changes: ChangeSet
  /** Its values hang on each other: what someone else has changed alike is no agreement. */
  readonly exact?: boolean | undefined
  /** The drawing that this one is made from, to go on in its place. */
  readonly copyOf?: string | undefined
}

export const editSchema = z.strictObject({
  kind: textSchema(60).min(1),
  unit: unitRefSchema,
  changes: z.record(
    textSchema(40),
    z.record(
      recordIdSchema,
      z.strictObject({ before: z.looseObject({}).nullable(), after: z.looseObject({}).nullable() }),
    ),
  ),
  exact: z.boolean().optional(),
  copyOf: idSchema.optional(),
})

export type EditRefusal =
  | { readonly code: 'stale'; readonly path: readonly string[] }
  | { readonly code: 'malformed'; readonly path: readonly string[]; readonly message: string }

export type Applied<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly refusal: EditRefusal }

/** Applies an edit to its unit. Refused as stale where a record is not what the edit saw; then nothing is changed. */
export function applyToUnit<T extends Unit>(unit: T, edit: Edit): Applied<T> {
  const next: Record<string, Collection> = { ...(unit as unknown as Record<string, Collection>) }
  let changed = false
  for (const [collection, records] of Object.entries(edit.changes)) {
    const current = Object.hasOwn(next, collection) ? next[collection] : undefined
    if (current === undefined) {
      return { ok: false, refusal: { code: 'malformed', path: [collection], message: 'no such collection' } }
    }
    const entries = Object.entries(records)
    if (entries.length === 0) continue
    const known = knownStep(current, records)
    if (known !== null) {
      next[collection] = known
      changed = true
      continue
    }
    const find = finderOf(current, entries.length)
    for (const [id, { before, after }] of entries) {
      if (!sameJson(find(id), before)) return { ok: false, refusal: { code: 'stale', path: [collection, id] } }
      if (after !== null) freeze(after)
    }
    // What was frozen stays so: only what is new is looked at.
    next[collection] = Object.freeze(withRecords(current, new Map(entries.map(([id, { after }]) => [id, after]))))
    noteStep(current, next[collection], records)
    changed = true
  }
  return { ok: true, value: changed ? (Object.freeze(next) as unknown as T) : unit }
}

/**
 * Checks every new record against its schema; for edits that come from outside. `beforeHolds`: what records were before
 * has been checked already (they are the film's own), so of those that are changed only the fields that are.
 */
export function checkEdit(edit: Edit, beforeHolds = false): EditRefusal | null {
  const { schemas } = UNIT_KINDS[edit.unit.kind]
  for (const [collection, records] of Object.entries(edit.changes)) {
    const schema = Object.hasOwn(schemas, collection) ? schemas[collection] : undefined
    if (schema === undefined) return { code: 'malformed', path: [collection], message: 'no such collection' }
    const fields = beforeHolds ? fieldsOf(schema) : null
    for (const [id, { before, after }] of Object.entries(records)) {
      // A film is its own record: it is changed, never put in or taken out.
      if (after !== null && (after as { readonly id?: unknown }).id !== id) return { code: 'malformed', path: [collection, id, 'id'], message: 'not the id that it stands under' }
      if (collection === 'project' && (after === null || id !== edit.unit.id)) return { code: 'malformed', path: [collection, id], message: 'not this film' }
      if (after === null || (fields !== null && before !== null && changedFieldsHold(fields, before, after))) continue
      const parsed = schema.safeParse(after)
      if (!parsed.success) {
        const issue = parsed.error.issues[0]!
        return { code: 'malformed', path: [collection, id, ...issue.path.map(String)], message: issue.message }
      }
    }
  }
  return null
}

/** The fields of records that are checked one by one, without a rule that looks at several. */
function fieldsOf(schema: z.ZodType): Readonly<Record<string, z.ZodType>> | null {
  return schema instanceof z.ZodObject && (schema.def.checks ?? []).length === 0 ? (schema.shape as Record<string, z.ZodType>) : null
}

/** False also where it can't be told so: then all of the record is looked at. */
function changedFieldsHold(fields: Readonly<Record<string, z.ZodType>>, before: object, after: object): boolean {
  const [old, now] = [before as Readonly<Record<string, unknown>>, after as Readonly<Record<string, unknown>>]
  const names = Object.keys(now)
  if (names.length !== Object.keys(old).length) return false
  return names.every((name) => Object.hasOwn(old, name) && (old[name] === now[name] || (Object.hasOwn(fields, name) && fields[name]!.safeParse(now[name]).success)))
}

/** Applies an edit to the unit it names. One that is not in the film is taken to be empty. */
export function applyToFilm(film: Film, edit: Edit): Applied<Film> {
  const applied = applyToUnit(unitIn(film, edit.unit), edit)
  return applied.ok ? { ok: true, value: withUnit(film, edit.unit, applied.value) } : applied
}

/** Applies an edit to a film at work (`filmAtWork`); refused, it is as it was. */
export function applyAtWork(film: Film, edit: Edit): EditRefusal | null {
  const applied = applyToUnit(unitIn(film, edit.unit), edit)
  if (!applied.ok) return applied.refusal
  putAtWork(film, edit.unit, applied.value)
  return null
}

/** The edit that takes this one back exactly. */
export function invert(edit: Edit): Edit {
  const { copyOf: _, ...rest } = edit
  return {
    ...rest,
    changes: mapChanges(edit.changes, ({ before, after }) => ({ before: after, after: before })),
  }
}

/** One edit that does `first` then `second`; null when they touch different units. Records left as they were drop out. */
export function merge(first: Edit, second: Edit): Edit | null {
  if (first.unit.kind !== second.unit.kind || first.unit.id !== second.unit.id) return null
  const changes: Record<string, Record<string, RecordChange>> = {}
  for (const edit of [first, second]) {
    for (const [collection, records] of Object.entries(edit.changes)) {
      const into = (changes[collection] ??= {})
      for (const [id, change] of Object.entries(records)) {
        const known = into[id]
        into[id] = known === undefined ? change : { before: known.before, after: change.after }
      }
    }
  }
  for (const [collection, records] of Object.entries(changes)) {
    for (const [id, { before, after }] of Object.entries(records)) if (sameJson(before, after)) delete records[id]
    if (Object.keys(records).length === 0) delete changes[collection]
  }
  const [exact, copyOf] = [first.exact ?? second.exact, first.copyOf ?? second.copyOf]
  return { kind: second.kind, unit: second.unit, changes, ...(exact === undefined ? {} : { exact }), ...(copyOf === undefined ? {} : { copyOf }) }
}

export function isEmpty(edit: Edit): boolean {
  return Object.values(edit.changes).every((records) => Object.keys(records).length === 0)
}

function mapChanges(changes: ChangeSet, map: (change: RecordChange) => RecordChange): ChangeSet {
  return Object.fromEntries(
    Object.entries(changes).map(([collection, records]) => [
      collection,
      Object.fromEntries(Object.entries(records).map(([id, change]) => [id, map(change)])),
    ]),
  )
}
