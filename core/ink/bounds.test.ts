import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cellIdOf, EMPTY_TAKE, newLevel, orderOfNumber, type Drawing, type Mark, type TakeBody } from '../document'
import { rectangleAround } from '../geometry'
import { artReaches } from '../stage'
import { drawingBounds, eachPoint, markBounds, OUTLINE_UNITS_PER_FW, pictureCorners, startsWith, strokeOutline } from './index'

const fine = (min: number, max: number) => fc.integer({ min: min * 1000, max: max * 1000 }).map((n) => n / 1000)
let ids = 0
const mark: fc.Arbitrary<Mark> = fc.oneof(
  fc.record({ mode: fc.constantFrom('ink' as const, 'erase' as const, 'behind' as const), widthFw: fine(0.002, 0.2), points: fc.array(fc.tuple(fine(-2, 2), fine(-2, 2), fine(0, 1)), { minLength: 1, maxLength: 20 }) }).map(({ points, ...rest }): Mark => ({ id: `m${++ids}`, order: 'a0', kind: 'stroke', colour: '#000000', opacity: 1, points: points.flat(), ...rest })),
  fc.record({ outlines: fc.array(fc.array(fc.tuple(fine(-2, 2), fine(-2, 2)), { minLength: 3, maxLength: 8 }).map((points) => points.flat()), { minLength: 1, maxLength: 3 }) }).map(({ outlines }): Mark => ({ id: `m${++ids}`, order: 'a0', kind: 'fill', mode: 'ink', colour: '#000000', opacity: 1, outlines })),
  fc.record({ x: fine(-1, 1), y: fine(-1, 1), widthFw: fine(0.01, 2), turnDegrees: fine(-180, 180) }).map((fields): Mark => ({ id: `m${++ids}`, order: 'a0', kind: 'picture', assetHash: '0'.repeat(64), widthPx: 300, heightPx: 200, ...fields })),
)
const contains = (of: Mark, x: number, y: number, slack = 1e-9) => {
  const { left, right, bottom, top } = markBounds(of)
  return x >= left - slack && x <= right + slack && y >= bottom - slack && y <= top + slack
}

describe('what a mark can touch', () => {
  it('has all of its points in it, and all of a stroke’s ink', () => {
    fc.assert(
      fc.property(mark, (one) => {
        eachPoint(one, (x, y) => expect(contains(one, x, y)).toBe(true))
        if (one.kind !== 'stroke') return
        const ink = strokeOutline(one.points, one.widthFw)
        for (let i = 0; i < ink.length; i += 2) expect(contains(one, ink[i]! / OUTLINE_UNITS_PER_FW, ink[i + 1]! / OUTLINE_UNITS_PER_FW, 1e-4)).toBe(true)
      }),
    )
  })

  it('is found once for each mark', () => {
    fc.assert(fc.property(mark, (one) => void expect(markBounds(one)).toBe(markBounds(one))), { numRuns: 20 })
  })

  it('of a picture is around its corners, turned as it is', () => {
    const one: Mark = { id: 'p', order: 'a0', kind: 'picture', assetHash: '0'.repeat(64), widthPx: 200, heightPx: 100, x: 0.5, y: 0, widthFw: 1, turnDegrees: 90 }
    const { left, right, bottom, top } = markBounds(one)
    for (const [found, wanted] of [[left, 0.25], [right, 0.75], [bottom, -0.5], [top, 0.5]] as const) expect(found).toBeCloseTo(wanted, 12)
    expect(markBounds(one)).toEqual(rectangleAround(pictureCorners(one)))
  })
})

describe('what a drawing can touch', () => {
  it('is the same whether it grew mark by mark or came whole; erasing adds nothing', () => {
    fc.assert(
      fc.property(fc.array(mark, { maxLength: 8 }), (marks) => {
        let grown: ReturnType<typeof drawingBounds> = null
        for (let count = 0; count <= marks.length; count++) grown = drawingBounds({ marks: marks.slice(0, count) })
        const inked = marks.filter((one) => one.kind === 'picture' || one.mode !== 'erase')
        const corners = inked.flatMap((one) => {
          const { left, right, bottom, top } = markBounds(one)
          return [{ x: left, y: bottom }, { x: right, y: top }]
        })
        expect(grown).toEqual(rectangleAround(corners))
        // The very same marks in another list, some of them undone and done again.
        for (const count of [marks.length - 1, marks.length]) expect(drawingBounds({ marks: marks.slice(0, Math.max(0, count)) })).toEqual(drawingBounds({ marks: [...marks.slice(0, Math.max(0, count))] }))
      }),
    )
  })

  it('begins as another only where its first marks are the very same', () => {
    fc.assert(
      fc.property(fc.array(mark, { minLength: 1, maxLength: 5 }), (marks) => {
        expect(startsWith(marks, marks.slice(0, -1))).toBe(true)
        expect(startsWith(marks.slice(0, -1), marks)).toBe(false)
        expect(startsWith(marks, [{ ...marks[0]! }])).toBe(false)
      }),
      { numRuns: 20 },
    )
  })
})

describe('how far a level’s art reaches', () => {
  const stroke = (points: readonly number[], widthFw: number): Drawing => ({ marks: [{ id: 's', order: 'a0', kind: 'stroke', mode: 'ink', points: [...points], widthFw, colour: '#000000', opacity: 1 }] })
  const take = (drawings: Readonly<Record<string, readonly (string | null)[]>>): TakeBody => ({
    ...EMPTY_TAKE,
    levels: Object.fromEntries(Object.keys(drawings).map((id, i) => [id, newLevel({ id, order: orderOfNumber(i), name: id })])),
    cells: Object.fromEntries(Object.entries(drawings).flatMap(([levelId, list]) => list.map((drawingId, i) => [cellIdOf(levelId, `p${i}`), { id: cellIdOf(levelId, `p${i}`), levelId, panelId: `p${i}`, drawingId }]))),
  })
  const art: Record<string, Drawing> = { near: stroke([-0.3, 0.1, 1, 0.2, 0.1, 1], 0.02), far: stroke([0, -0.9, 1, 0.1, 0.4, 1], 0.1) }

  it('is the most of all that it shows, to either side, up or down', () => {
    const reaches = artReaches(take({ l: ['near', null, 'far'], empty: [] }), (id) => art[id] ?? null)
    expect(reaches.get('l')!.x).toBeCloseTo(0.32, 12)
    expect(reaches.get('l')!.y).toBeCloseTo(1, 12)
    expect(reaches.get('empty')).toEqual({ x: 0, y: 0 })
  })

  it('is not told of a level with a drawing that is not loaded', () => {
    expect([...artReaches(take({ known: ['near'], unknown: ['near', 'missing', 'far'] }), (id) => art[id] ?? null).keys()]).toEqual(['known'])
  })
})
