import { z } from 'zod'

/** What every object answers to, so that no record may be called so. */
const RESERVED = Object.getOwnPropertyNames(Object.prototype).filter((name) => /^[a-z]/i.test(name)).join('|')
const PLAIN = `(?!(?:${RESERVED})(?:\\.|$))[a-z0-9][a-z0-9_-]{0,63}`

/** 1–64 characters of a–z, 0–9, _ and -, and no name that every object has. Made by the caller; core has no source of chance. */
export const idSchema = z.string().regex(new RegExp(`^${PLAIN}$`, 'i'))
/** A record's key: an id, or up to three of them with points between. */
export const recordIdSchema = z.string().regex(new RegExp(`^${PLAIN}(?:\\.${PLAIN}){0,2}$`, 'i'))
export type Id = z.infer<typeof idSchema>

/** Places reach a million frame widths, which keeps every product finite. */
export const fw = z.number().min(-1e6).max(1e6)
export const degrees = z.number().min(-36_000).max(36_000)
export const colour = z.string().regex(/^#[0-9a-f]{6}$/i)
export const unitInterval = z.number().min(0).max(1)

export const PANEL_FRAMES_RANGE = Object.freeze({ min: 1, max: 1_000_000 })
/** The longest take: more than four days at 24 frames a second. Sums of a film's takes stay whole numbers everywhere. */
export const TAKE_FRAMES_MAX = 10_000_000
/** With it no film is longer than 2 × 10¹¹ frames, which every sum of lengths holds exactly. */
export const SHOTS_MAX = 20_000
/** The most letters of a panel's action, dialogue or notes. */
export const PANEL_LETTERS = 10_000
export const OUTPUT_PX_RANGE = Object.freeze({ min: 16, max: 8192 })

export const point3 = z.strictObject({ x: fw, y: fw, depth: fw })

/** A length that something is meant to have, frames. Absent: none was set. */
export const targetFrames = z.int().min(1).max(10_000_000).optional()
