import { textSchema, UNIT_KINDS } from '@rubato/core/document'
import { changeSchema, type Change } from '@rubato/core/edits'
import { z } from 'zod'

/** At most this many bytes in one batch as lines (`changeLines.ts`), and as one piece of JSON. */
export const BATCH_LIMIT_BYTES = 16 * 1024 * 1024
export const JSON_BATCH_LIMIT_BYTES = 1024 * 1024
export const BATCH_CHANGES = 500

/** `outline:ID`, `take:ID`, or another kind and the id. */
const unitKeySchema = z.string().refine((key) => {
  const [, kind] = /^([a-z]+):[a-z0-9][a-z0-9_-]{0,63}$/i.exec(key) ?? []
  return kind !== undefined && Object.hasOwn(UNIT_KINDS, kind)
}, { message: 'no such unit' })

export const batchHeadSchema = z.strictObject({
  /** The revision of every touched unit that the first change was made on; 0 for a unit that is new. */
  base: z.record(unitKeySchema, z.int().min(0)),
  /** Who did it, as others are told. */
  author: textSchema(60).trim().default(''),
})

export const batchSchema = batchHeadSchema.extend({
  changes: z.array(changeSchema).min(1).max(BATCH_CHANGES).superRefine((changes, issues) => {
    const seen = new Set<string>()
    for (const [i, { id }] of changes.entries()) {
      if (seen.has(id)) issues.addIssue({ code: 'custom', path: [i, 'id'], message: 'another change of the batch has this id' })
      seen.add(id)
    }
  }),
})
export type Batch = { readonly author?: string; readonly changes: readonly Change[]; readonly base: Readonly<Record<string, number>> }

export interface BatchAccepted {
  /** The revisions after the batch, by unit key. */
  readonly revisions: Readonly<Record<string, number>>
  readonly journalSeq: number
}

/** Why a batch was refused, in the error answer's `data`. Nothing of the batch was kept. */
export type BatchRefusal =
  | {
      readonly code: 'stale-revision'
      readonly unit: string
      readonly revision: number
      /** What was done to the unit since the batch's base. */
      readonly since: readonly { readonly seq: number; readonly change: Change }[]
    }
  | { readonly code: 'invalid-edit'; readonly changeId: string; readonly path: readonly string[]; readonly message: string }

export function unitKey(unit: { readonly kind: string; readonly id: string }): string {
  return `${unit.kind}:${unit.id}`
}
