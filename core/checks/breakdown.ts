import { carriersOf } from '../document/carriers'
import { exposuresOf } from '../document/exposures'
import { liveSpans } from '../document/liveCamera'
import { isSetLevel, pieceOf } from '../document/sets'
import { levelWorkId, setWorkId, showsNothing, type Level, type WorkWeight } from '../document/records'
import type { TakeBody } from '../document/units'
import { union, type Rectangle } from '../geometry/rectangle'
import { movePartsOf, type MovePart } from '../moves/moveParts'
import type { TakeStage } from '../stage/takeStage'
import { owedBy } from './edges'
import { PAINT_MOST } from './paintSheet'
import { finished, NEED_MARGIN, neededOf, needSteps, sizePx, type DrawingHint, type TakeNeeds } from './needed'

/** Facts of another version are worked out anew. */
export const FACTS_VERSION = 1

/** What sort of thing a level is: someone who acts, what hangs on someone, what lies before everyone, and all else. */
export type LevelSort = 'figure' | 'prop' | 'overlay' | 'background'

/** Of a level that shows art: what whoever makes it has to know. */
export interface LevelFacts {
  /** In its shot; of a piece that of its set. */
  readonly id: string
  readonly setId: string | null
  readonly name: string
  readonly sort: LevelSort
  readonly drawings: number
  /** How often it changes what it shows. */
  readonly exposures: number
  readonly stepped: Level['stepped'] | null
  readonly moves: boolean
  readonly turned: boolean
  /** What the moves need of its art, its own fw, and fw of the picture to one of it where it is largest; null where it is never seen. */
  readonly need: { readonly box: Rectangle; readonly magnification: number; readonly isEndless: boolean } | null
}
export type CameraSort = 'locked' | 'moves' | 'follows' | 'by hand'

/** Of a shot, as its circled take stands. */
export interface TakeFacts {
  readonly frames: number
  readonly framings: number
  readonly cameras: number
  readonly camera: CameraSort
  /** Of what its live camera does first of all. */
  readonly move: readonly MovePart[]
  readonly dissolves: number
  /** Letters of dialogue. */
  readonly dialogue: number
  readonly levels: readonly LevelFacts[]
  /** It has more than `RECKONED_MOST` frames of levels, so that what art they need is not reckoned. */
  readonly isTooLong: boolean
}
/** Of one level in one frame, so many are looked through: an hour of twelve levels. */
const RECKONED_MOST = 1_000_000

/** What a shot shows and asks for; `boundsOf` says where a drawing's art lies. The take has its sets unfolded. */
export const factsOf = (stage: TakeStage, takeId: string, boundsOf: (drawingId: string) => Rectangle | null): TakeFacts => finished(factSteps(stage, takeId, boundsOf))

/** The same step by step, so that who does it may rest in between. */
export function* factSteps(stage: TakeStage, takeId: string, boundsOf: (drawingId: string) => Rectangle | null): Generator<void, TakeFacts> {
  const { take } = stage
  const shows = Object.values(take.levels).filter((level) => !showsNothing(level) && level.kind !== 'reference' && level.standIn !== true)
  const shown = new Map(shows.map((level) => [level, [...new Set(exposuresOf(take, level.id).flatMap(({ cell }) => cell.drawingId ?? []))]] as const))
  const hints = new Map<string, DrawingHint>()
  for (const [level, drawings] of shown) for (const id of drawings) hints.set(id, { bounds: boundsOf(id), owes: owesOf(level) })
  const isTooLong = stage.lengthFrames * shows.length > RECKONED_MOST
  const needs: TakeNeeds = isTooLong ? new Map() : yield* needSteps(stage, takeId, hints, NEED_MARGIN.usual)
  const first = stage.lengthFrames > 0 ? stage.at(0) : null
  const distance = new Map(first?.levels.map(({ level, z }) => [level.id, z]))
  const nearest = Math.min(...shows.flatMap((level) => (level.figure === true ? (distance.get(level.id) ?? []) : [])))
  const keyed = new Set(Object.values(take.levelKeys).map(({ levelId }) => levelId))
  const spans = Object.values(take.spans)
  const framings = Object.keys(take.cameras).map((id) => stage.framings(id))
  const reckoned: LevelFacts[] = []
  for (const level of shows) {
    reckoned.push(factsOfLevel(level))
    yield
  }
  return {
    frames: stage.lengthFrames,
    framings: sum(framings, (each) => each.length),
    cameras: framings.filter((each) => each.length > 0).length || Math.min(1, framings.length),
    camera: spans.some(({ kind }) => kind === 'hand') ? 'by hand' : spans.length > 0 ? 'follows' : framings.some((each) => each.length > 1) ? 'moves' : 'locked',
    move: moveOf(stage),
    dissolves: liveSpans(take).filter(({ dissolveFrames }) => dissolveFrames > 0).length,
    dialogue: sum(Object.values(take.panels), ({ dialogue }) => dialogue.trim().length),
    levels: reckoned,
    isTooLong,
  }

  function factsOfLevel(level: Level): LevelFacts {
    const drawings = shown.get(level)!
    const need = neededOf(drawings, [needs])
    const piece = pieceOf(level.id)
    const on = piece === null ? undefined : take.levels[piece.setLevelId]
    return {
      id: piece?.pieceId ?? level.id,
      setId: on !== undefined && isSetLevel(on) ? on.setId : null,
      name: level.name,
      sort: sortOf(take, level, distance.get(level.id), nearest),
      drawings: drawings.length,
      exposures: exposuresOf(take, level.id).filter(({ cell }) => cell.drawingId !== null).length,
      stepped: level.stepped ?? null,
      moves: [level, ...carriersOf(take, level).chain].some((each) => keyed.has(each.id) || each.swing !== undefined || each.bob !== undefined || each.drift !== undefined),
      turned: level.panDegrees !== 0 || level.tiltDegrees !== 0,
      need: need === null ? null : { box: need.box, magnification: need.magnification, isEndless: need.isEndless },
    }
  }
}

