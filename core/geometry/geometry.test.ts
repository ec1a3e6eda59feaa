import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { add, between, cornersOf, cross, dot, grown, heightOf, intersection, keptBy, length, ORIGIN, quadContains, rectangleAround, scale, subtract, union, widthOf, type Point2, type Point3, type Quad, type Rectangle } from '.'

const number = fc.double({ min: -100, max: 100, noNaN: true })
const points3: fc.Arbitrary<Point3> = fc.record({ x: number, y: number, depth: number })
const points: fc.Arbitrary<Point2> = fc.record({ x: number, y: number })
const rectangles: fc.Arbitrary<Rectangle> = fc.tuple(points, points).map(([a, b]) => ({ left: Math.min(a.x, b.x), right: Math.max(a.x, b.x), bottom: Math.min(a.y, b.y), top: Math.max(a.y, b.y) }))
const close = (a: Point3, b: Point3, least = 1e-9) => expect(length(subtract(a, b))).toBeLessThan(least)
const inside = ({ left, right, bottom, top }: Rectangle, { x, y }: Point2) => x >= left && x <= right && y >= bottom && y <= top
const areaOf = (outline: readonly Point2[]) => outline.reduce((sum, a, i) => ((b) => sum + (a.x * b.y - b.x * a.y) / 2)(outline[(i + 1) % outline.length]!), 0)

describe('points', () => {
  it('add, take away and scale as arrows do', () => {
    fc.assert(
      fc.property(points3, points3, number, (a, b, k) => {
        close(subtract(add(a, b), b), a, 1e-9)
        close(scale(add(a, b), k), add(scale(a, k), scale(b, k)), 1e-7)
        close(add(a, ORIGIN), a)
        expect(dot(a, b)).toBe(dot(b, a))
      }),
    )
  })

  it('cross at right angles to both, to the side that the design says', () => {
    // Right by up is towards depth.
    expect(cross({ x: 1, y: 0, depth: 0 }, { x: 0, y: 1, depth: 0 })).toEqual({ x: 0, y: 0, depth: 1 })
    fc.assert(
      fc.property(points3, points3, (a, b) => {
        const n = cross(a, b)
        expect(Math.abs(dot(n, a))).toBeLessThan(1e-6)
        expect(Math.abs(dot(n, b))).toBeLessThan(1e-6)
        close(n, scale(cross(b, a), -1), 1e-9)
      }),
    )
  })

  it('lie between two as far as they are told to, both ends exactly', () => {
    fc.assert(
      fc.property(points3, points3, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
        expect(between(a, b, 0)).toBe(a)
        expect(between(a, b, 1)).toBe(b)
        close(between(a, b, t), between(b, a, 1 - t), 1e-9)
        expect(length(subtract(between(a, b, t), a))).toBeCloseTo(t * length(subtract(b, a)), 6)
      }),
    )
  })
})

describe('rectangles', () => {
  it('are the smallest around points; of none there is none', () => {
    expect(rectangleAround([])).toBeNull()
    expect(rectangleAround([{ x: 2, y: 3 }])).toEqual({ left: 2, right: 2, bottom: 3, top: 3 })
    fc.assert(
      fc.property(fc.array(points, { minLength: 1, maxLength: 9 }), (all) => {
        const box = rectangleAround(all)!
        expect(all.every((point) => inside(box, point))).toBe(true)
        expect([box.left, box.right].every((x) => all.some((point) => point.x === x))).toBe(true)
        expect([box.bottom, box.top].every((y) => all.some((point) => point.y === y))).toBe(true)
        expect(rectangleAround(cornersOf(box))).toEqual(box)
        expect([widthOf(box), heightOf(box)].every((size) => size >= 0)).toBe(true)
      }),
    )
  })

  it('take in both, and have in common what is in both', () => {
    fc.assert(
      fc.property(rectangles, rectangles, points, (a, b, point) => {
        const both = union(a, b)!
        if (inside(a, point) || inside(b, point)) expect(inside(both, point)).toBe(true)
        const common = intersection(a, b)
        expect(common !== null && inside(common, point)).toBe(inside(a, point) && inside(b, point))
        expect([union(a, null), union(null, a), union(null, null)]).toEqual([a, a, null])
      }),
    )
    // An edge that they share is something they have in common.
    expect(intersection({ left: 0, right: 1, bottom: 0, top: 1 }, { left: 1, right: 2, bottom: 0, top: 1 })).toEqual({ left: 1, right: 1, bottom: 0, top: 1 })
    expect(grown({ left: 0, right: 1, bottom: 0, top: 2 }, 0.5)).toEqual({ left: -0.5, right: 1.5, bottom: -0.5, top: 2.5 })
  })

  it('have their corners counter-clockwise', () => {
    fc.assert(fc.property(rectangles, (a) => void expect(areaOf(cornersOf(a))).toBeCloseTo(widthOf(a) * heightOf(a), 6)))
  })
})

