import { lensOf, project, untouchedPose, type CameraPose } from '@rubato/core/camera'
import { describe, expect, it } from 'vitest'
import { axisAt, fitTable, frameOnTable, onTable, pxPerFwAt, tablePx, truckedFrame, zoomedTable } from './tableScale'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const lens = lensOf(REST, OPTICS)
const table = fitTable([{ u: -1, v: 0 }, { u: 1.5, v: 0.4 }], OPTICS.aspect, 400, 300)

describe('the table', () => {
  it('shows what it was fitted to, and the untouched frame as itself', () => {
    for (const [u, v] of [[-1, 0], [1.5, 0.4], [-0.5, -0.28]] as const) {
      const at = tablePx(table, OPTICS.aspect, u, v)
      expect(at.x).toBeGreaterThanOrEqual(0)
      expect(at.x).toBeLessThanOrEqual(400)
      expect(at.y).toBeGreaterThanOrEqual(0)
      expect(at.y).toBeLessThanOrEqual(300)
    }
    const frame = frameOnTable(table, lens, REST, OPTICS, 0)!
    expect(frame.corners[0]!.x).toBeCloseTo(table.frameLeft, 9)
    expect(frame.corners[2]!.x).toBeCloseTo(table.frameLeft + table.frameWidth, 9)
    expect(frame.corners[2]!.y).toBeCloseTo(table.frameTop, 9)
  })

  it('shows how much of a farther plane a frame sees', () => {
    const frame = frameOnTable(table, lens, REST, OPTICS, 3)!
    // The untouched camera sees just its frame at every depth; one that slid sees more of what is near.
    expect(frame.corners[1]!.x - frame.corners[0]!.x).toBeCloseTo(table.frameWidth, 6)
    const slid = { ...REST, x: 0.5 }
    const [near, far] = [frameOnTable(table, lens, slid, OPTICS, 0)!, frameOnTable(table, lens, slid, OPTICS, 3)!]
    expect(near.centre.x - frame.centre.x).toBeCloseTo(0.5 * pxPerFwAt(table, lens, 0), 6)
    expect(far.centre.x - frame.centre.x).toBeCloseTo(0.5 * pxPerFwAt(table, lens, 3), 6)
    expect(far.centre.x).toBeLessThan(near.centre.x)
  })

  it('has no frame of a camera that looks away from the plane', () => {
    expect(frameOnTable(table, lens, { ...REST, panDegrees: 88 }, OPTICS, 0)).toBeNull()
    expect(frameOnTable(table, lens, REST, OPTICS, -2)).toBeNull()
    expect(onTable(table, lens, { x: 0, y: 0, depth: REST.depth - 1 })).toBeNull()
  })

  it('trucks a frame about its centre, at any angle', () => {
    const pose: CameraPose = { ...REST, x: 0.2, panDegrees: 12, tiltDegrees: -5, rollDegrees: 20 }
    const target = axisAt(pose, OPTICS, 1)
    const nearer = truckedFrame(pose, OPTICS, 1, 0.5)
    const seen = project(lensOf(nearer, OPTICS), target)
    expect([seen.u, seen.v].map((value) => value + 0)).toEqual([expect.closeTo(0, 9), expect.closeTo(0, 9)])
    expect(seen.z).toBeCloseTo(project(lensOf(pose, OPTICS), target).z / 2, 9)
  })

  it('keeps what is under the pointer there while it zooms', () => {
    const zoomed = zoomedTable(table, 120, 80, 2)
    const u = (120 - table.frameLeft) / table.frameWidth
    expect(zoomed.frameLeft + u * zoomed.frameWidth).toBeCloseTo(120, 9)
  })
})
