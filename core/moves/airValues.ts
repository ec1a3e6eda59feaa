import { type Keyable, type KeyedField, type Mix } from './keyable'
import { mixBy } from './levelValues'

/** Haze of a shot: what is past `start` (fw before the lens) goes towards a colour, by 1 − exp(−density · (z − start)). */
export interface HazeValue {
  /** A frame width, 0 (none) or more. */
  readonly density: number
  readonly start: number
  /** #rrggbb. */
  readonly colour: string
}

/** Soft focus of a shot: sharp at one distance (fw before the lens), and softer by |1/z − 1/sharp| · strength, fw. */
export interface FocusValue {
  readonly sharp: number
  readonly strength: number
}

export interface AirValues {
  readonly haze: HazeValue
  readonly focus: FocusValue
}
export type AirName = keyof AirValues
export const AIR_NAMES: readonly AirName[] = Object.freeze(['haze', 'focus'])

const channel = (colour: string, i: number) => Number.parseInt(colour.slice(1 + 2 * i, 3 + 2 * i), 16)
export const channelsOf = (colour: string): readonly [number, number, number] => [channel(colour, 0), channel(colour, 1), channel(colour, 2)]
const hex = (value: number) => Math.round(Math.min(255, Math.max(0, value))).toString(16).padStart(2, '0')

const field = <V, F extends string>(name: F, of: (value: V) => number, least: number): KeyedField<V, F> => ({ name, of, least, turns: false })
const still = { placeOf: () => null, turnOf: () => 0 }

const HAZES: Keyable<HazeValue> = Object.freeze({
  ...still,
  fields: [
    field('density', ({ density }: HazeValue) => density, 1e-3),
    field('start', ({ start }: HazeValue) => start, 1e-3),
    ...(['red', 'green', 'blue'] as const).map((name, i) => field(name, ({ colour }: HazeValue) => channel(colour, i) / 255, 1 / 510)),
  ],
  equal: (a: HazeValue, b: HazeValue) => a === b || (a.density === b.density && a.start === b.start && a.colour.toLowerCase() === b.colour.toLowerCase()),
  mirrored: (value: HazeValue) => value,
})

const FOCI: Keyable<FocusValue> = Object.freeze({
  ...still,
  fields: [field('sharp', ({ sharp }: FocusValue) => sharp, 1e-3), field('strength', ({ strength }: FocusValue) => strength, 1e-4)],
  equal: (a: FocusValue, b: FocusValue) => a === b || (a.sharp === b.sharp && a.strength === b.strength),
  mirrored: (value: FocusValue) => value,
})

export const AIR_VALUES: Readonly<{ readonly [A in AirName]: Keyable<AirValues[A]> }> = Object.freeze({ haze: HAZES, focus: FOCI })

const between = (from: number, to: number, p: number) => from + (to - from) * p

/**
 * Haze mixes evenly, its colour by its channels. What is sharp goes evenly in 1/distance, in which softness is counted, so that
 * every level's softness changes evenly. A timing that goes past its ends takes neither where it cannot be.
 */
export const AIR_MIXES: Readonly<{ readonly [A in AirName]: Mix<AirValues[A]> }> = Object.freeze({
  haze: mixBy<HazeValue>((from, to) => {
    const [a, b] = [channelsOf(from.colour), channelsOf(to.colour)]
    return (p) => ({
      density: Math.max(0, between(from.density, to.density, p)),
      start: Math.max(0, between(from.start, to.start, p)),
      colour: `#${a.map((value, i) => hex(between(value, b[i]!, p))).join('')}`,
    })
  }),
  focus: mixBy<FocusValue>((from, to) => {
    const [least, most] = [Math.min(from.sharp, to.sharp), Math.max(from.sharp, to.sharp)]
    return (p) => {
      const inverse = between(1 / from.sharp, 1 / to.sharp, p)
      return { sharp: inverse > 0 ? Math.min(2 * most, Math.max(least / 2, 1 / inverse)) : 2 * most, strength: Math.max(0, between(from.strength, to.strength, p)) }
    }
  }),
})