describe('outlines', () => {
  const halves = fc.tuple(fc.double({ min: 0, max: Math.PI * 2, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true })).map(([angle, c]) => ({ a: Math.cos(angle), b: Math.sin(angle), c }))
  const square: readonly Point2[] = cornersOf({ left: -3, right: 3, bottom: -2, top: 2 })

  it('are cut to what half planes keep: all of that and nothing else', () => {
    fc.assert(
      fc.property(fc.array(halves, { maxLength: 4 }), fc.double({ min: -3.5, max: 3.5, noNaN: true }), fc.double({ min: -2.5, max: 2.5, noNaN: true }), (cuts, x, y) => {
        const kept = keptBy(square, cuts)
        const at = ({ a, b, c }: (typeof cuts)[number], point: Point2) => a * point.x + b * point.y + c
        for (const point of kept) for (const cut of cuts) expect(at(cut, point)).toBeGreaterThan(-1e-9)
        const isKept = Math.abs(x) < 3 && Math.abs(y) < 2 && cuts.every((cut) => at(cut, { x, y }) > 0)
        // Beside an edge rounding says which it is.
        fc.pre(cuts.every((cut) => Math.abs(at(cut, { x, y })) > 1e-6) && Math.abs(Math.abs(x) - 3) > 1e-6 && Math.abs(Math.abs(y) - 2) > 1e-6)
        const isIn = kept.length > 0 && kept.every((from, i) => ((to) => (to.x - from.x) * (y - from.y) - (to.y - from.y) * (x - from.x) >= -1e-9)(kept[(i + 1) % kept.length]!))
        expect(isIn).toBe(isKept)
      }),
    )
    expect(keptBy(square, [])).toBe(square)
    expect(keptBy(square, [{ a: 1, b: 0, c: -4 }])).toEqual([])
    // A line of it is no area.
    expect(keptBy(square, [{ a: 1, b: 0, c: 0 }, { a: -1, b: 0, c: 0 }]).length === 0 || areaOf(keptBy(square, [{ a: 1, b: 0, c: 0 }, { a: -1, b: 0, c: 0 }])) < 1e-9).toBe(true)
  })

  it('of four corners contain their middle and their edges, either way round', () => {
    fc.assert(
      fc.property(points, fc.double({ min: 0.1, max: 5, noNaN: true }), fc.double({ min: 0.1, max: 5, noNaN: true }), fc.double({ min: 0, max: 6, noNaN: true }), (middle, wide, high, turn) => {
        const corner = (x: number, y: number) => ({ x: middle.x + x * Math.cos(turn) - y * Math.sin(turn), y: middle.y + x * Math.sin(turn) + y * Math.cos(turn) })
        const quad: Quad = [corner(-wide, -high), corner(wide, -high), corner(wide, high), corner(-wide, high)]
        const other: Quad = [quad[3], quad[2], quad[1], quad[0]]
        for (const each of [quad, other]) {
          expect(quadContains(each, middle)).toBe(true)
          expect(quadContains(each, corner(wide * 0.99, -high * 0.99))).toBe(true)
          expect(quadContains(each, corner(wide * 1.01, 0))).toBe(false)
          expect(quadContains(each, corner(0, high * 1.01))).toBe(false)
        }
      }),
    )
    const unit: Quad = [{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 1, y: 1 }, { x: 0, y: 1 }]
    for (const point of [...unit, { x: 0.5, y: 0 }, { x: 1, y: 0.5 }]) expect(quadContains(unit, point)).toBe(true)
  })
})
