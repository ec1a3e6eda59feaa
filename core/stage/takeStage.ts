import type { Optics } from '../camera/lens'
import { untouchedPose, type CameraPose } from '../camera/pose'
import { lensOf, NEAREST_Z, project, type Lens } from '../camera/projection'
import { screenMotion } from '../camera/screenMotion'
import { inDrawOrder } from '../depth/drawOrder'
import { levelPlane, pointOnPlane, type LevelPlane } from '../depth/levelPlane'
import { exposureAt, exposuresOf } from '../document/exposures'
import { inOrder } from '../document/order'
import { panelAtFrame, placedFramings, rackLevels, takeLengthFrames, type PlacedFraming } from '../document/panels'
import type { Camera, Level } from '../document/records'
import type { TakeBody } from '../document/units'
import { dot, type Point2 } from '../geometry/point'
import { createCameraTrack } from '../moves/cameraTrack'

/**
 * A level as it stands at one frame: all that is needed to show it. What the record says of place, size, turn, opacity and
 * tint is where the level begins, not what is seen.
 */
export interface PlacedLevel {
  readonly level: Level
  /** What it shows; null where it has no drawing yet. */
  readonly drawingId: string | null
  readonly plane: LevelPlane
  /** Its art is so many times its own size. */
  readonly size: number
  /** 0…1. */
  readonly opacity: number
  /** Null, or of strength 0: none. */
  readonly tint: NonNullable<Level['tint']> | null
  /** Distance of the pivot along the lens axis, fw. */
  readonly z: number
  /** Parallel to the picture, so its image is a plain affine one. */
  readonly square: boolean
  readonly rackIndex: number
  /** Reference levels lie under (−1) or over (1) all others; else 0. */
  readonly layer: -1 | 0 | 1
  /** Which of its drawing's pictures a reference sequence shows, from 0; null where the whole drawing is shown. */
  readonly pictureIndex: number | null
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
}

export interface TakeStage {
  readonly take: TakeBody
  readonly optics: Optics
  readonly lengthFrames: number
  /** Frames outside the shot are held at its ends. */
  at(frame: number): StageFrame
  /** The same with another pose in the camera's place: what the picture would be. */
  withPose(frame: number, pose: CameraPose): StageFrame
  poseAt(frame: number): CameraPose
  framings(cameraId: string): readonly PlacedFraming[]
  /** A camera's pose at any frame; null where it has no framing. */
  cameraAt(cameraId: string, frame: number): CameraPose | null
  /** The frame after which a camera rests for good. */
  lastMovingFrame(cameraId: string): number
  /** The camera's speed on screen leaving a frame, in fw a frame. */
  speedAt(frame: number): number
}

/** A level is square to the picture when its axes turn less than this (fw per fw) along the lens axis. */
const SQUARE_TOLERANCE = 1e-9

export function createTakeStage(take: TakeBody, optics: Optics): TakeStage {
  const lengthFrames = takeLengthFrames(take)
  const cameras: readonly Camera[] = inOrder(take.cameras)
  const tracks = new Map(cameras.map((camera) => [camera.id, createCameraTrack(placedFramings(take, camera.id), optics)]))
  const rest = untouchedPose(optics)
  const rack = rackLevels(take).map((level, rackIndex) => ({
    level,
    rackIndex,
    plane: levelPlane(level),
    exposures: exposuresOf(take, level.id),
  }))
  const liveCameraId = cameras[0]?.id ?? null

  const held = (frame: number) => Math.min(Math.max(0, lengthFrames - 1), Math.max(0, frame))
  const poseAt = (frame: number): CameraPose =>
    (liveCameraId === null ? null : tracks.get(liveCameraId)!.at(held(frame))) ?? rest
  const withPose = (asked: number, pose: CameraPose): StageFrame => {
    const frame = held(asked)
    const lens = lensOf(pose, optics)
    const placed = panelAtFrame(take, frame)
    const panelIndex = placed?.index ?? 0
    const levels: PlacedLevel[] = []
    for (const { level, rackIndex, plane, exposures } of rack) {
      if (!level.visible) continue
      const { z } = project(lens, plane.origin)
      const square =
        Math.abs(dot(plane.axisX, lens.forward)) < SQUARE_TOLERANCE * level.scale &&
        Math.abs(dot(plane.axisY, lens.forward)) < SQUARE_TOLERANCE * level.scale
      if (square && z < NEAREST_Z) continue
      // In a transition a sequence goes on past the shot's ends.
      const pictureIndex = sequenceIndex(level, asked)
      // Before its first picture a sequence shows nothing.
      const drawingId = pictureIndex !== null && pictureIndex < 0 ? null : (exposureAt(exposures, frame)?.cell.drawingId ?? null)
      const shown = { size: level.scale, opacity: level.opacity, tint: level.tint ?? null, layer: layerOf(level), pictureIndex }
      levels.push({ level, drawingId, plane, z, square, rackIndex, ...shown })
    }
    return { frame, panelIndex, panelId: placed?.panel.id ?? null, cameraId: liveCameraId, pose, lens, levels: inDrawOrder(levels) }
  }
  return {
    take,
    optics,
    lengthFrames,
    poseAt,
    withPose,
    at: (frame) => withPose(frame, poseAt(frame)),
    framings: (cameraId) => tracks.get(cameraId)?.framings ?? [],
    cameraAt: (cameraId, frame) => tracks.get(cameraId)?.at(held(frame)) ?? null,
    lastMovingFrame: (cameraId) => tracks.get(cameraId)?.lastMovingFrame ?? 0,
    speedAt: (frame) => screenMotion(poseAt(frame), poseAt(frame + 1), optics),
  }
}

function layerOf(level: Level): -1 | 0 | 1 {
  if (level.kind !== 'reference') return 0
  return level.over === true ? 1 : -1
}

/** The picture of a reference sequence that is due at a frame: below 0 before its start, past the last after its end. */
function sequenceIndex(level: Level, frame: number): number | null {
  const sequence = level.kind === 'reference' ? (level.sequence ?? null) : null
  return sequence === null ? null : Math.floor((frame - sequence.startFrame) / sequence.framesEach)
}

/** Where a point of a level's art falls in the picture. */
export function seenAt(lens: Lens, placed: Pick<PlacedLevel, 'plane'>, art: Point2) {
  return project(lens, pointOnPlane(placed.plane, art))
}
