import { untouchedPose } from '@rubato/core/camera'
import { CUSHIONED_MOVE } from '@rubato/core/moves'
import { describe, expect, it } from 'vitest'
import { levelMoveName, moveName } from './moves'

const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })

describe('what a level does', () => {
  const at = (x: number, size = 1) => ({ place: { x, y: 0, depth: 0 }, turn: { panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }, size, opacity: 1 })
  it('is told plainly, and out of the picture it goes out', () => {
    expect(levelMoveName(at(0), at(1.2, 0.5))).toBe('goes right, 1.2 fw, shrinks to 0.5 ×')
    expect(levelMoveName(at(0), at(1.2), true)).toBe('goes out right, 1.2 fw')
    expect(levelMoveName(at(0), at(0), true)).toBe('stands still')
  })
})

describe('a move’s name', () => {
  it('says what it does in the trade’s words', () => {
    expect(moveName(REST, { ...REST, depth: REST.depth * 0.68, panDegrees: 4 }, CUSHIONED_MOVE)).toBe('truck in 32 %, pan right')
    expect(moveName(REST, { ...REST, x: -0.2, y: 0.1, focalLengthMm: 75 }, CUSHIONED_MOVE)).toBe('zoom in 50 %, travel left, pedestal up')
    expect(moveName(REST, { ...REST, tiltDegrees: -3, rollDegrees: -5 }, CUSHIONED_MOVE)).toBe('tilt down, roll anticlockwise')
  })

  it('calls no change a hold, and a jump a cut', () => {
    expect(moveName(REST, REST, CUSHIONED_MOVE)).toBe('hold')
    expect(moveName(REST, { ...REST, x: 1 }, { ...CUSHIONED_MOVE, timing: { kind: 'hold' } })).toBe('cut: travel right')
  })

  it('of an arc tells its angle and leaves out what makes it', () => {
    const bent = { ...CUSHIONED_MOVE, path: { kind: 'bent' as const, leave: { x: 0.1, y: 0, depth: 0 }, arrive: { x: 0, y: 0, depth: -0.1 } } }
    expect(moveName(REST, { ...REST, x: 0.5, panDegrees: -30, tiltDegrees: 2 }, bent)).toBe('arc right 30°, tilt up')
  })
})
