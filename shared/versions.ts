import { idSchema, textSchema } from '@rubato/core/document'
import type { Difference } from '@rubato/core/edits'
import { z } from 'zod'

export const newVersionSchema = z.strictObject({ name: textSchema(120).trim().min(1), author: textSchema(60).trim().default(''), reason: z.enum(['hand', 'before']).default('hand') })

/** Some shots of a version, or all of it. */
export const bringBackSchema = z.strictObject({ shotIds: z.array(idSchema).min(1).max(5000).nullable(), author: textSchema(60).trim().default('') })

/** A named whole state of a film. */
export interface Version {
  readonly id: string
  readonly name: string
  /** Made by hand, by Rubato before a step that changes much, or of what was handed over. */
  readonly reason: 'hand' | 'before' | 'out'
  readonly author: string
  /** ISO 8601. */
  readonly createdAt: string
  readonly shotCount: number
  readonly lengthFrames: number
  /** Of its bodies, and of those that no older version has. */
  readonly bytes: number
  readonly ownBytes: number
}

/** What changed in one shot, or in the film's outline where `shotLabel` is null. */
export interface Compared {
  readonly shotId: string | null
  readonly shotLabel: string | null
  readonly differences: readonly Difference[]
}
