import { heldLens, type Optics } from '../camera/lens'
import { untouchedPose, type CameraPose } from '../camera/pose'
import { lensOf, NEAREST_Z, project, type Lens } from '../camera/projection'
import { screenMotion } from '../camera/screenMotion'
import { CLEAR_AIR, type Air } from '../depth/air'
import { inDrawOrder } from '../depth/drawOrder'
import { planeOf } from '../depth/carriage'
import { pointOnPlane, type LevelPlane } from '../depth/levelPlane'
import { shadowPlane, type ShadowFall } from '../depth/shadow'
import type { SeenLevels } from '../document/carriers'
import { airKeys, airSaid, keyTrack } from '../document/keys'
import { panelAtFrame, placedFramings, takeLengthFrames, type PlacedFraming } from '../document/panels'
import type { TakeBody } from '../document/units'
import type { SpanTarget } from '../document/records'
import { placedSpans, targetHangs, targetOf } from '../document/spans'
import { dot, ORIGIN, type Point2, type Point3 } from '../geometry/point'
import type { AirName, AirValues } from '../moves/airValues'
import { createCameraTrack } from '../moves/cameraTrack'
import { createCameraWork, type CameraWork } from './cameraWork'
import { liveCameraOf, type LiveCamera } from './liveCamera'
import { createLevelMotion, type LevelMotion, type TriedLevels } from './levelMotion'
import { createStanding, type StandingLevel } from './standing'

/** A level as one camera sees it at one frame: all that is needed to show it. */
export interface PlacedLevel extends Omit<StandingLevel, 'base'> {
  /** Distance of the pivot along the lens axis, fw. */
  readonly z: number
  /** Parallel to the picture, so its image is a plain affine one. */
  readonly square: boolean
}

/** Everything there is to see at one frame of a shot. */
export interface StageFrame {
  readonly frame: number
  readonly panelIndex: number
  readonly panelId: string | null
  readonly cameraId: string | null
  readonly pose: CameraPose
  readonly lens: Lens
  /** Far to near. Hidden levels are left out; levels behind the lens too. */
  readonly levels: readonly PlacedLevel[]
  /** The shadows that levels throw, each as that level laid flat, faded as much as it is light. */
  readonly shadows: readonly PlacedLevel[]
  /** Seen from elsewhere than the camera, clear. */
  readonly air: Air
}

/**
 * Pictures past the shot's ends, as a transition shows them and a file with handles holds them, go on as they went there: what
 * moves at an end goes on at its speed, what is followed is followed on, what sways sways; drawings, the panel and the live
 * camera are those of the end. Everything else that is asked for outside the shot is what is at its end.
 */
export interface TakeStage {
  readonly take: TakeBody
  readonly optics: Optics
  readonly lengthFrames: number
  /** The first and the last of its frames that the film shows; the transitions at its ends may go on past them. */
  readonly shown: { readonly first: number; readonly last: number }
  /** Which camera the film sees. */
  readonly live: LiveCamera
  /** Through the live camera. */
  at(frame: number): StageFrame
  /**
   * Through any camera; `pose` in the place of its own, and levels of `tried` as it says: what the picture would be. With `eye`
   * the set as it is for that camera, seen from elsewhere.
   */
  through(frame: number, cameraId: string | null, pose?: CameraPose, tried?: TriedLevels | null, eye?: CameraPose): StageFrame
  /** Through the live camera, were it there. */
  withPose(frame: number, pose: CameraPose, tried?: TriedLevels | null): StageFrame
  /** How levels stand, visible or not; for the live camera where none is said. Throws for a level that is not there. */
  seen(frame: number, pose?: CameraPose, tried?: TriedLevels | null): SeenLevels
  /** Haze and focus, whoever looks. */
  airAt(frame: number): Air
  /** The live camera's pose. */
  poseAt(frame: number): CameraPose
  framings(cameraId: string): readonly PlacedFraming[]
  /** A camera's pose; at rest where it has no framing, and for none. */
  poseOf(cameraId: string | null, frame: number): CameraPose
  /** What its framings alone say: what it would be were it to follow nothing, aim at nothing and be held still. */
  framedPoseOf(cameraId: string | null, frame: number): CameraPose
  /** What a framing there would have to say for the camera to be at `asked`, whatever its spans make of it. */
  framedAs(cameraId: string | null, frame: number, asked: CameraPose): CameraPose
  /** What a camera's spans make of that; null where it has none. */
  workOf(cameraId: string | null): CameraWork | null
  /** The frame after which a camera rests for good. */
  lastMovingFrame(cameraId: string): number
  /** How a level moves, visible or not. Throws for one that is not there. */
  motionOf(levelId: string): LevelMotion
  /** A camera's speed on screen leaving a frame, in fw a frame. */
  speedOf(cameraId: string | null, frame: number): number
}

