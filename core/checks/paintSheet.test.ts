import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { level, OPTICS, T } from '../edits/testing'
import { heightOf, widthOf } from '../geometry/rectangle'
import { createTakeStage, placedLevel, seenAt } from '../stage'
import { neededOf, needsOfTake, PAINT_MOST, paintGuide, paintSheet, sightOf, sizePx, type ToPaint } from '.'
import { takeOf, travelling } from './testing'

const stageOf = (levels: readonly ReturnType<typeof level>[], x = 1.2) => createTakeStage(travelling(takeOf(levels), x), OPTICS)
function toPaint(stage: ReturnType<typeof stageOf>, ids: readonly string[]): readonly ToPaint[] {
  const needs = needsOfTake(stage, T, new Map(ids.map((id) => [`d-${id}`, { bounds: null, owes: null }])), 0.05)
  const view = stage.through(0, 'a')
  return ids.map((id) => ({ need: neededOf([`d-${id}`], [needs])!, stands: ((placed) => (placed === null ? null : { lens: view.lens, plane: placed.plane, size: placed.size }))(placedLevel(view, id)) }))
}

describe('a canvas to paint on', () => {
  it('of one level is just what is needed of it, to a px', () => {
    const [sea] = toPaint(stageOf([level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })]), ['sea'])
    const sheet = paintSheet([sea!], 1920)
    const px = sizePx(sea!.need.box, sea!.need.magnification, 1920)
    expect([sheet.widthPx, sheet.heightPx, sheet.share]).toEqual([Math.ceil(px.width - 1e-6), Math.ceil(px.height - 1e-6), 1])
    const [canvas] = sheet.canvases
    expect(canvas).toMatchObject({ left: sea!.need.box.left, top: sea!.need.box.top })
    expect(sheet.widthPx / widthOf(canvas!)).toBeCloseTo(sea!.need.magnification * 1920, 6)
    expect(sheet.heightPx / heightOf(canvas!)).toBeCloseTo(sea!.need.magnification * 1920, 6)
  })

  it('of several has all that is needed of each, fine enough, and lies as the picture shows them', () => {
    fc.assert(
      fc.property(fc.array(fc.record({ x: fc.double({ min: -1, max: 1, noNaN: true }), y: fc.double({ min: -0.5, max: 0.5, noNaN: true }), depth: fc.double({ min: -0.3, max: 8, noNaN: true }), scale: fc.double({ min: 0.3, max: 4, noNaN: true }), rollDegrees: fc.constant(0) }), { minLength: 2, maxLength: 5 }), (places) => {
        const stage = stageOf(places.map(({ depth, ...rest }, i) => level(`l${i}`, i + 1, depth, rest)), 0.4)
        const view = stage.through(0, 'a')
        const parts = toPaint(stage, places.map((_, i) => `l${i}`))
        const sheet = paintSheet(parts, 1920)
        const pxAt = (i: number, x: number, y: number) => {
          const canvas = sheet.canvases[i]!
          const scale = sheet.widthPx / widthOf(canvas)
          return [(x - canvas.left) * scale, (canvas.top - y) * scale] as const
        }
        const seen = (i: number, x: number, y: number) => ((at) => [at.u, -at.v] as const)(seenAt(view.lens, placedLevel(view, `l${i}`)!, { x, y }))
        // One scale for all of them: from picture to canvas.
        const [from, to] = [seen(0, 0, 0), seen(0, 1, 0)]
        const perFw = (pxAt(0, 1, 0)[0] - pxAt(0, 0, 0)[0]) / (to[0] - from[0])
        const shift = [pxAt(0, 0, 0)[0] - from[0] * perFw, pxAt(0, 0, 0)[1] - from[1] * perFw] as const
        parts.forEach(({ need }, i) => {
          const canvas = sheet.canvases[i]!
          // A millionth of a px is no px more.
          expect(canvas.left).toBeLessThanOrEqual(need.box.left + 1e-8)
          expect(canvas.top).toBeGreaterThanOrEqual(need.box.top - 1e-8)
          expect(canvas.right).toBeGreaterThanOrEqual(need.box.right - 1e-8)
          expect(canvas.bottom).toBeLessThanOrEqual(need.box.bottom + 1e-8)
          if (sheet.share === 1) expect(sheet.widthPx / widthOf(canvas)).toBeGreaterThanOrEqual(need.magnification * 1920 * (1 - 1e-9))
          for (const [x, y] of [[0.3, -0.2], [-1, 0.5]] as const) {
            const [[u, v], [px, py]] = [seen(i, x, y), pxAt(i, x, y)]
            expect(Math.abs(px - (u * perFw + shift[0]))).toBeLessThan(1e-3)
            expect(Math.abs(py - (v * perFw + shift[1]))).toBeLessThan(1e-3)
          }
        })
      }),
      { numRuns: 80 },
    )
  })

  it('is as large as can be taken in and no larger, and says how much of 1:1 that is', () => {
    const [near] = toPaint(stageOf([level('grass', 1, -0.9, {})], 6), ['grass'])
    const sheet = paintSheet([near!], 8192)
    expect(sheet.share).toBeLessThan(1)
    expect(sheet.widthPx * sheet.heightPx).toBeLessThanOrEqual(PAINT_MOST.px)
    expect(Math.max(sheet.widthPx, sheet.heightPx)).toBeLessThanOrEqual(PAINT_MOST.sidePx)
    expect(sheet.canvases[0]!.right).toBeGreaterThanOrEqual(near!.need.box.right - 1e-9)
    expect(sheet.canvases[0]!.bottom).toBeLessThanOrEqual(near!.need.box.bottom + 1e-9)
    expect(sheet.widthPx / widthOf(sheet.canvases[0]!)).toBeCloseTo(near!.need.magnification * 8192 * sheet.share, -1)
  })

  it('has over it every framing at its frame and the outline, in its own px', () => {
    const stage = stageOf([level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })])
    const [sea] = toPaint(stage, ['sea'])
    const { widthPx, heightPx, canvases } = paintSheet([sea!], 1920)
    const guide = paintGuide(canvases[0]!, widthPx, heightPx, 'Sea', sea!.need, [sightOf(stage, '040 A', sea!.need.seen[0]!)], 24)
    const said = guide.marks.flatMap((mark) => (mark.kind === 'text' ? [mark.text] : []))
    expect(said).toEqual(expect.arrayContaining(['Sea', '040 A 1 · f 0', '040 A 2 · f 48', '24', '48']))
    const numbers = guide.marks.flatMap((mark) => (mark.kind === 'line' && mark.closed ? mark.rings.flat() : []))
    expect(Math.min(...numbers)).toBeGreaterThan(-1)
    expect(Math.max(...numbers.filter((_, i) => i % 2 === 0))).toBeCloseTo(widthPx, -1)
  })
})
