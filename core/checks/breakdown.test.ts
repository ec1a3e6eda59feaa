import { describe, expect, it } from 'vitest'
import { cellIdOf, unfolded, type Level, type SetBody, type TakeBody } from '../document'
import { fastenLevels, keyLevel } from '../edits'
import { done, level, newId, OPTICS, seen, T } from '../edits/testing'
import { createTakeStage } from '../stage'
import { factsOf, neededOf, needsOfTake, owesOf, shotDifficulty, thingDifficulty, thingsOf, WEIGHTS, type TakeFacts } from '.'
import { takeOf, travelling } from './testing'

const BOX = { left: -2, right: 2, bottom: -1, top: 1 }
const facts = (take: TakeBody) => factsOf(createTakeStage(take, OPTICS), T, () => BOX)
const levels: readonly Level[] = [level('reeds', 1, -0.5), level('tilda', 2, 0, { figure: true }), level('lamp', 3, 0), level('wall', 4, 2, { panDegrees: 30 }), level('sky', 5, 6, { stepped: 2 }), level('ruler', 6, 0, { standIn: true }), level('photo', 7, 0, { kind: 'reference' })]

function shot(): TakeBody {
  let take = travelling(takeOf(levels))
  take = done(take, fastenLevels(take, T, ['lamp'], { kind: 'level', levelId: 'tilda', turn: true, size: true }, seen(take, {})))
  take = done(take, keyLevel(take, T, 'tilda', 0, { place: { x: 0, y: 0, depth: 0 } }, newId))
  take = done(take, keyLevel(take, T, 'tilda', 40, { place: { x: 1, y: 0, depth: 0 } }, newId))
  return { ...take, cells: { ...take.cells, [cellIdOf('tilda', 'p1', 12)]: { id: cellIdOf('tilda', 'p1', 12), levelId: 'tilda', panelId: 'p1', offsetFrames: 12, drawingId: 'd-tilda-2' } } }
}

describe('what a shot shows and asks for', () => {
  it('tells figures, what hangs on them, what lies before them, and all else', () => {
    const found = facts(shot())
    expect(found.levels.map(({ id, sort }) => [id, sort])).toEqual([['reeds', 'overlay'], ['tilda', 'figure'], ['lamp', 'prop'], ['wall', 'background'], ['sky', 'background']])
    expect(found.levels.map(({ id, moves, turned, drawings, exposures, stepped }) => [id, moves, turned, drawings, exposures, stepped])).toEqual([
      ['reeds', false, false, 1, 1, null],
      ['tilda', true, false, 2, 2, null],
      ['lamp', true, false, 1, 1, null],
      ['wall', false, true, 1, 1, null],
      ['sky', false, false, 1, 1, 2],
    ])
    expect(found).toMatchObject({ frames: 49, framings: 2, cameras: 1, camera: 'moves', dissolves: 0, dialogue: 0, move: [{ does: 'travel', way: 'right' }] })
    // Where nobody acts what is well before the picture plane is an overlay.
    expect(facts(travelling(takeOf([level('grass', 1, -0.5), level('post', 2, -0.1)]))).levels.map(({ sort }) => sort)).toEqual(['overlay', 'background'])
    expect(facts(takeOf(levels))).toMatchObject({ framings: 0, camera: 'locked', move: [] })
  })

  it('asks for as much art as the art that is needed', () => {
    const take = shot()
    const stage = createTakeStage(take, OPTICS)
    for (const each of levels.slice(0, 5)) {
      const drawings = each.id === 'tilda' ? ['d-tilda', 'd-tilda-2'] : [`d-${each.id}`]
      const need = neededOf(drawings, [needsOfTake(stage, T, new Map(drawings.map((id) => [id, { bounds: BOX, owes: owesOf(take.levels[each.id]!) }])), 0.05)])
      expect([each.id, facts(take).levels.find(({ id }) => id === each.id)!.need]).toEqual([each.id, need === null ? null : { box: need.box, magnification: need.magnification, isEndless: need.isEndless }])
    }
  })

  it('of a shot of hours are told, but not what art it needs', () => {
    const take = takeOf([level('sky', 1, 6)], 1_000_001)
    const found = facts(take)
    expect(found).toMatchObject({ isTooLong: true, frames: 1_000_001, levels: [{ id: 'sky', need: null }] })
    expect(thingsOf([{ shotId: 's', facts: found }], String, 1920)).toMatchObject([{ shotIds: ['s'], size: null, isTooLong: true }])
  })

  it('of a shot with no frames is nothing, and what is never seen needs nothing', () => {
    expect(facts({ ...takeOf(levels), panels: {}, cells: {} })).toMatchObject({ frames: 0, levels: expect.any(Array) })
    expect(facts(takeOf([level('behind', 1, -5)])).levels[0]!.need).toBeNull()
  })
})

