import { keysOfLevel, levelKeys, levelOwners, placedKeys, valuesSaid, type PlacedKey } from '../document/keys'
import { takeLengthFrames } from '../document/panels'
import type { Level } from '../document/records'
import type { TakeBody } from '../document/units'
import { ORIGIN, type Point3 } from '../geometry/point'
import { LEVEL_ASPECTS, LEVEL_MIXES, type LevelAspect, type LevelValues } from '../moves/levelValues'
import { driftAt, swingAt, type Swing } from '../moves/sway'
import { createTrack, type Track, type TrackKey } from '../moves/track'
import { indexAt } from '../time/indexAt'

/** What a level is tried with in the place of what its keys say. */
export type TriedLevels = ReadonlyMap<string, Partial<LevelValues>>

/** How one level moves by itself, whatever carries or sees it. */
export interface LevelMotion {
  /** It stands as its record says, at every frame. */
  readonly isStill: boolean
  readonly keys: Readonly<Record<LevelAspect, readonly PlacedKey[]>>
  /** What its keys say at a frame: between steps too, and without what is added to them. */
  keyedAt(frame: number): LevelValues
  /** What is seen of it: stepped, and with swing, bob and drift. Past the shot's ends all of it goes on as it went there. */
  seenAt(frame: number, tried?: Partial<LevelValues>): LevelValues
  /** What bob and drift add to its place at a frame. */
  swayAt(frame: number): Point3
  /** What swing, bob and drift add were they so much of a period further on: degrees of roll, and fw. */
  addedAt(frame: number, periodsOn: number): { readonly rollDegrees: number; readonly x: number; readonly y: number }
  /** Its frame of the motion that a frame shows of a value: itself, unless it is stepped. */
  stepOf(aspect: LevelAspect, frame: number): number
  /** The frame after which its keys move nothing any more. */
  readonly lastMovingFrame: number
}

const frameOf = (key: PlacedKey) => key.frame

export function createLevelMotion(take: TakeBody, level: Level): LevelMotion {
  const said = valuesSaid(level)
  const keys = keysOfLevel(take, level.id)
  const tracks = { place: trackOf('place', keys.place), turn: trackOf('turn', keys.turn), size: trackOf('size', keys.size), opacity: trackOf('opacity', keys.opacity) }
  const { stepped, swing, bob, drift } = level

  const stepOf = (aspect: LevelAspect, frame: number) => {
    if (stepped === undefined) return frame
    const placed = keys[aspect]
    const at = placed[indexAt(placed, frame, frameOf)]?.frame ?? 0
    return stepped === 'held' ? at : at + Math.floor((frame - at) / stepped) * stepped
  }
  const last = Math.max(0, takeLengthFrames(take) - 1)
  const valueAt = <A extends LevelAspect>(aspect: A, frame: number): LevelValues[A] => (tracks[aspect] as Track<LevelValues[A]> | null)?.goingOn(frame, 0, last) ?? said[aspect]
  const stepAt = <A extends LevelAspect>(aspect: A, frame: number): LevelValues[A] => {
    if (stepped !== 'held') return valueAt(aspect, stepOf(aspect, frame))
    const placed = keys[aspect]
    // The key itself, though an arrival there may still be settling.
    const key = placed[Math.max(0, indexAt(placed, frame, frameOf))]
    return key === undefined ? said[aspect] : (levelKeys(level.id, aspect).kind.valueOf(key.record))
  }
  const on = <S extends Swing>(sway: S, periods: number): S => (periods === 0 ? sway : { ...sway, phase: sway.phase + periods })
  const addedAt = (frame: number, periodsOn: number) => {
    const at = stepOf('place', frame)
    const wander = drift === undefined ? null : on(drift, periodsOn)
    return {
      rollDegrees: swing === undefined ? 0 : swingAt(on(swing, periodsOn), stepOf('turn', frame)),
      x: wander === null ? 0 : driftAt(wander, at, 0),
      y: (bob === undefined ? 0 : swingAt(on(bob, periodsOn), at)) + (wander === null ? 0 : driftAt(wander, at, 1)),
    }
  }
  const swayAt = (frame: number): Point3 => {
    if (bob === undefined && drift === undefined) return ORIGIN
    const { x, y } = addedAt(frame, 0)
    return { x, y, depth: 0 }
  }
  const { place: places, turn: turns, size: sizes, opacity: opacities } = tracks
  const keyedAt = (frame: number): LevelValues => ({ place: places?.at(frame) ?? said.place, turn: turns?.at(frame) ?? said.turn, size: sizes?.at(frame) ?? said.size, opacity: opacities?.at(frame) ?? said.opacity })
  /** What its keys say is what is seen. */
  const isPlain = stepped === undefined && swing === undefined && bob === undefined && drift === undefined
  return {
    isStill: LEVEL_ASPECTS.every((aspect) => keys[aspect].length === 0) && swing === undefined && bob === undefined && drift === undefined,
    keys,
    stepOf,
    swayAt,
    addedAt,
    keyedAt,
    seenAt(frame, tried) {
      if (isPlain && tried === undefined && frame >= 0 && frame <= last) return keyedAt(frame)
      let place = tried?.place ?? stepAt('place', frame)
      let turn = tried?.turn ?? stepAt('turn', frame)
      if (bob !== undefined || drift !== undefined) {
        const { x, y } = swayAt(frame)
        place = { x: place.x + x, y: place.y + y, depth: place.depth }
      }
      if (swing !== undefined) turn = { ...turn, rollDegrees: turn.rollDegrees + swingAt(swing, stepOf('turn', frame)) }
      return { place, turn, size: tried?.size ?? stepAt('size', frame), opacity: tried?.opacity ?? stepAt('opacity', frame) }
    },
    get lastMovingFrame() {
      return Math.max(0, ...LEVEL_ASPECTS.map((aspect) => tracks[aspect]?.lastMovingFrame ?? 0))
    },
  }
}

function trackOf<A extends LevelAspect>(aspect: A, placed: readonly PlacedKey[]): Track<LevelValues[A]> | null {
  if (placed.length === 0) return null
  const { kind } = levelKeys('', aspect)
  const keys = placed.map((of): TrackKey<LevelValues[A], PlacedKey> => ({ frame: of.frame, value: kind.valueOf(of.record), move: of.record.move, of }))
  return createTrack(keys, LEVEL_MIXES[aspect])
}

/** The frames on which any of a level's keys stand, in order. */
export function keyFrames(take: TakeBody, levelId: string): readonly number[] {
  return [...new Set(levelOwners(levelId).flatMap((owner) => placedKeys(take, owner).map(frameOf)))].sort((a, b) => a - b)
}