/** A level is square to the picture when its axes turn less than this (fw per fw) along the lens axis. */
const SQUARE_TOLERANCE = 1e-9

/** How many frames the film shows of a shot before its first and past its last. */
export interface Beyond {
  readonly before: number
  readonly after: number
}
export const NOTHING_BEYOND: Beyond = Object.freeze({ before: 0, after: 0 })

export function createTakeStage(take: TakeBody, optics: Optics, beyond: Beyond = NOTHING_BEYOND): TakeStage {
  const lengthFrames = takeLengthFrames(take)
  const framings = new Map(Object.keys(take.cameras).map((id) => [id, placedFramings(take, id)]))
  const tracks = new Map([...framings].map(([id, placed]) => [id, createCameraTrack(placed, optics)]))
  const rest = untouchedPose(optics)
  const live = liveCameraOf(take)
  const motions = new Map<string, LevelMotion>()
  const motionOf = (levelId: string): LevelMotion => {
    const known = motions.get(levelId)
    if (known !== undefined) return known
    const level = take.levels[levelId]
    if (level === undefined) throw new Error(`motionOf: no level ${levelId}`)
    const motion = createLevelMotion(take, level)
    motions.set(levelId, motion)
    return motion
  }
  const standing = createStanding(take, motionOf)

  const held = (frame: number) => Math.min(Math.max(0, lengthFrames - 1), Math.max(0, frame))
  const framedPoseOf = (cameraId: string | null, frame: number): CameraPose => (cameraId === null ? null : tracks.get(cameraId)?.at(held(frame))) ?? rest
  const lastFrame = Math.max(0, lengthFrames - 1)
  const framedBeyond = (cameraId: string | null, frame: number): CameraPose => {
    const pose = (cameraId === null ? null : tracks.get(cameraId)?.goingOn(frame, 0, lastFrame)) ?? rest
    return isInside(frame) ? pose : { ...pose, focalLengthMm: heldLens(pose.focalLengthMm) }
  }
  const isInside = (frame: number) => frame >= 0 && frame <= lastFrame
  const pointAt = ({ levelId, at }: SpanTarget, frame: number): Point3 => {
    // What is followed hangs on no camera: any does to ask where it stands.
    const stand = standing.standOf(levelId, frame, rest, null)
    return at === undefined ? stand.place : pointOnPlane(planeOf(stand, take.levels[levelId]!.pivot), at)
  }
  const works = new Map<string, CameraWork | null>()
  const workOf = (cameraId: string | null): CameraWork | null => {
    if (cameraId === null || noSpans) return null
    const known = works.get(cameraId)
    if (known !== undefined) return known
    const spans = placedSpans(take, cameraId).filter(({ span }) => {
      const target = targetOf(span)
      return target === null || (Object.hasOwn(take.levels, target.levelId) && !targetHangs(take, target))
    })
    const work = spans.length === 0 ? null : createCameraWork(spans, { optics, lastFrame, framed: (frame) => framedBeyond(cameraId, frame), pointAt })
    works.set(cameraId, work)
    return work
  }
  const noSpans = Object.keys(take.spans).length === 0
  const poseOf = (cameraId: string | null, frame: number): CameraPose => workOf(cameraId)?.at(held(frame)) ?? framedPoseOf(cameraId, frame)
  const poseBeyond = (cameraId: string | null, frame: number): CameraPose => workOf(cameraId)?.beyond(frame) ?? framedBeyond(cameraId, frame)

  /**
   * The phases of a frame, in their order, so that none needs what comes after it: the camera, the levels, carriers before
   * what they carry, and what is seen of them. A level hangs on the camera where that carries it, where it turns to it, or
   * where its carrier does.
   */
  const through = (asked: number, cameraId: string | null, pose: CameraPose = isInside(asked) ? poseOf(cameraId, asked) : poseBeyond(cameraId, asked), tried: TriedLevels | null = null, eye: CameraPose = pose): StageFrame => {
    const frame = held(asked)
    const lens = lensOf(eye, optics)
    const placed = panelAtFrame(take, frame)
    const stands = standing.at(asked, frame, pose, tried)
    return { frame, panelIndex: placed?.index ?? 0, panelId: placed?.panel.id ?? null, cameraId, pose: eye, lens, levels: inDrawOrder(seenThrough(lens, stands)), shadows: throwsAny ? shadowsThrough(lens, stands) : NO_SHADOWS, air: eye === pose ? (airs?.(asked) ?? CLEAR_AIR) : CLEAR_AIR }
  }
  const throwsAny = Object.values(take.levels).some(({ shadow }) => shadow !== undefined)
  const airs = airOf(take, optics, lastFrame)
  const airAt = (frame: number): Air => (airs === null ? CLEAR_AIR : airs(held(frame)))
  const liveAt = (frame: number) => live.at(held(frame))
  return {
    take,
    optics,
    lengthFrames,
    shown: lengthFrames === 0 ? { first: 0, last: -1 } : { first: 0 - beyond.before, last: lastFrame + beyond.after },
    live,
    through,
    at: (frame) => through(frame, liveAt(frame)),
    withPose: (frame, pose, tried) => through(frame, liveAt(frame), pose, tried),
    seen(asked, camera = poseOf(liveAt(asked), asked), tried = null) {
      const frame = held(asked)
      return { camera, standOf: (id) => standing.standOf(id, frame, camera, tried), valuesOf: (id) => motionOf(id).seenAt(frame, tried?.get(id)), swayOf: (id) => motionOf(id).swayAt(frame) }
    },
    airAt,
    poseAt: (frame) => poseOf(liveAt(frame), frame),
    motionOf,
    framings: (cameraId) => framings.get(cameraId) ?? [],
    poseOf,
    framedPoseOf,
    framedAs(cameraId, frame, asked) {
      const work = workOf(cameraId)
      return work === null || work.at(held(frame)) === null ? asked : work.framedAs(held(frame), framedPoseOf(cameraId, frame), asked)
    },
    workOf,
    lastMovingFrame: (cameraId) => Math.max(tracks.get(cameraId)?.lastMovingFrame ?? 0, workOf(cameraId)?.lastFrame ?? 0),
    speedOf: (cameraId, frame) => screenMotion(poseOf(cameraId, frame), poseOf(cameraId, frame + 1), optics),
  }
}

