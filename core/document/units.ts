import { z } from 'zod'
import { isInOrder } from './order'
import {
  airKeySchema,
  airSchema,
  cameraCutSchema,
  cameraSchema,
  cellSchema,
  clipSchema,
  framingSchema,
  groundPlanSchema,
  idSchema,
  laneSchema,
  levelDrawingSchema,
  levelKeySchema,
  levelSchema,
  linkSchema,
  markSchema,
  meantSchema,
  panelSchema,
  passageSchema,
  pieceArtSchema,
  pieceSchema,
  presetSchema,
  projectSchema,
  recordIdSchema,
  rulerMarkSchema,
  sequenceSchema,
  setSchema,
  shotSchema,
  spanEndSchema,
  spanSchema,
  takeSchema,
  transitionSchema,
  trySamplesSchema,
  trySchema,
  workColumnSchema,
  workSchema,
  workWeightsSchema,
  type Mark,
} from './records'

/** The version of the whole format; a change of any schema raises it and adds a migration. */
export const FORMAT_VERSION = 21

/** The record schemas of each kind of unit, by collection. */
export const UNIT_SCHEMAS = Object.freeze({
  outline: { project: projectSchema, sequences: sequenceSchema, shots: shotSchema, takes: takeSchema, passages: passageSchema, links: linkSchema, rulerMarks: rulerMarkSchema, lanes: laneSchema, clips: clipSchema, transitions: transitionSchema, sets: setSchema },
  take: {
    panels: panelSchema,
    levels: levelSchema,
    cells: cellSchema,
    levelDrawings: levelDrawingSchema,
    cameras: cameraSchema,
    framings: framingSchema,
    levelKeys: levelKeySchema,
    cuts: cameraCutSchema,
    spans: spanSchema,
    spanEnds: spanEndSchema,
    tries: trySchema,
    presets: presetSchema,
    grounds: groundPlanSchema,
    air: airSchema,
    airKeys: airKeySchema,
    meant: meantSchema,
  },
  drawing: { marks: markSchema },
  /** Levels that stand in many shots; they have no time and no camera of their own. */
  set: { pieces: pieceSchema, art: pieceArtSchema },
  /** What a hand did with a camera; never changed once it is there. */
  try: { samples: trySamplesSchema },
  /** What the artist says of what is to be made; a film has one, `BREAKDOWN_ID`. */
  breakdown: { work: workSchema, columns: workColumnSchema, weights: workWeightsSchema },
})

export type UnitKind = keyof typeof UNIT_SCHEMAS

type UnitOf<Schemas extends Record<string, z.ZodType>> = {
  readonly [Collection in keyof Schemas]: Readonly<Record<string, Readonly<z.infer<Schemas[Collection]>>>>
}

export type Outline = UnitOf<(typeof UNIT_SCHEMAS)['outline']>
export type TakeBody = UnitOf<(typeof UNIT_SCHEMAS)['take']>
/** Marks in order, from the bottom: an array, so that a drawing of thousands costs little to change. */
export interface Drawing {
  readonly marks: readonly Mark[]
}
export type TryBody = UnitOf<(typeof UNIT_SCHEMAS)['try']>
export type SetBody = UnitOf<(typeof UNIT_SCHEMAS)['set']>
export type Breakdown = UnitOf<(typeof UNIT_SCHEMAS)['breakdown']>
export type Unit = Outline | TakeBody | Drawing | TryBody | SetBody | Breakdown

/** Which unit an edit touches. The outline's id is the project's. */
export interface UnitRef {
  readonly kind: UnitKind
  readonly id: string
}
/** Whose a level is: a take's, or a set's, of which it is a piece. */
export type LevelOwner = UnitRef & { readonly kind: 'take' | 'set' }
export const takeRef = (id: string): UnitRef => ({ kind: 'take', id })
export const drawingRef = (id: string): UnitRef => ({ kind: 'drawing', id })
export const tryRef = (id: string): UnitRef => ({ kind: 'try', id })
export const setRef = (id: string): UnitRef => ({ kind: 'set', id })
export const BREAKDOWN_ID = 'film'
export const BREAKDOWN_REF: UnitRef = Object.freeze({ kind: 'breakdown', id: BREAKDOWN_ID })
/** The outline's id is the project's. */
export const outlineRef = (projectId: string): UnitRef => ({ kind: 'outline', id: projectId })

