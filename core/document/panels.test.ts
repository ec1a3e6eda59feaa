import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anchorOfFrame, EMPTY_TAKE, firstCamera, frameOfAnchor, panelAtFrame, placedPanels, takeLengthFrames, type Camera, type TakeBody, orderOfNumber } from './index'

const camera = (id: string, order: number): Camera => ({ id, order: orderOfNumber(order), letter: id.toUpperCase(), locked: false })
const takeOf = (lengths: readonly number[]): TakeBody => ({
  ...EMPTY_TAKE,
  panels: Object.fromEntries(lengths.map((lengthFrames, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i + 1), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
})
const anyLengths = fc.array(fc.integer({ min: 1, max: 400 }), { minLength: 1, maxLength: 30 })

describe('the camera that a take is seen through', () => {
  it('is the first in order, whatever order they are kept in', () => {
    expect(firstCamera({ cameras: { b: camera('b', 2), a: camera('a', 1) } })?.id).toBe('a')
    expect(firstCamera({ cameras: {} })).toBeNull()
  })

  it('of two that stand at one place is always the same', () => {
    expect(firstCamera({ cameras: { b: camera('b', 1), a: camera('a', 1) } })?.id).toBe('a')
    expect(firstCamera({ cameras: { a: camera('a', 1), b: camera('b', 1) } })?.id).toBe('a')
  })
})

describe('panels in their shot’s time', () => {
  it('follow one another without a gap, and end where the take does', () => {
    fc.assert(
      fc.property(anyLengths, (lengths) => {
        const take = takeOf(lengths)
        const placed = placedPanels(take)
        placed.forEach(({ panel, startFrame }, i) => expect(startFrame + panel.lengthFrames).toBe(placed[i + 1]?.startFrame ?? takeLengthFrames(take)))
      }),
    )
  })

  it('are found by any frame, also before the first and after the last', () => {
    fc.assert(
      fc.property(anyLengths, fc.integer({ min: -50, max: 15_000 }), (lengths, frame) => {
        const take = takeOf(lengths)
        const found = panelAtFrame(take, frame)!
        const held = Math.min(takeLengthFrames(take) - 1, Math.max(0, frame))
        expect(found.startFrame).toBeLessThanOrEqual(held)
        expect(found.startFrame + found.panel.lengthFrames).toBeGreaterThan(held)
      }),
    )
    expect(panelAtFrame(EMPTY_TAKE, 0)).toBeNull()
  })

  it('keep a frame’s place: an anchor made of a frame is that frame again', () => {
    fc.assert(
      fc.property(anyLengths, fc.nat(12_000), (lengths, frame) => {
        const take = takeOf(lengths)
        const held = Math.min(takeLengthFrames(take) - 1, frame)
        expect(frameOfAnchor(take, anchorOfFrame(take, held)!)).toBe(held)
      }),
    )
    expect(anchorOfFrame(EMPTY_TAKE, 3)).toBeNull()
  })
})
