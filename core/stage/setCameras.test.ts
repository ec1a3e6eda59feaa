import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf } from '../camera'
import { cellAt, EMPTY_SET, newLevel, SET_SHOWN, unfolded, type Piece, type SetBody, type SetLevel, type TakeBody } from '../document'
import { OPTICS, REST, sampleTake } from '../edits/testing'
import { createTakeStage, lensInSet, seenAt, takeOfSet } from './index'

const piece = (id: string, fields: Partial<Piece>): Piece => ({ ...newLevel({ id, name: id, order: `a${id.charCodeAt(0) % 60}` }), order: id === 'floor' ? 'a1' : 'a2', ...fields }) as Piece
const set: SetBody = {
  ...EMPTY_SET,
  pieces: { floor: piece('floor', { y: -0.3, tiltDegrees: -80, scale: 3, depth: 1 }), post: piece('post', { x: 0.4, y: 0.2, carrier: { kind: 'level', levelId: 'floor', turn: false, size: true } }) },
  art: { floor: { id: 'floor', drawingId: 'd-floor' }, post: { id: 'post', drawingId: 'd-post' } },
}
const angle = fc.integer({ min: -60, max: 60 })
const place = fc.integer({ min: -40, max: 40 }).map((tenth) => tenth / 10)

describe('a camera in a set', () => {
  it('sees of the set alone what it sees of it in its shot, however that stands there', () => {
    fc.assert(
      fc.property(fc.tuple(place, place, place, angle, angle, angle, fc.integer({ min: 2, max: 40 })), fc.tuple(place, place, angle, angle), ([x, y, depth, panDegrees, tiltDegrees, rollDegrees, size], [cameraX, cameraY, pan, roll]) => {
        const level: SetLevel = { ...newLevel({ id: 'on', name: 'on', kind: 'set', setId: 's', order: 'a5' }), x, y, depth, panDegrees, tiltDegrees, rollDegrees, scale: size / 10 }
        const base = sampleTake([24])
        const take: TakeBody = { ...base, levels: { ...base.levels, on: level }, cells: { ...base.cells, 'on.p1': cellAt('on', 'p1', 0, SET_SHOWN) } }
        const pose = { ...REST, x: cameraX, y: cameraY, panDegrees: pan, rollDegrees: roll }
        const stage = createTakeStage(unfolded(take, () => set), OPTICS)
        const lens = lensInSet(lensOf(pose, OPTICS), stage.seen(0, pose).standOf('on'))
        const alone = createTakeStage(takeOfSet('s', set), OPTICS).at(0).levels
        for (const placed of stage.through(0, 'a', pose).levels) {
          const own = alone.find(({ drawingId }) => drawingId !== null && drawingId === placed.drawingId)
          if (own === undefined) continue
          const [here, there] = [seenAt(stage.through(0, 'a', pose).lens, placed, { x: 0.3, y: -0.2 }), seenAt(lens, own, { x: 0.3, y: -0.2 })]
          // Nearer than that to the plane of the lens u and v have no end.
          if (Math.abs(here.z) < 0.05) continue
          expect(Math.abs(here.u - there.u)).toBeLessThan(1e-7)
          expect(Math.abs(here.v - there.v)).toBeLessThan(1e-7)
          expect(here.z).toBeCloseTo(there.z * (size / 10), 7)
        }
      }),
      { numRuns: 200 },
    )
  })
})
