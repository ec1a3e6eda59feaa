import type { Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { createMove, type MoveSpec } from './move'
import { beginsOf, createTrack, type Between, type Track, type TrackKey } from './track'

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
  const between: Between<CameraPose> = (index, lengthFrames, mostSettleFrames) => {
    const [from, to] = [framings[index]!.framing, framings[index + 1]!.framing]
    return createMove(from.pose, to.pose, from.move, lengthFrames, optics, mostSettleFrames)
  }
  return { framings, ...createTrack(framings.map(keyOf), between) }
}

/** As `beginsOf`, of framings. */
export const framingBegins = (framings: readonly FramingKey[]) => beginsOf(framings.map(keyOf))
