import { z } from 'zod'
import { drawingProblems, idProblems, outlineProblems, setProblems, takeProblems, type DocumentProblem } from './checkTake'
import { drawingsWith, takeLengthFrames } from './panels'
import { setDrawings } from './sets'
import { idSchema } from './records'
import { openBreakdown, openDrawing, openSet, openTakeBody, openTry, type Opened } from './migrate'
import { EMPTY_BREAKDOWN, EMPTY_DRAWING, EMPTY_OUTLINE, EMPTY_SET, EMPTY_TAKE, EMPTY_TRY, UNIT_SCHEMAS, type Drawing, type Film, type Outline, type SetBody, type TakeBody, type Unit, type UnitKind, type UnitRef } from './units'

/** Where a film holds the units of a kind, by id. */
type Home = Exclude<keyof Film, 'outline'>

/** What there is to know of a kind of unit. Whatever goes by kind reads it here. */
export interface UnitKindEntry {
  /** Null for the outline, of which a film has one. */
  readonly home: Home | null
  /** A unit that nobody has made yet. */
  readonly empty: Unit
  /** The record schemas, by collection. */
  readonly schemas: Readonly<Record<string, z.ZodType>>
  /** Reads one that is kept by itself, of any version; null for the outline, which is kept as rows. */
  readonly open: ((stored: unknown, version: number) => Opened<Unit>) | null
  /** What its records say of each other that cannot be. */
  problems(unit: Unit): readonly DocumentProblem[]
  /** How long it is in the film's time; absent: it has no time of its own. */
  lengthFrames?(unit: Unit): number
  /** The drawings that it shows, by id, and the pictures in it, by the hash of their bytes. */
  drawings?(unit: Unit): readonly string[]
  pictures?(unit: Unit): readonly string[]
}

export const UNIT_KINDS: Record<UnitKind, UnitKindEntry> = {
  outline: { home: null, empty: EMPTY_OUTLINE, schemas: UNIT_SCHEMAS.outline, open: null, problems: (unit) => outlineProblems(unit as Outline) },
  take: { home: 'takes', empty: EMPTY_TAKE, schemas: UNIT_SCHEMAS.take, open: openTakeBody, problems: (unit) => takeProblems(unit as TakeBody), lengthFrames: (unit) => takeLengthFrames(unit as TakeBody), drawings: (unit) => drawingsWith(unit as TakeBody) },
  drawing: { home: 'drawings', empty: EMPTY_DRAWING, schemas: UNIT_SCHEMAS.drawing, open: openDrawing, problems: (unit) => drawingProblems(unit as Drawing), pictures: (unit) => [...new Set((unit as Drawing).marks.flatMap((mark) => (mark.kind === 'picture' ? [mark.assetHash] : [])))] },
  set: { home: 'sets', empty: EMPTY_SET, schemas: UNIT_SCHEMAS.set, open: openSet, problems: (unit) => setProblems(unit as SetBody), drawings: (unit) => setDrawings(unit as SetBody) },
  try: { home: 'tries', empty: EMPTY_TRY, schemas: UNIT_SCHEMAS.try, open: openTry, problems: idProblems },
  breakdown: { home: 'breakdowns', empty: EMPTY_BREAKDOWN, schemas: UNIT_SCHEMAS.breakdown, open: openBreakdown, problems: idProblems },
}

/** Which unit an edit touches. The outline's id is the project's. */
export const unitRefSchema = z.strictObject({ kind: z.custom<UnitKind>((kind) => typeof kind === 'string' && Object.hasOwn(UNIT_KINDS, kind), { message: 'no such kind of unit' }), id: idSchema })

/** Kinds of which a film has many, each kept and loaded by itself. */
export type BodyKind = Exclude<UnitKind, 'outline'>
export const bodyKinds = (): readonly BodyKind[] => (Object.keys(UNIT_KINDS) as UnitKind[]).filter((kind): kind is BodyKind => UNIT_KINDS[kind].home !== null)

type Held = Readonly<Record<string, Unit>>

/** All loaded units of a kind, by id. */
export const unitsOf = (film: Film, kind: BodyKind): Held => film[UNIT_KINDS[kind].home!] ?? {}

/** Undefined where it is not loaded. */
export function loadedUnit(film: Film, { kind, id }: UnitRef): Unit | undefined {
  if (kind === 'outline') return film.outline
  const held = unitsOf(film, kind)
  return Object.hasOwn(held, id) ? held[id] : undefined
}

/** One that is not loaded is taken to be empty. */
export const unitIn = (film: Film, ref: UnitRef): Unit => loadedUnit(film, ref) ?? UNIT_KINDS[ref.kind].empty

/** The film with units put in. */
export function withUnits(film: Film, kind: BodyKind, units: Held): Film {
  return { ...film, [UNIT_KINDS[kind].home!]: { ...unitsOf(film, kind), ...units } }
}

export function withUnit(film: Film, { kind, id }: UnitRef, unit: Unit): Film {
  return kind === 'outline' ? { ...film, outline: unit as Outline } : withUnits(film, kind, { [id]: unit })
}

/** A film that is being changed by many edits: its maps are copied once, not for each of them. */
export function filmAtWork(film: Film): Film {
  return Object.assign({ ...film }, ...bodyKinds().map((kind) => ({ [UNIT_KINDS[kind].home!]: { ...unitsOf(film, kind) } }))) as Film
}

/** Puts a unit into a film at work. */
export function putAtWork(film: Film, { kind, id }: UnitRef, unit: Unit): void {
  if (kind === 'outline') (film as { outline: Outline }).outline = unit as Outline
  else (unitsOf(film, kind) as Record<string, Unit>)[id] = unit
}
