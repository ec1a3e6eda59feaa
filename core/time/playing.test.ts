import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { frameDue, framesMissed, stepToDraw } from './index'

describe('the frame that is due', () => {
  const span = { start: 10, end: 16 }

  it('follows from the origin, either way, and there is none past the end', () => {
    expect([0, 1, 3, 4].map((steps) => frameDue(12, steps, 1, span, false))).toEqual([12, 13, 15, null])
    expect([0, 2, 3].map((steps) => frameDue(12, steps, -1, span, false))).toEqual([12, 10, null])
  })

  it('goes round at the ends where it is to', () => {
    expect([3, 4, 10].map((steps) => frameDue(12, steps, 1, span, true))).toEqual([15, 10, 10])
    expect([2, 3, 9].map((steps) => frameDue(12, steps, -1, span, true))).toEqual([10, 15, 15])
  })

  it('of an origin outside, and of no frame at all, is at the near end', () => {
    expect([frameDue(3, 0, 1, span, false), frameDue(40, 0, 1, span, false), frameDue(0, 0, 1, { start: 0, end: 0 }, true)]).toEqual([10, 15, 0])
    expect(frameDue(12, -5, 1, span, false)).toBe(12)
  })

  it('is the same whether reached in one step or in many', () => {
    fc.assert(
      fc.property(fc.nat(50), fc.integer({ min: 1, max: 50 }), fc.nat(200), fc.nat(200), fc.constantFrom(1 as const, -1 as const), (start, length, a, b, direction) => {
        const around = { start, end: start + length }
        const halfway = frameDue(start, a, direction, around, true)!
        expect(frameDue(halfway, b, direction, around, true)).toBe(frameDue(start, a + b, direction, around, true))
        expect(halfway).toBeGreaterThanOrEqual(start)
        expect(halfway).toBeLessThan(around.end)
      }),
    )
  })

  it('counts as missed only what the speed does not leave out', () => {
    expect([framesMissed(4, 5, 1), framesMissed(4, 7, 1), framesMissed(4, 6, 2), framesMissed(4, 12, -4), framesMissed(4, 4, 0.25)]).toEqual([0, 2, 0, 4, 0])
  })
})

describe('the step that is drawn', () => {
  it('is the one that is due when the drawing is seen', () => {
    expect(stepToDraw(4, 4, 5)).toBe(5)
    expect(stepToDraw(4, 4, 4)).toBe(4)
    expect(stepToDraw(4, 5, 5)).toBe(5)
  })

  it('passes none over whose time it still is, and never one that is not due', () => {
    fc.assert(
      fc.property(fc.nat(500), fc.nat(500), fc.nat(3), (last, due, ahead) => {
        const drawn = stepToDraw(last, due, due + ahead)
        expect(drawn).toBeGreaterThanOrEqual(due)
        expect(drawn).toBeLessThanOrEqual(due + ahead)
        if (due <= last + 1) expect(framesMissed(last, Math.max(last, drawn), 1)).toBe(0)
      }),
    )
  })

  it('misses only what was over before it could be drawn', () => {
    expect(framesMissed(4, stepToDraw(4, 7, 8), 1)).toBe(2)
  })
})
