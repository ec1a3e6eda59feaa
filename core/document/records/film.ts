import { z } from 'zod'
import { FOCAL_LENGTH_RANGE_MM } from '../../camera/lens'
import { isKnownRate } from '../../time/rate'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema, type Id, degrees, colour, unitInterval, OUTPUT_PX_RANGE, PANEL_FRAMES_RANGE, targetFrames } from './fields'

export const rateSchema = z
  .strictObject({ numerator: z.int().positive(), denominator: z.int().positive() })
  .refine(isKnownRate, { message: 'not one of the rates a project may have' })

const outputPx = z.int().min(OUTPUT_PX_RANGE.min).max(OUTPUT_PX_RANGE.max)

/** From a doll's house to a city in one frame. */
export const METRES_PER_FW_RANGE = Object.freeze({ min: 0.001, max: 100_000 })

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
  /** How long a frame width of the set is, metres: what is drawn has a size. Absent: nobody has said. */
  metresPerFw: z.number().min(METRES_PER_FW_RANGE.min).max(METRES_PER_FW_RANGE.max).optional(),
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
  /** It is kept aside: no frame of the film shows it, and it is there again when it is put back. Absent: it is in the film. */
  inTray: z.literal(true).optional(),
  /**
   * How many frames of its own time lie before its first: those that were cut off its head, or, below 0, put before it. Cuts that come back count
   * from what went out. Absent: none.
   */
  startsAt: z.int().min(-PANEL_FRAMES_RANGE.max).max(PANEL_FRAMES_RANGE.max).optional(),
  /** The shot that a cut showed once more here, where this one was made of it: so the same cut finds it again. Absent: no cut made it. */
  againOf: idSchema.optional(),
})

export const takeSchema = z.strictObject({
  id: idSchema,
  shotId: idSchema,
  order,
  letter: text(4).min(1),
  /** What it is called beside its letter. Absent: nothing. */
  name: text(120).optional(),
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

/** The id of the transition at a place: at the cut into a shot, or at an end of the film. */
export function transitionIdOf(place: { readonly at: 'cut'; readonly shotId: Id } | { readonly at: 'start' | 'end' }): Id {
  return place.at === 'cut' ? place.shotId : `film-${place.at}`
}

export type Project = Readonly<z.infer<typeof projectSchema>>
export type Sequence = Readonly<z.infer<typeof sequenceSchema>>
export type Shot = Readonly<z.infer<typeof shotSchema>>
/** Whether a shot is part of the film; one that is not waits in the tray. */
export const isInFilm = ({ inTray }: Pick<Shot, 'inTray'>): boolean => inTray !== true
export type Take = Readonly<z.infer<typeof takeSchema>>
export type RulerMark = Readonly<z.infer<typeof rulerMarkSchema>>
export type MarkMeaning = RulerMark['meaning']
export type Transition = Readonly<z.infer<typeof transitionSchema>>
