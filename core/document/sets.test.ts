import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { level } from '../edits/testing'
import { createTakeStage } from '../stage'
import { takeProblems } from './checkTake'
import { shownAt } from './exposures'
import { orderOfNumber } from './order'
import { rackLevels } from './panels'
import { cellIdOf, SET_SHOWN, type Level } from './records'
import { isSetLevel, pieceLevelId, pieceOf, piecesOf, setDrawings, setsIn, unfolded, wholeOf } from './sets'
import { swayingLater, sways } from './swayShift'
import { EMPTY_SET, EMPTY_TAKE, type SetBody, type TakeBody } from './units'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const byId = <R extends { readonly id: string }>(records: readonly R[]) => Object.fromEntries(records.map((record) => [record.id, record]))
const setOf = (pieces: readonly Level[], bare: readonly string[] = []) => ({ ...EMPTY_SET, pieces: byId(pieces), art: byId(pieces.filter(({ id }) => !bare.includes(id)).map(({ id }) => ({ id, drawingId: `d-${id}` }))) }) as unknown as SetBody
const standing = (id: string, order: number, fields: object = {}) => level(id, order, 1, { kind: 'set', setId: 'pier', ...fields } as never)
const cell = (levelId: string, offsetFrames: number, drawingId: string | null) => ({ id: cellIdOf(levelId, 'p1', offsetFrames), levelId, panelId: 'p1', drawingId, ...(offsetFrames === 0 ? {} : { offsetFrames }) })
function takeOf(levels: readonly Level[], cells: readonly { readonly id: string }[] = []): TakeBody {
  const panels = byId([{ id: 'p1', order: orderOfNumber(1), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }])
  return { ...EMPTY_TAKE, panels, levels: byId(levels), cells: byId(cells), cameras: byId([{ id: 'a', order: 'a1', letter: 'A', locked: false }]) } as unknown as TakeBody
}
const rail = level('rail', 2, 0.5, { x: 0.2 })
const plank = level('plank', 1, 0)
const lamp = level('lamp', 3, 0, { carrier: { kind: 'level', levelId: 'rail', turn: false, size: true } })
const pier = setOf([rail, plank, lamp])
const unfold = (take: TakeBody, set: SetBody | null = pier) => unfolded(take, (id) => (id === 'pier' ? set : null))
const id = (piece: string, on = 's') => pieceLevelId(on, piece)

describe('a piece in a take', () => {
  it('is called by the set’s level and its own name, which tell both again', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[a-z\d-]{1,12}$/), fc.stringMatching(/^[a-z\d-]{1,12}$/), (on, piece) => {
        expect(pieceOf(pieceLevelId(on, piece))).toEqual({ setLevelId: on, pieceId: piece })
        expect([pieceOf(on), wholeOf(on), wholeOf(pieceLevelId(on, piece))]).toEqual([null, on, on])
      }),
    )
  })
})

