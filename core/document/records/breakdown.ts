import { z } from 'zod'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema, recordIdSchema } from './fields'

/** How far the work on something is. Absent on an entry: to do. */
export const WORK_STATES = Object.freeze(['work', 'look', 'done', 'out'] as const)
export const WORK_LETTERS = Object.freeze({ who: 80, notes: 4000, own: 400, column: 60 })
/** Columns of one's own, at most. */
export const WORK_COLUMNS_MOST = 24
const days = z.number().min(0).max(10_000)

/**
 * What the artist says of something in the breakdown: `shot.SHOT`, `set.SET`, or `level.SHOT.LEVEL`. It stays when that leaves the film, and is
 * there again when it comes back.
 */
export const workSchema = z.strictObject({
  id: recordIdSchema,
  state: z.enum(WORK_STATES).optional(),
  who: text(WORK_LETTERS.who).min(1).optional(),
  /** Absent: as many as are reckoned. */
  days: days.optional(),
  notes: text(WORK_LETTERS.notes).min(1).optional(),
  /** By column. */
  own: z.record(idSchema, text(WORK_LETTERS.own).min(1)).optional(),
})

export const workColumnSchema = z.strictObject({ id: idSchema, order, name: text(WORK_LETTERS.column).min(1), of: z.enum(['things', 'shots']) })

const weight = z.number().min(0).max(1000)
/** The one record of it is called `weights`. What each counts, in points; see `WEIGHTS`. */
export const workWeightsSchema = z.strictObject({ id: z.literal('weights'), level: weight, moving: weight, turned: weight, camera: weight, paint: weight, exposure: weight, dissolve: weight, daysPerPoint: weight })

export type Work = Readonly<z.infer<typeof workSchema>>
export type WorkState = (typeof WORK_STATES)[number]
export type WorkColumn = Readonly<z.infer<typeof workColumnSchema>>
export type WorkWeights = Readonly<z.infer<typeof workWeightsSchema>>
export type WorkWeight = Exclude<keyof WorkWeights, 'id'>
export type WorkFields = { readonly [F in keyof Omit<Work, 'id' | 'own'>]?: Work[F] | null } & { readonly own?: Readonly<Record<string, string>> }

export const shotWorkId = (shotId: string) => `shot.${shotId}`
export const setWorkId = (setId: string) => `set.${setId}`
export const levelWorkId = (shotId: string, levelId: string) => `level.${shotId}.${levelId}`
