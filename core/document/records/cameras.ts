import { z } from 'zod'
import { FOCAL_LENGTH_RANGE_MM } from '../../camera/lens'
import { SAMPLES_MOST } from '../../moves/operated'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema, fw, degrees, unitInterval, PANEL_FRAMES_RANGE, point3, TAKE_FRAMES_MAX } from './fields'

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

/** A place in the picture, fw from its middle. */
const inPicture = z.number().min(-10).max(10)
const spanFrames = z.number().min(0).max(TAKE_FRAMES_MAX)

/** The farthest that following trails behind, frames. */
export const LAG_MOST = 1000
/** How far a hand moves and turns a camera at most, fw and degrees. */
export const HAND_MOST = Object.freeze({ placeFw: 1, degrees: 45 })

/** A point of a level: of its art, in the art's own fw. Absent: where its pivot stands. */
const targetSchema = z.strictObject({ levelId: idSchema, at: z.strictObject({ x: fw, y: fw }).optional() })

/** What a camera that chases something is at: each number with its speed, a frame. */
const chasedPlace = z.strictObject({ at: point3, speed: point3 })
const chasedPoint = z.strictObject({ u: z.number(), v: z.number(), uSpeed: z.number(), vSpeed: z.number() })
const chasedNumber = z.strictObject({ at: z.number(), speed: z.number() })

/**
 * What went before a span's first frame, where it is the rest of a longer one that was cut: it goes on from there. `frames`: how
 * many there were.
 */
const span = {
  id: idSchema,
  cameraId: idSchema,
  panelId: idSchema,
  /** Its first frame, from the panel's first. */
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  /** What the framings say goes over into it, and it into them, over so many frames. */
  inFrames: spanFrames,
  outFrames: spanFrames,
}
const seeing = {
  target: targetSchema,
  /** Where in the picture the point is to be. */
  u: inPicture,
  v: inPicture,
  lagFrames: z.number().min(0).max(LAG_MOST),
  /** The lens grows and shrinks, so that the figure keeps the size that it begins with. Absent: it does not. */
  holdsSize: z.literal(true).optional(),
}

/** A stretch in which a camera follows, aims, or is held by hand. It ends where its record of `spanEnds` stands; without one, with the shot. */
export const spanSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    ...span,
    ...seeing,
    kind: z.literal('follow'),
    axes: z.strictObject({ x: z.boolean(), y: z.boolean(), depth: z.boolean() }),
    /** How wide and high the zone about its place is in which the figure is not chased. */
    still: z.strictObject({ widthFw: z.number().min(0).max(10), heightFw: z.number().min(0).max(10) }),
    /** Its place lies so far back from where it goes, fw: as much as that at a speed on screen of so much a frame, in proportion below. */
    lead: z.strictObject({ mostFw: z.number().min(0).max(10), atFwPerFrame: z.number().min(1e-6).max(10) }),
    /** `at`: where the chase is, once its point has been before the lens. */
    begun: z.strictObject({ frames: spanFrames, at: z.strictObject({ place: chasedPlace, lead: chasedPoint, lens: chasedNumber, goes: point3, distance: fw, sizeAtStart: fw }).optional() }).optional(),
  }),
  z.strictObject({
    ...span,
    ...seeing,
    kind: z.literal('aim'),
    begun: z.strictObject({ frames: spanFrames, pan: chasedNumber, tilt: chasedNumber, lens: chasedNumber, sizeAtStart: fw }).optional(),
  }),
  z.strictObject({
    ...span,
    kind: z.literal('hand'),
    /** How far it drifts to each side, at most. */
    placeFw: z.number().min(0).max(HAND_MOST.placeFw),
    rollDegrees: z.number().min(0).max(HAND_MOST.degrees),
    turnDegrees: z.number().min(0).max(HAND_MOST.degrees),
    /** How long it takes to go there and back, frames. */
    periodFrames: z.number().min(2).max(10_000),
    seed: z.int().min(0).max(0xffff_ffff),
    begun: z.strictObject({ frames: spanFrames }).optional(),
  }),
])

/** The last frame of a camera's span; it goes where its panel goes, as the first does. */
export const spanEndSchema = z.strictObject({
  /** The span's. */
  id: idSchema,
  spanId: idSchema,
  panelId: idSchema,
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  /** How many more frames the longer one had that this is cut from. Absent: none. */
  beyondFrames: spanFrames.optional(),
})

export type CameraSpan = Readonly<z.infer<typeof spanSchema>>
export type FollowSpan = Extract<CameraSpan, { readonly kind: 'follow' }>
export type AimSpan = Extract<CameraSpan, { readonly kind: 'aim' }>
export type HandSpan = Extract<CameraSpan, { readonly kind: 'hand' }>
export type SpanEnd = Readonly<z.infer<typeof spanEndSchema>>
export type SpanTarget = Readonly<z.infer<typeof targetSchema>>
export type Camera = Readonly<z.infer<typeof cameraSchema>>
export type Framing = Readonly<z.infer<typeof framingSchema>>
export type Preset = Readonly<z.infer<typeof presetSchema>>
export type CameraCut = Readonly<z.infer<typeof cameraCutSchema>>

/** A try of working a camera by hand: where it begins, and where its samples are. Nothing of the picture hangs on it. */
export const trySchema = z.strictObject({
  id: idSchema,
  cameraId: idSchema,
  panelId: idSchema,
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  /** Of the shot's tries, counted from 1. */
  number: z.int().min(1).max(100_000),
  /** Its last frame, counted from its first. */
  lastFrame: z.int().min(1).max(TAKE_FRAMES_MAX),
  /** The unit of kind `try` that has them; takes that are copied share it. */
  samplesId: idSchema,
})
export type Try = Readonly<z.infer<typeof trySchema>>

const packedNumbers = z.array(z.int().min(-1e13).max(1e13)).min(1).max(SAMPLES_MOST)
/** See `PackedSamples`. A list is as long as the times, or has one number. */
export const trySamplesSchema = z
  .strictObject({ id: idSchema, at: packedNumbers, x: packedNumbers, y: packedNumbers, depth: packedNumbers, panDegrees: packedNumbers, tiltDegrees: packedNumbers, rollDegrees: packedNumbers, focalLengthMm: packedNumbers })
  .refine(({ id: _, at, ...fields }) => at.slice(1).every((later) => later >= 0) && Object.values(fields).every(({ length }) => length === 1 || length === at.length), { message: 'times go back, or a list is not as long as the times' })
export type TrySamples = Readonly<z.infer<typeof trySamplesSchema>>
