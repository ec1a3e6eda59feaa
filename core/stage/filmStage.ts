import { inOrder } from '../document/order'
import { isInFilm, type Sequence, type Shot } from '../document/records'
import type { Outline } from '../document/units'
import type { PlacedShot } from './placedShot'
import { indexAt } from '../time/indexAt'
import { shownInFilm, type StageOf } from './shownAt'
import type { Shown } from './shown'
import { NOTHING_BEYOND, type Beyond } from './takeStage'
import { placeTransitions, type PlacedTransition } from './transitions'

/** Frames of the film; `end` is the one after the last. */
export interface FilmSpan {
  readonly start: number
  readonly end: number
}

/** The film from cut to cut. Built from lengths alone, so no body need be loaded. */
export interface FilmStage {
  readonly shots: readonly PlacedShot[]
  readonly lengthFrames: number
  /** The shot on screen at a frame of the film; held at both ends; null for an empty film. */
  shotAt(frame: number): PlacedShot | null
  placeOf(shotId: string): PlacedShot | null
  /** The length of any shot's circled take, also of one in the tray; 0 where it has none. */
  lengthOf(shotId: string): number
  /** The shot whose circled take it is; null for other takes. */
  placeOfTake(takeId: string): PlacedShot | null
  /** How far past the ends of a circled take the transitions there show it. */
  beyondOf(takeId: string): Beyond
  /** A sequence's frames, from its first shot to its last, `end` exclusive; null for one without shots. */
  spanOf(sequenceId: string): FilmSpan | null
  /** First to last. */
  readonly transitions: readonly PlacedTransition[]
  /** What is on the screen at a frame; held at both ends; null for an empty film. `stageOf` gives the stages that are there. */
  shownAt(frame: number, stageOf: StageOf): Shown | null
}

const startOf = (placed: PlacedShot) => placed.startFrame

/** `lengthOf` gives a take's length in frames; 0 where it has none. */
export function createFilmStage(outline: Pick<Outline, 'sequences' | 'shots'> & Partial<Pick<Outline, 'transitions'>>, lengthOf: (takeId: string) => number): FilmStage {
  const ordered = orderedShots(outline)
  let startFrame = 0
  const shots = ordered.map((shot, index) => {
    const lengthFrames = lengthOf(shot.circledTakeId)
    const placed = { shot, index, startFrame, lengthFrames }
    startFrame += lengthFrames
    return placed
  })
  let byTake: Map<string, PlacedShot> | null = null
  const byId = new Map(shots.map((placed) => [placed.shot.id, placed]))
  const placeOf = (shotId: string) => byId.get(shotId) ?? null
  let transitions: readonly PlacedTransition[] | null = null
  const placedTransitions = () => (transitions ??= placeTransitions(outline.transitions ?? {}, shots, placeOf))
  const placeOfTake = (takeId: string) => (byTake ??= new Map(shots.map((placed) => [placed.shot.circledTakeId, placed]))).get(takeId) ?? null
  let beyond: Map<string, Beyond> | null = null
  const beyondBy = (): Map<string, Beyond> => {
    if (beyond !== null) return beyond
    beyond = new Map()
    const put = (placed: PlacedShot | null, by: Partial<Beyond>) => placed !== null && beyond!.set(placed.shot.circledTakeId, { ...(beyond!.get(placed.shot.circledTakeId) ?? NOTHING_BEYOND), ...by })
    for (const { from, to, cutFrame, before, after } of placedTransitions()) {
      put(before, { after: to - cutFrame })
      put(after, { before: cutFrame - from })
    }
    return beyond
  }
  const shotAt = (frame: number): PlacedShot | null => shots[Math.max(0, indexAt(shots, frame, startOf))] ?? null
  return {
    shots,
    lengthFrames: startFrame,
    placeOf,
    lengthOf: (shotId) => ((shot) => (shot === undefined ? 0 : lengthOf(shot.circledTakeId)))(outline.shots[shotId]),
    placeOfTake,
    beyondOf: (takeId) => beyondBy().get(takeId) ?? NOTHING_BEYOND,
    spanOf: (sequenceId) => {
      const first = shots.find((placed) => placed.shot.sequenceId === sequenceId)
      const last = shots.findLast((placed) => placed.shot.sequenceId === sequenceId)
      return first === undefined || last === undefined ? null : { start: first.startFrame, end: last.startFrame + last.lengthFrames }
    },
    shotAt,
    get transitions() {
      return placedTransitions()
    },
    shownAt: (asked, stageOf) => {
      const frame = Math.min(Math.max(0, startFrame - 1), Math.max(0, asked))
      return shownInFilm(placedTransitions(), shotAt(frame), frame, stageOf)
    },
  }
}

const orders = new WeakMap<Outline['shots'], { readonly sequences: Outline['sequences']; readonly shots: readonly Shot[] }>()

/** Shots in film order, sorted once for each frozen collection: lengths change far more often than the order does. */
function orderedShots(outline: Pick<Outline, 'sequences' | 'shots'>): readonly Shot[] {
  const known = orders.get(outline.shots)
  if (known !== undefined && known.sequences === outline.sequences) return known.shots
  const sequences: readonly Sequence[] = inOrder(outline.sequences)
  const rank = new Map(sequences.map((sequence, index) => [sequence.id, index]))
  const shots = inOrder(outline.shots).filter(isInFilm).sort((a, b) => (rank.get(a.sequenceId) ?? 0) - (rank.get(b.sequenceId) ?? 0))
  orders.set(outline.shots, { sequences: outline.sequences, shots })
  return shots
}
