import { lensOf, NEAREST_Z, project, unproject, type Lens } from '../camera/projection'
import { screenMotion } from '../camera/screenMotion'
import { pointOnPlane } from '../depth/levelPlane'
import { ORIGIN, type Point2 } from '../geometry/point'
import type { CameraPose } from '../camera/pose'
import type { TakeStage } from './takeStage'

/** A frame of the move, as it lies on the widest view. */
export interface BoardFraming {
  readonly frame: number
  /** From bottom left, counter-clockwise. */
  readonly corners: readonly Point2[]
}
/** How a level goes there. */
export interface BoardWay {
  readonly levelId: string
  readonly points: readonly Point2[]
}
/**
 * What a printed panel shows of a move: one view wide enough for all of it, the frames in their order, the way of their middles, and
 * the ways of levels. Points are u, v of that view: fw from its middle, v up.
 */
export interface BoardMove {
  readonly cameraId: string | null
  readonly pose: CameraPose
  /** Of the view, what is shown: all frames and ways. */
  readonly window: { readonly left: number; readonly right: number; readonly bottom: number; readonly top: number }
  /** None where the camera stands. */
  readonly framings: readonly BoardFraming[]
  readonly way: readonly Point2[]
  readonly ways: readonly BoardWay[]
}

/** What moves the picture by less, fw, is no move on paper. */
const LEAST_FW = 0.02
const WAY_POINTS = 24
/** A view wider than so many frames shows nothing any more. */
const MOST_FRAMES = 4
const MARGIN = 0.02

/**
 * The move of a panel's frames `from` to `to` (exclusive), as far as its first camera is live; null where nothing moves. Frames are
 * laid on the plane at depth 0, where art fills the untouched frame, or a frame width off for a camera beyond that.
 */
export function moveOnBoard(stage: TakeStage, from: number, to: number): BoardMove | null {
  const cameraId = stage.live.at(from)
  let end = from
  while (end + 1 < to && stage.live.at(end + 1) === cameraId) end++
  if (end === from) return null
  const keyed = cameraId === null ? [] : stage.framings(cameraId).map(({ frame }) => frame).filter((frame) => frame > from && frame < end)
  const poses = [from, ...keyed, end].map((frame) => ({ frame, pose: stage.poseOf(cameraId, frame) }))
  const optics = stage.optics
  const distance = ({ depth }: CameraPose) => (depth < -0.1 ? -depth : 1)
  const fieldOf = (pose: CameraPose) => distance(pose) / lensOf(pose, optics).k
  const widest = poses.reduce((most, each) => (fieldOf(each.pose) > fieldOf(most.pose) + 1e-9 ? each : most)).pose
  const lens = lensOf(widest, optics)
  const shown = poses.filter(({ pose }, i) => i === 0 || screenMotion(poses[i - 1]!.pose, pose, optics) > LEAST_FW)
  const framings: readonly BoardFraming[] = shown.length < 2 ? [] : shown.flatMap(({ frame, pose }) => ((corners) => (corners === null ? [] : [{ frame, corners }]))(frameOn(lens, lensOf(pose, optics), distance(pose))))
  const frames = Array.from({ length: Math.min(WAY_POINTS, end - from) + 1 }, (_, i, last = Math.min(WAY_POINTS, end - from)) => from + Math.round(((end - from) * i) / last))
  const middle = (frame: number): Point2 | null => ((pose) => onto(lens, unproject(lensOf(pose, optics), 0, 0, distance(pose))))(stage.poseOf(cameraId, frame))
  const way = framings.length < 2 ? [] : frames.flatMap((frame) => middle(frame) ?? [])
  const ways = waysOf(stage, cameraId, widest, frames)
  if (framings.length < 2 && ways.length === 0) return null
  const { halfHeight } = lens
  const own = [{ x: -0.5, y: -halfHeight }, { x: 0.5, y: halfHeight }]
  const all = [...own, ...framings.flatMap(({ corners }) => corners), ...ways.flatMap(({ points }) => points)]
  const reach = MOST_FRAMES / 2
  const within = (value: number, half: number) => Math.max(-half * 2 * reach, Math.min(half * 2 * reach, value))
  const margin = framings.length < 2 && all.every(({ x, y }) => Math.abs(x) <= 0.5 && Math.abs(y) <= halfHeight) ? 0 : MARGIN
  const window = {
    left: within(Math.min(...all.map(({ x }) => x)), 0.5) - margin,
    right: within(Math.max(...all.map(({ x }) => x)), 0.5) + margin,
    bottom: within(Math.min(...all.map(({ y }) => y)), halfHeight) - margin,
    top: within(Math.max(...all.map(({ y }) => y)), halfHeight) + margin,
  }
  return { cameraId, pose: widest, window, framings, way, ways }
}

const onto = (lens: Lens, point: Parameters<typeof project>[1]): Point2 | null => (({ u, v, z }) => (z < NEAREST_Z ? null : { x: u, y: v }))(project(lens, point))

/** Another camera's frame at a distance before it, as a lens sees it; null where it is not before that. */
function frameOn(lens: Lens, other: Lens, distance: number): readonly Point2[] | null {
  const corners = ([[-1, -1], [1, -1], [1, 1], [-1, 1]] as const).flatMap(([x, y]) => onto(lens, unproject(other, x * 0.5, y * other.halfHeight, distance)) ?? [])
  return corners.length === 4 ? corners : null
}

/** How levels that have keys of their place go, seen by a camera that stands. */
function waysOf(stage: TakeStage, cameraId: string | null, pose: CameraPose, frames: readonly number[]): readonly BoardWay[] {
  const moving = Object.values(stage.take.levels).filter((level) => level.kind !== 'reference' && stage.motionOf(level.id).keys.place.length > 1)
  if (moving.length === 0) return []
  const seen = frames.map((frame) => stage.through(frame, cameraId, pose))
  return moving.flatMap((level) => {
    const points = seen.flatMap(({ levels, lens }) => ((placed) => (placed === undefined ? [] : (onto(lens, pointOnPlane(placed.plane, level.pivot ?? ORIGIN)) ?? [])))(levels.find((each) => each.level.id === level.id)))
    const long = Math.max(0, ...points.map(({ x, y }) => Math.hypot(x - points[0]!.x, y - points[0]!.y)))
    return points.length > 1 && long > LEAST_FW * 2 ? [{ levelId: level.id, points }] : []
  })
}
