import { z } from 'zod'
import type { Repeat } from '../../depth/repeat'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { moveSchema } from './cameras'
import { idSchema, recordIdSchema, type Id, fw, degrees, colour, unitInterval, PANEL_FRAMES_RANGE, PANEL_LETTERS, point3, targetFrames } from './fields'

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

const size = z.number().min(1e-6).max(1e6)
/** The farthest that a sway goes, degrees or fw. */
export const SWAY_MOST = 1000
/** A drift's phase goes on with the frames that were before it: those of the longest take, at its quickest. */
const PHASE_MOST = 1e9
const sway = { amount: z.number().min(-SWAY_MOST).max(SWAY_MOST), periodFrames: z.number().min(1).max(1_000_000), phase: z.number().min(-PHASE_MOST).max(PHASE_MOST) }
const swaySchema = z.strictObject(sway)

/** What carries a level: another, of which it follows the place, and turn and size as it says; or the camera. */
export const carrierSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('level'), levelId: idSchema, turn: z.boolean(), size: z.boolean() }),
  z.strictObject({ kind: z.literal('camera') }),
])

/** The most that one level is shown, and the most numbers of a line or an outline that they stand along. */
export const REPEATS_MOST = 500
const REPEAT_NUMBERS_MOST = 400
const points = (least: number) => z.array(fw).min(least).max(REPEAT_NUMBERS_MOST).refine((list) => list.length % 2 === 0, 'x and y in turn')

/**
 * A level shown many times. Places are in the level's own axes, in its own fw, so that all of them turn, grow and go to depths
 * along with it; each turns and grows about a point of the art.
 */
const repeatSchema: z.ZodType<Repeat> = z.strictObject({
  count: z.int().min(2).max(REPEATS_MOST),
  seed: z.int().min(0).max(0xffff_ffff),
  about: z.strictObject({ x: fw, y: fw }),
  /** One step after the other; evenly along a line; or spread over what an outline (x, y, …) encloses. */
  lay: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('step'), x: fw, y: fw }),
    z.strictObject({ kind: z.literal('line'), points: points(4) }),
    z.strictObject({ kind: z.literal('region'), points: points(6) }),
  ]),
  /** Each from the one before: farther by fw, turned by degrees, so many times as large. */
  depth: fw,
  rollDegrees: degrees,
  size: z.number().min(0.5).max(2),
  /** Chance in each: as far as so many fw and degrees to each side, a share of its size larger or smaller; `mirrored`, how many of all. */
  scatter: z.strictObject({ x: z.number().min(0).max(1000), y: z.number().min(0).max(1000), depth: z.number().min(0).max(1000), rollDegrees: z.number().min(0).max(180), size: z.number().min(0).max(0.95), mirrored: unitInterval }),
  /** Each begins its swing, bob and drift so much of a period after the one before. */
  stagger: z.number().min(-1).max(1),
})

export const SHADOW_MOST = Object.freeze({ softFw: 1, length: 20 })

