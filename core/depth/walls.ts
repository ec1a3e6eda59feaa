import { basisOf, NEAREST_Z, unproject, type CameraBasis, type Lens } from '../camera/projection'
import { add, cross, dot, length, scale, subtract, type Point2, type Point3 } from '../geometry/point'
import { cornersOf, type Rectangle } from '../geometry/rectangle'
import type { LevelTurn } from '../moves/levelValues'
import { pointOnPlane, type LevelPlane } from './levelPlane'
import { outOf, SET, turnedOut, turnOf, type Carriage, type Stand } from './carriage'

/** A room of flat levels, standing upright: the middle of its floor, how it is panned, and its size, fw. */
export interface Room {
  readonly floor: Point3
  readonly panDegrees: number
  readonly width: number
  readonly height: number
  /** From the near wall to the far one. */
  readonly length: number
}

/** Its six walls as one stands in it; each after what it is hinged to. */
export const WALLS = Object.freeze(['floor', 'far', 'left', 'right', 'near', 'ceiling'] as const)
export type WallName = (typeof WALLS)[number]

/** One of them: how it stands, how large it is, and where in its art it is hinged; its face is to the inside. */
export interface RoomWall {
  readonly name: WallName
  readonly stand: Stand
  readonly width: number
  readonly height: number
  readonly pivot: Point2
  /** What it is hinged to, and so carried by; null: nothing. */
  readonly on: WallName | null
  /** Its place and turn in the axes of that, or of the set. */
  readonly place: Point3
  readonly turn: LevelTurn
}

const X: Point3 = Object.freeze({ x: 1, y: 0, depth: 0 })
const Y: Point3 = Object.freeze({ x: 0, y: 1, depth: 0 })
const Z: Point3 = Object.freeze({ x: 0, y: 0, depth: 1 })
const minus = (way: Point3): Point3 => ({ x: 0 - way.x, y: 0 - way.y, depth: 0 - way.depth })

/**
 * The walls of a room. The floor's own axes are across, away and down: the others stand on its edges, and the ceiling hangs on the far
 * wall's upper edge, so that turning each by nothing folds them all open around the floor.
 */
export function roomWalls({ floor, panDegrees, width, height, length: deep }: Room): readonly RoomWall[] {
  const walls = new Map<WallName, RoomWall>()
  const put = (name: WallName, on: WallName | null, place: Point3, basis: CameraBasis, w: number, h: number, hinged: boolean) => {
    const carriage: Carriage = on === null ? SET : walls.get(on)!.stand
    const stand = { ...turnedOut(carriage, basis), place: outOf(carriage, place), size: 1 }
    walls.set(name, { name, on, place, turn: turnOf(basis), stand, width: w, height: h, pivot: { x: 0, y: hinged ? -h / 2 : 0 } })
  }
  put('floor', null, floor, basisOf({ panDegrees, tiltDegrees: -90, rollDegrees: 0 }), width, deep, false)
  const up = minus(Z)
  put('far', 'floor', { x: 0, y: deep / 2, depth: 0 }, { right: X, up, forward: Y }, width, height, true)
  put('left', 'floor', { x: -width / 2, y: 0, depth: 0 }, { right: Y, up, forward: minus(X) }, deep, height, true)
  put('right', 'floor', { x: width / 2, y: 0, depth: 0 }, { right: minus(Y), up, forward: X }, deep, height, true)
  put('near', 'floor', { x: 0, y: -deep / 2, depth: 0 }, { right: minus(X), up, forward: minus(Y) }, width, height, true)
  put('ceiling', 'far', { x: 0, y: height, depth: 0 }, { right: X, up, forward: Y }, width, deep, true)
  return WALLS.map((name) => walls.get(name)!)
}

/** Where the corners of a wall are in the set, from bottom left, as one stands in the room. */
export function wallCorners({ stand: { place, right, up }, width, height, pivot }: Pick<RoomWall, 'stand' | 'width' | 'height' | 'pivot'>): readonly Point3[] {
  const at = (x: number, y: number) => add(place, add(scale(right, x - pivot.x), scale(up, y - pivot.y)))
  return [at(-width / 2, -height / 2), at(width / 2, -height / 2), at(width / 2, height / 2), at(-width / 2, height / 2)]
}

/** Less than this out of a carrier's plane an edge lies in it. */
const FLAT = 1e-6

/** How a level is hinged to the plane of what carries it: about which of its own axes, and how far it is opened. */
export interface Hinge {
  readonly axis: 'right' | 'up'
  /** 0: flat in the carrier's plane; 90: standing on it, on the side that the carrier's face is on. −180…180. */
  readonly degrees: number
}

/** A level is hinged where one of its own axes, told in those of its carrier, lies in the carrier's plane; else null. */
export function hingeOf({ right, up }: CameraBasis): Hinge | null {
  const axis = Math.abs(right.depth) < FLAT ? 'right' : Math.abs(up.depth) < FLAT ? 'up' : null
  if (axis === null) return null
  const flat = laidFlat({ right, up }, axis)
  const [now, then] = axis === 'right' ? [up, flat.up] : [right, flat.right]
  return { axis, degrees: (Math.atan2(-now.depth, dot(now, then)) * 180) / Math.PI }
}

/** The basis of a level, in the axes of its carrier, opened to so many degrees about its hinge. */
export function hingedAt(basis: CameraBasis, { axis }: Pick<Hinge, 'axis'>, degrees: number): CameraBasis {
  const flat = laidFlat(basis, axis)
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  const swung = (way: Point3) => add(scale(way, cos), { x: 0, y: 0, depth: -sin })
  const [right, up] = axis === 'right' ? [flat.right, swung(flat.up)] : [swung(flat.right), flat.up]
  // Right, up and forward are left-handed, as the set's own axes are.
  return { right, up, forward: cross(right, up) }
}

