import { z } from 'zod'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema } from './fields'

const decibels = z.number().min(-60).max(24)
const seconds = z.number().min(0).max(1e6)

/** A lane of sound. */
export const laneSchema = z.strictObject({
  id: idSchema,
  order,
  name: text(80).min(1),
  kind: z.enum(['voices', 'effects', 'music']),
  /** −60 is silence. */
  gainDb: decibels,
  muted: z.boolean(),
  /** While any lane is soloed, only those are heard. */
  soloed: z.boolean(),
})

/**
 * A part of a recording, at a place in the film. What is trimmed off stays in the recording. A clip whose shot is not in
 * the film is in the tray: nobody hears it, and it is there again when the shot is.
 */
export const clipSchema = z.strictObject({
  id: idSchema,
  laneId: idSchema,
  /** The shot it keeps its place in; null: it is tied to the film's start. */
  shotId: idSchema.nullable(),
  /** From the first frame of what it is tied to; may be before it, and between frames. */
  offsetFrames: z.number().min(-1e7).max(1e7),
  /** SHA-256 of the recording's bytes, in hexadecimal. */
  assetHash: z.string().regex(/^[0-9a-f]{64}$/),
  name: text(200),
  /** The whole recording's length. */
  sourceSeconds: seconds.positive(),
  /** Where in the recording the clip begins. */
  fromSeconds: seconds,
  lengthSeconds: seconds.positive(),
  gainDb: decibels,
  fadeInSeconds: seconds,
  fadeOutSeconds: seconds,
  /** Who speaks, and the line; empty where nobody does. */
  speaker: text(200),
  line: text(20_000),
  /** The script's passage that the line is, and the panel that it is spoken in; null for none. */
  passageId: idSchema.nullable(),
  panelId: idSchema.nullable(),
})

export type Lane = Readonly<z.infer<typeof laneSchema>>
export type Clip = Readonly<z.infer<typeof clipSchema>>
