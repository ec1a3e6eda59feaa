import type { Keyable } from './keyable'
import { settleOf, type Timing } from './timing'
import type { Track } from './track'

/** A number that turns back on itself where nothing rests. */
export interface Bump<F extends string = string> {
  readonly field: F
  /** Where it turns. */
  readonly frame: number
  /** How far it goes back before it turns again or comes to rest, in the number's unit. */
  readonly by: number
}

/** Where numbers turn back within a travel: from one rest to the next, over however many keys. */
export function findBumps<V, F extends string>(track: Track<V>, kind: Keyable<V, F>): readonly Bump<F>[] {
  const bumps: Bump<F>[] = []
  for (const [from, to] of travels(track, kind)) {
    const values: V[] = []
    for (let frame = from; frame <= to; frame++) values.push(track.at(frame)!)
    for (const field of kind.fields) {
      const numbers = values.map(field.of)
      bumps.push(...turns(field.turns ? goingOn(numbers) : numbers, field.least).map(({ at, by }) => ({ field: field.name, frame: from + at, by })))
    }
  }
  return bumps.sort((a, b) => a.frame - b.frame)
}

/** The first and last frame of each run of moves that is gone through without a rest. */
function travels<V>({ keys, lastMovingFrame }: Track<V>, kind: Keyable<V>): readonly (readonly [number, number])[] {
  const runs: [number, number][] = []
  let start: number | null = null
  for (let i = 0; i + 1 < keys.length; i++) {
    const { frame, move, value } = keys[i]!
    const next = keys[i + 1]!
    // It jumps, or stands from the one to the other: either way nothing is under way.
    const still = move.timing.kind === 'hold' || next.frame - frame <= 1 || kind.equal(value, next.value)
    if (!still) start ??= frame
    const rests = still || i + 2 === keys.length || arrivesAtRest(move.timing) || leavesFromRest(next.move.timing)
    if (start !== null && rests) {
      runs.push([start, still ? frame : Math.ceil(i + 2 === keys.length ? lastMovingFrame : next.frame)])
      start = null
    }
  }
  return runs
}

function arrivesAtRest(timing: Timing): boolean {
  if (timing.kind === 'part') return timing.toFrame >= timing.ofFrames + settleOf(timing.of) && arrivesAtRest(timing.of)
  return (timing.kind === 'cushioned' && (timing.arriveFrames > 0 || settleOf(timing) > 0)) || (timing.kind === 'custom' && timing.y2 === 1 && timing.x2 < 1)
}

function leavesFromRest(timing: Timing): boolean {
  if (timing.kind === 'part') return timing.fromFrame <= 0 && leavesFromRest(timing.of)
  return timing.kind === 'hold' || (timing.kind === 'cushioned' && timing.leaveFrames > 0) || (timing.kind === 'custom' && timing.y1 === 0 && timing.x1 > 0)
}

/** Angles as they go on: 359° to 1° is two degrees further, not back all the way. */
function goingOn(values: readonly number[]): readonly number[] {
  let turns = 0
  return values.map((value, i) => {
    if (i > 0) turns -= Math.round((value - values[i - 1]!) / 360)
    return value + turns * 360
  })
}

/** Where a run of values turns, each time by more than `least`. */
function turns(values: readonly number[], least: number): readonly { readonly at: number; readonly by: number }[] {
  const found: { at: number; by: number }[] = []
  let direction = 0
  let extreme = 0
  for (let i = 1; i < values.length; i++) {
    const ahead = values[i]! - values[extreme]!
    if (direction === 0) {
      if (Math.abs(ahead) > least) [direction, extreme] = [Math.sign(ahead), i]
    } else if (ahead * direction >= 0) {
      extreme = i
    } else if (-ahead * direction > least) {
      found.push({ at: extreme, by: Math.abs(ahead) })
      direction = -direction
      extreme = i
    }
    const last = found.at(-1)
    if (last !== undefined) last.by = Math.max(last.by, Math.abs(values[extreme]! - values[last.at]!))
  }
  return found
}
