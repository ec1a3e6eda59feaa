import { settleOf, type Timing } from './timing'

/** A value at its frame, and how the way to the next one is spent. */
export interface TrackKey<V> {
  readonly frame: number
  readonly value: V
  readonly timing: Timing
}

/**
 * The way from key `index` to the next one, solved: from frames since it begins to the value there. It takes
 * `lengthFrames`, and may go on for `mostSettleFrames` past the next key; at or before 0 it is the first value exactly.
 */
export type Between<V> = (index: number, lengthFrames: number, mostSettleFrames: number) => (frame: number) => V

/** Keys in time order, and what lies between them. */
export interface Track<V> {
  /** Where the way that leaves each key begins: its frame, or later where the arrival there settles. */
  readonly begins: readonly number[]
  /** The frame after which nothing moves any more: the last key's, or later where its arrival settles. */
  readonly lastMovingFrame: number
  /** Null where there is no key. Before the first key its value holds, after the last one that one's. */
  at(frame: number): V | null
}

/**
 * Solves keys of any value, in time order. A way that settles goes on past its key, up to a frame before the next one;
 * the way after it begins where it came to rest. Each way is solved when it is first asked for.
 */
export function createTrack<V>(keys: readonly TrackKey<V>[], between: Between<V>): Track<V> {
  const { begins, rooms } = beginsOf(keys)
  const ways: ((frame: number) => V)[] = []
  const wayFrom = (index: number) => (ways[index] ??= between(index, keys[index + 1]!.frame - begins[index]!, rooms[index]!))
  return {
    begins,
    lastMovingFrame: begins.at(-1) ?? 0,
    at: (frame) => {
      if (keys.length === 0) return null
      let low = 0
      let high = keys.length - 1
      while (low < high) {
        const mid = (low + high + 1) >> 1
        if (begins[mid]! <= frame) low = mid
        else high = mid - 1
      }
      const since = frame - begins[low]!
      return since <= 0 || low === keys.length - 1 ? keys[low]!.value : wayFrom(low)(since)
    },
  }
}

/** Where ways begin, and the room that each has to settle. */
export interface Begins {
  readonly begins: readonly number[]
  readonly rooms: readonly number[]
}

export function beginsOf(keys: readonly Pick<TrackKey<unknown>, 'frame' | 'timing'>[]): Begins {
  const begins = keys.length === 0 ? [] : [keys[0]!.frame]
  const rooms: number[] = []
  for (let i = 1; i < keys.length; i++) {
    const room = Math.max(0, (keys[i + 1]?.frame ?? Infinity) - keys[i]!.frame - 1)
    rooms.push(room)
    begins.push(keys[i]!.frame + Math.min(settleOf(keys[i - 1]!.timing), room))
  }
  return { begins, rooms }
}
