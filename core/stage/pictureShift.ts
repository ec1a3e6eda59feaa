import type { Optics } from '../camera/lens'
import { posesEqual, type CameraPose } from '../camera/pose'
import { lensOf, meetPlane, NEAREST_Z, unproject } from '../camera/projection'
import { levelPlane } from '../depth/levelPlane'
import { carrierOf, carriersOf } from '../document/carriers'
import { takeLengthFrames } from '../document/panels'
import { LEVEL_KEYS, type PlacedKey } from '../document/keys'
import { showsNothing, type Level } from '../document/records'
import type { TakeBody } from '../document/units'
import { createLevelMotion, keyFrames } from './levelMotion'
import { createStanding } from './standing'

const GRID: readonly number[] = [-1, -0.5, 0, 0.5, 1]
/** Between the points that are looked at a picture may move a little further. */
const SLACK = 1.02
/** Art this far off or farther moves as if it stood at the horizon. */
const HORIZON_FW = 1e4

/** How many parts of a shot it is looked at between where something is carried to. */
const LOOKS = 24
const FROM_THE_FRONT: CameraPose = Object.freeze({ x: 0, y: 0, depth: -1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 })

/** How far a level's art reaches from its middle, in its own fw: the farthest of its marks to either side, up or down. */
export interface ArtReach {
  readonly x: number
  readonly y: number
}

/** What is taken where it is not known how far art reaches. */
const UNKNOWN_REACH: ArtReach = Object.freeze({ x: 1, y: 1 })

/** The depths at which a take has art that can be seen, nearest first; the picture plane where it has none. */
export function artDepths(take: TakeBody, reaches: ReadonlyMap<string, ArtReach> = new Map()): readonly number[] {
  const depths: number[] = []
  for (const level of Object.values(take.levels)) {
    if (!level.visible || level.kind === 'reference' || showsNothing(level)) continue
    const { x, y } = reaches.get(level.id) ?? UNKNOWN_REACH
    const pivot = level.pivot ?? { x: 0, y: 0 }
    const own = { x: x + Math.abs(pivot.x), y: y + Math.abs(pivot.y) }
    const carrier = carrierOf(take, level)
    if (carrier !== null) {
      depths.push(...depthsCarried(take, level, Math.hypot(own.x, own.y)))
      continue
    }
    const { keys } = createLevelMotion(take, level)
    const sizes = keys.size.length === 0 ? [level.scale] : keys.size.map(({ record }) => LEVEL_KEYS.size.valueOf(record))
    const { axisX, axisY } = levelPlane({ ...level, scale: Math.max(...sizes) })
    // A turned level reaches nearer and farther than its pivot; one that turns, as far as it is large.
    const reach = keys.turn.length > 0 || level.facing !== undefined ? Math.max(...sizes) * Math.hypot(own.x, own.y) : Math.abs(axisX.depth) * own.x + Math.abs(axisY.depth) * own.y
    for (const depth of depthsOf(level, keys.place)) {
      depths.push(depth)
      if (reach > 1e-9) depths.push(depth - reach, depth + reach)
    }
  }
  return depths.length === 0 ? [0] : [...new Set(depths)].sort((a, b) => a - b)
}

/** Where a level is carried to: looked at now and then, and at each key of what it hangs on. What travels with the camera stays before it. */
function depthsCarried(take: TakeBody, level: Level, reach: number): readonly number[] {
  const { chain } = carriersOf(take, level)
  const hanging = [level, ...chain]
  if (hanging.some(({ carrier }) => carrier?.kind === 'camera')) return []
  const motions = new Map(hanging.map((each) => [each.id, createLevelMotion(take, each)]))
  const standing = createStanding({ ...take, levels: Object.fromEntries(hanging.map((each) => [each.id, each])) }, (id) => motions.get(id)!)
  const last = Math.max(0, takeLengthFrames(take) - 1)
  const frames = new Set([...Array.from({ length: LOOKS + 1 }, (_, i) => Math.round((last * i) / LOOKS)), ...hanging.flatMap(({ id }) => keyFrames(take, id))])
  return [...frames].flatMap((frame) => {
    const { place, size } = standing.standOf(level.id, frame, FROM_THE_FRONT, null)
    return [place.depth - size * reach, place.depth, place.depth + size * reach]
  })
}

