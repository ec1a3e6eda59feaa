import { projectSchema, rateSchema, textSchema } from '@rubato/core/document'
import { z } from 'zod'
import type { ProjectCard } from './projects'

/** What the server writes of a film's cut: of all of it, without its art. */
export const CUT_FORMATS = {
  otio: { label: 'Timeline (OpenTimelineIO)', extension: 'otio', type: 'application/json' },
  edl: { label: 'Edit list of the pictures (CMX 3600)', extension: 'edl', type: 'text/plain' },
  edls: { label: 'Edit lists, pictures and each lane of sound (zipped)', extension: 'edl.zip', type: 'application/zip' },
  marks: { label: 'Marks as a table (CSV)', extension: 'csv', type: 'text/csv' },
} as const satisfies Readonly<Record<string, { readonly label: string; readonly extension: string; readonly type: string }>>
export type CutFormat = keyof typeof CUT_FORMATS

const names = Object.keys(CUT_FORMATS) as [CutFormat, ...CutFormat[]]
export const cutQuerySchema = z.object({
  as: z.enum(names),
  version: z.string().max(64).optional(),
  /** `1`: of a timeline, each shot as a stack with its panels and cameras. */
  nested: z.enum(['0', '1']).default('1'),
  /** The file name of the movie of the whole film that stands beside it. */
  movie: textSchema(255).optional(),
})
export type CutQuery = z.infer<typeof cutQuerySchema>

/** What comes with a list that is to become a film of its own: its file's name, and, where it does not say one itself, its rate and size. */
export const newCutSchema = z.strictObject({
  fileName: textSchema(255).min(1),
  text: z.string().min(1),
  rate: rateSchema,
  widthPx: projectSchema.shape.widthPx,
  heightPx: projectSchema.shape.heightPx,
})
export type NewCut = z.infer<typeof newCutSchema>
/** Letters of a list, at most, as a request may carry it. */
export const CUT_BYTES = 128 * 1024 * 1024

export interface CutTaken {
  readonly card: ProjectCard
  /** What of it could not be taken, in words. */
  readonly notes: readonly string[]
}

/** A cut that a film is to be conformed to; without `take` it is only looked at. */
export const conformSchema = z.strictObject({
  fileName: textSchema(255).min(1),
  text: z.string().min(1),
  /** The lines that are taken, by their ids, or all. */
  take: z.union([z.literal('all'), z.array(z.string().max(200)).max(50_000)]).optional(),
  author: textSchema(60).trim().default(''),
})
export type ConformAsk = z.infer<typeof conformSchema>
export interface Conformed {
  readonly lines: readonly { readonly id: string; readonly kind: string; readonly about: string; readonly says: string }[]
  readonly notes: readonly string[]
  readonly taken: number
  /** The version that was kept before; null where nothing was taken. */
  readonly keptAs: string | null
}
