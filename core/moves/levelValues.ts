import { between, type Point3 } from '../geometry/point'
import { turnBetween } from './angles'
import { flipped, type Keyable, type KeyedField, type Mix } from './keyable'
import type { MoveSpec, TurnField } from './move'
import { createPath } from './path'
import { createProgress } from './timing'

/** How a level is turned, degrees, as a camera turns. */
export type LevelTurn = Readonly<Record<TurnField, number>>

/** Made anew with every frame; see `point3`. */
class Turned implements LevelTurn {
  constructor(
    readonly panDegrees: number,
    readonly tiltDegrees: number,
    readonly rollDegrees: number,
  ) {}
}

/** What of a level can be keyed, each on a track of its own: place in fw, turn in degrees, size as a factor, opacity 0…1. */
export interface LevelValues {
  readonly place: Point3
  readonly turn: LevelTurn
  readonly size: number
  readonly opacity: number
}
export type LevelAspect = keyof LevelValues
export const LEVEL_ASPECTS: readonly LevelAspect[] = Object.freeze(['place', 'turn', 'size', 'opacity'])

const field = <V, F extends string>(name: F, of: (value: V) => number, least: number): KeyedField<V, F> => ({ name, of, least, turns: name.endsWith('Degrees') })
const unturned = () => 0
const noPlace = () => null

const PLACES: Keyable<Point3, 'x' | 'y' | 'depth'> = Object.freeze({
  fields: (['x', 'y', 'depth'] as const).map((name) => field(name, (place: Point3) => place[name], 1e-3)),
  equal: (a: Point3, b: Point3) => a === b || (a.x === b.x && a.y === b.y && a.depth === b.depth),
  placeOf: (place: Point3) => place,
  turnOf: unturned,
  mirrored: (place: Point3) => ({ ...place, x: flipped(place.x) }),
})

const TURN_NAMES = ['panDegrees', 'tiltDegrees', 'rollDegrees'] as const
const TURNS: Keyable<LevelTurn, TurnField> = Object.freeze({
  fields: TURN_NAMES.map((name) => field(name, (turn: LevelTurn) => turn[name], 0.05)),
  equal: (a: LevelTurn, b: LevelTurn) => a === b || (a.panDegrees === b.panDegrees && a.tiltDegrees === b.tiltDegrees && a.rollDegrees === b.rollDegrees),
  placeOf: noPlace,
  turnOf: (turn: LevelTurn, name: TurnField) => turn[name],
  mirrored: (turn: LevelTurn) => ({ ...turn, panDegrees: flipped(turn.panDegrees), rollDegrees: flipped(turn.rollDegrees) }),
})

const numbers = <F extends string>(name: F, least: number): Keyable<number, F> =>
  Object.freeze({ fields: [field(name, (value: number) => value, least)], equal: (a: number, b: number) => a === b, placeOf: noPlace, turnOf: unturned, mirrored: (value: number) => value })

export const LEVEL_VALUES: Readonly<{ readonly [A in LevelAspect]: Keyable<LevelValues[A]> }> = Object.freeze({ place: PLACES, turn: TURNS, size: numbers('size', 1e-3), opacity: numbers('opacity', 1e-3) })

/** Whether two say the very same. */
export const sameLevelValues = (a: LevelValues, b: LevelValues): boolean => PLACES.equal(a.place, b.place) && TURNS.equal(a.turn, b.turn) && a.size === b.size && a.opacity === b.opacity

/** A mix of which only the way from `p` 0 to 1 is its own; where it begins, rests and settles is every move's. */
export function mixBy<V>(wayOf: (from: V, to: V, spec: MoveSpec) => (p: number) => V): Mix<V> {
  return (from, to, spec, lengthFrames, mostSettleFrames) => {
    const progress = createProgress(spec.timing, lengthFrames, mostSettleFrames)
    let way: ((p: number) => V) | null = null
    return (frame, goesOn) => {
      const p = progress(frame, goesOn)
      if (p === 0) return from
      if (p === 1) return to
      return (way ??= wayOf(from, to, spec))(p)
    }
  }
}

/**
 * How a level's values mix: its place goes by path and arc length, its turns the short way unless unwound, its size
 * geometrically as a lens does, its opacity evenly. A timing that goes past its ends takes opacity no further than 0…1.
 */
export const LEVEL_MIXES: Readonly<{ readonly [A in LevelAspect]: Mix<LevelValues[A]> }> = Object.freeze({
  place: mixBy<Point3>((from, to, { path }) => (path.kind === 'straight' ? (p) => between(from, to, p) : createPath(from, to, path).at)),
  turn: mixBy<LevelTurn>((from, to, { unwound }) => {
    const by = (name: TurnField) => (unwound?.includes(name) === true ? to[name] - from[name] : turnBetween(from[name], to[name]))
    const { panDegrees, tiltDegrees, rollDegrees } = from
    const [pan, tilt, roll] = [by('panDegrees'), by('tiltDegrees'), by('rollDegrees')]
    return (p) => new Turned(panDegrees + pan * p, tiltDegrees + tilt * p, rollDegrees + roll * p)
  }),
  size: mixBy<number>((from, to) => {
    const ratio = Math.log(to / from)
    return from === to ? () => from : (p) => from * Math.exp(ratio * p)
  }),
  opacity: mixBy<number>((from, to) => (p) => Math.min(1, Math.max(0, from + (to - from) * p))),
})