/** The same as in the view that says how much art is needed: a figure and what is shown many times owe none. */
export const owesOf = (level: Level) => owedBy(level) ?? (level.figure === true || level.repeat !== undefined ? [] : null)

/** Nearer than the picture plane by so much, where nobody acts, is before it. */
const BEFORE_FW = 0.2
function sortOf(take: TakeBody, level: Level, z: number | undefined, nearestFigure: number): LevelSort {
  if (level.figure === true) return 'figure'
  if (carriersOf(take, level).chain.some(({ figure }) => figure === true)) return 'prop'
  const isBefore = Number.isFinite(nearestFigure) ? z !== undefined && z < nearestFigure - 1e-6 : level.depth < -BEFORE_FW
  return isBefore ? 'overlay' : 'background'
}

/** What the camera that is live first does: from its first framing to its last, or, where it comes back, in its greatest move. */
function moveOf(stage: TakeStage): readonly MovePart[] {
  const cameraId = stage.lengthFrames === 0 ? null : stage.at(0).cameraId
  const framings = cameraId === null ? [] : stage.framings(cameraId)
  if (framings.length < 2) return []
  const [first, last] = [framings[0]!, framings.at(-1)!]
  const whole = movePartsOf(first.framing.pose, last.framing.pose, first.framing.move, last.frame - first.frame).parts
  if (whole.length > 0) return whole
  return framings.slice(1).map(({ framing, frame }, i) => movePartsOf(framings[i]!.framing.pose, framing.pose, framings[i]!.framing.move, frame - framings[i]!.frame).parts).reduce((best, parts) => (parts.length > best.length ? parts : best), [])
}

/** What each counts in points, and how long a point takes, unless the film says otherwise. */
export const WEIGHTS: Readonly<Record<WorkWeight, number>> = Object.freeze({ level: 0.5, moving: 1.5, turned: 1, camera: 1, paint: 0.4, exposure: 0.05, dissolve: 1, daysPerPoint: 0.1 })
const CAMERA_COUNTS: Readonly<Record<CameraSort, number>> = { locked: 0, moves: 2, follows: 3, 'by hand': 3 }

/** What makes something hard: so many of what, each counting so much. */
export interface Term {
  readonly of: Exclude<WorkWeight, 'daysPerPoint'>
  readonly count: number
  readonly points: number
}
export interface Difficulty {
  readonly points: number
  readonly terms: readonly Term[]
}
function summed(counts: Readonly<Partial<Record<Term['of'], number>>>, weights: Readonly<Record<WorkWeight, number>>): Difficulty {
  const terms = Object.entries(counts).flatMap(([of, count]): Term[] => (count > 0 ? [{ of: of as Term['of'], count, points: count * weights[of as Term['of']] }] : []))
  return { terms, points: terms.reduce((sum, { points }) => sum + points, 0) }
}

/** What a camera goes through would have to be painted larger than can be: it counts no more than the largest picture. */
const MEGAPIXELS_MOST = PAINT_MOST.px / 1e6
const megapixels = (need: LevelFacts['need'], widthPx: number) => {
  if (need === null) return 0
  const { width, height } = sizePx(need.box, need.magnification, widthPx)
  return Math.min(MEGAPIXELS_MOST, (width * height) / 1e6)
}

export function shotDifficulty({ levels, camera, cameras, dissolves }: TakeFacts, weights: Readonly<Record<WorkWeight, number>>, widthPx: number): Difficulty {
  return summed(
    {
      level: levels.length,
      moving: levels.filter(({ moves }) => moves).length,
      turned: levels.filter(({ turned }) => turned).length,
      camera: CAMERA_COUNTS[camera] + 2 * Math.max(0, cameras - 1),
      paint: sum(levels, ({ need }) => megapixels(need, widthPx)),
      exposure: sum(levels, ({ exposures }) => Math.max(0, exposures - 1)),
      dissolve: dissolves,
    },
    weights,
  )
}

