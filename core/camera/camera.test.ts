import { describe, expect, it } from 'vitest'
import { basisOf, inFrame, lensOf, lensRatio, meetPlane, project, screenMotion, slidePose, truckPose, turnPose, unproject, untouchedPose, zoomPose, fieldAngleDegrees, type CameraPose, type Optics } from './index'
import fc from 'fast-check'

const OPTICS: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const POSED: CameraPose = { x: 0.2, y: 0.05, depth: -1.1, panDegrees: 12, tiltDegrees: -4, rollDegrees: 7, focalLengthMm: 35 }

const anyPose = fc.record({
  x: fc.double({ min: -5, max: 5, noNaN: true }),
  y: fc.double({ min: -5, max: 5, noNaN: true }),
  depth: fc.double({ min: -5, max: 5, noNaN: true }),
  panDegrees: fc.double({ min: -180, max: 180, noNaN: true }),
  tiltDegrees: fc.double({ min: -80, max: 80, noNaN: true }),
  rollDegrees: fc.double({ min: -180, max: 180, noNaN: true }),
  focalLengthMm: fc.double({ min: 12, max: 200, noNaN: true }),
})

describe('the untouched camera', () => {
  it('stands one lens ratio before the picture plane', () => {
    expect(lensRatio(50, 36)).toBeCloseTo(1.388889, 6)
    expect(REST.depth).toBeCloseTo(-1.388889, 6)
  })

  it('shows art at depth 0 at its own size', () => {
    const seen = project(lensOf(REST, OPTICS), { x: 0.25, y: -0.1, depth: 0 })
    expect(seen.u).toBeCloseTo(0.25, 12)
    expect(seen.v).toBeCloseTo(-0.1, 12)
    expect(seen.z).toBeCloseTo(1.388889, 6)
  })

  it('shows art at depth 1.5 smaller', () => {
    const seen = project(lensOf(REST, OPTICS), { x: 0.25, y: -0.1, depth: 1.5 })
    expect(seen.u).toBeCloseTo(0.120192, 6)
    expect(seen.v).toBeCloseTo(-0.048077, 6)
    expect(seen.z).toBeCloseTo(2.888889, 6)
  })
})

describe('a turned camera', () => {
  it('projects the worked example', () => {
    const seen = project(lensOf(POSED, OPTICS), { x: 0.6, y: 0.1, depth: 2.2 })
    expect(seen.u).toBeCloseTo(-0.096317, 6)
    expect(seen.v).toBeCloseTo(0.071548, 6)
    expect(seen.z).toBeCloseTo(3.299498, 6)
  })

  it('looks right when panned, up when tilted, and leans clockwise when rolled', () => {
    expect(basisOf({ panDegrees: 90, tiltDegrees: 0, rollDegrees: 0 }).forward.x).toBeCloseTo(1)
    expect(basisOf({ panDegrees: 0, tiltDegrees: 90, rollDegrees: 0 }).forward.y).toBeCloseTo(1)
    const rolled = project(lensOf({ ...REST, rollDegrees: 90 }, OPTICS), { x: 0, y: 0.1, depth: 0 })
    // The camera leans clockwise, so what was above goes to its left.
    expect(rolled.u).toBeCloseTo(-0.1)
    expect(rolled.v).toBeCloseTo(0)
  })

  it('has a basis of three right angles, whatever the turn', () => {
    fc.assert(
      fc.property(anyPose, (pose) => {
        const { forward: f, right: r, up: u } = basisOf(pose)
        for (const [a, b, want] of [[f, f, 1], [r, r, 1], [u, u, 1], [f, r, 0], [f, u, 0], [r, u, 0]] as const) {
          expect(a.x * b.x + a.y * b.y + a.depth * b.depth).toBeCloseTo(want, 9)
        }
      }),
    )
  })

  it('carries any place of the picture back to the point that it came from', () => {
    fc.assert(
      fc.property(anyPose, fc.double({ min: -0.5, max: 0.5, noNaN: true }), fc.double({ min: -0.3, max: 0.3, noNaN: true }), fc.double({ min: 0.1, max: 20, noNaN: true }), (pose, u, v, z) => {
        const lens = lensOf(pose, OPTICS)
        const seen = project(lens, unproject(lens, u, v, z))
        expect(seen.u).toBeCloseTo(u, 8)
        expect(seen.v).toBeCloseTo(v, 8)
        expect(seen.z).toBeCloseTo(z, 8)
      }),
    )
  })

  it('meets a turned plane where the plane is seen', () => {
    const lens = lensOf(POSED, OPTICS)
    const { right, up } = basisOf({ panDegrees: 30, tiltDegrees: 10, rollDegrees: -20 })
    const plane = { origin: { x: 0.4, y: 0.1, depth: 1 }, axisX: { x: right.x * 2, y: right.y * 2, depth: right.depth * 2 }, axisY: { x: up.x * 2, y: up.y * 2, depth: up.depth * 2 } }
    const point = { x: plane.origin.x + 0.3 * plane.axisX.x - 0.2 * plane.axisY.x, y: plane.origin.y + 0.3 * plane.axisX.y - 0.2 * plane.axisY.y, depth: plane.origin.depth + 0.3 * plane.axisX.depth - 0.2 * plane.axisY.depth }
    const seen = project(lens, point)
    const met = meetPlane(lens, seen.u, seen.v, plane)!
    expect(met.x).toBeCloseTo(0.3, 9)
    expect(met.y).toBeCloseTo(-0.2, 9)
  })

  it('meets no plane that is behind it or edge-on', () => {
    const lens = lensOf(REST, OPTICS)
    expect(meetPlane(lens, 0, 0, { origin: { x: 0, y: 0, depth: -3 }, axisX: { x: 1, y: 0, depth: 0 }, axisY: { x: 0, y: 1, depth: 0 } })).toBeNull()
    expect(meetPlane(lens, 0, 0, { origin: { x: 0, y: 0, depth: 1 }, axisX: { x: 0, y: 0, depth: 1 }, axisY: { x: 0, y: 1, depth: 0 } })).toBeNull()
  })
})

