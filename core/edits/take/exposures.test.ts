import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { drawingsWith, namedDrawings, shownOver, takeLengthFrames, type TakeBody } from '../../document'
import { applyToUnit, changeExposures, clearCell, deleteExposures, drawMark, drawingNamed, dropDrawing, duplicateLevel, duplicatePanels, editLevel, endRun, exposeFrames, exposeFrom, exposeNew, insertExposures, invert, onSteps, removeLevel, removePanel, renameDrawing, repeated, reversedRuns, runAt, setPanelLength, shiftExposures, shuffled, splitPanel, thereAndBack, type Made } from '../index'
import { done, newId, OPTICS, sampleTake, seen, T } from '../testing'

const over = (take: TakeBody, id = 'tilda') => shownOver(take, id, 0, takeLengthFrames(take))
/** Tilda's frames as letters: d-1 is 1, nothing is a point. */
const told = (take: TakeBody, id = 'tilda') => over(take, id).map((drawing) => drawing?.replace('d-', '') ?? '.').join('')
/** Shown frame by frame as letters say. */
const shows = (take: TakeBody, from: number, letters: string) => exposeFrames(take, T, 'tilda', from, [...letters].map((letter) => (letter === '.' ? null : `d-${letter}`)))
const short = () => sampleTake([6, 4, 6])
const stroke = (id: string) => ({ id, kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5, 1, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 })

describe('exposing frame by frame', () => {
  it('shows what is wanted there and leaves every other frame as it is, whatever was exposed; undone, it is as it was', () => {
    const letters = fc.string({ unit: fc.constantFrom('1', '2', '3', '4', '.'), minLength: 1, maxLength: 12 })
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 0, max: 15 }), letters), { minLength: 1, maxLength: 6 }), (writes) => {
        let take = short()
        for (const [from, text] of writes) {
          const before = told(take)
          const made = shows(take, from, text)
          const now = done(take, made)
          expect(told(now)).toBe((before.slice(0, from) + text + before.slice(from + text.length)).slice(0, before.length))
          expect(told(now, 'sky')).toBe(told(take, 'sky'))
          const back = applyToUnit(now, invert((made as Extract<Made, { ok: true }>).edits[0]!))
          expect(back.ok && back.value).toEqual(take)
          take = now
        }
      }),
    )
  })

  it('begins anywhere in a panel, and holds into the next', () => {
    const take = done(short(), exposeFrom(short(), T, 'tilda', 3, 'd-3'))
    expect(told(take)).toBe('1113332222222222')
    expect(Object.keys(take.cells).sort()).toEqual(['sky.p1', 'tilda.p1', 'tilda.p1.3', 'tilda.p2'])
    expect(told(done(take, exposeFrom(take, T, 'tilda', 6, null)))).toBe('111333..........')
  })

  it('is refused of a locked level, one that is not there, and past the end', () => {
    const locked = done(short(), editLevel(short(), T, 'tilda', { locked: true }))
    expect([shows(locked, 0, '1'), exposeFrom(short(), T, 'nobody', 0, null), shows(short(), 16, '1'), exposeNew(locked, T, 'tilda', 0, 'new')].map((made) => !made.ok && made.refusal.code)).toEqual(['level-locked', 'missing', 'nothing-after', 'level-locked'])
  })
})

