import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Fill, Picture, Stroke } from '../document'
import { about, applyAffine, areaOf, carryingOf, carryMark, createSmoother, distanceTo, enclosedArea, figureArea, followedBy, growth, markAt, marksInside, moved, pictureCorners, shapeStroke, silhouetteArea, simplifyOutline, simplifyStroke, type Mask } from './index'

const stroke = (id: string, points: number[], widthFw = 0.01): Stroke => ({ id, order: 'a1', kind: 'stroke', mode: 'ink', points, widthFw, colour: '#27241e', opacity: 1 })
const fill = (id: string, outline: number[]): Fill => ({ id, order: 'a1', kind: 'fill', mode: 'ink', outlines: [outline], colour: '#27241e', opacity: 1 })
const picture = (fields: Partial<Picture> = {}): Picture => ({ id: 'p', order: 'a1', kind: 'picture', assetHash: '0'.repeat(64), widthPx: 200, heightPx: 100, x: 0.1, y: 0, widthFw: 0.4, ...fields })

describe('the smoother', () => {
  it('leaves points as they are at 0', () => {
    const smoother = createSmoother(0)
    expect([smoother.next(0, 0, 0.5), smoother.next(0.3, -0.1, 0.7)]).toEqual([[0, 0, 0.5], [0.3, -0.1, 0.7]])
    expect(smoother.rest()).toEqual([])
  })

  it('lags behind the hand, and ends exactly where the hand did', () => {
    const smoother = createSmoother(0.8)
    smoother.next(0, 0, 0.5)
    const [x] = smoother.next(1, 0, 0.5)
    expect(x).toBeGreaterThan(0)
    expect(x).toBeLessThan(0.5)
    expect(smoother.rest().at(-1)).toEqual([1, 0, 0.5])
  })

  it('makes a trembling line straighter', () => {
    const stray = (amount: number) => {
      const smoother = createSmoother(amount)
      return Math.max(...Array.from({ length: 60 }, (_, i) => smoother.next(i / 60, i % 2 === 0 ? 0.01 : -0.01, 0.5)).slice(20).map(([, y]) => Math.abs(y)))
    }
    expect(stray(0.7)).toBeLessThan(stray(0) / 4)
  })

  it('refuses an amount out of range', () => {
    expect(() => createSmoother(1.2)).toThrow(RangeError)
    expect(() => createSmoother(NaN)).toThrow(RangeError)
  })
})

describe('a simplified stroke', () => {
  const points = fc.array(fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })), { minLength: 1, maxLength: 60 }).map((list) => list.flat())

  it('keeps both ends, and every point lies within the tolerance of what is left', () => {
    fc.assert(
      fc.property(points, (given) => {
        const left = simplifyStroke(given, 0.05, Infinity, 10)
        expect(left.slice(0, 3)).toEqual(given.slice(0, 3))
        expect(left.slice(-3)).toEqual(given.slice(-3))
        for (let i = 0; i < given.length; i += 3) {
          let nearest = Infinity
          for (let j = 0; j + 2 < left.length; j += 3) {
            const [ax, ay] = [left[j]!, left[j + 1]!]
            const [bx, by] = j + 5 < left.length ? [left[j + 3]!, left[j + 4]!] : [ax, ay]
            const square = (bx - ax) ** 2 + (by - ay) ** 2
            const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((given[i]! - ax) * (bx - ax) + (given[i + 1]! - ay) * (by - ay)) / square))
            nearest = Math.min(nearest, Math.hypot(given[i]! - ax - (bx - ax) * t, given[i + 1]! - ay - (by - ay) * t))
          }
          expect(nearest).toBeLessThanOrEqual(0.05 + 1e-9)
        }
      }),
    )
  })

  it('drops what lies on a line, but leaves no gap wider than asked for', () => {
    const line = Array.from({ length: 101 }, (_, i) => [i / 100, 0, 0.5]).flat()
    expect(simplifyStroke(line, 0.001, Infinity)).toEqual([0, 0, 0.5, 1, 0, 0.5])
    const left = simplifyStroke(line, 0.001, 0.1)
    for (let i = 3; i < left.length; i += 3) expect(left[i]! - left[i - 3]!).toBeLessThanOrEqual(0.1 + 1e-12)
  })

  it('keeps an accent of pressure on a straight line', () => {
    expect(simplifyStroke([0, 0, 0.2, 0.5, 0, 0.9, 1, 0, 0.2], 0.01, Infinity)).toHaveLength(9)
  })

  it('of one point or two is itself', () => {
    expect(simplifyStroke([0.1, 0.2, 0.5], 1, 1)).toEqual([0.1, 0.2, 0.5])
    expect(simplifyStroke([0, 0, 0.5, 0, 0, 0.5], 1, 1)).toEqual([0, 0, 0.5, 0, 0, 0.5])
  })

  it('as a closed outline keeps its corners', () => {
    const square = [0, 0, 5, 0, 10, 0, 10, 5, 10, 10, 5, 10, 0, 10, 0, 5]
    expect(simplifyOutline(square, 0.1)).toEqual([0, 0, 10, 0, 10, 10, 0, 10])
  })
})