const level = {
  id: idSchema,
  /** Rack order, near first; decides only between levels at one depth. */
  order,
  name: text(120).min(1),
  x: fw,
  y: fw,
  depth: fw,
  scale: size,
  panDegrees: degrees,
  tiltDegrees: degrees,
  rollDegrees: degrees,
  opacity: unitInterval,
  visible: z.boolean(),
  locked: z.boolean(),
  /** Someone who acts: copied when a panel is duplicated, black in Silhouette. Absent: no. */
  figure: z.boolean().optional(),
  /** It stands in for something that is not drawn yet: faded with all others that do, and in no movie unless it is asked for. Absent: no. */
  standIn: z.boolean().optional(),
  /** Levels of one group name are handled together; absent or empty: in no group. */
  group: text(120).optional(),
  /** The colour that all of the level's art is turned towards; absent or null: as drawn. */
  tint: z.strictObject({ colour, strength: unitInterval }).nullable().optional(),
  /** How light its art is shown, −1 black … 1 white, and how much of its colour is left, 0 none … 1 all. Absent: as drawn. */
  tone: z.strictObject({ light: z.number().min(-1).max(1), colour: unitInterval }).optional(),
  /** Past which sides of the frame it must go wherever a camera looks. Absent: guessed of what it is. */
  owes: z.union([z.enum(['all', 'none']), z.array(z.enum(['left', 'right', 'bottom', 'top'])).min(1).max(4)]).optional(),
  /** The paper that its art is made on, in the art's own fw. It changes nothing that is seen. Absent: none is laid out. */
  paper: z.strictObject({ left: fw, right: fw, bottom: fw, top: fw }).refine(({ left, right, bottom, top }) => right - left > 1e-4 && top - bottom > 1e-4, 'a paper has a width and a height').optional(),
  /** Its shadow on the ground: how dark, 0…1, how wide its edge is, fw of the art, and how it falls (see `shadowPlane`). Absent: none. */
  shadow: z.strictObject({ strength: unitInterval, soft: z.number().min(0).max(SHADOW_MOST.softFw), ground: fw, towardsDegrees: degrees, length: z.number().min(0).max(SHADOW_MOST.length) }).optional(),
  /** What turns and grows stand still about, in the art's own fw; it stands at the level's place. Absent: the art's middle. */
  pivot: z.strictObject({ x: fw, y: fw }).optional(),
  /** Its motion shows every so many frames only, counted from each key; `held`, only its keys. Absent: every frame. */
  stepped: z.union([z.literal(2), z.literal(3), z.literal(4), z.literal('held')]).optional(),
  /** What carries it: its numbers are then in the axes of that. Absent: the set. */
  carrier: carrierSchema.optional(),
  /** It turns to the camera: its plane parallel to the picture, or only its pan. Absent: it stays as its turn says. */
  facing: z.enum(['lens', 'upright']).optional(),
  /** Added to its roll, degrees. */
  swing: swaySchema.optional(),
  /** Added to its height, fw. */
  bob: swaySchema.optional(),
  /** Added to its x and y, fw: smooth noise. */
  drift: z.strictObject({ ...sway, seed: z.int().min(0).max(0xffff_ffff) }).optional(),
  /** Absent: it is shown once. */
  repeat: repeatSchema.optional(),
}

/** The most pieces of a set. */
export const PIECES_MOST = 500

/** What levels of a set may be, too, beside references. */
export const pieceKinds = [
  z.strictObject({ ...level, kind: z.literal('carrier') }),
  z.strictObject({ ...level, kind: z.literal('drawn') }),
  z.strictObject({ ...level, kind: z.literal('placed') }),
] as const

/** Where a reference lies: under all others or over them. Absent: under. */
const over = z.boolean().optional()
/** A reference in a set; it has no time, so it is one picture. */
export const pieceReference = z.strictObject({ ...level, kind: z.literal('reference'), over })

/**
 * What a level is: drawn, of placed pictures, a carrier, which shows nothing and is there to be moved, a set, whose pieces it
 * carries, or a reference, which is seen while working and never handed over.
 */
export const levelSchema = z.discriminatedUnion('kind', [
  ...pieceKinds,
  z.strictObject({
    ...level,
    kind: z.literal('set'),
    setId: idSchema,
    /** Pieces that are not seen in this shot. Absent: all are. */
    hidden: z.array(idSchema).max(PIECES_MOST).optional(),
    /** What sways in it does so as if the shot had begun so many frames later. Absent: 0. */
    laterFrames: z.int().min(-PANEL_FRAMES_RANGE.max * 10).max(PANEL_FRAMES_RANGE.max * 10).optional(),
  }),
  z.strictObject({
    ...level,
    kind: z.literal('reference'),
    over,
    /** Where its drawing is a numbered sequence of pictures: the shot's frame that shows the first. */
    sequence: z.strictObject({ startFrame: z.int().min(-1_000_000).max(1_000_000), framesEach: z.int().min(1).max(1000) }).nullable().optional(),
  }),
])
/** What a level that is a set shows where it is seen: as a drawing would be named, but none. */
export const SET_SHOWN = 'set'

/** Whether a level has no art of its own: it is there to carry others. */
export const showsNothing = ({ kind }: Pick<Level, 'kind'>): boolean => kind === 'carrier' || kind === 'set'

/** What only a reference has. */
const REFERENCE_FIELDS = Object.freeze(['over', 'sequence'] as const)

/** Whether something has what only a reference may. */
export const isHalfReference = (level: object) => (level as { readonly kind?: unknown }).kind !== 'reference' && REFERENCE_FIELDS.some((field) => field in level)