describe('runs, orders, frames put in and taken out', () => {
  const base = () => done(short(), shows(short(), 0, '1122334444......'))
  it('a run ended elsewhere takes from the next, or pushes it', () => {
    expect(runAt(base(), 'tilda', 3)).toEqual({ from: 2, to: 4, drawingId: 'd-2' })
    expect(told(done(base(), endRun(base(), T, 'tilda', 2, 7, false)))).toBe('1122222444......')
    expect(told(done(base(), endRun(base(), T, 'tilda', 2, 3, false)))).toBe('1123334444......')
    expect(told(done(base(), endRun(base(), T, 'tilda', 2, 7, true)))).toBe('1122222334444...')
    expect(told(done(base(), endRun(base(), T, 'tilda', 2, 3, true)))).toBe('112334444.......')
    // Never shorter than a frame, never past the end.
    expect(told(done(base(), endRun(base(), T, 'tilda', 2, -5, false)))).toBe('1123334444......')
    expect(told(done(base(), endRun(base(), T, 'tilda', 8, 99, false)))).toBe('1122334444444444')
    const full = done(short(), shows(short(), 0, '1111222233334444'))
    expect(told(done(full, endRun(full, T, 'tilda', 15, 14, false)))).toBe('11112222333344..')
  })
  it('frames are put in, taken out and shifted on one level alone', () => {
    expect(told(done(base(), insertExposures(base(), T, 'tilda', 4, 3)))).toBe('1122222334444...')
    expect(told(done(base(), insertExposures(base(), T, 'tilda', 0, 2)))).toBe('111122334444....')
    expect(told(done(base(), deleteExposures(base(), T, 'tilda', { from: 2, to: 6 })))).toBe('114444..........')
    expect(told(done(base(), shiftExposures(base(), T, 'tilda', { from: 2, to: 4 }, 3)))).toBe('1111322444......')
    expect(told(done(base(), shiftExposures(base(), T, 'tilda', { from: 4, to: 6 }, -3)))).toBe('1332334444......')
  })
  it('repeat, reverse, there and back, on 2s: cells that say so, and nothing else', () => {
    const four = [...'1234']
    expect(repeated(four, 10).join('')).toBe('1234123412')
    expect(reversedRuns([...'11234']).join('')).toBe('43211')
    expect(thereAndBack([...'112233'], 14).join('')).toBe('11223322112233')
    expect(thereAndBack(['1'], 3).join('')).toBe('111')
    expect(onSteps([...'1112'], 2).join('')).toBe('1122')
    expect(onSteps(four, 3).join('')).toBe('111222333444')
    expect([repeated([], 4), thereAndBack([], 4), onSteps([], 2)]).toEqual([[], [], []])
    const twos = done(base(), changeExposures(base(), T, 'tilda', { from: 0, to: 8 }, (now) => repeated(onSteps(now, 1), 16)))
    expect(told(twos)).toBe('1234123412341234')
  })
  it('an order of chance is the same for the same seed, and never shows one twice running', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffff_ffff }), fc.integer({ min: 2, max: 6 }), fc.integer({ min: 1, max: 4 }), (seed, count, each) => {
        const drawings = Array.from({ length: count }, (_, i) => String(i))
        const order = shuffled(drawings, 60, each, seed)
        expect(order).toEqual(shuffled(drawings, 60, each, seed))
        expect(order).toHaveLength(60)
        for (let i = each; i < 60; i += each) expect(order[i]).not.toBe(order[i - 1])
      }),
    )
    expect(shuffled(['1', '2', '3'], 40, 1, 1)).not.toEqual(shuffled(['1', '2', '3'], 40, 1, 2))
    expect(shuffled(['1'], 4, 2, 9)).toEqual(['1', '1', '1', '1'])
    // All of them come.
    expect(new Set(shuffled([...'1234'], 80, 1, 3)).size).toBe(4)
  })
})