describe('shapes', () => {
  const ends = (points: number[]) => [points.slice(0, 2), points.slice(-3, -1)]

  it('a line runs from end to end, in steps of 15° where it is made even', () => {
    expect(ends(shapeStroke('line', { x: 0, y: 0 }, { x: 1, y: 0.5 }, { even: false, centred: false }))).toEqual([[0, 0], [1, 0.5]])
    const [, [x, y]] = ends(shapeStroke('line', { x: 0, y: 0 }, { x: 1, y: 0.05 }, { even: true, centred: false })) as [number[], [number, number]]
    expect(y).toBeCloseTo(0, 12)
    expect(x).toBeCloseTo(Math.hypot(1, 0.05), 12)
  })

  it('a box closes, a square is as wide as high, from the middle it is twice as large', () => {
    const box = shapeStroke('box', { x: 0, y: 0 }, { x: 0.4, y: 0.2 }, { even: false, centred: false })
    expect(ends(box)[0]).toEqual(ends(box)[1])
    const reach = (points: number[], axis: 0 | 1) => Math.max(...points.filter((_, i) => i % 3 === axis)) - Math.min(...points.filter((_, i) => i % 3 === axis))
    const square = shapeStroke('box', { x: 0, y: 0 }, { x: 0.4, y: -0.2 }, { even: true, centred: false })
    expect([reach(square, 0), reach(square, 1)]).toEqual([0.4, 0.4])
    const centred = shapeStroke('box', { x: 0, y: 0 }, { x: 0.4, y: 0.2 }, { even: false, centred: true })
    expect([reach(centred, 0), reach(centred, 1)]).toEqual([0.8, 0.4])
  })

  it('an ellipse touches the four sides of its box', () => {
    const points = shapeStroke('ellipse', { x: 0, y: 0 }, { x: 0.4, y: 0.2 }, { even: false, centred: false })
    const xs = points.filter((_, i) => i % 3 === 0)
    expect(Math.min(...xs)).toBeCloseTo(0, 4)
    expect(Math.max(...xs)).toBeCloseTo(0.4, 4)
  })

  it('of no size are a dot, not an error', () => {
    for (const kind of ['line', 'box', 'ellipse'] as const) {
      for (const value of shapeStroke(kind, { x: 0.1, y: 0.1 }, { x: 0.1, y: 0.1 }, { even: true, centred: false })) expect(Number.isFinite(value)).toBe(true)
    }
  })
})

