import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, type CameraPose, untouchedPose, project } from '../camera'
import { levelPlane } from './levelPlane'
import { areaOf, middleOf, overlap } from './onScreen'
import { depthsFromFeet, fieldWidth, horizonOf, LEAST_APART_FW, overhangOf, parted, pointOnPlane, seenOutline, spreadOrder, tooNear, type SeenLevel } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const lens = lensOf(REST, OPTICS)
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const flat = (x: number, y: number, depth: number, scale = 1) => levelPlane({ x, y, depth, scale, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 })
const ART = { left: -0.5, right: 0.5, bottom: -0.28125, top: 0.28125 }

describe('art past the frame', () => {
  it('fits the frame at the picture plane, and falls short in it farther away', () => {
    const at = (depth: number, x = 0) => overhangOf(seenOutline(lens, flat(x, 0, depth), ART)!, lens.halfHeight)
    expect(at(0)).toEqual({ left: 0, right: 0, bottom: 0, top: 0 })
    // At twice the distance it is seen half as large.
    const far = at(-REST.depth)
    expect([far.left, far.right]).toEqual([-0.25, -0.25])
    expect(far.top).toBeCloseTo(-0.140625, 12)
    expect(fieldWidth(lens, 2 * -REST.depth)).toBeCloseTo(2, 12)
    const moved = at(0, 0.1)
    expect([moved.left, moved.right].map((v) => Number(v.toFixed(12)))).toEqual([-0.1, 0.1])
  })

  it('is as much at a side as it is everywhere along it, however the level is turned', () => {
    const pose = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(-3, -1), panDegrees: number(-30, 30), tiltDegrees: number(-30, 30), rollDegrees: number(-180, 180), focalLengthMm: number(15, 200) })
    const level = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(0, 4), scale: number(1, 9), panDegrees: number(-60, 60), tiltDegrees: number(-60, 60), rollDegrees: number(-180, 180) })
    fc.assert(
      fc.property(pose, level, number(-1, 1), (camera: CameraPose, placed, t) => {
        const seen = lensOf(camera, OPTICS)
        const plane = levelPlane(placed)
        const outline = seenOutline(seen, plane, ART)
        if (outline === null) return
        const over = overhangOf(outline, seen.halfHeight)
        // Where it fills, every point of the frame lies in it; so does what is as far past as it says.
        if (Math.min(...Object.values(over)) < 0) return
        for (const [x, y] of [[-0.5 - over.left, t * seen.halfHeight], [0.5 + over.right, t * seen.halfHeight], [t / 2, -seen.halfHeight - over.bottom], [t / 2, seen.halfHeight + over.top]] as const) {
          const inside = outline.map((a, i) => {
            const b = outline[(i + 1) % outline.length]!
            return ((b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x)) / Math.hypot(b.x - a.x, b.y - a.y)
          })
          expect(inside.every((side) => side > -1e-7) || inside.every((side) => side < 1e-7)).toBe(true)
        }
      }),
    )
  })

  it('ends at the lens where a level comes through it, and is nothing behind it', () => {
    const floor = levelPlane({ x: 0, y: -0.3, depth: 0, scale: 4, panDegrees: 0, tiltDegrees: 90, rollDegrees: 0 })
    const outline = seenOutline(lens, floor, { left: -1, right: 1, bottom: -1, top: 1 })!
    expect(outline.length).toBeGreaterThanOrEqual(4)
    const far = project(lens, pointOnPlane(floor, { x: 1, y: 1 }))
    expect(outline.some(({ x, y }) => Math.abs(x - far.u) < 1e-12 && Math.abs(y - far.v) < 1e-12 || far.z < 0.01)).toBe(true)
    expect(seenOutline(lens, flat(0, 0, -3), ART)).toBeNull()
  })
})

describe('outlines', () => {
  const box = (x: number, y: number, w: number, h: number) => [{ x, y }, { x: x + w, y }, { x: x + w, y: y + h }, { x, y: y + h }]
  it('overlap where they share an area, and not where they share an edge', () => {
    expect(overlap(box(0, 0, 1, 1), box(0.9, 0.9, 1, 1))).toBe(true)
    expect(overlap(box(0, 0, 1, 1), box(1, 0, 1, 1))).toBe(false)
    // A diamond beside a corner: their rectangles overlap, they don't.
    expect(overlap(box(0, 0, 1, 1), [{ x: 1.4, y: 0.8 }, { x: 2, y: 1.4 }, { x: 1.4, y: 2 }, { x: 0.8, y: 1.4 }])).toBe(false)
  })
  it('have an area and a middle, whichever way round they go', () => {
    for (const outline of [box(1, 2, 2, 1), [...box(1, 2, 2, 1)].reverse()]) {
      expect(areaOf(outline)).toBe(2)
      expect(middleOf(outline)).toEqual({ x: 2, y: 2.5 })
    }
    expect(middleOf([{ x: 0, y: 1 }, { x: 2, y: 1 }, { x: 1, y: 1 }])).toEqual({ x: 1, y: 1 })
  })
})