const NO_SHADOWS: readonly PlacedLevel[] = Object.freeze([])

/** What of a take's air is seen at a frame; null of one that has none. */
function airOf(take: TakeBody, optics: Optics, lastFrame: number): ((frame: number) => Air) | null {
  const of = <A extends AirName>(name: A): ((frame: number) => AirValues[A]) | null => {
    const record = take.air[name]
    if (record === undefined) return null
    const said = airSaid(record) as unknown as AirValues[A]
    const track = keyTrack(take, airKeys(name), optics)
    return (frame) => (track.goingOn(frame, 0, lastFrame) as AirValues[A] | null) ?? said
  }
  const haze = of('haze')
  const focus = of('focus')
  return haze === null && focus === null ? null : (frame) => ({ haze: haze?.(frame) ?? null, focus: focus?.(frame) ?? null })
}

/** What does not move keeps its plane, and its shadow. */
const laid = new WeakMap<LevelPlane, { readonly of: ShadowFall; readonly plane: LevelPlane }>()
function laidFlat({ plane, level, base }: StandingLevel): LevelPlane {
  const of = level.shadow!
  const known = laid.get(plane)
  if (known?.of === of) return known.plane
  const made = shadowPlane(plane, of, base)
  laid.set(plane, { of, plane: made })
  return made
}

/** The shadows of what throws one. What can't be seen of them is left to whoever draws. */
function shadowsThrough(lens: Lens, standing: readonly StandingLevel[]): PlacedLevel[] {
  const thrown = standing.flatMap((each): StandingLevel[] => {
    const { shadow } = each.level
    if (shadow === undefined || shadow.strength === 0 || each.drawingId === null) return []
    const plane = laidFlat(each)
    return [{ ...each, plane, place: pointOnPlane(plane, each.level.pivot ?? ORIGIN), opacity: each.opacity * shadow.strength, tint: null, tone: null }]
  })
  return inDrawOrder(seenThrough(lens, thrown))
}

function seenThrough({ position, forward }: Lens, standing: readonly StandingLevel[]): PlacedLevel[] {
  const levels: PlacedLevel[] = []
  for (const each of standing) {
    const { plane, place, size } = each
    const z = (place.x - position.x) * forward.x + (place.y - position.y) * forward.y + (place.depth - position.depth) * forward.depth
    const square = Math.abs(dot(plane.axisX, forward)) < SQUARE_TOLERANCE * size && Math.abs(dot(plane.axisY, forward)) < SQUARE_TOLERANCE * size
    if (square && z < NEAREST_Z) continue
    const { level, drawingId, opacity, tint, tone, copy, rackIndex, layer, pictureIndex } = each
    levels.push({ level, drawingId, plane, place, size, opacity, tint, tone, copy, rackIndex, layer, pictureIndex, z, square })
  }
  return levels
}

/** A level as a frame shows it; of a repeated one, itself. */
export const placedLevel = (frame: StageFrame | null, levelId: string | null): PlacedLevel | null => frame?.levels.find(({ level, copy }) => level.id === levelId && copy === 0) ?? null

/** Where a point of a level's art falls in the picture. */
export function seenAt(lens: Lens, placed: Pick<PlacedLevel, 'plane'>, art: Point2) {
  return project(lens, pointOnPlane(placed.plane, art))
}
