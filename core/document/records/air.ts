import { z } from 'zod'
import { moveSchema } from './cameras'
import { idSchema, colour, PANEL_FRAMES_RANGE } from './fields'

/** Half of a colour is gone within 0.007 fw at the most. */
export const HAZE_MOST = Object.freeze({ density: 100, startFw: 10_000 })
/** At the most, a level at half the sharp distance of 1 fw is a frame width wide. */
export const FOCUS_RANGE = Object.freeze({ leastSharpFw: 0.01, mostSharpFw: 10_000, strength: 1 })

const haze = { density: z.number().min(0).max(HAZE_MOST.density), start: z.number().min(0).max(HAZE_MOST.startFw), colour }
const focus = { sharp: z.number().min(FOCUS_RANGE.leastSharpFw).max(FOCUS_RANGE.mostSharpFw), strength: z.number().min(0).max(FOCUS_RANGE.strength) }

/** What is between the lens and the levels of a shot, at most one of each: what it is where it has no key. */
export const airSchema = z.discriminatedUnion('id', [z.strictObject({ id: z.literal('haze'), ...haze }), z.strictObject({ id: z.literal('focus'), ...focus })])

const airKey = {
  id: idSchema,
  panelId: idSchema,
  /** From the panel's first frame. */
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  /** The way that leaves this key for the next. */
  move: moveSchema,
  locked: z.boolean(),
  /** Kept as other keys have it; neither has a path. Absent: a corner. */
  smooth: z.boolean().optional(),
}
/** A key of the shot's haze or focus; what it says stands in the place of what their record says. */
export const airKeySchema = z.discriminatedUnion('airId', [z.strictObject({ ...airKey, airId: z.literal('haze'), value: z.strictObject(haze) }), z.strictObject({ ...airKey, airId: z.literal('focus'), value: z.strictObject(focus) })])

export type AirRecord = Readonly<z.infer<typeof airSchema>>
export type AirKey = Readonly<z.infer<typeof airKeySchema>>
