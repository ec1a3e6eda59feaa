import type { Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { createMove, type MoveSpec } from './move'
import { settleOf } from './timing'

/** A framing at its frame. */
export interface TrackKey {
  readonly frame: number
  readonly framing: { readonly pose: CameraPose; readonly move: MoveSpec }
}

/** One camera's framings and the moves between them. */
export interface CameraTrack<K extends TrackKey = TrackKey> {
  readonly framings: readonly K[]
  /** Where the move that leaves each framing begins: its frame, or later where the arrival there settles. */
  readonly begins: readonly number[]
  /** The frame after which nothing moves any more: the last framing's, or later where its arrival settles. */
  readonly lastMovingFrame: number
  /** Null where the camera has no framing. */
  poseAt(frame: number): CameraPose | null
}

/**
 * Solves a camera over its framings, in time order. A move that settles goes on past its framing, up to a frame before
 * the next one; the move after it begins where it came to rest. Each move is solved when it is first asked for.
 */
export function createTrack<K extends TrackKey>(framings: readonly K[], optics: Optics): CameraTrack<K> {
  const { begins, rooms } = beginsOf(framings)
  const moves: ((frame: number) => CameraPose)[] = []
  const moveFrom = (index: number) =>
    (moves[index] ??= createMove(framings[index]!.framing.pose, framings[index + 1]!.framing.pose, framings[index]!.framing.move, framings[index + 1]!.frame - begins[index]!, optics, rooms[index]))
  return {
    framings,
    begins,
    lastMovingFrame: begins.at(-1) ?? 0,
    poseAt: (frame) => {
      if (framings.length === 0) return null
      let low = 0
      let high = framings.length - 1
      while (low < high) {
        const mid = (low + high + 1) >> 1
        if (begins[mid]! <= frame) low = mid
        else high = mid - 1
      }
      const since = frame - begins[low]!
      return since <= 0 || low === framings.length - 1 ? framings[low]!.framing.pose : moveFrom(low)(since)
    },
  }
}

/** Where moves begin, and the room that each has to settle. */
export function beginsOf(framings: readonly TrackKey[]): { readonly begins: readonly number[]; readonly rooms: readonly number[] } {
  const begins = framings.length === 0 ? [] : [framings[0]!.frame]
  const rooms: number[] = []
  for (let i = 1; i < framings.length; i++) {
    const room = Math.max(0, (framings[i + 1]?.frame ?? Infinity) - framings[i]!.frame - 1)
    rooms.push(room)
    begins.push(framings[i]!.frame + Math.min(settleOf(framings[i - 1]!.framing.move.timing), room))
  }
  return { begins, rooms }
}
