import { z } from 'zod'
import { orderSchema as order } from '../order'
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
export type Picture = Readonly<z.infer<typeof pictureSchema>>
export type Mark = Stroke | Fill | Picture
