import type { Mix } from './keyable'
import { joinedSpec } from './keyed'
import { createTrack, type Track, type TrackKey } from './track'

/** What thinning would do to a track. */
export interface ThinnedKeys<V, S> {
  /** The keys that would go, in time order. */
  readonly remove: readonly TrackKey<V, S>[]
  /** The keys that stay and leave in another way, since the one after them goes. */
  readonly change: readonly TrackKey<V, S>[]
  /** The farthest that anything would be off at any frame. */
  readonly most: number
}

/** What thinning goes by. */
export interface Thinning<V, S> {
  readonly mix: Mix<V>
  /** A locked key stays. */
  isLocked(key: TrackKey<V, S>): boolean
  /** How far off another value would be at a frame; past `enough` it need not be exact. */
  off(frame: number, value: V, enough: number): number
  /** The farthest that it may be off. */
  readonly limit: number
}

interface Trial<V, S> {
  readonly off: number
  /** The key before, leaving in another way; null where it leaves as it did. */
  readonly before: TrackKey<V, S> | null
}

/** A key and what was found of its going; `fresh`: nothing next to it has gone since. */
interface Candidate<V, S> {
  readonly of: S
  off: number
  fresh: Trial<V, S> | null
}

/**
 * Finds the keys that change nothing: taken out one after the other, the least felt first, while every frame stays within
 * `limit` of what it is now. Locked keys stay, and one always does.
 *
 * With each key that goes, those next to it are felt more, hardly ever less. So what was found of one before is taken for
 * the least it can be, and only the one that seems least felt is looked at again.
 */
export function thinKeys<V, S>(whole: Track<V, S>, thinning: Thinning<V, S>): ThinnedKeys<V, S> {
  const original = whole.keys
  const now = [...original]
  const candidates = new Map<S, Candidate<V, S>>(original.flatMap((key) => (thinning.isLocked(key) ? [] : [[key.of, { of: key.of, off: 0, fresh: null }]])))
  let most = 0
  while (now.length > 1 && candidates.size > 0) {
    let best: Candidate<V, S> | null = null
    for (const each of candidates.values()) if (best === null || each.off < best.off) best = each
    const at = now.findIndex((key) => key.of === best!.of)
    if (best!.fresh === null) {
      const trial = without(now, at, whole, thinning)
      if (trial === null) candidates.delete(best!.of)
      else Object.assign(best!, { fresh: trial, off: Math.max(best!.off, trial.off) })
      continue
    }
    const { off, before } = best!.fresh
    candidates.delete(best!.of)
    for (const { of } of now.slice(Math.max(0, at - REACH), at + REACH + 1)) {
      const near = candidates.get(of)
      if (near !== undefined) near.fresh = null
    }
    if (before !== null) now[at - 1] = before
    now.splice(at, 1)
    most = Math.max(most, off)
  }
  const left = new Map(now.map((key) => [key.of, key]))
  return {
    remove: original.filter(({ of }) => !left.has(of)),
    change: original.flatMap((key) => (left.has(key.of) && left.get(key.of) !== key ? [left.get(key.of)!] : [])),
    most,
  }
}

/** How far from a key its going is felt, in keys: a settle may reach over one. */
const REACH = 2
/** As many more on either side tell where the moves there begin. */
const AROUND = 2 * REACH

/** Taking a key out, as it is or with its two moves made one; null where something would be off by more than the limit. */
function without<V, S>(keys: readonly TrackKey<V, S>[], index: number, whole: Track<V, S>, thinning: Thinning<V, S>): Trial<V, S> | null {
  const from = Math.max(0, index - AROUND)
  const rest = keys.slice(from, index + AROUND + 1).filter((_, i) => i !== index - from)
  const before = keys[index - 1]
  const low = index <= REACH ? whole.keys[0]!.frame : keys[index - REACH]!.frame
  const high = index + REACH >= keys.length ? Math.max(whole.lastMovingFrame, keys.at(-1)!.frame) : keys[index + REACH]!.frame
  const joined: TrackKey<V, S> | null = before === undefined || thinning.isLocked(before) ? null : { ...before, move: joinedSpec(before.move, keys[index]!.move) }
  let best: Trial<V, S> | null = null
  for (const changed of joined === null ? [null] : [null, joined]) {
    const track: Track<V, S> = createTrack(changed === null ? rest : rest.map((key) => (key === before ? changed : key)), thinning.mix)
    const off: number = mostOff(thinning, track, low, Math.ceil(high), best?.off ?? thinning.limit)
    if (off <= thinning.limit && (best === null || off < best.off)) best = { off, before: changed }
  }
  return best
}

/** Frames this far apart are looked at first: what goes past the limit mostly does so for a while. */
const STRIDE = 16

function mostOff<V, S>({ off }: Thinning<V, S>, track: Track<V, S>, from: number, to: number, limit: number): number {
  let most = 0
  for (let offset = STRIDE >> 1; most <= limit; offset = (offset + 1) % STRIDE) {
    for (let frame = from + offset; frame <= to && most <= limit; frame += STRIDE) most = Math.max(most, off(frame, track.at(frame)!, limit))
    if (offset === (STRIDE >> 1) - 1) break
  }
  return most
}
