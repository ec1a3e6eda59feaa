import type { Point3 } from '../geometry/point'
import type { MoveSpec, TurnField } from './move'
import type { Way } from './timing'

/** One number of a value that is keyed. */
export interface KeyedField<V, F extends string = string> {
  readonly name: F
  of(value: V): number
  /** A change of less is not seen. */
  readonly least: number
  /** An angle, degrees: a full turn is the same again. */
  readonly turns: boolean
}

/** A kind of value that can be keyed: what of it a move bends, turns and mirrors. How two of them mix is a `Mix`. */
export interface Keyable<V, F extends string = string> {
  readonly fields: readonly KeyedField<V, F>[]
  equal(a: V, b: V): boolean
  /** What a path bends; null for a value without a place. */
  placeOf(value: V): Point3 | null
  /** Angles that go the short way, unless a move says that they are unwound. */
  turnOf(value: V, field: TurnField): number
  /** As in a mirror that stands at x = 0. */
  mirrored(value: V): V
}

/**
 * The way from one value to another, solved: from frames since it begins to the value there. It takes `lengthFrames`, and may
 * go on for `mostSettleFrames` past them; at or before 0 it is `from` exactly, when it has come to rest `to` exactly. With
 * `goesOn` it comes from before 0 and goes on past its end at the speed that it has there.
 */
export type Mix<V> = (from: V, to: V, spec: MoveSpec, lengthFrames: number, mostSettleFrames: number) => Way<V>

/** Never −0, which is kept as another number. */
export const flipped = (value: number) => (value === 0 ? 0 : -value)
