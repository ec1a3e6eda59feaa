import type { CameraPose } from '../camera/pose'
import { basisOf, type CameraBasis } from '../camera/projection'
import { add, dot, ORIGIN, point3, scale, subtract, type Point2, type Point3 } from '../geometry/point'
import type { LevelTurn } from '../moves/levelValues'
import { planeAbout, type LevelPlane } from './levelPlane'

/** How something stands in the set: where, how it is turned, and how many times its own size. */
export interface Stand extends CameraBasis {
  readonly place: Point3
  readonly size: number
}

/**
 * The axes that a level's numbers are in: they begin at `place`, are turned as its basis says, and one frame width along them
 * is `size` of the set's.
 */
export type Carriage = Stand

/** The set's own axes. */
export const SET: Carriage = Object.freeze({ place: ORIGIN, right: { x: 1, y: 0, depth: 0 }, up: { x: 0, y: 1, depth: 0 }, forward: { x: 0, y: 0, depth: 1 }, size: 1 })

/** What is followed of a carrier beside its place. */
export interface Follows {
  readonly turn: boolean
  readonly size: boolean
}

/** The axes of what is carried by something that stands so. Turn and size that it does not follow are those of `base`, in which both stand. */
export function carriageOn(carrier: Stand, { turn, size }: Follows, base: Stand = SET): Carriage {
  if (turn && size) return carrier
  const { right, up, forward } = turn ? carrier : base
  return { place: carrier.place, right, up, forward, size: size ? carrier.size : base.size }
}

/** The axes of what travels with a camera: its right, up and forward, and no lens. */
export function carriageOfCamera(pose: CameraPose): Carriage {
  const { right, up, forward } = basisOf(pose)
  return { place: point3(pose.x, pose.y, pose.depth), right, up, forward, size: 1 }
}

const along = ({ right, up, forward }: CameraBasis, { x, y, depth }: Point3): Point3 =>
  point3(right.x * x + up.x * y + forward.x * depth, right.y * x + up.y * y + forward.y * depth, right.depth * x + up.depth * y + forward.depth * depth)
const across = ({ right, up, forward }: CameraBasis, to: Point3): Point3 => point3(dot(to, right), dot(to, up), dot(to, forward))

/** A way told in a carriage's axes, as the set has it; and the other way round. */
export const wayOut = (carriage: Carriage, way: Point3): Point3 => (carriage === SET ? way : along(carriage, scale(way, carriage.size)))
export const wayInto = (carriage: Carriage, way: Point3): Point3 => (carriage === SET ? way : scale(across(carriage, way), 1 / carriage.size))

/** A place told in a carriage's axes, as the set has it; and the other way round. */
export const outOf = (carriage: Carriage, place: Point3): Point3 => (carriage === SET ? place : add(carriage.place, wayOut(carriage, place)))
export const into = (carriage: Carriage, place: Point3): Point3 => (carriage === SET ? place : wayInto(carriage, subtract(place, carriage.place)))

/** A turn told in a carriage's axes, as the set has it; and the other way round. */
export const turnedOut = (carriage: CameraBasis, basis: CameraBasis): CameraBasis => ({ right: along(carriage, basis.right), up: along(carriage, basis.up), forward: along(carriage, basis.forward) })
export const turnedInto = (carriage: CameraBasis, basis: CameraBasis): CameraBasis => ({ right: across(carriage, basis.right), up: across(carriage, basis.up), forward: across(carriage, basis.forward) })

const DEGREES = 180 / Math.PI

/** The turn that `basisOf` makes a basis of: pan about y, then tilt, then roll. Looking straight up or down, all of it is pan. */
export function turnOf({ right, up, forward }: CameraBasis): LevelTurn {
  // Near straight up and down an arc sine would lose half of all places.
  const tiltDegrees = Math.atan2(forward.y, Math.hypot(forward.x, forward.depth)) * DEGREES
  if (Math.hypot(right.y, up.y) < 1e-9) return { panDegrees: Math.atan2(-right.depth, right.x) * DEGREES, tiltDegrees, rollDegrees: 0 }
  return { panDegrees: Math.atan2(forward.x, forward.depth) * DEGREES, tiltDegrees, rollDegrees: Math.atan2(-right.y, up.y) * DEGREES }
}

