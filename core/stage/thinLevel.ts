import type { Optics } from '../camera/lens'
import { lensOf, NEAREST_Z, project, type Lens } from '../camera/projection'
import { planeOf } from '../depth/carriage'
import { pointOnPlane, type LevelPlane } from '../depth/levelPlane'
import { keyTrack, levelOwner, type KeyRecord, type PlacedKey } from '../document/keys'
import type { TakeBody } from '../document/units'
import { LEVEL_ASPECTS, type LevelAspect, type LevelValues } from '../moves/levelValues'
import { thinKeys } from '../moves/thinKeys'
import type { Track } from '../moves/track'
import type { ArtReach } from './pictureShift'
import { createTakeStage } from './takeStage'
import type { Thinned } from './thin'

/** A fade that is off by less shows the same in eight bits. */
const LEAST_OPACITY = 1 / 255
const UNKNOWN_REACH: ArtReach = Object.freeze({ x: 0.5, y: 0.5 })

/**
 * Finds the keys of a level that change nothing: at every frame the corners of its art stay within `tolerancePx` of where the
 * live camera sees them now, each of its tracks thinned by itself with the others as they are. `reach` is how far its art goes.
 */
export function thinLevel(take: TakeBody, levelId: string, optics: Optics, tolerancePx: number, outputWidthPx: number, reach: ArtReach = UNKNOWN_REACH): Thinned {
  const level = take.levels[levelId]
  if (level === undefined) return { remove: [], change: [], mostPx: 0 }
  const stage = createTakeStage(take, optics)
  const motion = stage.motionOf(levelId)
  const lenses = new Map<number, Lens>()
  const lensAt = (frame: number) => lenses.get(frame) ?? (lenses.set(frame, lensOf(stage.poseAt(frame), optics)), lenses.get(frame)!)
  const [remove, change]: [KeyRecord[], KeyRecord[]] = [[], []]
  let most = 0
  for (const aspect of LEVEL_ASPECTS) {
    const owner = levelOwner(levelId, aspect)
    const track: Track<LevelValues[LevelAspect], PlacedKey> = keyTrack(take, owner, optics)
    if (track.keys.length < 2) continue
    const off = (frame: number, value: LevelValues[LevelAspect]) => {
      const now = motion.keyedAt(frame)
      if (aspect === 'opacity') return Math.abs((value as number) - now.opacity)
      const planeWith = (values: LevelValues) => planeOf(stage.seen(frame, stage.poseAt(frame), new Map([[levelId, values]])).standOf(levelId), level.pivot)
      return cornersOff(lensAt(frame), reach, planeWith(now), planeWith({ ...now, [aspect]: value }))
    }
    const limit = aspect === 'opacity' ? LEAST_OPACITY : tolerancePx / outputWidthPx
    const thinned = thinKeys(track, { mix: owner.kind.mix(optics), isLocked: (key) => key.of.record.locked, off, limit })
    remove.push(...thinned.remove.map(({ of }) => of.record))
    change.push(...thinned.change.map(({ of, move }) => ({ ...of.record, move })))
    if (aspect !== 'opacity') most = Math.max(most, thinned.most)
  }
  return { remove, change, mostPx: most * outputWidthPx }
}

/** How far apart on the picture the corners of a level's art are, fw; behind the lens, as far as can be. */
function cornersOff(lens: Lens, { x, y }: ArtReach, ...planes: readonly [LevelPlane, LevelPlane]): number {
  let most = 0
  for (const [cx, cy] of [[-x, -y], [x, -y], [x, y], [-x, y]] as const) {
    const [p, q] = planes.map((plane) => project(lens, pointOnPlane(plane, { x: cx, y: cy })))
    if (!(p!.z >= NEAREST_Z) && !(q!.z >= NEAREST_Z)) continue
    if (!(p!.z >= NEAREST_Z) || !(q!.z >= NEAREST_Z)) return Infinity
    most = Math.max(most, Math.hypot(p!.u - q!.u, p!.v - q!.v))
  }
  return most
}
