import { turnBetween } from './angles'
import type { Keyable } from './keyable'
import { TURN_FIELDS, type MoveSpec } from './move'
import { createPath } from './path'
import { createTiming, rampsOf, settleOf, withoutSettle, type Timing } from './timing'
import { beginsOf, type Track, type TrackKey } from './track'

/** A key of an excerpt, with what it was: null for one that is new. */
export interface ExcerptKey<V, S> {
  readonly frame: number
  readonly value: V
  readonly move: MoveSpec
  readonly of: S | null
}

/** A move that stays where it is until the next framing, and jumps there. */
export const HOLD_MOVE: MoveSpec = Object.freeze({ timing: Object.freeze({ kind: 'hold' }), path: Object.freeze({ kind: 'straight' }), evenness: Object.freeze({ kind: 'set' }) })

/**
 * A move that leads nowhere any more, so that it does not do what it once did when something follows: straight, and
 * without a settle. Its cushions stay, for what comes next.
 */
export function looseMove(move: MoveSpec): MoveSpec {
  const { timing, evenness } = move
  const plain: Timing = timing.kind === 'part' ? (timing.of.kind === 'cushioned' ? withoutSettle(timing.of) : timing.of) : timing.kind === 'cushioned' ? withoutSettle(timing) : timing
  if (plain === timing && move.path.kind === 'straight' && move.unwound === undefined) return move
  return { timing: plain, path: { kind: 'straight' }, evenness }
}

/** A move between two values, with how long it takes and the room it has to settle. */
interface Way<V> {
  readonly from: V
  readonly to: V
  readonly move: MoveSpec
  readonly lengthFrames: number
  readonly room: number
}

/**
 * What is left of a way from `fromFrame` to `toFrame` (since it began; past its length is its settle). Of what is left the
 * last `settleFrames` are its own settle. Cushions stay cushions where they are whole, a move cut within one becomes a
 * `part`; a bent path is subdivided.
 */
export function stretchOf<V>({ from, to, move, lengthFrames, room }: Way<V>, kind: Keyable<V>, fromFrame: number, toFrame: number, settleFrames = 0): MoveSpec {
  const settle = Math.min(settleOf(move.timing), room)
  const end = lengthFrames + settle
  if (fromFrame <= 0 && toFrame >= end && settleFrames === settle) return settleOf(move.timing) > settle ? { ...move, timing: settlingFor(move.timing, settle) } : move
  const timing = stretchOfTiming(move.timing, lengthFrames, settle, Math.max(0, fromFrame), Math.min(end, toFrame), settleFrames)
  const p = createTiming(move.timing, lengthFrames, room)
  const [start, goal] = [kind.placeOf(from), kind.placeOf(to)]
  const straight = move.path.kind === 'straight' || start === null || goal === null
  const path = straight ? move.path : createPath(start, goal, move.path).stretch(p(fromFrame / Math.max(1, lengthFrames)), p(toFrame / Math.max(1, lengthFrames)))
  const unwound = TURN_FIELDS.filter((field) => move.unwound?.includes(field) === true || Math.abs(turnBetween(kind.turnOf(from, field), kind.turnOf(to, field))) >= 360)
  return { timing, path, evenness: move.evenness, ...(unwound.length > 0 ? { unwound } : {}) }
}

/** The same with a settle of so many frames: of one that had less room than it asked for, what it took. */
function settlingFor(timing: Timing, settleFrames: number): Timing {
  if (timing.kind !== 'cushioned' && timing.kind !== 'part') return timing
  const { settleFrames: _, ...plain } = timing
  return settleFrames > 0 ? { ...plain, settleFrames } : plain
}

function stretchOfTiming(timing: Timing, lengthFrames: number, settle: number, from: number, to: number, settleFrames: number): Timing {
  if (timing.kind === 'hold' || timing.kind === 'even') return timing
  const own = settleFrames > 0 ? { settleFrames } : {}
  if (timing.kind === 'part') {
    const span = timing.toFrame - timing.fromFrame
    const at = (frame: number) => timing.fromFrame + (span * frame) / (lengthFrames + settle)
    return { kind: 'part', of: timing.of, ofFrames: timing.ofFrames, fromFrame: at(from), toFrame: at(to), ...own }
  }
  if (timing.kind === 'cushioned') {
    const { leave, arrive } = rampsOf(timing, lengthFrames)
    const down = lengthFrames - arrive
    const plain = (leaveFrames: number, arriveFrames: number, rest = 0): Timing =>
      leaveFrames === 0 && arriveFrames === 0 && rest === 0 ? { kind: 'even' } : { kind: 'cushioned', leaveFrames, arriveFrames, ...(rest > 0 ? { settleFrames: rest } : {}) }
    const leaves = from === 0 ? Math.min(leave, to) : from >= leave ? 0 : null
    if (leaves !== null) {
      if (to <= down) return plain(leaves, 0)
      if (to === lengthFrames + settle && from <= down && settleFrames === settle) return plain(leaves, arrive, settle)
      if (to === lengthFrames && settle === 0 && from >= down && settleFrames === 0) return plain(0, to - from)
    }
  }
  const of = timing.kind === 'cushioned' ? { ...withoutSettle(timing), ...(settle > 0 ? { settleFrames: settle } : {}) } : timing
  return { kind: 'part', of, ofFrames: Math.max(1, lengthFrames), fromFrame: from, toFrame: to, ...own }
}

