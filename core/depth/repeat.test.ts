import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { levelPlane } from './levelPlane'
import { copiesOf, encloses, planeOfCopy, ranksOf, turnedInPlane, type Repeat } from './repeat'
import { pointOnPlane } from './index'

const NONE = { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }
const repeat = (fields: Partial<Repeat> = {}): Repeat => ({ count: 4, seed: 7, about: { x: 0, y: 0 }, lay: { kind: 'step', x: 0.2, y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter: NONE, stagger: 0, ...fields })
const round = (value: number) => Number(value.toFixed(9)) + 0
const plane = levelPlane({ x: 1, y: 2, depth: 3, scale: 2, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 })
const FORWARD = { x: 0, y: 0, depth: 2 }
const at = (copy: ReturnType<typeof copiesOf>[number], art: { x: number; y: number }, sway = 0, about = { x: 0, y: 0 }) => {
  const { x, y, depth } = pointOnPlane(turnedInPlane(planeOfCopy(plane, FORWARD, copy), about, sway), art)
  return [x, y, depth].map(round)
}

describe('copies of a level', () => {
  it('step across, back, round and larger, each from the one before, in the level’s own fw', () => {
    const copies = copiesOf(repeat({ depth: 0.5, rollDegrees: 90, size: 2 }))
    expect(copies).toHaveLength(4)
    expect(at(copies[0]!, { x: 0.1, y: 0.3 })).toEqual([1.2, 2.6, 3])
    // A step of .2 in a level of twice its size is .4; clockwise as seen from the front, right is down.
    expect(at(copies[1]!, { x: 0.1, y: 0 })).toEqual([1.4, 1.6, 4])
    expect(copies.map(({ size }) => round(size))).toEqual([1, 2, 4, 8])
    expect(at(copies[3]!, { x: 0, y: 0 })).toEqual([2.2, 2, 6])
  })

  it('turn, grow and are mirrored about a point of the art', () => {
    const about = { x: 0.1, y: -0.3 }
    const copies = copiesOf(repeat({ about, rollDegrees: 30, size: 1.5, scatter: { ...NONE, mirrored: 1 } }))
    for (const [i, copy] of copies.entries()) expect(at(copy, about)).toEqual([1 + 2 * (0.1 + 0.2 * i), 1.4, 3].map(round))
    const mirrored = copiesOf(repeat({ about, scatter: { ...NONE, mirrored: 1 } }))
    expect(at(mirrored[1]!, { x: 0.2, y: -0.3 })).toEqual([1.4, 1.4, 3])
  })

  it('sway about the pivot', () => {
    const [, copy] = copiesOf(repeat())
    expect(at(copy!, { x: 0, y: -0.3 }, 90, { x: 0, y: -0.3 })).toEqual(at(copy!, { x: 0, y: -0.3 }))
    expect(at(copy!, { x: 0, y: 0.2 }, 90, { x: 0, y: -0.3 })).toEqual([2.4, 1.4, 3])
  })

  it('stand along a line in even parts of it, both ends exact', () => {
    const line = copiesOf(repeat({ count: 5, lay: { kind: 'line', points: [0, 0, 1, 0, 1, 1] } }))
    expect(line.map(({ foot }) => [round(foot.x), round(foot.y)])).toEqual([[0, 0], [0.5, 0], [1, 0], [1, 0.5], [1, 1]])
    const still = copiesOf(repeat({ count: 3, lay: { kind: 'line', points: [0.5, 0.5, 0.5, 0.5] } }))
    expect(still.map(({ foot }) => [foot.x, foot.y])).toEqual([[0.5, 0.5], [0.5, 0.5], [0.5, 0.5]])
  })

  it('fill what an outline encloses, apart from one another, and one more moves none', () => {
    const bent = [0, 0, 2, 0, 2, 1, 1, 1, 1, 2, 0, 2]
    const outline = Array.from({ length: 6 }, (_, i) => ({ x: bent[2 * i]!, y: bent[2 * i + 1]! }))
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 60 }), fc.integer({ min: 0, max: 0xffff_ffff }), (count, seed) => {
        const feet = copiesOf(repeat({ count, seed, lay: { kind: 'region', points: bent } })).map(({ foot }) => foot)
        expect(feet.every((foot) => encloses(outline, foot))).toBe(true)
        const more = copiesOf(repeat({ count: count + 1, seed, lay: { kind: 'region', points: bent } })).map(({ foot }) => foot)
        expect(more.slice(0, count)).toEqual(feet)
        const nearest = Math.min(...feet.flatMap((a, i) => feet.slice(i + 1).map((b) => Math.hypot(a.x - b.x, a.y - b.y))))
        expect(nearest).toBeGreaterThan(0.15 / Math.sqrt(count))
      }),
    )
    // Nothing is enclosed: they stand on its corners.
    expect(copiesOf(repeat({ count: 2, lay: { kind: 'region', points: [0, 0, 1, 0, 2, 0] } })).map(({ foot }) => foot.x)).toEqual([0, 1])
  })

  it('are scattered no farther than is said, the same for the same seed, and the first of steps not at all', () => {
    const scatter = { x: 0.1, y: 0.05, depth: 0.3, rollDegrees: 20, size: 0.4, mirrored: 0.5 }
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffff_ffff }), (seed) => {
        const copies = copiesOf(repeat({ count: 40, seed, scatter }))
        expect(copiesOf(repeat({ count: 40, seed, scatter }))).toEqual(copies)
        expect(copies[0]).toEqual(copiesOf(repeat())[0])
        for (const [i, { foot, depth, size, axisX, axisY }] of copies.entries()) {
          expect([Math.abs(foot.x - 0.2 * i) <= 0.1 + 1e-12, Math.abs(foot.y) <= 0.05, Math.abs(depth) <= 0.3, Math.abs(size - 1) <= 0.4 + 1e-12]).toEqual([true, true, true, true])
          expect(Math.abs(Math.atan2(axisY.x, axisY.y)) * (180 / Math.PI)).toBeLessThanOrEqual(20 + 1e-9)
          expect(Math.hypot(axisX.x, axisX.y)).toBeCloseTo(size, 9)
        }
      }),
      { numRuns: 30 },
    )
    const flipped = copiesOf(repeat({ count: 400, scatter: { ...NONE, mirrored: 0.25 } })).filter(({ axisX, axisY }) => axisX.x * axisY.y - axisX.y * axisY.x < 0).length
    expect(flipped).toBeGreaterThan(70)
    expect(flipped).toBeLessThan(130)
  })

  it('never vanish nor grow past all bounds', () => {
    expect(copiesOf(repeat({ count: 500, size: 2 })).at(-1)!.size).toBe(1000)
    expect(copiesOf(repeat({ count: 500, size: 0.5 })).at(-1)!.size).toBe(0.001)
  })

  it('come nearer by steps as they begin; along a line or in a region where they stand lower', () => {
    expect(ranksOf(copiesOf(repeat()), 'step')).toEqual([0, 1, 2, 3])
    expect(ranksOf(copiesOf(repeat({ lay: { kind: 'line', points: [0, 0, 0, -3] } })), 'line')).toEqual([3, 2, 1, 0])
  })
})