describe('levels too near to be told apart', () => {
  const square = [{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 1, y: 1 }, { x: 0, y: 1 }]
  const at = (id: string, z: number, dx = 0): SeenLevel => ({ id, z, outline: square.map(({ x, y }) => ({ x: x + dx, y })) })

  it('are found where they overlap, in groups that hang together', () => {
    expect(tooNear([at('sky', 6), at('reeds', 2), at('tilda', 2), at('gull', 1.9995, 0.5), at('far off', 1.9995, 7), at('lamp', 1)])).toEqual([['reeds', 'tilda', 'gull']])
    expect(tooNear([at('a', 2), at('b', 2 - LEAST_APART_FW)])).toEqual([])
    expect(tooNear([at('a', 2), at('b', 2, 1)])).toEqual([])
  })

  it('are parted by the least, near first, and nothing else goes that has not to', () => {
    const gone = parted([at('sky', 6), at('next', 2.0015), at('reeds', 2), at('tilda', 2), at('aside', 2, 9)], ['reeds', 'tilda'])
    expect([...gone]).toEqual([['reeds', 2 + LEAST_APART_FW], ['next', 2 + 2 * LEAST_APART_FW]])
  })

  it('after that none of a group is too near any more, and the order is what it was', () => {
    const levels = fc.array(fc.record({ z: fc.constantFrom(1, 1.0004, 1.0008, 1.0012, 2), dx: number(0, 3) }), { maxLength: 12 })
    fc.assert(
      fc.property(levels, (made) => {
        const drawn = made.map(({ z, dx }, i) => at(`l${i}`, z, dx)).sort((a, b) => b.z - a.z)
        const groups = tooNear(drawn)
        const gone = parted(drawn, groups.flat())
        const now = drawn.map((level) => ({ ...level, z: gone.get(level.id) ?? level.z }))
        const resorted = [...now].sort((a, b) => b.z - a.z)
        expect(tooNear(resorted)).toEqual([])
        // What lies over one another lies as it did.
        for (const [i, far] of now.entries()) for (const near of now.slice(i + 1)) if (overlap(far.outline, near.outline)) expect(far.z).toBeGreaterThan(near.z)
      }),
    )
  })
})

describe('depth from a drawing', () => {
  it('goes by how far under the horizon feet stand; the lowest stays', () => {
    const depths = depthsFromFeet([{ id: 'post', v: -0.2, z: 1.5 }, { id: 'hut', v: -0.05, z: 1.5 }, { id: 'cloud', v: 0.1, z: 1.5 }], 0.05, 40)
    expect([...depths].map(([id, z]) => [id, Number(z.toFixed(9))])).toEqual([['post', 1.5], ['hut', 3.75], ['cloud', 40]])
    expect(depthsFromFeet([], 0, 9).size).toBe(0)
    expect([...depthsFromFeet([{ id: 'a', v: 0.2, z: 2 }, { id: 'b', v: 0.3, z: 2 }], 0.1, 9).values()]).toEqual([2, 9])
  })

  it('puts back what a camera saw of things that stand on level ground', () => {
    fc.assert(
      fc.property(number(0.1, 2), fc.array(number(0.5, 30), { minLength: 1, maxLength: 6 }), number(-20, 20), (height, distances, tiltDegrees) => {
        const seen = lensOf({ ...REST, depth: 0, tiltDegrees }, OPTICS)
        const feet = distances.map((depth, i) => ({ id: `${i}`, ...project(seen, { x: 0, y: -height, depth }) }))
        fc.pre(feet.every(({ z }) => z > 0.1))
        const found = depthsFromFeet(feet.map(({ id, v, z }) => ({ id, v, z })), horizonOf(seen.k, tiltDegrees), 1000)
        for (const { id, z } of feet) expect(found.get(id)! / z).toBeCloseTo(1, 6)
      }),
    )
  })
})

describe('the order that levels are spread in', () => {
  const box = (id: string, w: number, x: number): SeenLevel => ({ id, z: 1, outline: [{ x, y: 0 }, { x: x + w, y: 0 }, { x: x + w, y: 1 }, { x, y: 1 }] })
  const lie = [box('small', 0.1, 3), box('large', 2, -1), box('middle', 0.5, 1)]
  it('is as they lie, as they were chosen, the largest first, or what is farthest from the middle first', () => {
    expect(spreadOrder(lie, ['middle', 'small', 'gone'], 'lie')).toEqual(['small', 'large', 'middle'])
    expect(spreadOrder(lie, ['middle', 'small', 'gone'], 'chosen')).toEqual(['middle', 'small'])
    expect(spreadOrder(lie, [], 'size')).toEqual(['large', 'middle', 'small'])
    expect(spreadOrder(lie, [], 'centre')).toEqual(['small', 'middle', 'large'])
  })
})
