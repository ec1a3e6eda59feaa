import { textSchema } from '@rubato/core/document'
import { z } from 'zod'

export const captionQuerySchema = z.object({ q: textSchema(500).min(1), case: z.enum(['0', '1']).default('0') })

/** A panel's words in which something was found. */
export interface FoundCaption {
  readonly takeId: string
  readonly panelId: string
  readonly field: 'action' | 'dialogue'
}

/** At most this many are told. */
export const MOST_FOUND = 5000