/** The same without what only a reference has, where it is none. */
export function asOneKind<L extends object>(level: L): L {
  if (!isHalfReference(level)) return level
  return Object.fromEntries(Object.entries(level).filter(([field]) => !(REFERENCE_FIELDS as readonly string[]).includes(field))) as L
}

/** From a frame of a panel on, what a level shows, until its next cell. */
export const cellSchema = z.strictObject({
  /** `levelId.panelId`, and `.offsetFrames` where that is not 0, so that there is at most one for each place. See `cellIdOf`. */
  id: recordIdSchema,
  levelId: idSchema,
  panelId: idSchema,
  /** From the panel's first frame. Absent: 0. */
  offsetFrames: z.int().min(1).max(PANEL_FRAMES_RANGE.max).optional(),
  /** Null: from there on the level shows nothing. Of a set, `SET_SHOWN`: from there on it is seen. */
  drawingId: idSchema.nullable(),
})

/** A drawing of a level, by the name that it is exposed by; it stays the level's where no cell shows it. */
export const levelDrawingSchema = z.strictObject({
  /** `levelId.drawingId`. */
  id: recordIdSchema,
  levelId: idSchema,
  drawingId: idSchema,
  name: text(12).min(1),
})

/**
 * A key of one of a level's tracks. What it says stands in the place of what the level says, whenever there is a key of
 * that kind.
 */
const levelKey = {
  id: idSchema,
  levelId: idSchema,
  panelId: idSchema,
  /** From the panel's first frame. */
  offsetFrames: z.int().min(0).max(PANEL_FRAMES_RANGE.max),
  /** The way that leaves this key for the next. */
  move: moveSchema,
  locked: z.boolean(),
  /** The path goes through without a corner. Absent: a corner. */
  smooth: z.boolean().optional(),
}
export const levelKeySchema = z.discriminatedUnion('of', [
  z.strictObject({ ...levelKey, of: z.literal('place'), value: point3 }),
  z.strictObject({ ...levelKey, of: z.literal('turn'), value: z.strictObject({ panDegrees: degrees, tiltDegrees: degrees, rollDegrees: degrees }) }),
  z.strictObject({ ...levelKey, of: z.literal('size'), value: size }),
  z.strictObject({ ...levelKey, of: z.literal('opacity'), value: unitInterval }),
])

/** What lies under the overhead plan: a drawing in the set's own x and depth. It is never handed over. */
export const groundPlanSchema = z.strictObject({
  id: z.literal('ground'),
  drawingId: idSchema,
  opacity: unitInterval,
  visible: z.boolean(),
})

export function cellIdOf(levelId: Id, panelId: Id, offsetFrames = 0): string {
  return offsetFrames === 0 ? `${levelId}.${panelId}` : `${levelId}.${panelId}.${offsetFrames}`
}

/** A cell at its place. */
export const cellAt = (levelId: Id, panelId: Id, offsetFrames: number, drawingId: Id | null): Cell => ({ id: cellIdOf(levelId, panelId, offsetFrames), levelId, panelId, ...(offsetFrames === 0 ? {} : { offsetFrames }), drawingId })

export const levelDrawingIdOf = (levelId: Id, drawingId: Id): string => `${levelId}.${drawingId}`

export type Carrier = Readonly<z.infer<typeof carrierSchema>>
export type Panel = Readonly<z.infer<typeof panelSchema>>
export type Level = Readonly<z.infer<typeof levelSchema>>
/** What a level may be given; what only a reference has goes with it when it becomes something else. */
export type LevelFields = Partial<Omit<Level, 'id' | 'kind'>> & Partial<Pick<ReferenceLevel, (typeof REFERENCE_FIELDS)[number]>> & { readonly kind?: Level['kind'] }
export type SetLevel = Extract<Level, { readonly kind: 'set' }>
export type ReferenceLevel = Extract<Level, { readonly kind: 'reference' }>
export type Cell = Readonly<z.infer<typeof cellSchema>>
export type LevelDrawing = Readonly<z.infer<typeof levelDrawingSchema>>
export type LevelKey = Readonly<z.infer<typeof levelKeySchema>>
export type GroundPlan = Readonly<z.infer<typeof groundPlanSchema>>