const collections = <Schemas extends Record<string, z.ZodType>>(schemas: Schemas) =>
  z.strictObject(
    Object.fromEntries(
      Object.entries(schemas).map(([name, schema]) => [name, z.record(recordIdSchema, schema)]),
    ) as { [Name in keyof Schemas]: z.ZodRecord<z.ZodString, Schemas[Name]> },
  )

/** Outlines kept by version 1 have no script, those before 4 no marks on the ruler, those before 5 no sound and no transitions, those before 15 no sets. */
export const outlineSchema = collections(UNIT_SCHEMAS.outline).extend({
  passages: z.record(idSchema, passageSchema).default({}),
  links: z.record(recordIdSchema, linkSchema).default({}),
  rulerMarks: z.record(idSchema, rulerMarkSchema).default({}),
  lanes: z.record(idSchema, laneSchema).default({}),
  clips: z.record(idSchema, clipSchema).default({}),
  transitions: z.record(idSchema, transitionSchema).default({}),
  sets: z.record(idSchema, setSchema).default({}),
})
/** Bodies kept by versions before 6 have no presets and nothing under the plan, those before 9 no keys of levels, those before 10 no names of drawings, those before 11 no spans of cameras, those before 12 no tries, those before 16 no haze, no focus and nothing that is meant. */
export const takeBodySchema = collections(UNIT_SCHEMAS.take).extend({
  presets: z.record(z.string().max(1), presetSchema).default({}),
  grounds: z.record(idSchema, groundPlanSchema).default({}),
  levelKeys: z.record(idSchema, levelKeySchema).default({}),
  levelDrawings: z.record(recordIdSchema, levelDrawingSchema).default({}),
  spans: z.record(idSchema, spanSchema).default({}),
  spanEnds: z.record(idSchema, spanEndSchema).default({}),
  tries: z.record(idSchema, trySchema).default({}),
  air: z.record(idSchema, airSchema).default({}),
  airKeys: z.record(idSchema, airKeySchema).default({}),
  meant: z.record(recordIdSchema, meantSchema).default({}),
})
export const drawingSchema = z.strictObject({
  marks: z.array(markSchema).refine(isInOrder, { message: 'marks are not in order, or two have one id' }),
})

export const tryBodySchema = collections(UNIT_SCHEMAS.try)
export const setBodySchema = collections(UNIT_SCHEMAS.set)
export const breakdownSchema = collections(UNIT_SCHEMAS.breakdown)

export const EMPTY_OUTLINE: Outline = freeze({ project: {}, sequences: {}, shots: {}, takes: {}, passages: {}, links: {}, rulerMarks: {}, lanes: {}, clips: {}, transitions: {}, sets: {} })
export const EMPTY_TAKE: TakeBody = freeze({ panels: {}, levels: {}, cells: {}, levelDrawings: {}, cameras: {}, framings: {}, levelKeys: {}, cuts: {}, spans: {}, spanEnds: {}, tries: {}, presets: {}, grounds: {}, air: {}, airKeys: {}, meant: {} })
export const EMPTY_DRAWING: Drawing = freeze({ marks: [] })
export const EMPTY_TRY: TryBody = freeze({ samples: {} })
export const EMPTY_BREAKDOWN: Breakdown = freeze({ work: {}, columns: {}, weights: {} })
export const EMPTY_SET: SetBody = freeze({ pieces: {}, art: {} })

/** What a session holds of a film: its outline, and the bodies and drawings loaded so far. */
export interface Film {
  readonly outline: Outline
  readonly takes: Readonly<Record<string, TakeBody>>
  readonly drawings: Readonly<Record<string, Drawing>>
  /** Samples of tries that were looked at. */
  readonly tries?: Readonly<Record<string, TryBody>>
  /** Those that shots loaded so far stand in. */
  readonly sets?: Readonly<Record<string, SetBody>>
  /** Once somebody has looked at it. */
  readonly breakdowns?: Readonly<Record<string, Breakdown>>
}

/** Freezes two levels down, collections and records, which is where edits could go wrong. */
export function freeze<T extends object>(value: T): T {
  if (Object.isFrozen(value)) return value
  Object.freeze(value)
  for (const child of Object.values(value)) {
    if (child !== null && typeof child === 'object' && !isPlainList(child)) freeze(child)
  }
  return value
}

/** Points and outlines: numbers are not worth freezing one by one. */
function isPlainList(value: object): boolean {
  return Array.isArray(value) && typeof value[0] !== 'object'
}
