import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import type { Fill } from '../document'
import { about, applyAffine, carryingOf, carryMark, drawingBounds, emOf, fewPoints, isForPrint, outlinesOfArrow, outlinesOfWords, placeOfWords, resized, turnedTo, turnOfWords, wayOfArrow, type PathStep } from '.'
import { flattened, joinedByDirection } from './flatten'

const area = (rings: readonly (readonly number[])[]) =>
  Math.abs(rings.reduce((sum, ring) => {
    let twice = 0
    for (let i = 0; i < ring.length; i += 2) twice += ring[i]! * ring[(i + 3) % ring.length]! - ring[(i + 2) % ring.length]! * ring[i + 1]!
    return sum + twice / 2
  }, 0))
const box = (left: number, bottom: number, right: number, top: number): PathStep[] => [
  { kind: 'move', to: [left, bottom] }, { kind: 'line', to: [right, bottom] }, { kind: 'line', to: [right, top] }, { kind: 'line', to: [left, top] }, { kind: 'close' },
]
/** A circle of four cubic arcs. */
const round = (r: number): PathStep[] => {
  const k = 0.5522847498 * r
  return [
    { kind: 'move', to: [r, 0] },
    { kind: 'cubic', by: [r, k], then: [k, r], to: [0, r] },
    { kind: 'cubic', by: [-k, r], then: [-r, k], to: [-r, 0] },
    { kind: 'cubic', by: [-r, -k], then: [-k, -r], to: [0, -r] },
    { kind: 'cubic', by: [k, -r], then: [r, -k], to: [r, 0] },
    { kind: 'close' },
  ]
}
const WORDS = { text: 'ab', font: 'plain', align: 'start', place: [0.1, 0, 0, 0.1, 0.2, -0.3] } as const satisfies Partial<NonNullable<Fill['words']>> & object
const fillOf = (fields: Partial<Fill>): Fill => ({ id: 'w', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[0, 0, 1, 0, 1, 1]], colour: '#27241e', opacity: 1, ...fields })

describe('curves of letters', () => {
  it('are polygons no farther from the curve than is asked', () => {
    for (const tolerance of [0.01, 0.001, 0.0001]) {
      const [ring] = flattened(round(1), tolerance)
      for (let i = 0; i < ring!.length; i += 2) expect(Math.abs(Math.hypot(ring![i]!, ring![i + 1]!) - 1)).toBeLessThan(3e-4)
      // Between its corners a chord lies inside by at most the tolerance.
      for (let i = 0; i < ring!.length; i += 2) {
        const [x, y] = [(ring![i]! + ring![(i + 2) % ring!.length]!) / 2, (ring![i + 1]! + ring![(i + 3) % ring!.length]!) / 2]
        expect(1 - Math.hypot(x, y)).toBeLessThan(tolerance + 3e-4)
      }
    }
    expect(flattened([{ kind: 'move', to: [0, 0] }, { kind: 'quadratic', by: [1, 2], to: [2, 0] }, { kind: 'close' }], 1e-5)[0]!.length).toBe(2 * 65)
    expect(flattened([{ kind: 'move', to: [0, 0] }, { kind: 'line', to: [1, 0] }], 0.1)).toEqual([])
  })

  it('keep their holes, and join where they lie over each other', () => {
    const ring = joinedByDirection(flattened([...box(0, 0, 3, 3), { kind: 'move', to: [1, 1] }, { kind: 'line', to: [1, 2] }, { kind: 'line', to: [2, 2] }, { kind: 'line', to: [2, 1] }, { kind: 'close' }], 0.1))
    expect(area(ring)).toBeCloseTo(8, 6)
    expect(joinedByDirection(flattened([...box(0, 0, 2, 1), ...box(1, 0, 3, 1)], 0.1))).toHaveLength(1)
    expect(area(joinedByDirection(flattened([...box(0, 0, 2, 1), ...box(1, 0, 3, 1)], 0.1)))).toBeCloseTo(3, 6)
  })
})

