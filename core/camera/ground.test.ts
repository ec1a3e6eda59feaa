import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { groundLines, horizonLine, lensOf, project, SET_DIRECTIONS, snappedToSet, untouchedPose, vanishingPoint, type CameraPose } from '.'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const REACH = { u: 0.8, v: 0.6 }
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const poses = fc.record({ x: number(-2, 2), y: number(-1, 2), depth: number(-3, 3), panDegrees: number(-170, 170), tiltDegrees: number(-60, 60), rollDegrees: number(-180, 180), focalLengthMm: number(15, 200) })
const lens = (pose: Partial<CameraPose> = {}) => lensOf({ ...REST, ...pose }, OPTICS)

describe('the horizon', () => {
  it('stands level across the middle of an untouched camera, k·tan tilt lower where that looks up, and leans as it rolls', () => {
    const [a, b] = horizonLine(lens(), REACH)!
    expect([a.x, a.y, b.x, b.y].map((v) => Number(Math.abs(v).toFixed(9)))).toEqual([0.8, 0, 0.8, 0])
    const up = horizonLine(lens({ tiltDegrees: 10 }), REACH)!
    expect(up[0].y).toBeCloseTo(-(50 / 36) * Math.tan(Math.PI / 18), 9)
    // The camera leans clockwise, so the picture leans the other way.
    const rolled = horizonLine(lens({ rollDegrees: 10 }), REACH)!.toSorted((p, q) => p.x - q.x)
    expect((rolled[1]!.y - rolled[0]!.y) / (rolled[1]!.x - rolled[0]!.x)).toBeCloseTo(Math.tan(Math.PI / 18), 9)
    expect(horizonLine(lens({ tiltDegrees: -89 }), REACH)).toBeNull()
    expect(horizonLine(lens({ tiltDegrees: 90 }), REACH)).toBeNull()
  })

  it('has the points where lines across the ground meet on it, whatever the camera', () => {
    fc.assert(
      fc.property(poses, number(0, 360), (pose, degrees) => {
        const seen = lens(pose)
        const way = { x: Math.sin((degrees * Math.PI) / 180), y: 0, depth: Math.cos((degrees * Math.PI) / 180) }
        const point = vanishingPoint(seen, way)
        fc.pre(point !== null && Math.hypot(point.x, point.y) < 20)
        const line = horizonLine(seen, { u: 40, v: 40 })!
        const [a, b] = line
        const off = ((b.x - a.x) * (point!.y - a.y) - (b.y - a.y) * (point!.x - a.x)) / Math.hypot(b.x - a.x, b.y - a.y)
        expect(Math.abs(off)).toBeLessThan(1e-6)
      }),
    )
  })
})

describe('squares on the ground', () => {
  it('are seen where the camera sees them, inside what is asked about, and no nearer to each other than can be told', () => {
    fc.assert(
      fc.property(poses, number(0.1, 2), (pose, step) => {
        const seen = lens(pose)
        const lines = groundLines(seen, -0.5, step, REACH)
        expect(lines.length).toBeLessThanOrEqual(162)
        for (const [a, b] of lines) for (const { x, y } of [a, b]) expect(Math.abs(x) <= REACH.u + 1e-9 && Math.abs(y) <= REACH.v + 1e-9).toBe(true)
      }),
    )
    const { u, v } = project(lens(), { x: 0.5, y: -0.5, depth: 2 })
    const across = groundLines(lens(), -0.5, 0.5, REACH).filter(([a, b]) => Math.abs(a.y - v) < 1e-9 && Math.abs(b.y - v) < 1e-9)
    expect(across).toHaveLength(1)
    const deep = groundLines(lens(), -0.5, 0.5, REACH).filter(([a, b]) => Math.abs((b.x - a.x) * (v - a.y) - (b.y - a.y) * (u - a.x)) < 1e-9 && Math.abs(a.y - b.y) > 0.01)
    expect(deep).toHaveLength(1)
    expect(groundLines(lens({ tiltDegrees: 60, y: 1 }), -0.5, 0.5, { u: 0.5, v: 0.3 })).toEqual([])
  })
})

describe('a drawn line', () => {
  it('is taken to the way of the set that it is near, as long as it was drawn, and goes through its vanishing point', () => {
    const camera = lens({ panDegrees: 35 })
    const to = vanishingPoint(camera, SET_DIRECTIONS.depth)!
    const from = { x: 0.1, y: -0.2 }
    const near = { x: from.x + (to.x - from.x) * 0.2 + 0.004, y: from.y + (to.y - from.y) * 0.2 }
    const snapped = snappedToSet(camera, from, near)!
    expect(snapped.along).toBe('depth')
    expect((snapped.to.x - from.x) * (to.y - from.y) - (snapped.to.y - from.y) * (to.x - from.x)).toBeCloseTo(0, 12)
    expect(snappedToSet(camera, from, { x: from.x + 0.003, y: from.y + 0.2 })!.along).toBe('y')
    // The way across goes straight to the side for a camera that looks straight ahead.
    expect(snappedToSet(lens(), from, { x: 0.4, y: -0.19 })).toEqual({ to: { x: 0.4, y: -0.2 }, along: 'x' })
    expect(snappedToSet(lens(), from, { x: 0.3, y: 0 })).toBeNull()
    expect(snappedToSet(lens(), from, from)).toBeNull()
  })

  it('that is snapped is seen along that direction in the set, whatever the camera', () => {
    fc.assert(
      fc.property(poses, number(-0.4, 0.4), number(-0.2, 0.2), fc.constantFrom('x' as const, 'y' as const, 'depth' as const), number(0.05, 0.5), (pose, u, v, axis, t) => {
        const seen = lens(pose)
        // A line of the set, from a point before the lens on along the axis.
        const start = { x: pose.x + seen.forward.x * 2 + seen.right.x * u + seen.up.x * v, y: pose.y + seen.forward.y * 2 + seen.right.y * u + seen.up.y * v, depth: pose.depth + seen.forward.depth * 2 + seen.right.depth * u + seen.up.depth * v }
        const way = SET_DIRECTIONS[axis]
        const [a, b] = [project(seen, start), project(seen, { x: start.x + way.x * t, y: start.y + way.y * t, depth: start.depth + way.depth * t })]
        fc.pre(b.z > 0.2 && Math.hypot(a.u - b.u, a.v - b.v) > 1e-3)
        const snapped = snappedToSet(seen, { x: a.u, y: a.v }, { x: b.u, y: b.v })!
        expect(Math.hypot(snapped.to.x - b.u, snapped.to.y - b.v)).toBeLessThan(1e-6)
      }),
    )
  })
})
