import type { Optics } from '../camera/lens'
import { placedFramings } from '../document/panels'
import type { KeyRecord } from '../document/keys'
import type { TakeBody } from '../document/units'
import { createCameraTrack } from '../moves/cameraTrack'
import { poseMix } from '../moves/poses'
import { thinKeys } from '../moves/thinKeys'
import { artDepths, createShiftGauge, type ArtReach } from './pictureShift'

/** What thinning would do to the keys of a camera or a level. */
export interface Thinned {
  /** The keys that would go, in time order. */
  readonly remove: readonly KeyRecord[]
  /** The keys that stay and leave in another way, since the one after them goes. */
  readonly change: readonly KeyRecord[]
  /** The farthest that the picture would move at any frame, px of the output. */
  readonly mostPx: number
}

/**
 * Finds the framings that change nothing: the picture at every frame stays within `tolerancePx` of what it is now. `reaches`
 * tells how far levels' art reaches, which matters where they are turned.
 */
export function thinFramings(take: TakeBody, cameraId: string, optics: Optics, tolerancePx: number, outputWidthPx: number, reaches: ReadonlyMap<string, ArtReach> = new Map()): Thinned {
  const track = createCameraTrack(placedFramings(take, cameraId), optics)
  const off = createShiftGauge((frame) => track.at(frame)!, optics, artDepths(take, reaches))
  const { remove, change, most } = thinKeys(track, { mix: poseMix(optics), isLocked: (key) => key.of.framing.locked, off, limit: tolerancePx / outputWidthPx })
  return { remove: remove.map(({ of }) => of.framing), change: change.map(({ of, move }) => ({ ...of.framing, move })), mostPx: most * outputWidthPx }
}
