import { EMPTY_TAKE, orderOfNumber } from '@rubato/core/document'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { NO_BURN_IN } from '#shared/renders'
import { anyBurnIn, burnText, wrapped } from './burnIn'

const panel = (id: string, order: number, dialogue: string) => ({ id, order: orderOfNumber(order), lengthFrames: 10, lengthLocked: false, action: '', dialogue, notes: '' })
const take = { ...EMPTY_TAKE, panels: { a: panel('a', 1, ''), b: panel('b', 2, 'TILDA: It’s going out! ') } }
const NONE = NO_BURN_IN
const ALL = { ...NONE, timecode: true, label: true, panel: true, take: true, version: true, date: true, captions: true, text: ' Not for air ' }
const facts = { timecode: '00:00:01:02', label: '030', take: 'B', said: { version: '', date: '2026-11-29', who: '' } }

describe('what is written into the picture', () => {
  it('is what was chosen, of the shot and panel that are on', () => {
    expect(burnText(ALL, facts, take, 12)).toEqual({ timecode: '00:00:01:02', label: '030', panel: 'panel 2', take: 'take B', date: '2026-11-29', text: 'Not for air', captions: 'TILDA: It’s going out!' })
    expect(burnText({ ...NONE, panel: true }, facts, take, 3)).toEqual({ panel: 'panel 1' })
    expect(burnText({ ...ALL, text: ' ' }, { ...facts, timecode: '' }, EMPTY_TAKE, 0)).toEqual({ label: '030', take: 'take B', date: '2026-11-29' })
    expect([anyBurnIn(NONE), anyBurnIn({ ...NONE, captions: true }), anyBurnIn({ ...NONE, text: 'x' }), anyBurnIn({ ...NONE, text: ' ' })]).toEqual([false, true, true, false])
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
