import { describe, expect, it } from 'vitest'
import { speedsOf, strobingLimit } from '../../checks'
import { takeOf, travelling } from '../../checks/testing'
import { cellAt, EMPTY_SET, SET_SHOWN, takeProblems, unfolded, type Level, type SetBody, type TakeBody } from '../../document'
import { createTakeStage } from '../../stage'
import { applyToUnit, insertFrames, invert, keyFraming, keyLevel, leastSlowing } from '..'
import { done, editsOf, level, newId, OPTICS, REST, sampleTake, T } from '../testing'

const LIMIT = strobingLimit(24)
const strobesOf = (take: TakeBody, id = 'near') => speedsOf(createTakeStage(take, OPTICS), 24, LIMIT).find(({ levelId }) => levelId === id)?.strobes ?? []

describe('frames put in', () => {
  it('make the panel longer and what comes after later; before them all is as it was, after them all is as it was that much earlier', () => {
    let take = keyed()
    take = { ...take, cells: { ...take.cells, ...Object.fromEntries([cellAt('tilda', 'p2', 3, 'd-1'), cellAt('tilda', 'p2', 8, 'd-2')].map((cell) => [cell.id, cell])) } }
    // Panel 2 is frames 24 to 35.
    const now = done(take, insertFrames(take, T, 30, 7))
    expect(takeProblems(now)).toEqual([])
    expect(now.panels.p2!.lengthFrames).toBe(19)
    const [before, after] = [createTakeStage(take, OPTICS), createTakeStage(now, OPTICS)]
    const shown = (stage: typeof before, frame: number) => stage.at(frame).levels.map(({ level: { id }, drawingId }) => `${id} ${drawingId}`)
    for (let frame = 0; frame < 72; frame++) expect(shown(after, frame < 30 ? frame : frame + 7)).toEqual(shown(before, frame))
    expect(after.framings('a').map(({ frame }) => frame)).toEqual([4, 28, 39, 67])
    for (const frame of [4, 28]) expect(after.at(frame).pose).toEqual(before.at(frame).pose)
    for (const frame of [32, 60]) expect(after.at(frame + 7).pose).toEqual(before.at(frame).pose)
    // The way across the place takes longer, and goes the same way.
    expect(after.at(36).pose.x).toBeLessThan(before.at(31).pose.x)
    const [edit] = editsOf(insertFrames(take, T, 30, 7))
    expect(applyToUnit(now, invert(edit!))).toMatchObject({ ok: true, value: take })
  })

  it('are refused where the panel keeps its length, or would be too long', () => {
    const take = sampleTake()
    expect(insertFrames({ ...take, panels: { ...take.panels, p2: { ...take.panels.p2!, lengthLocked: true } } }, T, 30, 7)).toMatchObject({ ok: false, refusal: { code: 'length-locked' } })
    expect(insertFrames(take, T, 30, 1e9)).toMatchObject({ ok: false, refusal: { code: 'length-out-of-range' } })
  })

  function keyed(): TakeBody {
    return [[4, 0], [28, 0.1], [32, 0.8], [60, 0.2]].reduce((so, [frame, x], i) => done(so, keyFraming(so, T, 'a', frame!, { ...REST, x: x! }, `f${i}`)), sampleTake())
  }
})

describe('the least that slows something down', () => {
  it('leaves no strobing there, and a frame less does', () => {
    const take = travelling(takeOf([level('near', 1, 0), level('far', 2, 4)]), 0.6)
    const [strobe] = strobesOf(take)
    const slowing = leastSlowing(take, 'near', strobe!, OPTICS, 24, LIMIT)!
    // 0.6 fw at 1/7 fw a second: 4.2 s.
    expect(slowing.frames).toBe(Math.ceil(0.6 * 7 * 24 - 1e-9) - 48)
    expect(strobesOf(done(take, insertFrames(take, T, slowing.before, slowing.frames)))).toEqual([])
    expect(strobesOf(done(take, insertFrames(take, T, slowing.before, slowing.frames - 1)))).toHaveLength(1)
  })

  it('does so for a level that goes by itself, whatever its cushions, and is none where its panel keeps its length', () => {
    const take = [0, 20].reduce((so, frame, i) => done(so, keyLevel(so, T, 'near', frame, { place: { x: i * 0.4, y: 0, depth: 0 } }, newId)), takeOf([level('near', 1, 0)]))
    const [strobe] = strobesOf(take)
    const slowing = leastSlowing(take, 'near', strobe!, OPTICS, 24, LIMIT)!
    expect(strobesOf(done(take, insertFrames(take, T, slowing.before, slowing.frames)))).toEqual([])
    const kept = { ...take, panels: { p1: { ...take.panels.p1!, lengthLocked: true } } }
    expect(leastSlowing(kept, 'near', strobe!, OPTICS, 24, LIMIT)).toBeNull()
    // Nothing that is put in slows down what goes on for ever.
    const swaying = takeOf([level('near', 1, 0, { bob: { amount: 0.5, periodFrames: 12, phase: 0 } })])
    expect(leastSlowing(swaying, 'near', strobesOf(swaying)[0]!, OPTICS, 24, LIMIT)).toBeNull()
  })

  it('does so for a piece of a set that comes in the middle of the panel', () => {
    const set = { ...EMPTY_SET, pieces: { wall: level('wall', 1, 0) }, art: { wall: { id: 'wall', drawingId: 'd-wall' } } } as SetBody
    const base = { ...travelling(takeOf([level('s', 1, 0)]), 0.6), levels: { s: level('s', 1, 0, { kind: 'set', setId: 'set' } as Partial<Level>) } }
    const shown = [cellAt('s', 'p1', 0, null), cellAt('s', 'p1', 10, SET_SHOWN), cellAt('s', 'p1', 40, null)]
    const folded = { ...base, cells: Object.fromEntries(shown.map((cell) => [cell.id, cell])) }
    const take = unfolded(folded, () => set)
    const [strobe] = strobesOf(take, 's~wall')
    expect([strobe!.first, strobe!.last]).toEqual([10, 38])
    const slowing = leastSlowing(take, 's~wall', strobe!, OPTICS, 24, LIMIT)!
    expect(strobesOf(unfolded(done(folded, insertFrames(folded, T, slowing.before, slowing.frames)), () => set), 's~wall')).toEqual([])
  })
})
