import { EMPTY_TAKE, orderOfNumber } from '@rubato/core/document'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyBurnIn, burnText, wrapped } from './burnIn'

const panel = (id: string, order: number, dialogue: string) => ({ id, order: orderOfNumber(order), lengthFrames: 10, lengthLocked: false, action: '', dialogue, notes: '' })
const take = { ...EMPTY_TAKE, panels: { a: panel('a', 1, ''), b: panel('b', 2, 'TILDA: It’s going out! ') } }
const ALL = { timecode: true, label: true, panel: true, captions: true }
const NONE = { timecode: false, label: false, panel: false, captions: false }

describe('what is written into the picture', () => {
  it('is what was chosen, of the shot and panel that are on', () => {
    expect(burnText(ALL, '00:00:01:02', '030', take, 12)).toEqual({ left: '030  panel 2', right: '00:00:01:02', caption: 'TILDA: It’s going out!' })
    expect(burnText({ ...NONE, panel: true }, '00:00:01:02', '030', take, 3)).toEqual({ left: 'panel 1', right: '', caption: '' })
    expect(burnText(ALL, '', '030', EMPTY_TAKE, 0).left).toBe('030')
    expect([anyBurnIn(NONE), anyBurnIn({ ...NONE, captions: true })]).toEqual([false, true])
  })

  it('is broken into lines that fit, and loses no word', () => {
    const widthOf = (line: string) => line.length
    expect(wrapped('Mind the third plank, it floats.', 12, widthOf)).toEqual(['Mind the', 'third plank,', 'it floats.'])
    expect(wrapped('one\ntwo', 12, widthOf)).toEqual(['one', 'two'])
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1, maxLength: 30, unit: fc.constantFrom('a', 'b', 'ß', '油') }), { maxLength: 12 }), fc.integer({ min: 1, max: 20 }), (words, most) => {
        const lines = wrapped(words.join(' '), most, widthOf)
        expect(lines.join('').replaceAll(' ', '')).toBe(words.join(''))
        for (const line of lines) expect(line.length).toBeLessThanOrEqual(Math.max(1, most))
      }),
    )
  })
})
