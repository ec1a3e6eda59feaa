import { dot, length, scale, type Point3 } from '../geometry/point'
import { flipped, type Keyable } from './keyable'
import type { MoveSpec } from './move'
import type { Path } from './path'
import { settleOf, withoutSettle, type Timing } from './timing'

/** A key apart from any shot: a frame counted from the first one's, a value, and the move that leaves it. */
export interface Keyed<V> {
  readonly frame: number
  readonly value: V
  readonly move: MoveSpec
  readonly smooth?: boolean | undefined
}

/** Keys as a move that can be carried elsewhere: counted from the first. */
export function asKeyed<V>(keys: readonly Keyed<V>[]): readonly Keyed<V>[] {
  const first = keys[0]?.frame ?? 0
  return keys.map((each) => ({ ...each, frame: each.frame - first }))
}

/** The same travel from its end to its beginning. Cushions change sides; what settles still settles. */
export function reversedMove<V>(keys: readonly Keyed<V>[]): readonly Keyed<V>[] {
  const last = keys.at(-1)
  if (last === undefined) return []
  return keys.map((_, i) => {
    const from = keys[keys.length - 1 - i]!
    // The move that led into it now leaves it; the last one's own leads nowhere and stays with the last.
    const before = keys[keys.length - 2 - i]
    return { ...from, frame: last.frame - from.frame, move: before === undefined ? last.move : reversedSpec(before.move) }
  })
}

function reversedSpec(spec: MoveSpec): MoveSpec {
  return { ...spec, timing: reversedTiming(spec.timing), path: spec.path.kind === 'bent' ? { kind: 'bent', leave: spec.path.arrive, arrive: spec.path.leave } : spec.path }
}

function reversedTiming(timing: Timing): Timing {
  if (timing.kind === 'cushioned') return { ...timing, leaveFrames: timing.arriveFrames, arriveFrames: timing.leaveFrames }
  if (timing.kind === 'custom') return { kind: 'custom', x1: 1 - timing.x2, y1: 1 - timing.y2, x2: 1 - timing.x1, y2: 1 - timing.y1 }
  if (timing.kind === 'part') {
    // Turned about, the settle of the longer move would be a start that no timing has: it begins where it would have rested.
    const of = reversedTiming(withoutSettle(timing.of)) as typeof timing.of
    const at = (frame: number) => Math.max(0, timing.ofFrames - frame)
    return { kind: 'part', of, ofFrames: timing.ofFrames, fromFrame: at(timing.toFrame), toFrame: at(timing.fromFrame) }
  }
  return timing
}

/** As in a mirror that stands at x = 0: left and right change about. */
export function mirroredMove<V>(keys: readonly Keyed<V>[], kind: Pick<Keyable<V>, 'mirrored'>): readonly Keyed<V>[] {
  return keys.map((each) => ({ ...each, value: kind.mirrored(each.value), move: { ...each.move, path: mirroredPath(each.move.path) } }))
}

function mirroredPath(path: Path): Path {
  if (path.kind === 'straight') return path
  const mirror = (handle: Point3): Point3 => ({ ...handle, x: flipped(handle.x) })
  return { kind: 'bent', leave: mirror(path.leave), arrive: mirror(path.arrive) }
}

/**
 * The same travel in `lengthFrames`, from the first key to the last: frames and cushions scale alike, every key
 * keeps a frame of its own. Null where there are not enough frames for that.
 */
export function scaledMove<V>(keys: readonly Keyed<V>[], lengthFrames: number): readonly Keyed<V>[] | null {
  const last = keys.at(-1)
  if (last === undefined) return []
  if (lengthFrames < keys.length - 1) return null
  const factor = last.frame === 0 ? 1 : lengthFrames / last.frame
  const frames = spacedFrames(
    keys.map((each) => each.frame * factor),
    0,
    lengthFrames,
  )
  return keys.map((each, i) => {
    const next = keys[i + 1]
    const ratio = next === undefined ? factor : (frames[i + 1]! - frames[i]!) / (next.frame - each.frame)
    return { ...each, frame: frames[i]!, move: withCushionsScaled(each.move, ratio) }
  })
}

/** Whole frames as near as can be to those asked for, each later than the one before, from `low` to `high`. */
export function spacedFrames(wanted: readonly number[], low: number, high: number): number[] {
  const frames = wanted.map(Math.round)
  for (let i = 0; i < frames.length; i++) frames[i] = Math.max(frames[i]!, i === 0 ? low : frames[i - 1]! + 1)
  for (let i = frames.length - 1; i >= 0; i--) frames[i] = Math.min(frames[i]!, i === frames.length - 1 ? high : frames[i + 1]! - 1)
  return frames
}

export function withCushionsScaled(spec: MoveSpec, factor: number): MoveSpec {
  const { timing } = spec
  if (factor === 1) return spec
  const settle = settleOf(timing)
  // A part has no frames of its own: it takes what it is given.
  if (timing.kind === 'part' && settle > 0) return { ...spec, timing: { ...timing, settleFrames: settle * factor } }
  if (timing.kind !== 'cushioned') return spec
  return {
    ...spec,
    timing: {
      kind: 'cushioned',
      leaveFrames: timing.leaveFrames * factor,
      arriveFrames: timing.arriveFrames * factor,
      ...(settle > 0 ? { settleFrames: settle * factor } : {}),
    },
  }
}

/** One move in the place of two, without the framing between them: it leaves as the first did and arrives as the second. */
export function joinedSpec(first: MoveSpec, second: MoveSpec): MoveSpec {
  const [a, b] = [wholeOf(first.timing), wholeOf(second.timing)]
  const cushion = (timing: Timing, side: 'leaveFrames' | 'arriveFrames') => (timing.kind === 'cushioned' ? timing[side] : 0)
  const soft = a.kind === 'cushioned' || b.kind === 'cushioned'
  const settle = settleOf(b)
  const timing: Timing = soft && a.kind !== 'custom' && a.kind !== 'hold' ? { kind: 'cushioned', leaveFrames: cushion(a, 'leaveFrames'), arriveFrames: cushion(b, 'arriveFrames'), ...(settle > 0 ? { settleFrames: settle } : {}) } : a
  return { timing, path: joinedPath(first.path, second.path), evenness: first.evenness, ...(first.unwound === undefined ? {} : { unwound: first.unwound }) }
}

/** The move that a part is of. */
const wholeOf = (timing: Timing): Timing => (timing.kind === 'part' ? timing.of : timing)

/**
 * Two bent paths as one. Where they go through their joint without a corner the first's handle there is to the second's
 * as the parts of the curve are: it is the curve that they would be cut from.
 */
function joinedPath(first: Path, second: Path): Path {
  if (first.kind !== 'bent' || second.kind !== 'bent') return { kind: 'straight' }
  const [before, after] = [length(first.arrive), length(second.leave)]
  const inLine = before > 1e-9 && after > 1e-9 && dot(first.arrive, second.leave) < -0.9999 * before * after
  if (!inLine) return { kind: 'bent', leave: first.leave, arrive: second.arrive }
  const share = before / (before + after)
  return { kind: 'bent', leave: scale(first.leave, 1 / share), arrive: scale(second.arrive, 1 / (1 - share)) }
}
