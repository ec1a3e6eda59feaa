import { indexAt } from '../time/indexAt'
import type { Mix } from './keyable'
import type { MoveSpec } from './move'
import { settleOf, type Way } from './timing'

/** A value at its frame, and the move that leaves it for the next. `of` is what it was made from. */
export interface TrackKey<V, S = unknown> {
  readonly frame: number
  readonly value: V
  readonly move: MoveSpec
  readonly of: S
}

/** Keys in time order, and what lies between them. */
export interface Track<V, S = unknown> {
  readonly keys: readonly TrackKey<V, S>[]
  /** Where the way that leaves each key begins: its frame, or later where the arrival there settles. */
  readonly begins: readonly number[]
  /** The frames that the way leaving each key has to settle, past the next key. */
  readonly rooms: readonly number[]
  /** The frame after which nothing moves any more: the last key's, or later where its arrival settles. */
  readonly lastMovingFrame: number
  /** Null where there is no key. Before the first key its value holds, after the last one that one's. */
  at(frame: number): V | null
  /** The same from `first` to `last`; past them what moves there goes on moving, and what rests rests. No key stands past them. */
  goingOn(frame: number, first: number, last: number): V | null
}

/**
 * Solves keys of any value, in time order. A way that settles goes on past its key, up to a frame before the next one;
 * the way after it begins where it came to rest. Each way is solved when it is first asked for.
 */
export function createTrack<V, S>(keys: readonly TrackKey<V, S>[], mix: Mix<V>): Track<V, S> {
  const { begins, rooms } = beginsOf(keys)
  const ways: Way<V>[] = []
  const wayFrom = (index: number) => (ways[index] ??= mix(keys[index]!.value, keys[index + 1]!.value, keys[index]!.move, keys[index + 1]!.frame - begins[index]!, rooms[index]!))
  // Frames mostly follow each other: the way that the last one was in is at hand, from where it begins to where the next one does.
  let [from, until] = keys.length === 0 ? [-Infinity, Infinity] : [Infinity, -Infinity]
  let rests: V | null = null
  let way: Way<V> | null = null
  const lookAt = (frame: number) => {
    const index = Math.max(0, indexAt(begins, frame, itself))
    const isLast = index === keys.length - 1
    from = begins[index]!
    until = isLast ? Infinity : begins[index + 1]!
    rests = keys[index]!.value
    way = isLast ? null : wayFrom(index)
  }
  const at = (frame: number): V | null => {
    if (!(frame >= from && frame < until)) lookAt(frame)
    const since = frame - from
    return since <= 0 || way === null ? rests : way(since)
  }
  return {
    keys,
    begins,
    rooms,
    lastMovingFrame: begins.at(-1) ?? 0,
    at,
    goingOn: (frame, first, last) => {
      const [from, to] = [keys[0], keys.at(-1)]
      const any = keys.length > 1
      if (frame < first && any && from!.frame === first) return wayFrom(0)(frame - begins[0]!, true)
      if (frame > last && any && to!.frame === last) return wayFrom(keys.length - 2)(frame - begins.at(-2)!, true)
      return at(frame)
    },
  }
}

const itself = (frame: number) => frame

/** Where ways begin, and the room that each has to settle. */
export type Begins = Pick<Track<unknown>, 'begins' | 'rooms'>

export function beginsOf(keys: readonly Pick<TrackKey<unknown>, 'frame' | 'move'>[]): Begins {
  const begins = keys.length === 0 ? [] : [keys[0]!.frame]
  const rooms: number[] = []
  for (let i = 1; i < keys.length; i++) {
    const room = Math.max(0, (keys[i + 1]?.frame ?? Infinity) - keys[i]!.frame - 1)
    rooms.push(room)
    begins.push(keys[i]!.frame + Math.min(settleOf(keys[i - 1]!.move.timing), room))
  }
  return { begins, rooms }
}