describe('words', () => {
  it('lie where their place says', () => {
    const [ring] = outlinesOfWords(box(0, 0, 1, 1), WORDS)
    expect([Math.min(...ring!.filter((_, i) => i % 2 === 0)), Math.max(...ring!.filter((_, i) => i % 2 === 1))]).toEqual([0.2, -0.2])
    expect([emOf(WORDS), turnOfWords(WORDS)]).toEqual([0.1, 0])
    expect(emOf({ place: resized(WORDS, 0.25) })).toBeCloseTo(0.25, 9)
    expect(turnOfWords({ place: turnedTo(WORDS, 30) })).toBeCloseTo(30, 5)
    expect(applyAffine(placeOfWords({ place: turnedTo(WORDS, -110) }), { x: 0, y: 0 })).toEqual({ x: 0.2, y: -0.3 })
  })

  it('set anew after any move, turn, stretch or flip lie where they were carried', () => {
    fc.assert(
      fc.property(fc.double({ min: -2, max: 2, noNaN: true }).filter((s) => Math.abs(s) > 0.05), fc.double({ min: 0.1, max: 3, noNaN: true }), fc.double({ min: -180, max: 180, noNaN: true }), (sx, sy, degrees) => {
        const letters = [...round(0.4), ...box(0.5, 0, 1, 0.7)]
        const mark = fillOf({ words: { ...WORDS, place: [...WORDS.place] }, outlines: outlinesOfWords(letters, WORDS) })
        const carried = carryMark(mark, carryingOf(about({ x: 0.3, y: 0.1 }, sx, sy, degrees)))
        const anew = outlinesOfWords(letters, carried.words!)
        const [a, b] = [drawingBounds({ marks: [carried] })!, drawingBounds({ marks: [{ ...carried, outlines: anew }] })!]
        for (const side of ['left', 'right', 'top', 'bottom'] as const) expect(Math.abs(a[side] - b[side])).toBeLessThan(1e-5)
      }),
      { numRuns: 60 },
    )
  })

  it('for print alone are in no picture’s bounds', () => {
    const note = fillOf({ forPrint: true })
    expect([isForPrint(note), drawingBounds({ marks: [note] }), drawingBounds({ marks: [fillOf({ id: 'x', outlines: [[0, 0, 0.1, 0, 0, 0.1]] }), note] })]).toEqual([true, null, { left: 0, bottom: 0, right: 0.1, top: 0.1 }])
  })
})

describe('arrows', () => {
  const straight = { points: [0, 0, 1, 0], widthFw: 0.02, taper: 0, heads: 'tip' } as const
  it('are a shaft and a head', () => {
    // A shaft of 1 − 0.068 by 0.02, and a head of 0.068 by 0.068.
    expect(area(outlinesOfArrow({ ...straight, points: [...straight.points] }))).toBeCloseTo(0.932 * 0.02 + (0.068 * 0.068) / 2, 6)
    // To a point (a fiftieth is left): 51 hundredths of the shaft.
    expect(area(outlinesOfArrow({ ...straight, points: [0, 0, 1, 0], taper: 1 }))).toBeCloseTo(0.932 * 0.02 * 0.51 + (0.068 * 0.068) / 2, 5)
    expect(area(outlinesOfArrow({ ...straight, points: [0, 0, 1, 0], heads: 'both' }))).toBeCloseTo(0.864 * 0.02 + 0.068 * 0.068, 6)
    // One that is shorter than its head is all head and shaft still.
    expect(outlinesOfArrow({ ...straight, points: [0, 0, 0.01, 0] })).toHaveLength(1)
    expect(outlinesOfArrow({ ...straight, points: [0.5, 0.5, 0.5, 0.5] })).toEqual([])
  })

  it('go smoothly through their points, to the very tip', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true })), { minLength: 2, maxLength: 8 }), (pairs) => {
        const points = pairs.flat()
        const way = wayOfArrow({ points })
        for (const [x, y] of pairs) expect(Math.min(...way.map((at) => Math.hypot(at.x - x, at.y - y)))).toBeLessThan(1e-6)
        const outline = outlinesOfArrow({ points, widthFw: 0.01, taper: 0.5, heads: 'tip' })
        for (const ring of outline) for (const value of ring) expect(Math.abs(value)).toBeLessThan(4)
        if (outline.length === 0) return
        const tip = way.at(-1)!
        expect(Math.min(...outline.flatMap((ring) => ring.flatMap((x, i) => (i % 2 === 0 ? [Math.hypot(x - tip.x, ring[i + 1]! - tip.y)] : []))))).toBeLessThan(0.04)
      }),
    )
  })

  it('stay arrows when they are carried, and may cross themselves without a hole', () => {
    const mark = fillOf({ arrow: { ...straight, points: [0, 0, 0.5, 0.3, 1, 0] }, outlines: outlinesOfArrow({ ...straight, points: [0, 0, 0.5, 0.3, 1, 0] }) })
    const carried = carryMark(mark, carryingOf(about({ x: 0, y: 0 }, 2, 2, 90)))
    expect(carried.arrow).toMatchObject({ points: [0, 0, -0.6, 1, 0, 2], widthFw: 0.04 })
    expect(carried.outlines).toEqual(outlinesOfArrow(carried.arrow!))
    const loop = outlinesOfArrow({ ...straight, points: [0, 0, 1, 0, 1, 0.5, 0.5, 0.5, 0.5, -0.5], widthFw: 0.05 })
    // One outline and the loop’s inside.
    expect(loop).toHaveLength(2)
  })

  it('are few points of what was drawn', () => {
    const wave = Array.from({ length: 200 }, (_, i) => ({ x: i / 199, y: Math.sin((i / 199) * Math.PI) * 0.2 }))
    const points = fewPoints(wave, 0.005)
    expect(points.length / 2).toBeLessThanOrEqual(8)
    for (const { x, y } of wave) expect(Math.min(...wayOfArrow({ points }).map((at) => Math.hypot(at.x - x, at.y - y)))).toBeLessThan(0.02)
    expect(fewPoints([{ x: 0, y: 0 }, { x: 0.5, y: 0.0001 }, { x: 1, y: 0 }], 0.005)).toEqual([0, 0, 1, 0])
  })
})
