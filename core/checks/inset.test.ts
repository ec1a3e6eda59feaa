import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { insetOutline } from './inset'
import type { ArtOutline } from './outline'

/** Even-odd, along a ray to the right. */
function isCovered({ rings }: ArtOutline, x: number, y: number): boolean {
  let inside = false
  eachEdge(rings, (x0, y0, x1, y1) => {
    if (y0 > y !== y1 > y && x < x0 + ((y - y0) / (y1 - y0)) * (x1 - x0)) inside = !inside
  })
  return inside
}
function distanceTo({ rings }: ArtOutline, x: number, y: number): number {
  let least = Infinity
  eachEdge(rings, (x0, y0, x1, y1) => {
    const [dx, dy] = [x1 - x0, y1 - y0]
    const t = Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy || 1)))
    least = Math.min(least, Math.hypot(x - x0 - t * dx, y - y0 - t * dy))
  })
  return least
}
function eachEdge(rings: ArtOutline['rings'], visit: (x0: number, y0: number, x1: number, y1: number) => void) {
  for (const ring of rings) for (let i = 0; i < ring.length; i += 2) visit(ring.at(i - 2)!, ring.at(i - 1)!, ring[i]!, ring[i + 1]!)
}

const POINTS = 240
/** A blot with a bumpy edge, of many more points than it needs, as one that is read from pixels has. */
const blot = fc.record({ x: fc.double({ min: -0.3, max: 0.3, noNaN: true }), y: fc.double({ min: -0.3, max: 0.3, noNaN: true }), radius: fc.double({ min: 0.02, max: 0.3, noNaN: true }), lobes: fc.integer({ min: 2, max: 9 }), depth: fc.double({ min: 0, max: 0.6, noNaN: true }) })
const ringOf = ({ x, y, radius, lobes, depth }: { readonly x: number; readonly y: number; readonly radius: number; readonly lobes: number; readonly depth: number }) =>
  Array.from({ length: POINTS }, (_, i) => {
    const angle = (i / POINTS) * 2 * Math.PI
    const r = radius * (1 - depth * (0.5 + 0.5 * Math.cos(angle * lobes)))
    return [x + r * Math.cos(angle), y + r * Math.sin(angle)]
  }).flat()

describe('an outline with fewer points', () => {
  it('promises no art that is not there, and keeps all that is deeper inside than it allows', () => {
    fc.assert(
      fc.property(fc.array(blot, { minLength: 1, maxLength: 4 }), fc.constantFrom(0.0005, 0.002, 0.01), fc.array(fc.tuple(fc.double({ min: -0.6, max: 0.6, noNaN: true }), fc.double({ min: -0.6, max: 0.6, noNaN: true })), { minLength: 60, maxLength: 60 }), (blots, tolerance, points) => {
        const whole = { rings: blots.map(ringOf) }
        const fewer = insetOutline(whole, tolerance)
        const corners = fewer.rings.flatMap((ring) => Array.from({ length: ring.length / 2 }, (_, i) => [ring[i * 2]!, ring[i * 2 + 1]!] as const))
        for (const [x, y] of corners) expect(isCovered(whole, x, y) || distanceTo(whole, x, y) < 3e-6).toBe(true)
        for (const [x, y] of points) {
          if (isCovered(fewer, x, y)) expect(isCovered(whole, x, y)).toBe(true)
          // A mitred corner of what is bare reaches further than the sides next to it.
          else if (isCovered(whole, x, y)) expect(distanceTo(whole, x, y)).toBeLessThan(tolerance * 2)
        }
      }),
      { numRuns: 60 },
    )
  })

  it('needs a small part of the points that it was read with, keeps holes, and loses what is narrower than it allows', () => {
    const disc = ringOf({ x: 0, y: 0, radius: 0.3, lobes: 2, depth: 0 })
    const hole = ringOf({ x: 0, y: 0, radius: 0.1, lobes: 2, depth: 0 })
    const ring = insetOutline({ rings: [disc, hole] }, 0.002)
    expect(ring.rings.length).toBe(2)
    expect(ring.rings.flat().length / 2).toBeLessThan(POINTS / 2)
    expect([isCovered(ring, 0, 0), isCovered(ring, 0.2, 0)]).toEqual([false, true])
    expect(insetOutline({ rings: [[-0.4, 0, 0.4, 0, 0.4, 0.0015, -0.4, 0.0015]] }, 0.002).rings).toEqual([])
    expect(insetOutline({ rings: [] }, 0.002).rings).toEqual([])
  })
})
