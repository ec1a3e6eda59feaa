import { z } from 'zod'
import { FOCAL_LENGTH_RANGE_MM } from '../../camera/lens'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema, fw, degrees, unitInterval, PANEL_FRAMES_RANGE, point3 } from './fields'

export const cameraSchema = z.strictObject({
  id: idSchema,
  order,
  letter: text(2).min(1),
  locked: z.boolean(),
})

export const poseSchema = z.strictObject({
  x: fw,
  y: fw,
  depth: fw,
  panDegrees: degrees,
  tiltDegrees: degrees,
  rollDegrees: degrees,
  focalLengthMm: z.number().min(FOCAL_LENGTH_RANGE_MM.min).max(FOCAL_LENGTH_RANGE_MM.max),
})

const cushionFrames = z.number().min(0).max(1_000_000)

const cushionedSchema = z.strictObject({
  kind: z.literal('cushioned'),
  leaveFrames: cushionFrames,
  arriveFrames: cushionFrames,
  /** How long the arrival tails off past its framing's frame. Absent: 0. */
  settleFrames: cushionFrames.optional(),
})
const customSchema = z.strictObject({
  kind: z.literal('custom'),
  x1: unitInterval,
  y1: z.number().min(-10).max(10),
  x2: unitInterval,
  y2: z.number().min(-10).max(10),
})

export const timingSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('hold') }),
  z.strictObject({ kind: z.literal('even') }),
  cushionedSchema,
  customSchema,
  /** What a longer move did between two of its frames: what is left of one that was keyed or cut in a cushion. */
  z.strictObject({
    kind: z.literal('part'),
    of: z.discriminatedUnion('kind', [cushionedSchema, customSchema]),
    ofFrames: cushionFrames.min(1),
    fromFrame: cushionFrames,
    toFrame: cushionFrames,
    settleFrames: cushionFrames.optional(),
  }),
])

export const moveSchema = z.strictObject({
  timing: timingSchema,
  path: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('straight') }),
    z.strictObject({ kind: z.literal('bent'), leave: point3, arrive: point3 }),
  ]),
  evenness: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('set') }),
    z.strictObject({ kind: z.literal('screen'), subjectDepth: fw }),
  ]),
  /** Turns that are taken as written, not the short way. Absent: none. */
  unwound: z.array(z.enum(['panDegrees', 'tiltDegrees', 'rollDegrees'])).max(3).optional(),
})

export const framingSchema = z.strictObject({
  id: idSchema,
  cameraId: idSchema,
  panelId: idSchema,
  /** From the panel's first frame. */
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  pose: poseSchema,
  /** The move that leaves this framing for the next. */
  move: moveSchema,
  locked: z.boolean(),
  /** The path goes through without a corner: both its handles stay in line. Absent: a corner. */
  smooth: z.boolean().optional(),
})

/** A framing that the artist keeps on a number key, for any frame of the shot. */
export const presetSchema = z.strictObject({
  /** The key, `1` to `9`. */
  id: z.string().regex(/^[1-9]$/),
  name: text(80).min(1),
  pose: poseSchema,
})

export const cameraCutSchema = z.strictObject({
  id: idSchema,
  panelId: idSchema,
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  cameraId: idSchema,
  dissolveFrames: z.int().min(0).max(100_000),
})

export type Camera = Readonly<z.infer<typeof cameraSchema>>
export type Framing = Readonly<z.infer<typeof framingSchema>>
export type Preset = Readonly<z.infer<typeof presetSchema>>
export type CameraCut = Readonly<z.infer<typeof cameraCutSchema>>
