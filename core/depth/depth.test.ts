import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { lensOf, project, type CameraPose } from '../camera'
import { levelPlane } from './levelPlane'
import { inDrawOrder, keepPicture, pointOnPlane, spreadDepths } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })

describe('keep the picture', () => {
  it('gives the worked example', () => {
    const kept = keepPicture({ x: 0.1, y: 0, depth: -50 / 36 }, { x: 0.4, y: 0.1, depth: 0, scale: 1 }, 2.2)
    expect(kept.ok).toBe(true)
    if (!kept.ok) return
    expect([kept.x, kept.y, kept.depth, kept.scale].map((v) => Number(v.toFixed(6)))).toEqual([0.8752, 0.2584, 2.2, 2.584])
  })

  it('changes nothing that any camera sees, however it and the level are turned', () => {
    const pose = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(-3, -1), panDegrees: number(-30, 30), tiltDegrees: number(-30, 30), rollDegrees: number(-180, 180), focalLengthMm: number(15, 200) })
    const level = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(0, 4), scale: number(0.2, 5), panDegrees: number(-60, 60), tiltDegrees: number(-60, 60), rollDegrees: number(-180, 180) })
    fc.assert(
      fc.property(pose, level, number(0, 10), number(-0.4, 0.4), number(-0.4, 0.4), (camera: CameraPose, placed, depth, x, y) => {
        const kept = keepPicture(camera, placed, depth)
        if (!kept.ok) throw new Error(kept.refusal.code)
        const lens = lensOf(camera, OPTICS)
        const before = project(lens, pointOnPlane(levelPlane(placed), { x, y }))
        fc.pre(before.z > 0.05)
        const after = project(lens, pointOnPlane(levelPlane({ ...placed, ...kept }), { x, y }))
        expect(after.u).toBeCloseTo(before.u, 6)
        expect(after.v).toBeCloseTo(before.v, 6)
      }),
    )
  })

  it('is refused, with the reason, at or behind the lens', () => {
    const camera = { x: 0, y: 0, depth: -1 }
    expect(keepPicture(camera, { x: 0, y: 0, depth: 0, scale: 1 }, -1)).toEqual({ ok: false, refusal: { code: 'depth-behind-lens', depth: -1, lensDepth: -1 } })
    expect(keepPicture(camera, { x: 0, y: 0, depth: -1.5, scale: 1 }, 2)).toEqual({ ok: false, refusal: { code: 'level-behind-lens', depth: -1.5, lensDepth: -1 } })
    expect(keepPicture(camera, { x: 0, y: 0, depth: 0, scale: 1 }, NaN).ok).toBe(false)
  })
})

describe('spread', () => {
  it('goes by even steps or by equal ratio of distance, both ends exact', () => {
    expect(spreadDepths(5, 0, 4, -1, 'even')).toEqual([0, 1, 2, 3, 4])
    // Distances 1, 2, 4, 8 from a lens at −1.
    expect(spreadDepths(4, 0, 7, -1, 'ratio')!.map((d) => Number(d.toFixed(9)))).toEqual([0, 1, 3, 7])
  })

  it('puts a single level at the near end', () => {
    expect(spreadDepths(1, 0.5, 4, -1, 'even')).toEqual([0.5])
  })

  it('is refused where an end is behind the lens or the ends are the wrong way round', () => {
    expect(spreadDepths(3, -2, 4, -1, 'even')).toBeNull()
    expect(spreadDepths(3, 4, 0, -1, 'even')).toBeNull()
    expect(spreadDepths(3, 0, Infinity, -1, 'ratio')).toBeNull()
  })
})

describe('draw order', () => {
  it('is far to near, and the rack decides between equals', () => {
    const levels = [{ z: 1, rackIndex: 0 }, { z: 2, rackIndex: 1 }, { z: 1, rackIndex: 2 }, { z: 3, rackIndex: 3 }]
    expect(inDrawOrder(levels).map((level) => level.rackIndex)).toEqual([3, 1, 2, 0])
  })
})