describe('the drawings of a level', () => {
  const names = (take: TakeBody, id = 'tilda') => namedDrawings(take, id).map(({ name, drawingId, kept }) => `${name} ${drawingId}${kept ? '' : ' counted'}`)
  it('are counted as they are first shown, and keep their names once the sheet is written in', () => {
    const take = short()
    expect(names(take)).toEqual(['1 d-1 counted', '2 d-2 counted'])
    const now = done(take, exposeNew(take, T, 'tilda', 3, 'new'))
    expect(names(now)).toEqual(['1 d-1', '2 d-2', '3 new'])
    expect(drawingNamed(now, 'tilda', ' 3 ')).toBe('new')
    // One that is not shown any more is the level’s still, and goes with the take.
    const cleared = done(now, changeExposures(now, T, 'tilda', { from: 0, to: 16 }, () => Array<null>(16).fill(null)))
    expect(names(cleared)).toEqual(['1 d-1', '2 d-2', '3 new'])
    expect(drawingsWith(cleared).sort()).toEqual(['d-1', 'd-2', 'd-sky', 'new'])
    const renamed = done(cleared, renameDrawing(cleared, T, 'tilda', 'new', 'B'))
    expect(names(renamed)).toEqual(['1 d-1', '2 d-2', 'B new'])
    expect(drawingNamed(renamed, 'tilda', 'b')).toBe('new')
    expect([renameDrawing(renamed, T, 'tilda', 'new', '2'), renameDrawing(renamed, T, 'tilda', 'new', ' '), renameDrawing(renamed, T, 'tilda', 'new', 'x'.repeat(13))].map((made) => !made.ok && made.refusal.code)).toEqual(Array(3).fill('drawing-name'))
    const dropped = done(now, dropDrawing(now, T, 'tilda', 'new'))
    expect([names(dropped), told(dropped)]).toEqual([['1 d-1', '2 d-2'], '1111112222222222'])
  })
  it('go along with copies of the level, and go with the level', () => {
    const take = done(short(), exposeNew(short(), T, 'tilda', 3, 'new'))
    const twice = done(take, duplicateLevel(take, T, 'tilda', 'twin', 'Twin', newId))
    expect(names(twice, 'twin')).toEqual(names(take))
    expect(told(twice, 'twin')).toBe(told(take))
    expect(done(twice, removeLevel(twice, T, 'twin', seen(twice, {})))).toEqual(take)
  })
  it('ink goes into what is shown at the frame: all exposures of a drawing are one', () => {
    let take = done(short(), exposeNew(short(), T, 'tilda', 2, 'mid'))
    take = done(take, exposeFrom(take, T, 'tilda', 8, 'mid'))
    const drawings = { 'd-1': { marks: [] }, 'd-2': { marks: [] }, mid: { marks: [] } }
    const draw = (body: TakeBody, panelId: string, offsetFrames: number) => {
      const made = drawMarkAt(body, drawings, panelId, offsetFrames)
      return made.ok ? made.edits.map(({ unit }) => `${unit.kind} ${unit.id}`) : made.refusal.code
    }
    expect(draw(take, 'p1', 0)).toEqual(['drawing d-1'])
    expect(draw(take, 'p1', 4)).toEqual(['drawing mid'])
    expect(draw(take, 'p2', 3)).toEqual(['drawing mid'])
    // What another level shows too becomes this level’s own, everywhere it shows it.
    const twice = done(take, duplicateLevel(take, T, 'tilda', 'twin', 'Twin', newId))
    const made = drawMarkAt(twice, drawings, 'p1', 4)
    expect(made.ok && made.edits.map(({ unit }) => unit.id)).toEqual([T, T, 'new'])
    const own = made.ok ? made.edits.reduce((body, edit) => (edit.unit.kind === 'take' ? done(body, { ok: true, edits: [edit] }) : body), twice) : twice
    expect([told(own), told(own, 'twin')]).toEqual([told(twice).replaceAll('mid', 'new'), told(twice, 'twin')])
    // Cleared, the panel holds again.
    expect(told(done(take, clearCell(take, T, 'tilda', 'p1')))).toBe(`......22${'mid'.repeat(8)}`)
  })
  const drawMarkAt = (take: TakeBody, drawings: Parameters<typeof drawMark>[2], panelId: string, offsetFrames: number) => drawMark(take, T, drawings, 'tilda', panelId, stroke('s'), 'new', false, offsetFrames)
})

describe('exposures and their panels', () => {
  const take = () => done(short(), shows(short(), 0, '1122334455667788'))
  it('are cut off where a panel gets shorter, hold where it grows, and what is held after it stays', () => {
    expect(told(done(take(), setPanelLength(take(), T, 'p1', 4)))).toBe('11224455667788')
    expect(told(done(take(), setPanelLength(take(), T, 'p1', 9)))).toBe('1122333334455667788')
    const held = done(short(), exposeFrames(short(), T, 'tilda', 0, ['d-1', 'd-1', 'd-1', 'd-5', 'd-6', 'd-7', 'd-7', 'd-7']))
    expect(told(held)).toBe('1115677777777777'.slice(0, 8) + '22222222')
    const shorter = done(held, setPanelLength(held, T, 'p1', 4))
    expect(told(shorter)).toBe('1115' + '77' + '22222222')
  })
  it('go along where a panel is split, and with a copy of it; taken out, what was held after it stays', () => {
    expect(told(done(take(), splitPanel(take(), T, 'p1', 3, 'half')))).toBe(told(take()))
    expect(told(done(take(), duplicatePanels(take(), T, ['p1'], ['again'])))).toBe('112233' + '112233' + '4455667788')
    const held = done(short(), shows(short(), 3, '5677'))
    expect(told(done(held, removePanel(held, T, 'p1', OPTICS, newId)))).toBe(told(held).slice(6))
  })
})
