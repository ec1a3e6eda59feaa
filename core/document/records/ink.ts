import { z } from 'zod'
import { orderSchema as order } from '../order'
import { textSchema } from '../text'
import { idSchema, fw, degrees, colour, unitInterval } from './fields'

export const strokeSchema = z.strictObject({
  id: idSchema,
  order,
  kind: z.literal('stroke'),
  /** `erase` takes ink away; `behind` lies under what is there. */
  mode: z.enum(['ink', 'erase', 'behind']),
  /** x, y (fw from the pivot, y up), pressure 0…1, x, y, pressure … */
  points: z.array(z.number().min(-1e4).max(1e4)).min(3).max(120_000),
  widthFw: z.number().positive().max(10),
  colour,
  opacity: unitInterval,
  /** How much pressure changes the width: 0 not at all, 1 down to nothing. Absent: 0.5. */
  thinning: unitInterval.optional(),
})

export const WORD_FONTS = ['plain', 'bold', 'book', 'hand', 'typed'] as const
export const MOST_LETTERS = 400

/** What a fill's outlines were set from, to be set anew. */
export const wordsSchema = z.strictObject({
  text: textSchema(MOST_LETTERS).min(1),
  font: z.enum(WORD_FONTS),
  align: z.enum(['start', 'middle', 'end']),
  /** From ems, y up, the first line standing on 0, to fw: x' = a·x + c·y + e, y' = b·x + d·y + f; as a, b, c, d, e, f. */
  place: z.array(z.number().min(-1e4).max(1e4)).length(6),
})

/** What a fill's outline was drawn from, to be drawn anew. */
export const arrowSchema = z.strictObject({
  /** From tail to tip, x, y (fw), x, y …: a smooth line through them. */
  points: z.array(z.number().min(-1e4).max(1e4)).min(4).max(64),
  widthFw: z.number().positive().max(10),
  /** How much narrower the tail is: 0 not at all, 1 to a point. */
  taper: unitInterval,
  heads: z.enum(['tip', 'both']),
})

export const fillSchema = z.strictObject({
  id: idSchema,
  order,
  kind: z.literal('fill'),
  mode: z.enum(['ink', 'erase', 'behind']),
  /** Closed outlines, each x, y, x, y … (fw), filled even-odd. */
  outlines: z.array(z.array(z.number().min(-1e4).max(1e4)).min(6).max(120_000)).min(1).max(10_000),
  colour,
  opacity: unitInterval,
  /** `back`: lies behind a figure's lines; made anew by the next backing. Absent: an area that was filled. */
  purpose: z.enum(['area', 'back']).optional(),
  words: wordsSchema.optional(),
  arrow: arrowSchema.optional(),
  /** In no picture: on the paper while one draws, and over the panel on printed boards. */
  forPrint: z.literal(true).optional(),
})

export const pictureSchema = z.strictObject({
  id: idSchema,
  order,
  kind: z.literal('picture'),
  /** SHA-256 of the file's bytes, in hexadecimal. */
  assetHash: z.string().regex(/^[0-9a-f]{64}$/),
  widthPx: z.int().min(1).max(65_535),
  heightPx: z.int().min(1).max(65_535),
  /** The picture's centre and its width, in fw. */
  x: fw,
  y: fw,
  widthFw: z.number().positive().max(1e4),
  /** Counter-clockwise about its centre. Absent: 0. */
  turnDegrees: degrees.optional(),
  /** Left and right changed about, before it is turned. Absent: no. */
  mirrored: z.boolean().optional(),
})

export const markSchema = z.discriminatedUnion('kind', [strokeSchema, fillSchema, pictureSchema])

export type Stroke = Readonly<z.infer<typeof strokeSchema>>
export type Fill = Readonly<z.infer<typeof fillSchema>>
export type Words = Readonly<z.infer<typeof wordsSchema>>
export type WordFont = (typeof WORD_FONTS)[number]
export type Arrow = Readonly<z.infer<typeof arrowSchema>>
export type Picture = Readonly<z.infer<typeof pictureSchema>>
export type Mark = Stroke | Fill | Picture
