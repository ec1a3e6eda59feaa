import type { Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { createMove, type MoveSpec } from './move'
import { beginsOf, createTrack, type Track, type TrackKey } from './track'

/** A framing at its frame. */
export interface FramingKey {
  readonly frame: number
  readonly framing: { readonly pose: CameraPose; readonly move: MoveSpec }
}

/** One camera's framings and the moves between them: the track whose values are poses. */
export interface CameraTrack<K extends FramingKey = FramingKey> extends Track<CameraPose> {
  readonly framings: readonly K[]
}

const keyOf = ({ frame, framing }: FramingKey): TrackKey<CameraPose> => ({ frame, value: framing.pose, timing: framing.move.timing })

export function createCameraTrack<K extends FramingKey>(framings: readonly K[], optics: Optics): CameraTrack<K> {
  const between = (index: number, lengthFrames: number, mostSettleFrames: number) => createMove(framings[index]!.framing.pose, framings[index + 1]!.framing.pose, framings[index]!.framing.move, lengthFrames, optics, mostSettleFrames)
  return { framings, ...createTrack(framings.map(keyOf), between) }
}

/** As `beginsOf`, of framings. */
export const framingBegins = (framings: readonly FramingKey[]) => beginsOf(framings.map(keyOf))
