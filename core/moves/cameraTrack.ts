import type { Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import type { MoveSpec } from './move'
import { poseMix } from './poses'
import { createTrack, type Track, type TrackKey } from './track'

/** A framing at its frame. */
export interface FramingKey {
  readonly frame: number
  readonly framing: { readonly pose: CameraPose; readonly move: MoveSpec }
}

/** One camera's framings and the moves between them: the track whose values are poses. */
export type CameraTrack<K extends FramingKey = FramingKey> = Track<CameraPose, K>

const framingKeys = <K extends FramingKey>(framings: readonly K[]): readonly TrackKey<CameraPose, K>[] => framings.map((of) => ({ frame: of.frame, value: of.framing.pose, move: of.framing.move, of }))

export const createCameraTrack = <K extends FramingKey>(framings: readonly K[], optics: Optics): CameraTrack<K> => createTrack(framingKeys(framings), poseMix(optics))