/**
 * Keys that show from `from` to `to`, both among them, just what a track shows there. Where it is under way at an end there
 * is a new one; where it is still settling there, the key it arrived at is moved to where it rests. Empty where the track
 * has none. Frames are the track's own. With `open` the last frame is the shot's: what settles past it still does.
 */
export function excerptOf<V, S>(track: Track<V, S>, kind: Keyable<V>, from: number, to: number, open = false): readonly ExcerptKey<V, S>[] {
  const { keys, begins, rooms } = track
  const first = keys[0]
  if (first === undefined) return []
  type Open = { frame: number; value: V; move: MoveSpec; of: S | null }
  const found: Open[] = []
  for (let i = 0; i + 1 < keys.length; i++) {
    const [begin, done, next] = [begins[i]!, begins[i + 1]!, keys[i + 1]!]
    if (begin >= to || done <= from) continue
    const start = Math.max(from, begin)
    const { value, move, of } = keys[i]!
    if (found.length === 0) found.push({ frame: Math.round(start), value: track.at(start)!, move, of: begin === start ? of : null })
    const last = found.at(-1)!
    const end = open && next.frame <= to && next.frame > last.frame ? done : Math.min(to, done)
    if (move.timing.kind === 'hold' && end < next.frame) {
      last.move = HOLD_MOVE
      break
    }
    const complete = end === done
    const frame = !complete ? end : next.frame > last.frame ? next.frame : Math.round(done)
    const way = { from: value, to: next.value, move, lengthFrames: next.frame - begin, room: rooms[i]! }
    last.move = stretchOf(way, kind, start - begin, end - begin, complete ? Math.max(0, done - frame) : 0)
    found.push({ frame, value: complete ? next.value : track.at(end)!, move: next.move, of: complete || next.frame <= to ? next.of : null })
  }
  const last = found.at(-1)
  if (last !== undefined) {
    if (last.move.timing.kind !== 'hold') last.move = last.of !== null && last.of === keys.at(-1)!.of ? last.move : looseMove(last.move)
    return found
  }
  // At rest all the way: before the first key, after the last, or on one of those that stand at one frame.
  const at = Math.max(from, Math.min(to, first.frame))
  const resting = keys.findLast((_, i) => begins[i]! <= at) ?? first
  return [{ frame: at, value: track.at(at)!, move: looseMove(resting.move), of: resting.frame === at ? resting.of : null }]
}

/** What becomes of the move across a frame when a key is put there. */
export type SplitMove =
  /** It stands: before the first key, after the last, or there is none. */
  | { readonly kind: 'at-rest'; readonly before: number | null }
  /** It is still coming to rest from the key before; from `restsAtFrame` on there may be another. */
  | { readonly kind: 'settling'; readonly before: number; readonly restsAtFrame: number }
  | { readonly kind: 'split'; readonly before: number; readonly first: MoveSpec; readonly second: MoveSpec }

/** How the move across a frame divides there, so that no frame of it changes. `before` is an index into `keys`. */
export function splitMoveAt<V, S>(keys: readonly TrackKey<V, S>[], kind: Keyable<V>, frame: number): SplitMove {
  const { begins, rooms } = beginsOf(keys)
  const before = keys.findLastIndex((key) => key.frame < frame)
  if (before < 0) return { kind: 'at-rest', before: null }
  // On the very frame that it comes to rest a key would leave it a frame less to do so.
  if (begins[before]! > keys[before]!.frame && frame < begins[before]! + 1) return { kind: 'settling', before, restsAtFrame: Math.ceil(begins[before]!) + 1 }
  const next = keys[before + 1]
  if (next === undefined) return { kind: 'at-rest', before }
  const [{ value, move }, begin, room] = [keys[before]!, begins[before]!, rooms[before]!]
  const length = next.frame - begin
  const settle = Math.min(settleOf(move.timing), room)
  const way = { from: value, to: next.value, move, lengthFrames: length, room }
  return { kind: 'split', before, first: stretchOf(way, kind, 0, frame - begin), second: stretchOf(way, kind, frame - begin, length + settle, settle) }
}