describe('marks carried elsewhere', () => {
  it('turned a quarter about a point, by hand', () => {
    const m = about({ x: 1, y: 1 }, 1, 1, 90)
    const { x, y } = applyAffine(m, { x: 2, y: 1 })
    expect([x, y]).toEqual([expect.closeTo(1, 12), expect.closeTo(2, 12)])
    expect(growth(about({ x: 0, y: 0 }, 2, 8, 30))).toBeCloseTo(4, 12)
  })

  it('there and back are the original to a millionth, whatever was done', () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    fc.assert(
      fc.property(number(-1, 1), number(-1, 1), number(0.2, 5), number(-180, 180), fc.boolean(), (cx, cy, scale, degrees, flip) => {
        const there = followedBy(about({ x: cx, y: cy }, flip ? -scale : scale, scale, degrees), moved(0.3, -0.2))
        const det = there.a * there.d - there.b * there.c
        const back = {
          a: there.d / det, b: -there.b / det, c: -there.c / det, d: there.a / det,
          e: (there.c * there.f - there.d * there.e) / det, f: (there.b * there.e - there.a * there.f) / det,
        }
        const mark = stroke('s', [0.1, 0.2, 0.5, 0.3, -0.4, 0.9])
        const again = carryMark(carryMark(mark, carryingOf(there)), carryingOf(back))
        again.points.forEach((value, i) => expect(value).toBeCloseTo(mark.points[i]!, 4))
        expect(again.widthFw).toBeCloseTo(mark.widthFw, 6)
        const placed = carryMark(carryMark(picture({ turnDegrees: 20 }), carryingOf(there)), carryingOf(back))
        expect(placed.mirrored ?? false).toBe(false)
        expect((((placed.turnDegrees ?? 0) - 20 + 540) % 360) - 180).toBeCloseTo(0, 2)
      }),
      { numRuns: 200 },
    )
  })

  it('a picture mirrored left to right stays upright; top to bottom it is mirrored and turned by half', () => {
    expect(carryMark(picture(), carryingOf(about({ x: 0, y: 0 }, -1, 1, 0)))).toMatchObject({ x: -0.1, mirrored: true })
    expect(carryMark(picture(), carryingOf(about({ x: 0, y: 0 }, -1, 1, 0)))).not.toHaveProperty('turnDegrees')
    expect(Math.abs(carryMark(picture(), carryingOf(about({ x: 0, y: 0 }, 1, -1, 0))).turnDegrees!)).toBe(180)
  })

  it('a scaled line is as much wider', () => {
    expect(carryMark(stroke('s', [0, 0, 1], 0.01), carryingOf(about({ x: 0, y: 0 }, 3, 3, 0))).widthFw).toBeCloseTo(0.03, 12)
  })
})

describe('selecting', () => {
  const box = [{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 1, y: 1 }, { x: 0, y: 1 }]

  it('catches what lies by half or more inside', () => {
    const marks = [stroke('in', [0.2, 0.2, 0.5, 0.8, 0.8, 0.5]), stroke('half', [0.5, 0.5, 0.5, 2, 2, 0.5]), stroke('out', [2, 2, 0.5, 3, 3, 0.5, 0.5, 0.5, 0.5]), picture({ x: 0.5, y: 0.5 })]
    expect(marksInside(marks, box).map((mark) => mark.id)).toEqual(['in', 'half', 'p'])
    expect(marksInside(marks, [])).toEqual([])
  })

  it('points at the topmost; a line within its width and reach, a fill within its outline', () => {
    const marks = [fill('ground', [0, 0, 1, 0, 1, 1, 0, 1]), stroke('line', [0, 0.5, 0.5, 1, 0.5, 0.5], 0.02)]
    expect(markAt(marks, { x: 0.5, y: 0.515 }, 0.006)?.id).toBe('line')
    expect(markAt(marks, { x: 0.5, y: 0.6 }, 0.006)?.id).toBe('ground')
    expect(markAt(marks, { x: 1.5, y: 0.6 }, 0.006)).toBeNull()
  })

  it('does not point at what an eraser did', () => {
    expect(markAt([{ ...stroke('e', [0, 0, 1, 1, 0, 1]), mode: 'erase' }], { x: 0.5, y: 0 }, 0.1)).toBeNull()
  })

  it('knows a turned picture’s corners', () => {
    const [bottomLeft] = pictureCorners(picture({ x: 0, y: 0, widthFw: 2, turnDegrees: 90 }))
    expect([bottomLeft!.x, bottomLeft!.y]).toEqual([expect.closeTo(0.5, 12), expect.closeTo(-1, 12)])
  })
})

/** A mask from rows of text: # is a line. */
function maskOf(...rows: string[]): Mask {
  return { widthPx: rows[0]!.length, heightPx: rows.length, cells: Uint8Array.from(rows.join(''), (sign) => (sign === '#' ? 1 : 0)) }
}
const rowsOf = ({ widthPx, heightPx, cells }: Mask) => Array.from({ length: heightPx }, (_, y) => Array.from(cells.subarray(y * widthPx, (y + 1) * widthPx), (cell) => (cell === 1 ? '#' : '.')).join(''))

/** A ring of radius `r` with a gap of `gap` px at its right. */
function ring(size: number, r: number, gap: number): Mask {
  const cells = new Uint8Array(size * size)
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const [dx, dy] = [x - size / 2, y - size / 2]
      if (Math.abs(Math.hypot(dx, dy) - r) < 1.2 && !(dx > 0 && Math.abs(dy) < gap / 2)) cells[y * size + x] = 1
    }
  }
  return { widthPx: size, heightPx: size, cells }
}

