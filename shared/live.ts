import { idSchema, textSchema } from '@rubato/core/document'
import { changeSchema, type Change } from '@rubato/core/edits'
import { z } from 'zod'

/** An accepted change, as the journal has it. */
export interface JournalEntry {
  /** The place in the journal; a later change has a greater one. */
  readonly seq: number
  readonly change: Change
  readonly author: string
  /** The revision of every unit it touched, after it. */
  readonly revisions: Readonly<Record<string, number>>
  /** The length in frames that each take it touched has now. */
  readonly takeLengths: Readonly<Record<string, number>>
  readonly takePanels: Readonly<Record<string, number>>
  /** Too large to be pushed: its edits are left out here and can be asked for. */
  readonly heavy?: boolean
}

/** Entries of more JSON than this are told of without their edits. */
export const PUSH_LIMIT_LETTERS = 1024 * 1024

/** One window in which a film is open. */
export interface Present {
  readonly session: string
  readonly name: string
  readonly shotId: string | null
}

export interface Catchup {
  readonly entries: readonly JournalEntry[]
  /** There are more after these. */
  readonly more: boolean
}

const sessionSchema = z.string().regex(/^[\w-]{8,64}$/)
export const presentSchema = z.strictObject({ session: sessionSchema, name: textSchema(60).trim(), shotId: idSchema.nullable() })

/** Which of these changes the journal has: asked after a reload, for what was still waiting. */
export const KNOWN_LIMIT = 5000
export const knownSchema = z.strictObject({ ids: z.array(changeSchema.shape.id).max(KNOWN_LIMIT) })

/** A window that has said nothing for this long is gone. */
export const PRESENCE_MS = 30_000
/** How often a window says that it is there. */
export const PRESENCE_EVERY_MS = 10_000
/** Most entries in one answer. */
export const CATCHUP_LIMIT = 500
