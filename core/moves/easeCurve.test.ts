import fc from 'fast-check'
import { expect, it } from 'vitest'
import { easeCurve } from './easeCurve'

const share = fc.oneof(fc.constantFrom(0, 0.5, 1), fc.double({ min: 0, max: 1, noNaN: true }))
const height = fc.double({ min: 0, max: 1, noNaN: true })

it('is the curve’s y over its x', () => {
  fc.assert(
    fc.property(share, height, share, height, fc.double({ min: 0.01, max: 0.99, noNaN: true }), (x1, y1, x2, y2, t) => {
      const on = (a: number, b: number) => 3 * a * t * (1 - t) ** 2 + 3 * b * t * t * (1 - t) + t ** 3
      const steep = Math.abs((x1 * (1 - t) ** 2 + 2 * (x2 - x1) * t * (1 - t) + (1 - x2) * t * t) * 3)
      fc.pre(steep > 0.01)
      expect(Math.abs(easeCurve(x1, y1, x2, y2)(on(x1, x2)) - on(y1, y2))).toBeLessThan(1e-9)
    }),
    { numRuns: 2000 },
  )
})

it('takes no notice of the last bits of a frame’s share, upright as the curve may be', () => {
  fc.assert(
    fc.property(share, height, share, height, fc.integer({ min: 1, max: 400 }), fc.nat(), fc.constantFrom(-1, 1), (x1, y1, x2, y2, frames, n, way) => {
      const curve = easeCurve(x1, y1, x2, y2)
      const u = (n % (frames + 1)) / frames
      expect(Math.abs(curve(u + way * 1.2e-16) - curve(u))).toBeLessThan(1e-9)
    }),
    { numRuns: 2000 },
  )
})

it('keeps its ends, never turns back, and even is even', () => {
  const curve = easeCurve(0, 1, 0, 1)
  expect([curve(0), curve(1), curve(-1), curve(2)]).toEqual([0, 1, 0, 1])
  expect(easeCurve(0.2, 0.2, 0.7, 0.7)(0.3)).toBe(0.3)
  // x = t³: at u = 1/8 its t is 1/2, y = 1 − (1 − t)³ there.
  expect(curve(1 / 8)).toBeCloseTo(7 / 8, 12)
  // The symmetric curve passes its middle, upright though it is there.
  expect(easeCurve(1, 0, 0, 1)(0.5)).toBe(0.5)
})
