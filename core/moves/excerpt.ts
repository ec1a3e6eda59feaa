import type { CameraPose } from '../camera/pose'
import { turnBetween } from './angles'
import { TURN_FIELDS, type MoveSpec } from './move'
import { createPath } from './path'
import { createTiming, rampsOf, settleOf, withoutSettle, type Timing } from './timing'
import type { CameraTrack, FramingKey } from './cameraTrack'

/** A framing of an excerpt, with the one that it was: null for one that is new. */
export interface ExcerptKey<K extends FramingKey> {
  readonly frame: number
  readonly pose: CameraPose
  readonly move: MoveSpec
  readonly key: K | null
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

/**
 * What is left of a move of `lengthFrames` between two poses from `fromFrame` to `toFrame` (since it began; past its
 * length is its settle, for which it has `room`). Of what is left the last `settleFrames` are its own settle. Cushions
 * stay cushions where they are whole, a move cut within one becomes a `part`; a bent path is subdivided.
 */
export function stretchOf(from: CameraPose, to: CameraPose, move: MoveSpec, lengthFrames: number, room: number, fromFrame: number, toFrame: number, settleFrames = 0): MoveSpec {
  const settle = Math.min(settleOf(move.timing), room)
  const end = lengthFrames + settle
  if (fromFrame <= 0 && toFrame >= end && settleFrames === settle) return move
  const timing = stretchOfTiming(move.timing, lengthFrames, settle, Math.max(0, fromFrame), Math.min(end, toFrame), settleFrames)
  const p = createTiming(move.timing, lengthFrames, room)
  const path = move.path.kind === 'straight' ? move.path : createPath(from, to, move.path).stretch(p(fromFrame / Math.max(1, lengthFrames)), p(toFrame / Math.max(1, lengthFrames)))
  const unwound = TURN_FIELDS.filter((field) => move.unwound?.includes(field) === true || Math.abs(turnBetween(from[field], to[field])) >= 360)
  return { timing, path, evenness: move.evenness, ...(unwound.length > 0 ? { unwound } : {}) }
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
 * Framings that show from `from` to `to`, both among them, just what a track shows there. Where the camera is under way
 * at an end there is a new one; where it is still settling there, the framing it arrived at is moved to where it rests.
 * Empty where the track has none. Frames are the track's own. With `open` the last frame is the shot's: what settles past
 * it still does.
 */
export function excerptOf<K extends FramingKey>(track: CameraTrack<K>, from: number, to: number, open = false): readonly ExcerptKey<K>[] {
  const { framings, begins } = track
  const first = framings[0]
  if (first === undefined) return []
  type Open = { frame: number; pose: CameraPose; move: MoveSpec; key: K | null }
  const found: Open[] = []
  for (let i = 0; i + 1 < framings.length; i++) {
    const [begin, done, next] = [begins[i]!, begins[i + 1]!, framings[i + 1]!]
    if (begin >= to || done <= from) continue
    const start = Math.max(from, begin)
    const { pose, move } = framings[i]!.framing
    if (found.length === 0) found.push({ frame: Math.round(start), pose: track.at(start)!, move, key: begin === start ? framings[i]! : null })
    const last = found.at(-1)!
    const end = open && next.frame <= to && next.frame > last.frame ? done : Math.min(to, done)
    if (move.timing.kind === 'hold' && end < next.frame) {
      last.move = HOLD_MOVE
      break
    }
    const complete = end === done
    const frame = !complete ? end : next.frame > last.frame ? next.frame : Math.round(done)
    const room = Math.max(0, (framings[i + 2]?.frame ?? Infinity) - next.frame - 1)
    last.move = stretchOf(pose, next.framing.pose, move, next.frame - begin, room, start - begin, end - begin, complete ? Math.max(0, done - frame) : 0)
    found.push({ frame, pose: complete ? next.framing.pose : track.at(end)!, move: next.framing.move, key: complete || next.frame <= to ? next : null })
  }
  const last = found.at(-1)
  if (last !== undefined) {
    if (last.move.timing.kind !== 'hold') last.move = last.key === framings.at(-1) ? last.move : looseMove(last.move)
    return found
  }
  // At rest all the way: before the first framing, after the last, or on one of those that stand at one frame.
  const at = Math.max(from, Math.min(to, first.frame))
  const resting = framings.findLast((_, i) => begins[i]! <= at) ?? first
  return [{ frame: at, pose: track.at(at)!, move: looseMove(resting.framing.move), key: resting.frame === at ? resting : null }]
}

/** What becomes of the move across a frame when a framing is put there. */
export type SplitMove =
  /** The camera stands: before the first framing, after the last, or it has none. */
  | { readonly kind: 'at-rest'; readonly before: number | null }
  /** It is still coming to rest from the framing before; from `restsAtFrame` on there may be another. */
  | { readonly kind: 'settling'; readonly before: number; readonly restsAtFrame: number }
  | { readonly kind: 'split'; readonly before: number; readonly first: MoveSpec; readonly second: MoveSpec }

/** How the move across a frame divides there, so that no frame of it changes. `before` is an index into `framings`. */
export function splitMoveAt(framings: readonly FramingKey[], begins: readonly number[], rooms: readonly number[], frame: number): SplitMove {
  const before = framings.findLastIndex((key) => key.frame < frame)
  if (before < 0) return { kind: 'at-rest', before: null }
  // On the very frame that it comes to rest a framing would leave it a frame less to do so.
  if (begins[before]! > framings[before]!.frame && frame < begins[before]! + 1) return { kind: 'settling', before, restsAtFrame: Math.ceil(begins[before]!) + 1 }
  const next = framings[before + 1]
  if (next === undefined) return { kind: 'at-rest', before }
  const [from, begin, room] = [framings[before]!.framing, begins[before]!, rooms[before]!]
  const length = next.frame - begin
  const settle = Math.min(settleOf(from.move.timing), room)
  const of = (a: number, b: number, own: number) => stretchOf(from.pose, next.framing.pose, from.move, length, room, a, b, own)
  return { kind: 'split', before, first: of(0, frame - begin, 0), second: of(frame - begin, length + settle, settle) }
}