/** The turn that makes a basis and is the least way from another turn: every basis has two, each with any number of full turns. */
export function turnNear(basis: CameraBasis, near: LevelTurn): LevelTurn {
  const { panDegrees, tiltDegrees, rollDegrees } = turnOf(basis)
  const [first, second] = [
    [panDegrees, tiltDegrees, rollDegrees],
    [panDegrees + 180, 180 - tiltDegrees, rollDegrees + 180],
  ].map((angles) => {
    const [pan, tilt, roll] = [near.panDegrees, near.tiltDegrees, near.rollDegrees].map((from, i) => from + shortest(from, angles[i]!)) as [number, number, number]
    return { turn: { panDegrees: pan, tiltDegrees: tilt, rollDegrees: roll }, off: Math.abs(pan - near.panDegrees) + Math.abs(tilt - near.tiltDegrees) + Math.abs(roll - near.rollDegrees) }
  }) as [{ turn: LevelTurn; off: number }, { turn: LevelTurn; off: number }]
  return second.off < first.off ? second.turn : first.turn
}

/**
 * A level's turn, told in a carriage's axes, after it is turned in the set by so many degrees: about y as a pan turns, or about x
 * as a tilt does.
 */
export function turnedInSet(carriage: CameraBasis, turn: LevelTurn, about: 'x' | 'y', degrees: number): LevelTurn {
  if (degrees === 0) return turn
  const isSet = carriage.right === SET.right
  // A pan comes before all else, and so does a tilt where there is none.
  if (isSet && about === 'y') return { ...turn, panDegrees: turn.panDegrees + degrees }
  if (isSet && turn.panDegrees === 0) return { ...turn, tiltDegrees: turn.tiltDegrees + degrees }
  const [sin, cos] = [Math.sin(degrees / DEGREES), Math.cos(degrees / DEGREES)]
  const turned = ({ x, y, depth }: Point3): Point3 => (about === 'y' ? { x: x * cos + depth * sin, y, depth: depth * cos - x * sin } : { x, y: y * cos + depth * sin, depth: depth * cos - y * sin })
  const { right, up, forward } = turnedOut(carriage, basisOf(turn))
  return turnNear(turnedInto(carriage, { right: turned(right), up: turned(up), forward: turned(forward) }), turn)
}

/** From one angle to another the short way, −180…180. */
function shortest(from: number, to: number): number {
  const by = (to - from) % 360
  return by > 180 ? by - 360 : by <= -180 ? by + 360 : by
}

/** How a level faces what looks at it, apart from what carries it. */
export type Facing = 'lens' | 'upright'

/**
 * The basis of a level that turns to the camera: its plane parallel to the picture, its own roll kept; or upright, where only
 * its pan is the camera's doing: `atan2(place.x − camera.x, place.depth − camera.depth)`.
 */
export function facingBasis(facing: Facing, camera: CameraPose, place: Point3, { tiltDegrees, rollDegrees }: LevelTurn): CameraBasis {
  if (facing === 'lens') return basisOf({ panDegrees: camera.panDegrees, tiltDegrees: camera.tiltDegrees, rollDegrees })
  return basisOf({ panDegrees: Math.atan2(place.x - camera.x, place.depth - camera.depth) * DEGREES, tiltDegrees, rollDegrees })
}

/** The plane of art that stands so, with its pivot at the place. */
export const planeOf = ({ place, right, up, size }: Stand, pivot: Point2 | undefined): LevelPlane => planeAbout(place, scale(right, size), scale(up, size), pivot)
