import { finderOf, idsIn, type Collection } from '../../document/collection'
import type { Unit, UnitRef } from '../../document/units'
import type { Edit, RecordChange } from './edit'
import { changedFields } from './rebase'
import { sameJson } from './sameJson'

/** The edit that makes `from` into `to`; null where they are the same. `only` keeps it to some records. */
export function diffUnits(unit: UnitRef, from: Unit, to: Unit, kind: string, only: (collection: string, id: string) => boolean = () => true): Edit | null {
  const [a, b] = [from, to] as unknown as readonly Record<string, Collection>[]
  const changes: Record<string, Record<string, RecordChange>> = {}
  for (const collection of Object.keys(b!)) {
    const [before, after] = [a![collection] ?? {}, b![collection]!]
    const [then, now] = [finderOf(before, Infinity), finderOf(after, Infinity)]
    for (const id of new Set([...idsIn(before), ...idsIn(after)])) {
      const change = { before: then(id), after: now(id) }
      if (only(collection, id) && !sameJson(change.before, change.after)) (changes[collection] ??= {})[id] = change
    }
  }
  return Object.keys(changes).length === 0 ? null : { kind, unit, changes }
}

/** One record that two states of a unit differ in. */
export interface Difference {
  readonly unit: UnitRef
  readonly collection: string
  readonly id: string
  readonly how: 'added' | 'removed' | 'changed'
  /** What the record is called, where it has a name: a label, a title, a letter. */
  readonly name: string | null
  /** For a record that is in both. */
  readonly fields: readonly string[]
}

export function differencesOf(edit: Edit): Difference[] {
  return Object.entries(edit.changes).flatMap(([collection, records]) =>
    Object.entries(records).map(([id, { before, after }]): Difference => {
      const record = (after ?? before) as { name?: unknown; label?: unknown; title?: unknown; letter?: unknown }
      const name = [record.label, record.name, record.title, record.letter].find((each) => typeof each === 'string' && each !== '')
      const how = before === null ? 'added' : after === null ? 'removed' : 'changed'
      return { unit: edit.unit, collection, id, how, name: (name as string | undefined) ?? null, fields: before !== null && after !== null ? changedFields(before, after) : [] }
    }),
  )
}