describe('things to be made', () => {
  const set: SetBody = { pieces: { planks: { ...level('planks', 1, 1, { scale: 2 }) } as SetBody['pieces'][string], rail: { ...level('rail', 2, 0.5) } as SetBody['pieces'][string] }, art: { planks: { id: 'planks', drawingId: 'd-planks' }, rail: { id: 'rail', drawingId: 'd-rail' } } }
  const inSet = (x: number): TakeFacts => {
    const take = travelling(takeOf([level('sky', 2, 6)]), x)
    return facts(unfolded({ ...take, levels: { walk: { ...level('walk', 1, 0), kind: 'set', setId: 'walk' } as Level, ...take.levels }, cells: { ...take.cells, [cellIdOf('walk', 'p1')]: { id: cellIdOf('walk', 'p1'), levelId: 'walk', panelId: 'p1', drawingId: 'set' } } }, () => set))
  }

  it('are a set once, however many shots stand in it, and each level of a shot', () => {
    const shots = [{ shotId: 's1', facts: inSet(0.4) }, { shotId: 's2', facts: inSet(1.2) }]
    const things = thingsOf(shots, (id) => `set ${id}`, 1920)
    expect(things.map(({ id, sort, name, shotIds, pieces }) => [id, sort, name, shotIds, pieces])).toEqual([
      ['set.walk', 'set', 'set walk', ['s1', 's2'], 2],
      ['level.s1.sky', 'background', 'sky', ['s1'], 1],
      ['level.s2.sky', 'background', 'sky', ['s2'], 1],
    ])
    // As large as the shot that needs most of it.
    const alone = thingsOf([shots[1]!], (id) => id, 1920)[0]!
    expect(things[0]!.size).toEqual(alone.size)
    expect(things[0]!.closest).toBe(alone.closest)
    expect(thingsOf([], (id) => id, 1920)).toEqual([])
  })

  it('count what makes them hard, each as the weights say', () => {
    const found = facts(shot())
    const hard = shotDifficulty(found, WEIGHTS, 1920)
    const count = Object.fromEntries(hard.terms.map(({ of, count }) => [of, count]))
    expect(count).toMatchObject({ level: 5, moving: 2, turned: 1, camera: 2, exposure: 1 })
    expect(hard.points).toBeCloseTo(hard.terms.reduce((sum, { of, count }) => sum + count * WEIGHTS[of], 0), 9)
    expect(shotDifficulty(found, { ...WEIGHTS, moving: WEIGHTS.moving + 1 }, 1920).points).toBeCloseTo(hard.points + 2, 9)
    // Twice as wide is four times the px.
    expect(shotDifficulty(found, WEIGHTS, 3840).terms.find(({ of }) => of === 'paint')!.count / hard.terms.find(({ of }) => of === 'paint')!.count).toBeCloseTo(4, 6)
    const [tilda] = thingsOf([{ shotId: 's', facts: found }], String, 1920).filter(({ name }) => name === 'tilda')
    expect(thingDifficulty(tilda!, WEIGHTS).terms.map(({ of, count }) => [of, count])).toEqual([['level', 1], ['moving', 1], ['paint', tilda!.megapixels * 2], ['exposure', 1]])
  })

  it('count no more paint than a picture can have, though a camera goes through them', () => {
    const take = travelling(takeOf([level('window', 1, 0)]), 0)
    const through = { ...take, framings: Object.fromEntries(Object.values(take.framings).map((framing, i) => [framing.id, { ...framing, pose: { ...framing.pose, depth: i === 0 ? -1.4 : 0.2 } }])) }
    const [thing] = thingsOf([{ shotId: 's', facts: facts(through) }], String, 8192)
    expect(thing!.megapixels).toBe(64)
    expect(thing!.closest).toBeGreaterThan(10)
  })
})
