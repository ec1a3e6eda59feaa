import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { levelPlane, pointOnPlane } from '../depth/levelPlane'
import { cornersOf } from '../geometry'
import { counterTruck, counterZoom, FOCAL_LENGTH_RANGE_MM, frameThis, lensOf, project, untouchedPose, type CameraPose, type Optics } from './index'

const OPTICS: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const fine = (min: number, max: number) => fc.integer({ min: min * 1000, max: max * 1000 }).map((n) => n / 1000)
const poses: fc.Arbitrary<CameraPose> = fc.record({ x: fine(-2, 2), y: fine(-2, 2), depth: fine(-3, -0.5), panDegrees: fine(-60, 60), tiltDegrees: fine(-60, 60), rollDegrees: fine(-90, 90), focalLengthMm: fine(18, 135) })
const turns = fc.record({ panDegrees: fine(-60, 60), tiltDegrees: fine(-50, 50), rollDegrees: fine(-40, 40) })
const levels = fc.record({ x: fine(-2, 2), y: fine(-1, 1), depth: fine(-0.4, 6), scale: fine(0.2, 3), panDegrees: fine(-70, 70), tiltDegrees: fine(-50, 50), rollDegrees: fine(-40, 40) })
const art = fc.record({ left: fine(-1, -0.1), bottom: fine(-1, -0.1), right: fine(0.1, 1), top: fine(0.1, 1) })

describe('frame this', () => {
  const cornersIn = (level: Parameters<typeof levelPlane>[0], box: Parameters<typeof cornersOf>[0]) => cornersOf(box).map((corner) => pointOnPlane(levelPlane(level), corner))

  it('leaves the stated margin round any level, and no more, squared up to it or seen at any angle', () => {
    fc.assert(
      fc.property(levels, art, poses, turns, fc.boolean(), fc.integer({ min: 0, max: 40 }), fc.constantFrom('truck' as const, 'lens' as const), (level, box, from, turn, squareUp, percent, by) => {
        const margin = percent / 100
        const points = cornersIn(level, box)
        const framed = frameThis(points, squareUp ? level : turn, from, OPTICS, margin, by)
        if (!framed.ok) return void expect(framed.code).toBe('no-such-lens')
        const lens = lensOf(framed.pose, OPTICS)
        let [across, down] = [0, 0]
        for (const point of points) {
          const { u, v, z } = project(lens, point)
          expect(z).toBeGreaterThan(0)
          across = Math.max(across, Math.abs(u) / 0.5)
          down = Math.max(down, Math.abs(v) / lens.halfHeight)
        }
        const free = 1 - 2 * margin
        expect(across).toBeLessThanOrEqual(free + 1e-6)
        expect(down).toBeLessThanOrEqual(free + 1e-6)
        // As large as can be: one way it fills what is left, unless the lens stands against it.
        const against = Math.min(...points.map((point) => project(lens, point).z)) < 0.021
        if (!against) expect(Math.max(across, down)).toBeGreaterThan(free - 1e-6)
        expect(framed.pose.focalLengthMm === from.focalLengthMm || by === 'lens').toBe(true)
      }),
      { numRuns: 300 },
    )
  })

  it('squares up to a turned level: it is seen as the rectangle that it is', () => {
    const level = { x: 1, y: 0.2, depth: 2, scale: 1.5, panDegrees: 40, tiltDegrees: -10, rollDegrees: 5 }
    const points = cornersIn(level, { left: -0.3, bottom: -0.4, right: 0.5, top: 0.2 })
    const framed = frameThis(points, level, REST, OPTICS, 0.1, 'truck')
    const seen = points.map((point) => project(lensOf((framed as { pose: CameraPose }).pose, OPTICS), point))
    expect(seen[0]!.v).toBeCloseTo(seen[1]!.v, 9)
    expect(seen[1]!.u).toBeCloseTo(seen[2]!.u, 9)
    expect(seen[0]!.u).toBeCloseTo(-seen[1]!.u, 9)
  })

  it('says what it can’t do', () => {
    expect(frameThis([], REST, REST, OPTICS, 0.1, 'truck')).toEqual({ ok: false, code: 'nothing-to-frame' })
    expect(frameThis([{ x: 0, y: 0, depth: 0 }, { x: 1e-5, y: 0, depth: 0 }], REST, REST, OPTICS, 0.1, 'lens')).toMatchObject({ ok: false, code: 'no-such-lens' })
  })
})

describe('counter-zoom', () => {
  it('keeps the plane’s size whatever the distance, and comes back the same way', () => {
    fc.assert(
      fc.property(poses, fine(-3, -0.6), fine(-0.4, 5), (from, depth, plane) => {
        const to = counterZoom(from, { ...from, depth }, plane)!
        const size = (pose: CameraPose) => pose.focalLengthMm / (plane - pose.depth)
        expect(size(to)).toBeCloseTo(size(from), 9)
        const back = counterTruck(to, from.focalLengthMm, plane)!
        expect(back.depth).toBeCloseTo(from.depth, 9)
      }),
    )
  })

  it('goes no further than there are lenses, and not through the plane', () => {
    const far = counterZoom(REST, { ...REST, depth: -500 }, 0)!
    expect(far.focalLengthMm).toBe(FOCAL_LENGTH_RANGE_MM.max)
    expect(far.depth).toBeCloseTo((REST.depth * FOCAL_LENGTH_RANGE_MM.max) / 50, 9)
    expect(counterZoom(REST, { ...REST, depth: 1 }, 0)).toBeNull()
    expect(counterTruck(REST, 85, -2)).toBeNull()
  })
})
