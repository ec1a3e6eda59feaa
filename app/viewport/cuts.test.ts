import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { keptBy, pixelLine } from './cuts'
import { wholeFrame } from './viewBox'

const HALF = 9 / 32
const VIEW = wholeFrame(1280, 720)
const between = (min: number, max: number) => fc.integer({ min: 0, max: 1_000_000 }).map((n) => min + ((max - min) * n) / 1_000_000)

describe('a line that a level is cut off at', () => {
  it('lies less than a twentieth of a px off, and each px is on one side of it', () => {
    fc.assert(
      fc.property(between(0, 360), between(-0.45, 0.45), between(-0.25, 0.25), between(1e-6, 1e6), fc.array(fc.tuple(fc.nat(1279), fc.nat(719)), { minLength: 40, maxLength: 40 }), (degrees, u, v, size, px) => {
        const angle = (degrees * Math.PI) / 180
        const [a, b] = [Math.cos(angle) * size, Math.sin(angle) * size]
        const line = pixelLine({ a, b, c: -(a * u + b * v) }, VIEW, HALF)
        if (typeof line === 'boolean') throw new Error('the line goes through the view')
        for (const whole of [line.a, line.b, line.c]) expect(Number.isInteger(whole)).toBe(true)
        for (const [x, y] of px) {
          const off = 1280 * (Math.cos(angle) * ((x + 0.5) / 1280 - 0.5 - u) + Math.sin(angle) * (HALF - (y + 0.5) / 1280 - v))
          const before = keptBy([{ ...line, before: true }], x, y)
          expect(keptBy([{ ...line, before: false }], x, y)).toBe(!before)
          if (Math.abs(off) > 0.05) expect(before).toBe(off > 0)
          // Nothing worked out of it leaves 32 bits.
          expect(Math.abs(line.a * (2 * x + 1)) + Math.abs(line.b * (2 * y + 1)) + Math.abs(line.c)).toBeLessThan(2 ** 31)
        }
      }),
      { numRuns: Number(process.env.RUBATO_RUNS ?? 60) },
    )
  })

  it('beside the canvas keeps all of it or nothing, as do planes that nowhere meet', () => {
    expect(pixelLine({ a: 1, b: 0, c: 5 }, VIEW, HALF)).toBe(true)
    expect(pixelLine({ a: 1, b: 0, c: -5 }, VIEW, HALF)).toBe(false)
    expect(pixelLine({ a: 0, b: 0, c: 1 }, VIEW, HALF)).toBe(true)
    expect(pixelLine({ a: 0, b: 0, c: -1 }, VIEW, HALF)).toBe(false)
  })

  it('is as near in the largest view there is, turned and flipped', () => {
    const view = { ...wholeFrame(8192, 4608), turnDegrees: 33, flipped: true }
    const line = pixelLine({ a: 1, b: 0.3, c: 0.1 }, view, HALF)
    if (typeof line === 'boolean') throw new Error('the line goes through the view')
    for (const [x, y] of [[0, 0], [8191, 4607], [0, 4607], [8191, 0]]) expect(Math.abs(line.a * (2 * x! + 1)) + Math.abs(line.b * (2 * y! + 1)) + Math.abs(line.c)).toBeLessThan(2 ** 31)
  })
})