describe('a take with a set in it', () => {
  it('unfolded has the pieces in their order behind the set’s level and before what lies behind that', () => {
    const take = takeOf([level('near', 1, 0), standing('s', 2), level('far', 3, 0)])
    expect(rackLevels(unfold(take)).map((each) => each.id)).toEqual(['near', 's', id('plank'), id('rail'), id('lamp'), 'far'])
    expect([setsIn(take).map((each) => each.id), isSetLevel(take.levels.near!), piecesOf(pier).map((each) => each.id)]).toEqual([['s'], false, ['plank', 'rail', 'lamp']])
    expect(setDrawings(pier).sort()).toEqual(['d-lamp', 'd-plank', 'd-rail'])
  })

  it('without one, or with one that is not loaded, is as it is; unfolded twice it is the same', () => {
    const bare = takeOf([level('near', 1, 0)])
    expect(unfold(bare)).toBe(bare)
    const take = takeOf([standing('s', 1)])
    expect(Object.keys(unfold(take, null).levels)).toEqual(['s'])
    expect(unfold(take)).toBe(unfold(take))
    // Another body of the set is another picture.
    expect(unfold(take, setOf([rail]))).not.toBe(unfold(take))
    expect(Object.keys(unfold(take, setOf([rail])).levels)).toEqual(['s', id('rail')])
  })

  it('has each piece carried by the set, or by the piece that it hangs on; what it says holds', () => {
    const take = unfold(takeOf([standing('s', 1, { locked: true, opacity: 0.5 })], [cell('s', 0, SET_SHOWN)]))
    expect(take.levels[id('plank')]).toMatchObject({ carrier: { kind: 'level', levelId: 's', turn: true, size: true }, locked: true, visible: true })
    expect(take.levels[id('lamp')]!.carrier).toEqual({ kind: 'level', levelId: id('rail'), turn: false, size: true })
    expect(takeProblems(take).filter(({ code }) => code !== 'not-a-drawing')).toEqual([])
    // It fades with its set.
    expect(createTakeStage(take, OPTICS).at(0).levels.find((each) => each.level.id === id('plank'))!.opacity).toBe(0.5)
  })

  it('shows its pieces where it is shown itself; one without art shows nothing', () => {
    const take = unfold(takeOf([standing('s', 1)], [cell('s', 4, SET_SHOWN), cell('s', 12, null)]), setOf([rail, plank], ['plank']))
    const shown = (levelId: string) => [0, 3, 4, 11, 12, 23].map((frame) => shownAt(take, levelId, frame)?.drawingId ?? null)
    expect(shown(id('rail'))).toEqual([null, null, 'd-rail', 'd-rail', null, null])
    expect(shown(id('plank'))).toEqual([null, null, null, null, null, null])
  })

  it('hides a piece in this shot alone, and all of them with the set', () => {
    const visible = (fields: object) => Object.values(unfold(takeOf([standing('s', 1, fields)])).levels).filter(({ visible: isSeen }) => isSeen).map((each) => each.id)
    expect(visible({ hidden: ['rail'] }).sort()).toEqual(['s', id('lamp'), id('plank')].sort())
    expect(visible({ visible: false })).toEqual([])
  })

  it('gives its tint, its tone and that it stands in for something to pieces that say nothing else', () => {
    const [tint, tone] = [{ colour: '#223344', strength: 0.5 }, { light: 0.2, colour: 1 }]
    const own = { colour: '#ff0000', strength: 1 }
    const take = unfold(takeOf([standing('s', 1, { tint, tone, standIn: true })]), setOf([rail, level('plank', 1, 0, { tint: own } as never)]))
    expect(take.levels[id('rail')]).toMatchObject({ tint, tone, standIn: true })
    expect(take.levels[id('plank')]).toMatchObject({ tint: own, tone })
  })

  it('may stand in it twice: each has pieces of its own', () => {
    const take = unfold(takeOf([standing('s', 1), standing('t', 2, { x: 3 })]))
    expect(Object.keys(take.levels).filter((each) => pieceOf(each)?.pieceId === 'rail')).toEqual([id('rail', 's'), id('rail', 't')])
    const stage = createTakeStage(take, OPTICS).seen(0)
    expect(stage.standOf(id('rail', 't')).place.x - stage.standOf(id('rail', 's')).place.x).toBeCloseTo(3, 9)
  })
})

describe('what sways by itself', () => {
  const swing = { amount: 5, periodFrames: 20, phase: 0.25 }
  it('is told of a level, of a set by its pieces, and of one that is not loaded it may', () => {
    expect([sways(level('a', 1, 0)), sways(level('a', 1, 0, { swing }))]).toEqual([false, true])
    const on = standing('s', 1)
    expect([sways(on, { pier }), sways(on, { pier: setOf([level('reed', 1, 0, { swing })]) }), sways(on)]).toEqual([false, true, true])
  })

  it('looks so many frames later as it did, wherever its frames begin; and there and back it is as it was', () => {
    fc.assert(
      fc.property(fc.integer({ min: -200, max: 200 }), fc.integer({ min: 0, max: 23 }), fc.boolean(), (by, frame, drifts) => {
        const sway = level('reed', 1, 0, drifts ? { drift: { amount: 0.1, periodFrames: 17, phase: 0.4, seed: 3 } } : { swing, bob: { amount: 0.2, periodFrames: 13, phase: 0.9 } })
        const values = (each: Level, at: number) => createTakeStage(takeOf([each]), OPTICS).motionOf('reed').addedAt(at, 0)
        const later = swayingLater(sway, by)
        for (const [name, value] of Object.entries(values(later, frame + by))) expect(value).toBeCloseTo(values(sway, frame)[name as 'x'], 9)
        for (const [name, value] of Object.entries(values(swayingLater(later, -by), frame))) expect(value).toBeCloseTo(values(sway, frame)[name as 'x'], 9)
      }),
      { numRuns: 60 },
    )
    const still = level('a', 1, 0)
    expect(swayingLater(still, 7)).toBe(still)
    // A set keeps how much later, and forgets it where that is nothing any more.
    const moved = swayingLater(standing('s', 1), 7)
    expect(moved).toMatchObject({ laterFrames: 7 })
    expect(swayingLater(moved, -7)).toEqual(standing('s', 1))
  })
})
