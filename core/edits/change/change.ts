import { z } from 'zod'
import { idSchema } from '../../document/records'
import { textSchema } from '../../document/text'
import type { Film } from '../../document/units'
import { readSchema, type Read } from './reads'
import { filmAtWork } from '../../document/unitKinds'
import { applyAtWork, editSchema, invert, isEmpty, merge, type Applied, type Edit } from './edit'

/** What the artist did, as one step: a name for undo, and its edits in order. */
export interface Change {
  readonly id: string
  /** Plain words after "Undo": "length of panel 3". */
  readonly label: string
  readonly edits: readonly Edit[]
  /** What it looked at without touching it; see `readsOf`. */
  readonly reads?: readonly Read[] | undefined
}

/** Edits in one change: a shot of so many drawings can be duplicated. */
export const MOST_EDITS = 20_000
export const LABEL_LETTERS = 200

export const changeSchema = z.strictObject({
  id: idSchema.min(8),
  label: textSchema(LABEL_LETTERS).min(1),
  edits: z.array(editSchema).min(1).max(MOST_EDITS),
  reads: z.array(readSchema).max(MOST_EDITS).optional(),
})

/** All of a change or none of it. */
export function applyChange(film: Film, change: Pick<Change, 'edits'>): Applied<Film> {
  const value = filmAtWork(film)
  for (const edit of change.edits) {
    const refusal = applyAtWork(value, edit)
    if (refusal !== null) return { ok: false, refusal }
  }
  return { ok: true, value }
}

/** The change that takes this one back, under a new id. */
export function invertChange(change: Change, id: string): Change {
  return { id, label: change.label, edits: [...change.edits].reverse().map(invert) }
}

/** One change that does `first` then `second`, with the first's id and name; one edit for each unit touched. */
export function mergeChanges(first: Change, second: Change): Change {
  const merged = new Map<string, Edit>()
  for (const edit of [...first.edits, ...second.edits]) {
    const key = `${edit.unit.kind}:${edit.unit.id}`
    const known = merged.get(key)
    merged.set(key, known === undefined ? edit : merge(known, edit)!)
  }
  const { reads: _, ...rest } = first
  return { ...rest, edits: [...merged.values()].filter((edit) => !isEmpty(edit)) }
}
