import { posesEqual, type CameraPose } from '../camera/pose'
import { settleOf, type Timing } from '../moves/timing'
import type { CameraTrack } from '../moves/cameraTrack'

export type PoseField = keyof CameraPose
export const POSE_FIELDS: readonly PoseField[] = Object.freeze(['x', 'y', 'depth', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'focalLengthMm'])

/** A value that turns back on itself where the camera does not rest. */
export interface Bump {
  readonly field: PoseField
  /** Where it turns. */
  readonly frame: number
  /** How far it goes back before it turns again or the camera rests, in the value's unit. */
  readonly by: number
}

/** Less than this is not seen; a place in fw, a turn in degrees, a lens in mm. */
const LEAST: Readonly<Record<PoseField, number>> = { x: 1e-3, y: 1e-3, depth: 1e-3, panDegrees: 0.05, tiltDegrees: 0.05, rollDegrees: 0.05, focalLengthMm: 0.05 }

/** Where values turn back within a travel: from one rest of the camera to the next, over however many framings. */
export function findBumps(track: CameraTrack): readonly Bump[] {
  const bumps: Bump[] = []
  for (const [from, to] of travels(track)) {
    const poses: CameraPose[] = []
    for (let frame = from; frame <= to; frame++) poses.push(track.at(frame)!)
    for (const field of POSE_FIELDS) bumps.push(...turns(goingOn(field, poses.map((pose) => pose[field])), LEAST[field]).map(({ at, by }) => ({ field, frame: from + at, by })))
  }
  return bumps.sort((a, b) => a.frame - b.frame)
}

/** The first and last frame of each run of moves that the camera goes through without a rest. */
function travels({ framings, lastMovingFrame }: CameraTrack): readonly (readonly [number, number])[] {
  const runs: [number, number][] = []
  let start: number | null = null
  for (let i = 0; i + 1 < framings.length; i++) {
    const { move, pose } = framings[i]!.framing
    const next = framings[i + 1]!
    // It jumps, or stands from the one to the other: either way nothing is under way.
    const still = move.timing.kind === 'hold' || next.frame - framings[i]!.frame <= 1 || posesEqual(pose, next.framing.pose)
    if (!still) start ??= framings[i]!.frame
    const rests = still || i + 2 === framings.length || arrivesAtRest(move.timing) || leavesFromRest(next.framing.move.timing)
    if (start !== null && rests) {
      runs.push([start, still ? framings[i]!.frame : Math.ceil(i + 2 === framings.length ? lastMovingFrame : next.frame)])
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
function goingOn(field: PoseField, values: readonly number[]): readonly number[] {
  if (!field.endsWith('Degrees')) return values
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
