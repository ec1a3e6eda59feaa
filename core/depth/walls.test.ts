import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { basisOf, lensOf, project, untouchedPose } from '../camera'
import { cross, dot, length, subtract, type Point3 } from '../geometry/point'
import { levelPlane } from './levelPlane'
import { carriageOn, outOf, turnedOut } from './carriage'
import { hingedAt, hingeOf, nearestEdge, roomBehind, roomOfCorner, roomWalls, wallCorners, wallOnLine, type Room, type RoomWall, type WallName } from './walls'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const within = (min: number, max: number) => fc.integer({ min: 0, max: 1_000_000 }).map((n) => min + ((max - min) * n) / 1_000_000)
const place = fc.record({ x: within(-3, 3), y: within(-1, 1), depth: within(-2, 6) })
const rooms: fc.Arbitrary<Room> = fc.record({ floor: place, panDegrees: within(-180, 180), width: within(0.1, 4), height: within(0.1, 2), length: within(0.1, 6) })
const near = (a: Point3, b: Point3) => length(subtract(a, b)) < 1e-9
const has = (points: readonly Point3[], point: Point3) => points.some((each) => near(each, point))
const wall = (walls: readonly RoomWall[], name: WallName) => walls.find((each) => each.name === name)!

describe('the walls of a room', () => {
  it('close it: six rectangles whose corners are the eight of a box, three at each', () => {
    fc.assert(
      fc.property(rooms, (room) => {
        const walls = roomWalls(room)
        const corners = walls.flatMap((each) => wallCorners(each))
        const found: Point3[] = []
        for (const corner of corners) if (!has(found, corner)) found.push(corner)
        expect(found).toHaveLength(8)
        for (const corner of found) expect(corners.filter((each) => near(each, corner))).toHaveLength(3)
        const heights = found.map(({ y }) => y)
        expect(Math.max(...heights) - Math.min(...heights)).toBeCloseTo(room.height, 9)
      }),
    )
  })

  it('face inwards, and are told in the axes of what they hang on just as they stand', () => {
    fc.assert(
      fc.property(rooms, (room) => {
        const walls = roomWalls(room)
        const middle = { ...room.floor, y: room.floor.y + room.height / 2 }
        for (const { stand, on, place: told, turn, width, height, pivot } of walls) {
          const [a, , b] = wallCorners({ stand, width, height, pivot })
          const centre = { x: (a!.x + b!.x) / 2, y: (a!.y + b!.y) / 2, depth: (a!.depth + b!.depth) / 2 }
          // Forward is away from who looks at a level's face.
          expect(dot(stand.forward, subtract(middle, centre))).toBeLessThan(0)
          if (on === null) continue
          const carriage = carriageOn(wall(walls, on).stand, { turn: true, size: true })
          expect(near(outOf(carriage, told), stand.place)).toBe(true)
          const basis = turnedOut(carriage, basisOf(turn))
          expect(near(basis.right, stand.right) && near(basis.up, stand.up)).toBe(true)
        }
      }),
    )
  })

  it('fold open around the floor: all in its plane, side by side, none over another', () => {
    const room: Room = { floor: { x: 0.2, y: -0.3, depth: 2 }, panDegrees: 25, width: 1.6, height: 0.7, length: 2.2 }
    const walls = roomWalls(room)
    // Each hangs on what was laid flat before.
    const flat = new Map<WallName, RoomWall>()
    for (const each of walls) {
      if (each.on === null) {
        flat.set(each.name, each)
        continue
      }
      const basis = basisOf(each.turn)
      const hinge = hingeOf(basis)!
      expect(hinge.degrees).toBeCloseTo(90, 9)
      const carriage = carriageOn(flat.get(each.on)!.stand, { turn: true, size: true })
      flat.set(each.name, { ...each, stand: { ...turnedOut(carriage, hingedAt(basis, hinge, 0)), place: outOf(carriage, each.place), size: 1 } })
    }
    const floor = flat.get('floor')!
    const rects = [...flat.values()].map((each) => {
      const flatCorners = wallCorners(each).map((corner) => subtract(corner, floor.stand.place))
      for (const corner of flatCorners) expect(Math.abs(dot(corner, floor.stand.forward))).toBeLessThan(1e-9)
      const [xs, ys] = [flatCorners.map((corner) => dot(corner, floor.stand.right)), flatCorners.map((corner) => dot(corner, floor.stand.up))]
      return { left: Math.min(...xs), right: Math.max(...xs), bottom: Math.min(...ys), top: Math.max(...ys) }
    })
    const area = rects.reduce((sum, { left, right, bottom, top }) => sum + (right - left) * (top - bottom), 0)
    expect(area).toBeCloseTo(2 * (1.6 * 0.7 + 1.6 * 2.2 + 0.7 * 2.2), 9)
    for (const [i, a] of rects.entries()) for (const b of rects.slice(i + 1)) expect(Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1e-9 && Math.min(a.top, b.top) - Math.max(a.bottom, b.bottom) > 1e-9).toBe(false)
  })

  it('swing about the edge that lies in the carrier’s plane; what has none is not hinged', () => {
    expect(hingeOf(basisOf({ panDegrees: 30, tiltDegrees: 20, rollDegrees: 40 }))).toBeNull()
    // A door that is open by 70° towards who looks at the wall's face, hinged at its upright edge.
    const door = basisOf({ panDegrees: 70, tiltDegrees: 0, rollDegrees: 0 })
    expect(hingeOf(door)!.axis).toBe('up')
    expect(hingeOf(door)!.degrees).toBeCloseTo(70, 9)
    fc.assert(
      fc.property(within(-180, 180), within(-179, 179), within(-179, 179), fc.constantFrom('right' as const, 'up' as const), (roll, from, to, axis) => {
        const start = hingedAt(basisOf({ panDegrees: 0, tiltDegrees: 0, rollDegrees: roll }), { axis }, from)
        // Flat, both axes lie in the plane: the first is taken.
        fc.pre(Math.abs(Math.sin((from * Math.PI) / 180)) > 1e-3)
        const hinge = hingeOf(start)!
        expect(hinge.axis).toBe(axis)
        expect(hinge.degrees).toBeCloseTo(from, 6)
        const swung = hingedAt(start, hinge, to)
        expect(near(swung[axis], start[axis])).toBe(true)
        expect(near(cross(swung.right, swung.up), swung.forward)).toBe(true)
        const back = hingedAt(swung, hinge, from)
        expect(near(back.right, start.right) && near(back.up, start.up) && near(back.forward, start.forward)).toBe(true)
      }),
    )
  })

  it('are hinged at the edge that lies nearest', () => {
    const square = { left: -0.5, bottom: -0.3, right: 0.5, top: 0.3 }
    const flat = (fields: Partial<Parameters<typeof levelPlane>[0]>) => levelPlane({ x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, ...fields })
    const wall = flat({})
    expect(nearestEdge(flat({ x: 1, panDegrees: -60 }), square, wall, square)).toEqual({ x: -0.5, y: 0 })
    expect(nearestEdge(flat({ x: -1 }), square, wall, square)).toEqual({ x: 0.5, y: 0 })
    expect(nearestEdge(flat({ y: 0.7, tiltDegrees: 30 }), square, wall, square)).toEqual({ x: 0, y: -0.3 })
  })
})