export type ThingSort = LevelSort | 'set'
/** Something to be made: a set with its pieces, or a level of one shot. */
export interface Thing {
  /** `set.SET` or `level.SHOT.LEVEL`, which what is said of it goes by. */
  readonly id: string
  readonly sort: ThingSort
  readonly name: string
  /** The shots that see it, in film order. */
  readonly shotIds: readonly string[]
  /** Of a set of its pieces; one otherwise. */
  readonly pieces: number
  readonly drawings: number
  readonly exposures: number
  readonly stepped: Level['stepped'] | null
  /** Px of the largest piece; null where nothing of it is seen. */
  readonly size: { readonly width: number; readonly height: number } | null
  readonly megapixels: number
  /** Fw of the picture to one of the art where it is seen largest; 0 where it is not. */
  readonly closest: number
  readonly isEndless: boolean
  /** A shot that it is in is too long to say what is needed of it. */
  readonly isTooLong: boolean
  readonly moves: boolean
  readonly turned: boolean
}

export interface ShotFacts {
  readonly shotId: string
  readonly facts: TakeFacts
}

/** All that is to be made, sets first and then shot by shot; `setName` says what a set is called. Shots are in film order. */
export function thingsOf(shots: readonly ShotFacts[], setName: (setId: string) => string, widthPx: number): readonly Thing[] {
  const sets = new Map<string, { readonly shotIds: Set<string>; readonly pieces: Map<string, LevelFacts>; isTooLong: boolean }>()
  const things: Thing[] = []
  for (const { shotId, facts } of shots) {
    for (const level of facts.levels) {
      if (level.setId === null) {
        things.push({ ...level, id: levelWorkId(shotId, level.id), shotIds: level.need === null && !facts.isTooLong ? [] : [shotId], pieces: 1, isTooLong: facts.isTooLong, ...made([level], widthPx) })
        continue
      }
      let set = sets.get(level.setId)
      if (set === undefined) sets.set(level.setId, (set = { shotIds: new Set(), pieces: new Map(), isTooLong: false }))
      set.isTooLong ||= facts.isTooLong
      if (level.need !== null || facts.isTooLong) set.shotIds.add(shotId)
      set.pieces.set(level.id, joinedPiece(set.pieces.get(level.id), level))
    }
  }
  const ofSets = [...sets].map(([setId, { shotIds, pieces, isTooLong }]): Thing => {
    const all = [...pieces.values()]
    return { id: setWorkId(setId), sort: 'set', name: setName(setId), shotIds: [...shotIds], pieces: all.length, isTooLong, stepped: null, drawings: sum(all, ({ drawings }) => drawings), exposures: all.length, moves: all.some(({ moves }) => moves), turned: all.some(({ turned }) => turned), ...made(all, widthPx) }
  })
  return [...ofSets, ...things]
}

const sum = <T>(list: readonly T[], of: (each: T) => number) => list.reduce((all, each) => all + of(each), 0)

/** A piece as two shots see it: what either needs, as near as the nearer. */
function joinedPiece(before: LevelFacts | undefined, now: LevelFacts): LevelFacts {
  if (before === undefined || before.need === null) return now
  if (now.need === null) return before
  return { ...now, moves: before.moves || now.moves, need: { box: union(before.need.box, now.need.box)!, magnification: Math.max(before.need.magnification, now.need.magnification), isEndless: before.need.isEndless || now.need.isEndless } }
}

function made(levels: readonly LevelFacts[], widthPx: number): Pick<Thing, 'size' | 'megapixels' | 'closest' | 'isEndless'> {
  const seen = levels.flatMap(({ need }) => (need === null ? [] : [{ ...sizePx(need.box, need.magnification, widthPx), need }]))
  const largest = seen.reduce<(typeof seen)[number] | null>((best, each) => (best === null || each.width * each.height > best.width * best.height ? each : best), null)
  return { size: largest === null ? null : { width: largest.width, height: largest.height }, megapixels: sum(seen, ({ need }) => megapixels(need, widthPx)), closest: Math.max(0, ...seen.map(({ need }) => need.magnification)), isEndless: seen.some(({ need }) => need.isEndless) }
}

/** Each drawing of a figure is painted as large as all of them together. */
export function thingDifficulty(thing: Thing, weights: Readonly<Record<WorkWeight, number>>): Difficulty {
  const repaints = thing.sort === 'set' ? 1 : Math.max(1, thing.drawings)
  return summed({ level: thing.pieces, moving: Number(thing.moves), turned: Number(thing.turned), paint: thing.megapixels * repaints, exposure: thing.sort === 'set' ? 0 : Math.max(0, thing.exposures - 1) }, weights)
}
