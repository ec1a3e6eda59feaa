import { z } from 'zod'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema, recordIdSchema, type Id } from './fields'

/** A piece of the script, in its order. */
export const passageSchema = z.strictObject({
  id: idSchema,
  order,
  kind: z.enum(['title', 'section', 'scene', 'action', 'dialogue', 'transition', 'note']),
  /** Who speaks; empty but for dialogue. */
  speaker: text(200),
  /** How it is said, without its brackets; empty but for dialogue. */
  manner: text(500),
  text: text(20_000),
  /** The sequence that a scene became; null for all else. */
  sequenceId: idSchema.nullable(),
})

/** That a panel shows a passage. */
export const linkSchema = z.strictObject({
  /** `passageId.panelId`. See `linkIdOf`. */
  id: recordIdSchema,
  passageId: idSchema,
  takeId: idSchema,
  panelId: idSchema,
  /** The passage's words when the panel took them. */
  words: text(20_000),
})

export function linkIdOf(passageId: Id, panelId: Id): string {
  return `${passageId}.${panelId}`
}

export type Passage = Readonly<z.infer<typeof passageSchema>>
export type Link = Readonly<z.infer<typeof linkSchema>>
