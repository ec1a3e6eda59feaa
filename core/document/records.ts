import { z } from 'zod'
import { FOCAL_LENGTH_RANGE_MM } from '../camera/lens'
import { isKnownRate } from '../time/rate'
import { orderSchema as order } from './order'
import { textSchema as text } from './text'

/** What every object answers to, so that no record may be called so. */
const RESERVED = Object.getOwnPropertyNames(Object.prototype).filter((name) => /^[a-z]/i.test(name)).join('|')
const PLAIN = `(?!(?:${RESERVED})(?:\\.|$))[a-z0-9][a-z0-9_-]{0,63}`

/** 1–64 characters of a–z, 0–9, _ and -, and no name that every object has. Made by the caller; core has no source of chance. */
export const idSchema = z.string().regex(new RegExp(`^${PLAIN}$`, 'i'))
/** A record's key: an id, or two of them with a point between. */
export const recordIdSchema = z.string().regex(new RegExp(`^${PLAIN}(?:\\.${PLAIN})?$`, 'i'))
export type Id = z.infer<typeof idSchema>

/** Places reach a million frame widths, which keeps every product finite. */
const fw = z.number().min(-1e6).max(1e6)
const degrees = z.number().min(-36_000).max(36_000)
const colour = z.string().regex(/^#[0-9a-f]{6}$/i)
const unitInterval = z.number().min(0).max(1)

export const PANEL_FRAMES_RANGE = Object.freeze({ min: 1, max: 1_000_000 })
/** The longest take: more than four days at 24 frames a second. Sums of a film's takes stay whole numbers everywhere. */
export const TAKE_FRAMES_MAX = 10_000_000
/** With it no film is longer than 2 × 10¹¹ frames, which every sum of lengths holds exactly. */
export const SHOTS_MAX = 20_000
/** The most letters of a panel's action, dialogue or notes. */
export const PANEL_LETTERS = 10_000
export const OUTPUT_PX_RANGE = Object.freeze({ min: 16, max: 8192 })

const point3 = z.strictObject({ x: fw, y: fw, depth: fw })

export const rateSchema = z
  .strictObject({ numerator: z.int().positive(), denominator: z.int().positive() })
  .refine(isKnownRate, { message: 'not one of the rates a project may have' })

/** A length that something is meant to have, frames. Absent: none was set. */
const targetFrames = z.int().min(1).max(10_000_000).optional()

const outputPx = z.int().min(OUTPUT_PX_RANGE.min).max(OUTPUT_PX_RANGE.max)

export const projectSchema = z.strictObject({
  id: idSchema,
  title: text(200).min(1),
  rate: rateSchema,
  widthPx: outputPx,
  heightPx: outputPx,
  filmBackMm: z.number().min(1).max(200),
  baseLensMm: z.number().min(FOCAL_LENGTH_RANGE_MM.min).max(FOCAL_LENGTH_RANGE_MM.max),
  defaultPanelFrames: z.int().min(1).max(100_000),
  targetFrames,
  /** The timecode of the first frame, as a count of frames. Absent: 0. */
  startTimecodeFrames: z.int().min(0).max(24 * 3600 * 60).optional(),
  /** Whether timecode drops numbers, where the rate can. Absent: no. */
  dropFrame: z.boolean().optional(),
})

export const sequenceSchema = z.strictObject({
  id: idSchema,
  order,
  label: text(20).min(1),
  title: text(200),
  targetFrames: z.int().min(1).max(10_000_000).nullable(),
})

export const shotSchema = z.strictObject({
  id: idSchema,
  sequenceId: idSchema,
  order,
  label: text(20).min(1),
  title: text(300),
  circledTakeId: idSchema,
  targetFrames,
})

export const takeSchema = z.strictObject({
  id: idSchema,
  shotId: idSchema,
  order,
  letter: text(4).min(1),
})

export const panelSchema = z.strictObject({
  id: idSchema,
  order,
  lengthFrames: z.int().min(PANEL_FRAMES_RANGE.min).max(PANEL_FRAMES_RANGE.max),
  /** A fermata: the panel keeps its length when others give and take. */
  lengthLocked: z.boolean(),
  action: text(PANEL_LETTERS),
  dialogue: text(PANEL_LETTERS),
  notes: text(PANEL_LETTERS),
  targetFrames,
})

/** What a mark on the ruler means; each has a colour and a sign of its own. */
export const MARK_MEANINGS = Object.freeze(['note', 'voice', 'sound', 'change', 'mend'] as const)

/** A named place in the film's time. It keeps its place in its shot whatever happens before. */
export const rulerMarkSchema = z.strictObject({
  id: idSchema,
  shotId: idSchema,
  /** From the shot's first frame. Past the shot's last it stands on the last. */
  offsetFrames: z.int().min(0).max(10_000_000),
  name: text(120),
  meaning: z.enum(MARK_MEANINGS),
})

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

/** How one shot becomes the next, or the film comes out of a colour and goes into one. At most one at each place. */
export const transitionSchema = z.strictObject({
  /** The shot that it leads into; `film-start` or `film-end` at the film's ends. See `transitionIdOf`. */
  id: idSchema,
  at: z.enum(['cut', 'start', 'end']),
  /** At the film's ends always `colour`. */
  kind: z.enum(['dissolve', 'wipe', 'colour']),
  lengthFrames: z.int().min(1).max(10_000),
  /** Where it lies: half on each side of the cut, ending at it, or starting at it. */
  place: z.enum(['centre', 'before', 'after']),
  /** Where a wipe's edge goes: 0 to the right, 90 up. */
  angleDegrees: degrees,
  /** The width of a wipe's soft edge, as a part of its way. */
  softness: unitInterval,
  colour,
  /** Whether the sound of both shots crosses over along with the picture. */
  soundToo: z.boolean(),
})

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

export const levelSchema = z.strictObject({
  id: idSchema,
  /** Rack order, near first; decides only between levels at one depth. */
  order,
  name: text(120).min(1),
  kind: z.enum(['drawn', 'placed', 'reference']),
  x: fw,
  y: fw,
  depth: fw,
  scale: z.number().min(1e-6).max(1e6),
  panDegrees: degrees,
  tiltDegrees: degrees,
  rollDegrees: degrees,
  opacity: unitInterval,
  visible: z.boolean(),
  locked: z.boolean(),
  /** Someone who acts: copied when a panel is duplicated, black in Silhouette. Absent: no. */
  figure: z.boolean().optional(),
  /** Levels of one group name are handled together; absent or empty: in no group. */
  group: text(120).optional(),
  /** The colour that all of the level's art is turned towards; absent or null: as drawn. */
  tint: z.strictObject({ colour, strength: unitInterval }).nullable().optional(),
  /** Where a reference level lies: under all others or over them. Absent: under. */
  over: z.boolean().optional(),
  /** For a reference level whose drawing is a numbered sequence of pictures: the shot's frame that shows the first. */
  sequence: z.strictObject({ startFrame: z.int().min(-1_000_000).max(1_000_000), framesEach: z.int().min(1).max(1000) }).nullable().optional(),
})

export const cellSchema = z.strictObject({
  /** `levelId.panelId`, so that there is at most one for each. See `cellIdOf`. */
  id: recordIdSchema,
  levelId: idSchema,
  panelId: idSchema,
  /** Null: from this panel on the level shows nothing. */
  drawingId: idSchema.nullable(),
})

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

/** What lies under the overhead plan: a drawing in the set's own x and depth. It is never handed over. */
export const groundPlanSchema = z.strictObject({
  id: z.literal('ground'),
  drawingId: idSchema,
  opacity: unitInterval,
  visible: z.boolean(),
})

export const cameraCutSchema = z.strictObject({
  id: idSchema,
  panelId: idSchema,
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  cameraId: idSchema,
  dissolveFrames: z.int().min(0).max(100_000),
})

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

export type Project = Readonly<z.infer<typeof projectSchema>>
export type Sequence = Readonly<z.infer<typeof sequenceSchema>>
export type Shot = Readonly<z.infer<typeof shotSchema>>
export type Take = Readonly<z.infer<typeof takeSchema>>
export type Panel = Readonly<z.infer<typeof panelSchema>>
export type RulerMark = Readonly<z.infer<typeof rulerMarkSchema>>
export type MarkMeaning = RulerMark['meaning']
export type Lane = Readonly<z.infer<typeof laneSchema>>
export type Clip = Readonly<z.infer<typeof clipSchema>>
export type Transition = Readonly<z.infer<typeof transitionSchema>>
export type Passage = Readonly<z.infer<typeof passageSchema>>
export type Link = Readonly<z.infer<typeof linkSchema>>
export type Level = Readonly<z.infer<typeof levelSchema>>
export type Cell = Readonly<z.infer<typeof cellSchema>>
export type Camera = Readonly<z.infer<typeof cameraSchema>>
export type Framing = Readonly<z.infer<typeof framingSchema>>
export type Preset = Readonly<z.infer<typeof presetSchema>>
export type GroundPlan = Readonly<z.infer<typeof groundPlanSchema>>
export type CameraCut = Readonly<z.infer<typeof cameraCutSchema>>
export type Stroke = Readonly<z.infer<typeof strokeSchema>>
export type Fill = Readonly<z.infer<typeof fillSchema>>
export type Picture = Readonly<z.infer<typeof pictureSchema>>
export type Mark = Stroke | Fill | Picture

/** The id of the transition at a place: at the cut into a shot, or at an end of the film. */
export function transitionIdOf(place: { readonly at: 'cut'; readonly shotId: Id } | { readonly at: 'start' | 'end' }): Id {
  return place.at === 'cut' ? place.shotId : `film-${place.at}`
}

export function linkIdOf(passageId: Id, panelId: Id): string {
  return `${passageId}.${panelId}`
}

export function cellIdOf(levelId: Id, panelId: Id): string {
  return `${levelId}.${panelId}`
}