/** Between these lies all of a level's way: a bent path stays among its ends and handles. */
function depthsOf(level: Level, keys: readonly PlacedKey[]): readonly number[] {
  if (keys.length === 0) return [level.depth]
  return keys.flatMap(({ record }, i) => {
    const { depth } = LEVEL_KEYS.place.valueOf(record)
    const [leaves, arrives] = [record.move.path, keys[i - 1]?.record.move.path]
    return [depth, ...(leaves.kind === 'bent' ? [depth + leaves.leave.depth] : []), ...(arrives?.kind === 'bent' ? [depth + arrives.arrive.depth] : [])]
  })
}

/**
 * How far the picture of one pose differs from another's, in fw: the most that art in the frame, at any of `depths`, is
 * seen elsewhere. Of a run of depths the ends and the middle are looked at: between them a point's shift lies on a line.
 * Stops counting once it is past `enough`.
 */
export function pictureShift(before: CameraPose, after: CameraPose, optics: Optics, depths: readonly number[], enough = Infinity): number {
  return before === after ? 0 : shiftFrom(pointsSeen(before, optics, depths), after, optics, enough)
}

/** Measures poses against those of a track, frame by frame; what is seen at each of its frames is worked out once. */
export function createShiftGauge(poseAt: (frame: number) => CameraPose, optics: Optics, depths: readonly number[]): (frame: number, pose: CameraPose, enough?: number) => number {
  const seen = new Map<number, { readonly pose: CameraPose; readonly points: Float64Array }>()
  return (frame, pose, enough = Infinity) => {
    let at = seen.get(frame)
    if (at === undefined) {
      const own = poseAt(frame)
      at = { pose: own, points: pointsSeen(own, optics, depths) }
      seen.set(frame, at)
    }
    return at.pose === pose || posesEqual(at.pose, pose) ? 0 : shiftFrom(at.points, pose, optics, enough)
  }
}

/** Points of the set over the frame at each depth: u, v, x, y, depth, one after the other. */
function pointsSeen(pose: CameraPose, optics: Optics, depths: readonly number[]): Float64Array {
  const lens = lensOf(pose, optics)
  const planes = [...new Set([depths[0]!, depths[depths.length >> 1]!, depths.at(-1)!])]
  const points = new Float64Array(planes.length * GRID.length * GRID.length * 5)
  let at = 0
  for (const depth of planes) {
    const plane = { origin: { x: 0, y: 0, depth }, axisX: { x: 1, y: 0, depth: 0 }, axisY: { x: 0, y: 1, depth: 0 } }
    for (const gx of GRID) {
      for (const gy of GRID) {
        const [u, v] = [gx * 0.5, gy * lens.halfHeight]
        const met = meetPlane(lens, u, v, plane)
        // Behind the lens, or edge-on: nothing of that depth is seen there.
        const point = met === null ? unproject(lens, u, v, HORIZON_FW) : { x: met.x, y: met.y, depth }
        points.set([u, v, point.x, point.y, point.depth], at)
        at += 5
      }
    }
  }
  return points
}

function shiftFrom(points: Float64Array, pose: CameraPose, optics: Optics, enough: number): number {
  const { position, right, up, forward, k } = lensOf(pose, optics)
  let most = 0
  for (let i = 0; i < points.length; i += 5) {
    const [x, y, depth] = [points[i + 2]! - position.x, points[i + 3]! - position.y, points[i + 4]! - position.depth]
    const z = x * forward.x + y * forward.y + depth * forward.depth
    if (z < NEAREST_Z) return Infinity
    const du = (k * (x * right.x + y * right.y + depth * right.depth)) / z - points[i]!
    const dv = (k * (x * up.x + y * up.y + depth * up.depth)) / z - points[i + 1]!
    const shift = Math.sqrt(du * du + dv * dv)
    if (shift > most) most = shift
    if (most * SLACK > enough) break
  }
  return most * SLACK
}
