import { describe, expect, it } from 'vitest'
import { shownOver, takeLengthFrames, type TakeBody } from '../document'
import { editLevel, exposeFrames, exposeNew } from '../edits'
import { done, sampleTake, T } from '../edits/testing'
import { readExposures, writeExposures } from '.'

const take = (): TakeBody => {
  const start = sampleTake([6, 4])
  const named = done(start, editLevel(start, T, 'tilda', { name: 'Tilda, "running"' }))
  return done(named, exposeNew(named, T, 'tilda', 3, 'new', 'B'))
}
const code = (text: string) => {
  const read = readExposures(take(), text)
  return read.ok ? 'ok' : read.refusal
}

describe('exposures as CSV', () => {
  it('are a row each, and read again they are the same', () => {
    const text = writeExposures(take())
    expect(text.split('\r\n')).toEqual(['frame,level,drawing', '0,"Tilda, ""running""",1', '3,"Tilda, ""running""",B', '6,"Tilda, ""running""",2', '0,sky,1', ''])
    const read = readExposures(take(), text)
    if (!read.ok) throw new Error(read.refusal.code)
    for (const [id, shown] of read.shown) {
      expect(shown).toEqual(shownOver(take(), id, 0, takeLengthFrames(take())))
      expect(done(take(), exposeFrames(take(), T, id, 0, shown)).cells).toEqual(take().cells)
    }
  })
  it('show nothing where no drawing is named, and before a level’s first row; other levels are left alone', () => {
    const read = readExposures(take(), '\uFEFFFrame,Level,Drawing\n2,sky,1\n\n5,sky,\n')
    expect(read.ok && [...read.shown]).toEqual([['sky', [null, null, 'd-sky', 'd-sky', 'd-sky', null, null, null, null, null]]])
  })
  it('with a wrong row are refused by that row, whole', () => {
    expect(code('')).toEqual({ code: 'no-header', found: '' })
    expect(code('a;b\n')).toEqual({ code: 'no-header', found: 'a;b' })
    expect(code('frame,level,drawing\n')).toEqual({ code: 'no-rows' })
    expect(code('frame,level,drawing\n0,sky,1\n1,sea,1')).toEqual({ code: 'no-level', row: 3, level: 'sea' })
    expect(code('frame,level,drawing\n\n0,sky,7')).toEqual({ code: 'no-drawing', row: 3, level: 'sky', drawing: '7' })
    for (const frame of ['-1', '10', 'x', '1.5', '']) expect(code(`frame,level,drawing\n${frame},sky,1`)).toEqual({ code: 'no-frame', row: 2, found: frame, last: 9 })
    expect(code('frame,level,drawing\n0,sky,1\n0,sky,')).toEqual({ code: 'twice', row: 3, frame: 0, level: 'sky' })
    expect(code('frame,level,drawing\n0,sky,1,4')).toEqual({ code: 'broken-row', row: 2, cells: 4 })
    const two = done(take(), editLevel(take(), T, 'tilda', { name: 'sky' }))
    expect(readExposures(two, 'frame,level,drawing\n0,sky,1')).toEqual({ ok: false, refusal: { code: 'many-levels', row: 2, level: 'sky' } })
  })
})
