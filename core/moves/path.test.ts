import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { length, subtract, type Point3 } from '../geometry/point'
import { createBezierPath, createPath, type SolvedPath } from './path'

const part = fc.integer({ min: -2000, max: 2000 }).map((value) => value / 1000)
const point = fc.record({ x: part, y: part, depth: part })
/** Some of whose inner points lie on the ends, or on one line with them: they halt on their way. */
const curves = fc.tuple(point, point, point, point, fc.constantFrom('any', 'leaves-at-rest', 'arrives-at-rest', 'on-a-line', 'cusp')).map(([p0, p1, p2, p3, kind]): readonly [Point3, Point3, Point3, Point3] => {
  const on = (t: number): Point3 => ({ x: p0.x + (p3.x - p0.x) * t, y: p0.y + (p3.y - p0.y) * t, depth: p0.depth + (p3.depth - p0.depth) * t })
  if (kind === 'leaves-at-rest') return [p0, p0, p2, p3]
  if (kind === 'arrives-at-rest') return [p0, p1, p3, p3]
  if (kind === 'on-a-line') return [p0, on(0.7), on(0.2), p3]
  // Handles that cross just so far that it comes to a point in its middle.
  if (kind === 'cusp') return [{ x: 0, y: 0, depth: 0 }, { x: 1, y: 1, depth: p1.depth }, { x: 0, y: 1, depth: p1.depth }, { x: 1, y: 0, depth: 0 }]
  return [p0, p1, p2, p3]
})
const shares = fc.integer({ min: 0, max: 1000 }).map((value) => value / 1000)

/** Its own place at t, and how far along that is: summed so finely that no rule is needed. */
function walked([p0, p1, p2, p3]: readonly [Point3, Point3, Point3, Point3]) {
  const at = (t: number): Point3 => {
    const s = 1 - t
    const of = (axis: keyof Point3) => p0[axis] * s * s * s + 3 * p1[axis] * s * s * t + 3 * p2[axis] * s * t * t + p3[axis] * t * t * t
    return { x: of('x'), y: of('y'), depth: of('depth') }
  }
  const steps = 20_000
  const along = [0]
  const places = [at(0)]
  for (let i = 1; i <= steps; i++) {
    places.push(at(i / steps))
    along.push(along[i - 1]! + length(subtract(places[i]!, places[i - 1]!)))
  }
  const total = along[steps]!
  return {
    total,
    at(u: number): Point3 {
      let [low, high] = [0, steps]
      while (high - low > 1) {
        const mid = (low + high) >> 1
        if (along[mid]! <= u * total) low = mid
        else high = mid
      }
      const span = along[high]! - along[low]!
      const [a, b] = [places[low]!, places[high]!]
      const share = span === 0 ? 0 : (u * total - along[low]!) / span
      return { x: a.x + (b.x - a.x) * share, y: a.y + (b.y - a.y) * share, depth: a.depth + (b.depth - a.depth) * share }
    },
  }
}

const apart = (a: Point3, b: Point3) => length(subtract(a, b))
const finer = (path: SolvedPath, from: number, to: number) => {
  let sum = 0
  const steps = 400
  for (let i = 0; i < steps; i++) sum += apart(path.at(from + ((to - from) * i) / steps), path.at(from + ((to - from) * (i + 1)) / steps))
  return sum
}

describe('a bent path', () => {
  it('is where its length is spent, however it bends, halts or comes to a point', () => {
    fc.assert(
      fc.property(curves, fc.array(shares, { minLength: 1, maxLength: 6 }), (curve, asked) => {
        const [path, slow] = [createBezierPath(...curve), walked(curve)]
        // A polyline is short of its curve by the square of its step.
        expect(Math.abs(path.lengthFw - slow.total)).toBeLessThan(1e-6 * Math.max(1, slow.total))
        for (const u of asked) expect(apart(path.at(u), slow.at(u))).toBeLessThan(3e-6 * Math.max(1, slow.total))
      }),
      { numRuns: 60 },
    )
  })

  it('is found as exactly as its length is known: what is gone of it by u is u of it, and none of it is gone through twice', () => {
    fc.assert(
      fc.property(point, point, point, point, shares, (p0, p1, p2, p3, u) => {
        const path = createBezierPath(p0, p1, p2, p3)
        fc.pre(path.lengthFw > 0.01 && u > 0 && u < 1)
        // The rest from there is a path by itself, as long as what is left.
        const rest = path.stretch(u, 1)
        if (rest.kind === 'bent') expect(Math.abs(createPath(path.at(u), p3, rest).lengthFw - (1 - u) * path.lengthFw)).toBeLessThan(1e-7 * Math.max(1, path.lengthFw))
        // So small a step is as long as it says.
        const step = 1e-5
        expect(apart(path.at(u), path.at(u + step))).toBeLessThan(step * path.lengthFw * (1 + 1e-6) + 1e-10)
      }),
      { numRuns: 300 },
    )
  })

  it('goes at one speed: no frame of many is longer than another', () => {
    const path = createBezierPath({ x: 0, y: 0, depth: 0 }, { x: 0.8, y: 0.1, depth: 0.4 }, { x: 0.7, y: 0.9, depth: 0.1 }, { x: 0, y: 1, depth: 0 })
    const quarter = path.lengthFw / 4
    for (const from of [0, 0.25, 0.5, 0.75]) expect(Math.abs(finer(path, from, from + 0.25) - quarter)).toBeLessThan(1e-5)
  })

  it('goes straight on past its ends, the way it left or arrived, though it rested there', () => {
    fc.assert(
      fc.property(curves, fc.double({ min: 0.01, max: 2, noNaN: true }), (curve, by) => {
        const path = createBezierPath(...curve)
        fc.pre(path.lengthFw > 0.01)
        for (const [end, past] of [[path.at(0), path.at(-by)], [path.at(1), path.at(1 + by)]] as const) expect(Math.abs(apart(end, past) - by * path.lengthFw)).toBeLessThan(1e-9 * Math.max(1, path.lengthFw))
        expect(path.at(0)).toBe(curve[0])
        expect(path.at(1)).toBe(curve[3])
      }),
      { numRuns: 200 },
    )
  })

  it('is the same whether its frames follow each other or are jumped about in', () => {
    const path = createBezierPath({ x: 0, y: 0, depth: 0 }, { x: 1, y: 1, depth: 0 }, { x: 0, y: 1, depth: 0 }, { x: 1, y: 0, depth: 0 })
    const played = Array.from({ length: 101 }, (_, i) => path.at(i / 100))
    for (let i = 0; i < 101; i++) expect(path.at(((i * 37) % 101) / 100)).toEqual(played[(i * 37) % 101])
  })
})
