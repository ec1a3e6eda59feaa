import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { project, untouchedPose, type CameraPose } from '../camera'
import { pointOnPlane } from '../depth'
import { cellIdOf, EMPTY_TAKE, newLevel, orderOfNumber, type Level } from '../document'
import { createTakeStage } from '../stage'
import { laidInFrame, MOST_LAYER_SIDE_PX, ownerOfLevel, placedBack } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const [W, H] = [1280, 720]
const OF = { owner: { kind: 'take', id: 't' }, levelId: 'sky', drawingId: 'd' } as const

function placedOf(fields: Partial<Level>, pose: Partial<CameraPose>) {
  const panel = { id: 'p', order: orderOfNumber(0), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }
  const level = { ...newLevel({ id: 'sky', name: 'Sky' }), order: orderOfNumber(0), ...fields } as Level
  const cell = { id: cellIdOf('sky', 'p'), levelId: 'sky', panelId: 'p', drawingId: 'd' }
  const frame = createTakeStage({ ...EMPTY_TAKE, panels: { p: panel }, levels: { sky: level }, cells: { [cell.id]: cell } }, OPTICS).through(0, null, { ...untouchedPose(OPTICS), ...pose })
  return { frame, placed: frame.levels[0]! }
}
const ART = { left: -0.4, bottom: -0.1, right: 0.7, top: 0.25 }

describe('a level as a layer of the picture', () => {
  it('at rest lies as it is drawn, a px a px', () => {
    const { frame, placed } = placedOf({}, {})
    const laid = laidInFrame(frame, placed, OF, ART, W, H)!
    expect([laid.pxPerFw, laid.way.left, laid.way.top, laid.way.width]).toEqual([expect.closeTo(1280, 6), expect.closeTo(-0.5, 9), expect.closeTo(9 / 32, 9), expect.closeTo(1, 9)])
    // 0.1 fw from the left edge, 0.03125 fw from the top; grown to whole px.
    expect(laid.at).toEqual({ x: 128, y: 40, width: 1408, height: 448 })
  })

  it('comes back to where it was from any depth, size and distance of the camera, and is where it is seen', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.5, max: 6, noNaN: true }), fc.double({ min: 0.2, max: 3, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -0.4, max: 0.4, noNaN: true }), (depth, scale, x, near) => {
        const { frame, placed } = placedOf({ depth, scale, x, y: 0.1 } as Partial<Level>, { x: 0.2, y: -0.1, depth: untouchedPose(OPTICS).depth + near })
        const laid = laidInFrame(frame, placed, OF, ART, W, H)
        if (laid === null) return
        const back = placedBack(laid.way, { x: 0, y: 0, width: W, height: H }, laid.at)
        // The art’s own corner, by the picture’s, and by the lens.
        const px = 1 / laid.pxPerFw
        expect(back.x - back.widthFw / 2).toBeLessThanOrEqual(ART.left + 1e-9)
        expect(back.x - back.widthFw / 2).toBeGreaterThan(ART.left - 2 * px)
        const corner = project(frame.lens, pointOnPlane(placed.plane, { x: back.x - back.widthFw / 2, y: back.y }))
        expect((corner.u + 0.5) * W).toBeCloseTo(laid.at.x, 4)
      }),
    )
  })

  it('that is turned, mirrored or too large is none', () => {
    for (const [fields, pose] of [[{ panDegrees: 20 }, {}], [{ rollDegrees: 5 }, {}], [{}, { rollDegrees: 3 }], [{}, { panDegrees: 10 }]] as [Partial<Level>, Partial<CameraPose>][]) {
      const { frame, placed } = placedOf(fields, pose)
      expect(laidInFrame(frame, placed, OF, ART, W, H)).toBeNull()
    }
    const { frame, placed } = placedOf({}, {})
    expect(laidInFrame(frame, placed, OF, { ...ART, right: ART.left + (MOST_LAYER_SIDE_PX + 2) / W }, W, H)).toBeNull()
    expect(laidInFrame(frame, placed, OF, { ...ART, right: ART.left + (MOST_LAYER_SIDE_PX - 2) / W }, W, H)).not.toBeNull()
  })

  it('of a set is the set’s own piece', () => {
    const take = { ...EMPTY_TAKE, levels: { quay: { ...newLevel({ id: 'quay', name: 'Quay' }), kind: 'set', setId: 's1', order: 'a1' } as unknown as Level } }
    expect(ownerOfLevel(take, 't', 'quay~planks')).toEqual({ owner: { kind: 'set', id: 's1' }, levelId: 'planks' })
    expect(ownerOfLevel(take, 't', 'sky')).toEqual({ owner: { kind: 'take', id: 't' }, levelId: 'sky' })
    expect(ownerOfLevel(take, 't', 'gone~planks')).toBeNull()
  })
})
