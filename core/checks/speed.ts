import { meetPlane, NEAREST_Z, project } from '../camera/projection'
import { deviationOf, softnessAt } from '../depth/air'
import { pointOnPlane, type LevelPlane } from '../depth/levelPlane'
import { carrierOf } from '../document/carriers'
import type { Level } from '../document/records'
import type { StageFrame, TakeStage } from '../stage/takeStage'

/** Fw a second at which a hard edge begins to strobe at 24 frames a second: a frame's width in 7 s. */
export const STROBES_FROM = 1 / 7
/** An edge that is as soft as this share of its step from frame to frame is drawn together by the eye. */
const SOFT_ENOUGH = 0.5
/** Farther than that in one frame is a cut, fw: two framings a frame apart. */
const CUT_FROM = 0.5
/** Runs so few frames apart are one. */
const TOGETHER = 5
/** What is nearly not there strobes nobody's eye. */
const SEEN_FROM = 0.3

/** The limit at a rate: the more pictures in a second, the faster it may go. */
export const strobingLimit = (fps: number, at24: number = STROBES_FROM): number => (at24 * fps) / 24

/** How fast one thing goes over the screen. */
export interface SpeedOf {
  /** Null: the camera, at the picture plane. */
  readonly levelId: string | null
  /** Leaving each frame of the shot, fw a second; NaN where it is not seen, or the picture is cut there. The last frame's is NaN. */
  readonly speeds: Float64Array
  /** Runs of frames in which it strobes. */
  readonly strobes: readonly Strobe[]
}

/** Frames in which a hard edge goes too fast for the rate. */
export interface Strobe {
  readonly first: number
  readonly last: number
  readonly worstFrame: number
  /** There, fw a second. */
  readonly speed: number
}

/** Only frames from `first` to `last`, only one level: all where nothing is said. */
export interface SpeedSpan {
  readonly first?: number
  readonly last?: number
  readonly only?: string | null
}

/**
 * How fast everything goes over the screen: of each level, the point of its art that is seen at the frame's middle, from each frame to
 * the next, as its camera sees it. Over a cut from camera to camera nothing goes anywhere. What is on 2s goes its step evenly in both
 * frames; whether it strobes is asked of the step as it is seen. Figures, with which the eye goes along, do not.
 */
export function speedsOf(stage: TakeStage, fps: number, limit: number, { first = 0, last = stage.lengthFrames - 1, only = null }: SpeedSpan = {}): readonly SpeedOf[] {
  const frames = stage.lengthFrames
  const known = new Map<string | null, { readonly speeds: Float64Array; readonly strobes: Strobe[] }>()
  const followed = new Map<Level, boolean>()
  /** Whether the eye goes along with it: a figure, or what one carries. */
  const isFollowed = (level: Level): boolean => {
    const so = followed.get(level)
    if (so !== undefined) return so
    const carrier = carrierOf(stage.take, level)
    const on = carrier?.kind === 'level' ? stage.take.levels[carrier.levelId] : undefined
    const is = level.figure === true || (on !== undefined && isFollowed(on))
    followed.set(level, is)
    return is
  }
  const of = (id: string | null) => {
    const own = known.get(id) ?? { speeds: new Float64Array(frames).fill(NaN), strobes: [] }
    known.set(id, own)
    return own
  }
  of(null)
  let before: StageFrame | null = frames === 0 ? null : stage.at(first)
  for (let frame = first; frame < Math.min(last, frames - 1) && before !== null; frame++) {
    const now: StageFrame = stage.at(frame + 1)
    if (now.cameraId === before.cameraId) {
      const camera = stage.speedOf(now.cameraId, frame)
      if (camera <= CUT_FROM) of(null).speeds[frame] = camera * fps
      // What is blank then goes nowhere that is seen.
      const planes = new Map(now.levels.flatMap(({ level, copy, plane, drawingId }) => (copy === 0 && drawingId !== null ? [[level.id, plane] as const] : [])))
      for (const { level, copy, plane, drawingId, opacity, z } of before.levels) {
        const then = planes.get(level.id)
        if (copy !== 0 || (only !== null && level.id !== only) || then === undefined || drawingId === null || level.kind === 'reference' || level.standIn === true) continue
        const step = stepOf(before, plane, now, then)
        if (step === null || step > CUT_FROM) continue
        const { speeds, strobes } = of(level.id)
        speeds[frame] = step * fps
        if (isFollowed(level)) continue
        const softness = before.air.focus === null ? 0 : deviationOf(softnessAt(before.air.focus, Math.max(NEAREST_Z, z)))
        if (opacity < SEEN_FROM || step * fps <= limit || softness >= step * SOFT_ENOUGH) continue
        const last = strobes.at(-1)
        if (last === undefined || last.last < frame - TOGETHER) strobes.push({ first: frame, last: frame, worstFrame: frame, speed: step * fps })
        else strobes[strobes.length - 1] = { ...last, last: frame, ...(step * fps > last.speed ? { worstFrame: frame, speed: step * fps } : {}) }
      }
    }
    before = now
  }
  return [...known].map(([levelId, { speeds, strobes }]) => ({ levelId, speeds: evened(speeds, levelId === null ? undefined : stage.take.levels[levelId]?.stepped), strobes }))
}

/** On 2s, 3s or 4s each step shared among the frames that it stands for. */
function evened(speeds: Float64Array, stepped: Level['stepped']): Float64Array {
  if (stepped === undefined || stepped === 'held') return speeds
  return speeds.map((value, i) => {
    if (Number.isNaN(value)) return value
    const around = speeds.subarray(i, i + stepped).filter((each) => !Number.isNaN(each))
    return around.reduce((sum, each) => sum + each, 0) / around.length
  })
}

/** How far the art that is seen at the frame's middle goes to the next frame, fw; null where none is. */
function stepOf(before: StageFrame, plane: LevelPlane, now: StageFrame, then: LevelPlane): number | null {
  const art = meetPlane(before.lens, 0, 0, plane)
  if (art === null) return null
  const seen = project(now.lens, pointOnPlane(then, art))
  return seen.z < NEAREST_Z ? null : Math.hypot(seen.u, seen.v)
}

/** How many times as fast one goes as another over the frames in which both are seen; null where the slower hardly moves. */
export function parallaxOf(a: Float64Array, b: Float64Array): number | null {
  let [sumA, sumB] = [0, 0]
  for (let i = 0; i < Math.min(a.length, b.length); i++) {
    if (Number.isNaN(a[i]!) || Number.isNaN(b[i]!)) continue
    sumA += a[i]!
    sumB += b[i]!
  }
  return sumB < 1e-6 * Math.max(1, sumA) ? null : sumA / sumB
}

/** How many times as long something has to take to go no faster than a limit. */
export const longerBy = (speed: number, limit: number): number => Math.max(1, speed / limit)
