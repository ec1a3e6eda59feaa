import { add, dot, scale, subtract, type Point3 } from '../geometry/point'
import { into, outOf, SET, wayInto, wayOut, type Stand } from './carriage'
import type { LevelPlane } from './levelPlane'

/** A level's shadow on the ground: where that is, and how the light falls. */
export interface ShadowFall {
  /** The height of the ground, fw, in the axes of what the level stands in. */
  readonly ground: number
  /** Where it falls, on the ground: 0 away along depth, 90 to the right. */
  readonly towardsDegrees: number
  /** How long it is, times the height of what throws it. */
  readonly length: number
}

/** So far over the ground that it lies on what is drawn there, fw. */
const OVER_GROUND_FW = 1e-4

/** A fall told in other axes, by where its ground and its light go: exact where both stand upright. */
function told<F extends ShadowFall>(fall: F, place: (at: Point3) => Point3, way: (to: Point3) => Point3): F {
  const angle = (fall.towardsDegrees * Math.PI) / 180
  const along = way({ x: Math.sin(angle), y: 0, depth: Math.cos(angle) })
  return { ...fall, ground: place({ x: 0, y: fall.ground, depth: 0 }).y, towardsDegrees: (Math.atan2(along.x, along.depth) * 180) / Math.PI }
}
/** A fall told in the set's axes, as what stands in `base` has it; and the other way round. */
export const shadowInto = <F extends ShadowFall>(fall: F, base: Stand): F => told(fall, (at) => into(base, at), (way) => wayInto(base, way))
export const shadowOutOf = <F extends ShadowFall>(fall: F, base: Stand): F => told(fall, (at) => outOf(base, at), (way) => wayOut(base, way))

/**
 * The plane of a level's shadow: each point of its art goes along the light to the ground, so what stands turns flat, what
 * leaves the ground leaves its shadow behind, and what lies stays. `base`: what the level stands in.
 */
export function shadowPlane({ origin, axisX, axisY }: LevelPlane, { ground, towardsDegrees, length }: ShadowFall, base: Stand = SET): LevelPlane {
  const angle = (towardsDegrees * Math.PI) / 180
  const along = wayOut(base, { x: Math.sin(angle) * length, y: 0, depth: Math.cos(angle) * length })
  const up = wayOut(base, { x: 0, y: 1, depth: 0 })
  const height = dot(up, up)
  const foot = outOf(base, { x: 0, y: ground + OVER_GROUND_FW, depth: 0 })
  // A way of height 1 over the ground becomes the way along it.
  const flat = (way: Point3): Point3 => {
    const over = dot(way, up) / height
    return add(subtract(way, scale(up, over)), scale(along, over))
  }
  return { origin: add(foot, flat(subtract(origin, foot))), axisX: flat(axisX), axisY: flat(axisY) }
}