describe('a room behind a rectangle of the picture', () => {
  it('has its far wall just there, and comes on until a side is out of the frame', () => {
    fc.assert(
      fc.property(within(-0.45, -0.02), within(0.02, 0.45), within(-0.25, -0.02), within(0.02, 0.25), within(0.4, 8), within(-80, 80), (left, right, bottom, top, z, panDegrees) => {
        const lens = lensOf({ ...untouchedPose(OPTICS), x: 0.3, y: 0.1, panDegrees }, OPTICS)
        const walls = roomWalls(roomBehind(lens, { left, right, bottom, top }, z))
        const seen = wallCorners(wall(walls, 'far')).map((corner) => project(lens, corner))
        const wanted = [[left, bottom], [right, bottom], [right, top], [left, top]]
        seen.forEach(({ u, v, z: off }, i) => {
          expect(u).toBeCloseTo(wanted[i]![0]!, 9)
          expect(v).toBeCloseTo(wanted[i]![1]!, 9)
          expect(off).toBeCloseTo(z, 9)
        })
        const near = wallCorners(wall(walls, 'near')).map((corner) => project(lens, corner))
        const reach = Math.max(...near.map(({ u, v }) => Math.max(Math.abs(u) / 0.5, Math.abs(v) / lens.halfHeight)))
        expect(reach).toBeGreaterThan(1 - 1e-6)
        for (const corner of near) expect(corner.z).toBeGreaterThan(0)
      }),
    )
  })
})

describe('walls drawn along the floor', () => {
  it('stand on the line, as long as it, upright, and face who drew them', () => {
    fc.assert(
      fc.property(place, place, within(0.1, 2), place, (from, to, height, eye) => {
        fc.pre(Math.hypot(to.x - from.x, to.depth - from.depth) > 0.01)
        const level = { ...to, y: from.y }
        const made = wallOnLine(from, level, height, eye)!
        const corners = wallCorners(made)
        expect(has(corners, from) && has(corners, level)).toBe(true)
        expect(has(corners, { ...from, y: from.y + height })).toBe(true)
        expect(dot(made.stand.forward, subtract(made.stand.place, eye))).toBeGreaterThan(-1e-9)
      }),
    )
    expect(wallOnLine({ x: 1, y: 0, depth: 1 }, { x: 1, y: 3, depth: 1 }, 1, { x: 0, y: 0, depth: 0 })).toBeNull()
  })

  it('make a room of two edges: both are its own, and the corner is its far left one', () => {
    fc.assert(
      fc.property(place, place, place, within(0.2, 2), (corner, end, second, height) => {
        const along = { x: end.x - corner.x, y: 0, depth: end.depth - corner.depth }
        fc.pre(length(along) > 0.05 && length(cross(along, { x: second.x - corner.x, y: 0, depth: second.depth - corner.depth })) / length(along) > 0.05)
        const room = roomOfCorner(corner, { ...end, y: corner.y }, { ...second, y: corner.y }, height)!
        const walls = roomWalls(room)
        for (const name of ['floor', 'far', 'left'] as const) expect(has(wallCorners(wall(walls, name)), corner)).toBe(true)
        expect(has(wallCorners(wall(walls, 'floor')), { ...end, y: corner.y })).toBe(true)
      }),
    )
    expect(roomOfCorner({ x: 0, y: 0, depth: 0 }, { x: 1, y: 0, depth: 0 }, { x: 2, y: 0, depth: 0 }, 1)).toBeNull()
    expect(roomOfCorner({ x: 0, y: 0, depth: 0 }, { x: 0, y: 0, depth: 0 }, { x: 2, y: 0, depth: 0 }, 1)).toBeNull()
  })
})