describe('the frame', () => {
  it('ends at half a frame width sideways and half that over the aspect upwards', () => {
    const lens = lensOf(REST, OPTICS)
    expect(inFrame(lens, { u: 0.5, v: 0.28125, z: 1 })).toBe(true)
    expect(inFrame(lens, { u: 0.501, v: 0, z: 1 })).toBe(false)
    expect(inFrame(lens, { u: 0, v: 0.2813, z: 1 })).toBe(false)
    expect(inFrame(lens, { u: 0, v: 0, z: 0.009 })).toBe(false)
  })

  it('has the field angle of its lens', () => {
    expect(fieldAngleDegrees(50, 36)).toBeCloseTo(39.5978, 4)
  })
})

describe('dragging the camera', () => {
  it('keeps the point under the pointer when it slides', () => {
    const point = { x: 0.1, y: 0.05, depth: 0 }
    const before = project(lensOf(POSED, OPTICS), point)
    const after = project(lensOf(slidePose(POSED, OPTICS, 0.13, -0.07, before.z), OPTICS), point)
    expect(after.u - before.u).toBeCloseTo(0.13, 9)
    expect(after.v - before.v).toBeCloseTo(-0.07, 9)
  })

  it('brings what is in the centre along when it turns', () => {
    const moved = turnPose(REST, OPTICS, 0.1, 0)
    const seen = project(lensOf(moved, OPTICS), { x: 0, y: 0, depth: 0 })
    expect(seen.u).toBeCloseTo(0.1, 9)
  })

  it('makes art grow by the factor asked when it trucks, and stops before it', () => {
    const moved = truckPose(REST, -REST.depth, 2)
    expect(moved.depth).toBeCloseTo(REST.depth / 2, 12)
    expect(truckPose(REST, -REST.depth, 1e9).depth).toBeCloseTo(-0.02, 12)
  })

  it('zooms the lens and nothing else, within what lenses there are', () => {
    expect(zoomPose(REST, 1.2)).toEqual({ ...REST, focalLengthMm: 60 })
    expect(zoomPose(REST, 1000).focalLengthMm).toBe(2000)
    expect(zoomPose(REST, 0.0001).focalLengthMm).toBe(4)
  })
})

describe('motion on screen', () => {
  it('is nothing between equal poses', () => {
    expect(screenMotion(POSED, POSED, OPTICS)).toBeCloseTo(0, 12)
  })

  it('is the distance slid, for a camera that slides before the picture plane', () => {
    expect(screenMotion(REST, { ...REST, x: 0.02 }, OPTICS)).toBeCloseTo(0.02, 12)
  })

  it('sees zooms and rolls as well', () => {
    expect(screenMotion(REST, { ...REST, focalLengthMm: 55 }, OPTICS)).toBeGreaterThan(0.02)
    expect(screenMotion(REST, { ...REST, rollDegrees: 5 }, OPTICS)).toBeGreaterThan(0.02)
  })
})