function laidFlat({ right, up }: Pick<CameraBasis, 'right' | 'up'>, axis: Hinge['axis']): Pick<CameraBasis, 'right' | 'up'> {
  if (axis === 'right') return { right: { ...right, depth: 0 }, up: { x: 0 - right.y, y: right.x, depth: 0 } }
  return { right: { x: up.y, y: 0 - up.x, depth: 0 }, up: { ...up, depth: 0 } }
}

/** Of a level's four edges the one that lies nearest to another level's art: its middle, in the level's own art. */
export function nearestEdge(plane: LevelPlane, bounds: Rectangle, other: LevelPlane, otherBounds: Rectangle): Point2 {
  const [a, b, c, d] = cornersOf(bounds)
  const edges = [[a, b], [b, c], [c, d], [d, a]] as const
  const offs = edges.map(([from, to]) => awayFrom(pointOnPlane(plane, from), other, otherBounds) + awayFrom(pointOnPlane(plane, to), other, otherBounds))
  const [from, to] = edges[offs.indexOf(Math.min(...offs))]!
  return { x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 }
}

/** How far a place is from a level's art, fw. */
function awayFrom(point: Point3, { origin, axisX, axisY }: LevelPlane, { left, bottom, right, top }: Rectangle): number {
  const q = subtract(point, origin)
  const x = Math.min(right, Math.max(left, dot(q, axisX) / dot(axisX, axisX)))
  const y = Math.min(top, Math.max(bottom, dot(q, axisY) / dot(axisY, axisY)))
  return length(subtract(q, add(scale(axisX, x), scale(axisY, y))))
}

/** A wall that stands upright on a line from one place to another, facing `eye`: it is as long as that. Null where the line has no length. */
export function wallOnLine(from: Point3, to: Point3, height: number, eye: Point3): Pick<RoomWall, 'stand' | 'width' | 'height' | 'pivot' | 'turn'> | null {
  const width = Math.hypot(to.x - from.x, to.depth - from.depth)
  if (!(width > 0)) return null
  const middle = { x: (from.x + to.x) / 2, y: (from.y + to.y) / 2, depth: (from.depth + to.depth) / 2 }
  const across = { x: (to.x - from.x) / width, depth: (to.depth - from.depth) / width }
  // Its face is on the side that it is looked at from.
  const faces = -across.depth * (middle.x - eye.x) + across.x * (middle.depth - eye.depth) >= 0 ? 1 : -1
  const turn = { panDegrees: (Math.atan2(-across.depth * faces, across.x * faces) * 180) / Math.PI, tiltDegrees: 0, rollDegrees: 0 }
  return { stand: { ...basisOf(turn), place: middle, size: 1 }, width, height, pivot: { x: 0, y: -height / 2 }, turn }
}

/**
 * The room of which two edges are drawn along the floor: one from a corner to its end, and one from the corner square to that, as far as a
 * second place is off. The corner is its far left one. Null where either edge has no length.
 */
export function roomOfCorner(corner: Point3, end: Point3, second: Point3, height: number): Room | null {
  const first = { x: end.x - corner.x, depth: end.depth - corner.depth }
  const size = Math.hypot(first.x, first.depth)
  if (!(size > 0)) return null
  const along = { x: first.x / size, depth: first.depth / size }
  const square = { x: -along.depth, depth: along.x }
  const off = (second.x - corner.x) * square.x + (second.depth - corner.depth) * square.depth
  if (Math.abs(off) < 1e-9) return null
  const other = { x: square.x * Math.sign(off), depth: square.depth * Math.sign(off) }
  // Away is to the left of across, seen from above: the edge that comes towards the viewer is the other.
  const isAcross = off < 0
  const [right, width, deep] = isAcross ? [along, size, Math.abs(off)] : [other, Math.abs(off), size]
  const floor = { x: corner.x + (along.x * size + other.x * Math.abs(off)) / 2, y: corner.y, depth: corner.depth + (along.depth * size + other.depth * Math.abs(off)) / 2 }
  return { floor, panDegrees: (Math.atan2(-right.depth, right.x) * 180) / Math.PI, width, height, length: deep }
}

/** The shortest room that is made, fw. */
const LEAST_LENGTH = 0.05

/**
 * The room whose far wall is seen as a rectangle of the picture (u, v in fw from the frame's centre), so far off along the lens axis. It stands
 * upright and faces the camera's pan, and it comes towards the camera until its nearest side is out of the frame.
 */
export function roomBehind(lens: Lens, seen: Rectangle, z: number): Room {
  const [u, v] = [(seen.left + seen.right) / 2, (seen.bottom + seen.top) / 2]
  const middle = unproject(lens, u, v, z)
  const pan = Math.atan2(lens.forward.x, lens.forward.depth)
  const [width, height] = [((seen.right - seen.left) * z) / lens.k, ((seen.top - seen.bottom) * z) / lens.k]
  // A side leaves the frame where what is so far from the axis is seen at the frame's edge; one beyond the axis never does.
  const shares = [seen.right / 0.5, -seen.left / 0.5, seen.top / lens.halfHeight, -seen.bottom / lens.halfHeight].filter((share) => share > 0)
  const length = Math.max(LEAST_LENGTH, z - Math.max(NEAREST_Z, Math.min(1, ...shares) * z))
  return { floor: { x: middle.x - (Math.sin(pan) * length) / 2, y: middle.y - height / 2, depth: middle.depth - (Math.cos(pan) * length) / 2 }, panDegrees: (pan * 180) / Math.PI, width, height, length }
}
