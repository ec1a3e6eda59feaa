import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyAffine } from '@rubato/core/ink'
import { frameOfWidth, inverseOf, pxOfFrame, turnOf, viewCorners, wholeFrame, type ViewBox } from './viewBox'

const px = fc.integer({ min: 16, max: 4000 })
const views: fc.Arbitrary<ViewBox> = fc.record({ widthPx: px, heightPx: px, frameLeftPx: fc.integer({ min: -2000, max: 2000 }), frameTopPx: fc.integer({ min: -2000, max: 2000 }), frameWidthPx: px, turnDegrees: fc.double({ min: -360, max: 360, noNaN: true }), flipped: fc.boolean() })
const place = fc.record({ x: fc.double({ min: -1, max: 1, noNaN: true }), y: fc.double({ min: -1, max: 1, noNaN: true }) })
const halfHeights = fc.double({ min: 0.1, max: 1, noNaN: true })

describe('the px of a frame', () => {
  it('of a whole frame: its corners are the canvas’s, v goes up', () => {
    const view = frameOfWidth(1600, 16 / 9)
    expect(view).toEqual({ widthPx: 1600, heightPx: 900, frameLeftPx: 0, frameTopPx: 0, frameWidthPx: 1600 })
    const to = pxOfFrame(view, 9 / 32)
    expect(applyAffine(to, { x: -0.5, y: 9 / 32 })).toEqual({ x: 0, y: 0 })
    expect(applyAffine(to, { x: 0.5, y: -9 / 32 })).toEqual({ x: 1600, y: 900 })
    expect(applyAffine(to, { x: 0, y: 0 })).toEqual({ x: 800, y: 450 })
  })

  it('come back as they were, however the view is turned and flipped', () => {
    fc.assert(
      fc.property(views, halfHeights, place, (view, halfHeight, at) => {
        const to = pxOfFrame(view, halfHeight)
        const { x, y } = applyAffine(inverseOf(to)!, applyAffine(to, at))
        expect(Math.hypot(x - at.x, y - at.y)).toBeLessThan(1e-7)
      }),
    )
  })

  it('turned and flipped keep the canvas’s middle and every length; flipped alone changes left and right about', () => {
    fc.assert(
      fc.property(views, halfHeights, place, place, (view, halfHeight, a, b) => {
        const { turnDegrees: _, flipped: __, ...plain } = view
        const [to, straight] = [pxOfFrame(view, halfHeight), pxOfFrame(plain, halfHeight)]
        const between = (m: typeof to) => ((p, q) => Math.hypot(p.x - q.x, p.y - q.y))(applyAffine(m, a), applyAffine(m, b))
        expect(Math.abs(between(to) - between(straight))).toBeLessThan(1e-6)
        const middle = { x: view.widthPx / 2, y: view.heightPx / 2 }
        const turn = turnOf(view)
        const kept = turn === null ? middle : applyAffine(turn, middle)
        expect(Math.hypot(kept.x - middle.x, kept.y - middle.y)).toBeLessThan(1e-6)
        const flipped = applyAffine(pxOfFrame({ ...plain, flipped: true }, halfHeight), a)
        expect(Math.hypot(flipped.x - (view.widthPx - applyAffine(straight, a).x), flipped.y - applyAffine(straight, a).y)).toBeLessThan(1e-6)
      }),
    )
  })

  it('of one view are not another’s, asked for in turn', () => {
    const [small, large] = [wholeFrame(320, 180), wholeFrame(640, 360)]
    for (let i = 0; i < 3; i++) {
      expect(pxOfFrame(small, 9 / 32).a).toBe(320)
      expect(pxOfFrame(large, 9 / 32).a).toBe(640)
      expect(pxOfFrame(large, 1 / 2).f).toBe(320)
      expect(pxOfFrame(large, 9 / 32).f).toBe(180)
    }
  })

  it('a quarter turn goes clockwise', () => {
    const to = pxOfFrame({ ...wholeFrame(100, 100), turnDegrees: 90 }, 0.5)
    const { x, y } = applyAffine(to, { x: 0, y: 0.5 })
    expect([Math.round(x), Math.round(y)]).toEqual([100, 50])
  })

  it('what flattens everything has no way back', () => {
    expect(inverseOf({ a: 1, b: 2, c: 2, d: 4, e: 0, f: 0 })).toBeNull()
    expect(viewCorners(wholeFrame(3, 2))).toEqual([{ x: 0, y: 0 }, { x: 3, y: 0 }, { x: 3, y: 2 }, { x: 0, y: 2 }])
  })
})