describe('the distance to a mask', () => {
  it('is exact, against every pair tried', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 9 }), fc.array(fc.nat(80), { minLength: 1, maxLength: 6 }), (widthPx, heightPx, places) => {
        const cells = new Uint8Array(widthPx * heightPx)
        for (const place of places) cells[place % cells.length] = 1
        const distance = distanceTo({ widthPx, heightPx, cells })
        for (let i = 0; i < cells.length; i++) {
          let nearest = Infinity
          for (let j = 0; j < cells.length; j++) if (cells[j] === 1) nearest = Math.min(nearest, Math.hypot((i % widthPx) - (j % widthPx), Math.floor(i / widthPx) - Math.floor(j / widthPx)))
          expect(distance[i]).toBeCloseTo(nearest, 4)
        }
      }),
    )
  })
})

describe('an enclosed area', () => {
  const box = maskOf('.......', '.#####.', '.#...#.', '.#...#.', '.#####.', '.......')

  it('is what the lines enclose, and goes on beneath them as far as asked for', () => {
    const found = enclosedArea(box, 3, 2, 0, 0)
    expect(found.ok && rowsOf(found.mask)).toEqual(['.......', '.......', '..###..', '..###..', '.......', '.......'])
    const under = enclosedArea(box, 3, 2, 0, 1)
    expect(under.ok && areaOf(under.mask)).toBe(6 + 10)
  })

  it('is refused on a line, and where it runs out, with the place', () => {
    expect(enclosedArea(box, 1, 1, 0, 0)).toEqual({ ok: false, refusal: { code: 'on-a-line' } })
    expect(enclosedArea(box, 0, 0, 0, 0)).toMatchObject({ ok: false, refusal: { code: 'runs-out' } })
  })

  it('runs out through a gap, and is held by closing it', () => {
    const open = ring(80, 28, 8)
    expect(enclosedArea(open, 40, 40, 4, 0)).toMatchObject({ ok: false, refusal: { code: 'runs-out' } })
    const closed = enclosedArea(open, 40, 40, 10, 0)
    const whole = enclosedArea(ring(80, 28, 0), 40, 40, 0, 0)
    expect(closed.ok && whole.ok && areaOf(closed.mask) / areaOf(whole.mask)).toBeCloseTo(1, 1)
  })

  it('does not pass a thin line, however wide the gap that is closed', () => {
    const cells = new Uint8Array(60 * 60)
    for (let i = 10; i <= 50; i++) for (const at of [[i, 10], [i, 50], [10, i], [50, i], [30, i]] as const) cells[at[1] * 60 + at[0]] = 1
    const found = enclosedArea({ widthPx: 60, heightPx: 60, cells }, 20, 30, 8, 0)
    expect(found.ok).toBe(true)
    if (!found.ok) return
    for (let y = 0; y < 60; y++) for (let x = 31; x < 60; x++) expect(found.mask.cells[y * 60 + x]).toBe(0)
  })

  it('is found also from a place nearer to a line than the gap', () => {
    const found = enclosedArea(ring(80, 28, 0), 40 + 25, 40, 10, 0)
    expect(found.ok && areaOf(found.mask)).toBeGreaterThan(1800)
  })
})

describe('a silhouette', () => {
  it('is the whole figure though its outline is open', () => {
    const open = silhouetteArea(ring(80, 28, 8), 12)
    expect(areaOf(open) / (Math.PI * 29.2 ** 2)).toBeCloseTo(1, 1)
  })

  it('of a lone line is the line', () => {
    const cells = new Uint8Array(40 * 40)
    for (let i = 10; i < 30; i++) cells[20 * 40 + i] = 1
    const line = { widthPx: 40, heightPx: 40, cells }
    expect(areaOf(silhouetteArea(line, 6))).toBe(20)
  })

  it('is taken at the smallest gap that holds it together', () => {
    const { gapPx, mask } = figureArea(ring(120, 40, 10), 2, 40)
    expect(gapPx).toBeGreaterThan(9)
    expect(gapPx).toBeLessThan(18)
    expect(areaOf(mask)).toBeGreaterThan(4500)
  })
})
