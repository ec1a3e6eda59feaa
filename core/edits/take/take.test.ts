import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inOrder, shownCell } from '../../document'
import { createTakeStage } from '../../stage'
import { addLevel, applyToUnit, duplicateLevel, editKey, editLevel, editPanel, groupLevels, invert, keyFraming, listBeside, type Made, moveKey, nearFirst, offsetsAfterLength, reframe, removeKeys, removeLevel, removePanel, renameGroup, reorderLevel, sendLevels, setLevelDepth, setPanelLength, spreadLevels } from '..'
import { newId, OPTICS, REST, T, seen, level, sampleTake, done, editsOf, keyed, framesOf } from '../testing'

describe('a panel’s length', () => {
  it('moves later keys with their panels', () => {
    const take = keyed(sampleTake(), [0, 30, 50])
    expect(framesOf(done(take, setPanelLength(take, T, 'p1', 34)))).toEqual([0, 40, 60])
    expect(framesOf(done(take, setPanelLength(take, T, 'p1', 4)))).toEqual([0, 10, 30])
  })

  it('leaves keys within at their distance from the start, and the last frame’s key on the last frame', () => {
    const take = keyed(sampleTake(), [0, 8, 23])
    expect(framesOf(done(take, setPanelLength(take, T, 'p1', 48)))).toEqual([0, 8, 47])
    expect(framesOf(done(take, setPanelLength(take, T, 'p1', 12)))).toEqual([0, 8, 11])
  })

  it('draws keys in proportionally when it shrinks past them, and undo is exact', () => {
    const take = keyed(sampleTake(), [0, 10, 20])
    const made = setPanelLength(take, T, 'p1', 11)
    const shrunk = done(take, made)
    expect(framesOf(shrunk)).toEqual([0, 5, 10])
    const back = applyToUnit(shrunk, invert(editsOf(made)[0]!))
    expect(back.ok && back.value).toEqual(take)
  })

  it('of one frame keeps every key, all on that frame', () => {
    const take = keyed(sampleTake(), [0, 10, 23])
    const short = done(take, setPanelLength(take, T, 'p1', 1))
    expect(framesOf(short)).toEqual([0, 0, 0])
    expect(Object.keys(short.framings)).toHaveLength(3)
  })

  it('grown from one frame leaves its key on the first', () => {
    expect(offsetsAfterLength([0], 1, 24)).toEqual([0])
  })

  it('keeps the order of keys, inside the panel, whatever the lengths', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 300 }), fc.uniqueArray(fc.nat(299), { maxLength: 12 }), (from, to, wanted) => {
        const offsets = wanted.filter((offset) => offset < from).sort((a, b) => a - b)
        const after = offsetsAfterLength(offsets, from, to)
        after.forEach((offset, i) => {
          expect(offset).toBeGreaterThanOrEqual(after[i - 1] ?? 0)
          expect(offset).toBeLessThan(to)
        })
      }),
    )
  })

  it('is refused below a frame, and under a fermata', () => {
    const take = sampleTake()
    expect(setPanelLength(take, T, 'p1', 0)).toMatchObject({ ok: false, refusal: { code: 'length-out-of-range', min: 1 } })
    expect(setPanelLength(take, T, 'p1', 2.5)).toMatchObject({ ok: false })
    const held = done(take, editPanel(take, T, 'p1', { lengthLocked: true }))
    expect(setPanelLength(held, T, 'p1', 30)).toMatchObject({ ok: false, refusal: { code: 'length-locked' } })
  })
})

describe('taking a panel out', () => {
  it('passes a held drawing on, so that no level vanishes', () => {
    const take = sampleTake()
    const after = done(take, removePanel(take, T, 'p1', OPTICS, newId))
    expect(shownCell(after, { id: 'sky' }, 0)?.drawingId).toBe('d-sky')
    expect(shownCell(after, { id: 'tilda' }, 0)?.drawingId).toBe('d-2')
  })

  it('keeps a lone framing, at the nearest frame that stays', () => {
    const take = keyed(sampleTake(), [70])
    expect(framesOf(done(take, removePanel(take, T, 'p3', OPTICS, newId)))).toEqual([35])
    const early = keyed(sampleTake(), [5])
    expect(framesOf(done(early, removePanel(early, T, 'p1', OPTICS, newId)))).toEqual([0])
  })

  it('is refused for the last one', () => {
    const take = sampleTake([24])
    expect(removePanel(take, T, 'p1', OPTICS, newId)).toMatchObject({ ok: false, refusal: { code: 'last-panel' } })
  })
})

describe('keying and reframing', () => {
  it('reframes a shot with no framing or one, at whatever frame', () => {
    const take = sampleTake()
    const first = done(take, reframe(take, T, 'a', 20, { ...REST, x: 0.1 }, 'k1'))
    expect(framesOf(first)).toEqual([0])
    const second = done(first, reframe(first, T, 'a', 50, { ...REST, x: 0.2 }, 'k2'))
    expect(Object.values(second.framings).map((framing) => framing.pose.x)).toEqual([0.2])
  })

  it('writes nothing between framings', () => {
    const take = keyed(sampleTake(), [0, 40])
    expect(reframe(take, T, 'a', 20, REST, 'k9')).toEqual({ ok: false, refusal: { code: 'between-keys' } })
    expect(reframe(take, T, 'a', 40, { ...REST, x: 1 }, 'k9')).toMatchObject({ ok: true })
  })

  it('keys on a framing’s own frame by changing it', () => {
    const take = keyed(sampleTake(), [0, 40])
    const again = done(take, keyFraming(take, T, 'a', 40, { ...REST, x: 2 }, 'k9'))
    expect(Object.keys(again.framings)).toHaveLength(2)
  })

  it('is refused by a lock, with the reason', () => {
    const take = keyed(sampleTake(), [0, 40])
    const locked = done(take, editKey(take, T, 'k2', { locked: true }))
    expect(keyFraming(locked, T, 'a', 40, REST, 'k9')).toMatchObject({ refusal: { code: 'framing-locked' } })
    expect(moveKey(locked, T, 'k2', 30)).toMatchObject({ refusal: { code: 'framing-locked' } })
    expect(removeKeys(locked, T, ['k2'])).toMatchObject({ refusal: { code: 'framing-locked' } })
    const camera = { ...take, cameras: { a: { ...take.cameras.a!, locked: true } } }
    expect(reframe(camera, T, 'a', 0, REST, 'k9')).toMatchObject({ refusal: { code: 'camera-locked' } })
  })

  it('moves a framing no farther than a frame from its neighbours, and stays in the shot', () => {
    const take = keyed(sampleTake(), [5, 20, 40])
    expect(framesOf(done(take, moveKey(take, T, 'k2', 90)))).toEqual([5, 39, 40])
    expect(framesOf(done(take, moveKey(take, T, 'k2', 0)))).toEqual([5, 6, 40])
    expect(framesOf(done(take, moveKey(take, T, 'k3', 900)))).toEqual([5, 20, 71])
    expect(framesOf(done(take, moveKey(take, T, 'k1', -9)))).toEqual([0, 20, 40])
  })
})

describe('levels', () => {
  it('go to a depth with the picture kept', () => {
    const take = sampleTake()
    const kept = done(take, setLevelDepth(take, T, 'tilda', 2.2, seen(take, REST)))
    expect(kept.levels.tilda!.scale).toBeCloseTo(2.584, 6)
    expect(setLevelDepth(take, T, 'tilda', -2, seen(take, REST))).toMatchObject({ refusal: { code: 'depth-behind-lens' } })
  })

  it('refuse to move while locked, but may be hidden or renamed', () => {
    const take = done(sampleTake(), editLevel(sampleTake(), T, 'sky', { locked: true }))
    expect(editLevel(take, T, 'sky', { x: 1 })).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(setLevelDepth(take, T, 'sky', 3, seen(take, REST))).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(removeLevel(take, T, 'sky', seen(take, REST))).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(spreadLevels(take, T, ['tilda', 'sky'], 0, 4, 'even', seen(take, REST))).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(editLevel(take, T, 'sky', { visible: false, name: 'Air' })).toMatchObject({ ok: true })
  })

  it('spread in one step, near to far', () => {
    const take = sampleTake()
    const spread = done(take, spreadLevels(take, T, ['tilda', 'sky'], -0.5, 4, 'even', seen(take, REST)))
    expect(spread.levels.tilda!.depth).toBe(-0.5)
    expect(spread.levels.sky!.depth).toBe(4)
    const turned = done(take, spreadLevels(take, T, ['sky', 'tilda'], -0.5, 4, 'even', seen(take, REST)))
    expect([turned.levels.sky!.depth, turned.levels.tilda!.depth]).toEqual([-0.5, 4])
  })

  it('sent to one depth lie over one another as they did, among those that are there too', () => {
    let take = sampleTake()
    for (const [id, order, depth] of [['gull', 3, -0.4], ['reeds', 4, 2], ['hut', 5, 0]] as const) take = done(take, addLevel(take, T, level(id, order, depth), null))
    const before = nearFirst(take, seen(take, REST)).map(({ id }) => id)
    expect(before).toEqual(['gull', 'tilda', 'hut', 'reeds', 'sky'])
    const flat = done(take, sendLevels(take, T, new Map(['sky', 'reeds', 'gull'].map((id) => [id, { depth: 0 }])), seen(take, REST)))
    expect(new Set(Object.values(flat.levels).map(({ depth }) => depth))).toEqual(new Set([0]))
    expect(createTakeStage(flat, OPTICS).at(0).levels.map((placed) => placed.level.id)).toEqual([...before].reverse())
    // Tilda and the hut have not moved, and are as large.
    expect([flat.levels.tilda!.scale, flat.levels.hut!.scale]).toEqual([1, 1])
  })

  it('sent so many times as far keep the picture, and what can’t be refuses it all', () => {
    const take = sampleTake()
    const far = done(take, sendLevels(take, T, new Map([['tilda', { times: 2 }], ['sky', { times: 0.5 }]]), seen(take, REST)))
    expect(far.levels.tilda!.scale).toBe(2)
    expect(far.levels.tilda!.depth).toBeCloseTo(-REST.depth, 12)
    expect(far.levels.sky!.scale).toBe(0.5)
    expect(sendLevels(take, T, new Map(), seen(take, REST))).toMatchObject({ refusal: { code: 'nothing-selected' } })
    expect(sendLevels(take, T, new Map([['tilda', { times: 0 }]]), seen(take, REST))).toMatchObject({ refusal: { code: 'depth-behind-lens' } })
    expect(sendLevels(take, T, new Map([['nobody', { times: 2 }]]), seen(take, REST))).toMatchObject({ refusal: { code: 'missing' } })
  })

  it('are listed beside one that stands as deep, and beside no other', () => {
    let take = sampleTake()
    for (const [id, order] of [['gull', 3], ['hut', 4]] as const) take = done(take, addLevel(take, T, level(id, order, 0), null))
    const now = (made: Made) => inOrder(done(take, made).levels).map(({ id }) => id)
    expect(now(listBeside(take, T, 'hut', 'tilda', 'nearer', seen(take, REST)))).toEqual(['hut', 'tilda', 'sky', 'gull'])
    expect(now(listBeside(take, T, 'tilda', 'hut', 'farther', seen(take, REST)))).toEqual(['sky', 'gull', 'hut', 'tilda'])
    expect(listBeside(take, T, 'hut', 'sky', 'nearer', seen(take, REST))).toEqual({ ok: true, edits: [] })
    expect(listBeside(take, T, 'gull', 'hut', 'nearer', seen(take, REST))).toEqual({ ok: true, edits: [] })
  })

  it('change places only among equals', () => {
    let take = sampleTake()
    take = done(take, addLevel(take, T, { ...level('goose', 0, 0) }, 'tilda'))
    expect(inOrder(take.levels).map((entry) => entry.id)).toEqual(['goose', 'tilda', 'sky'])
    take = done(take, reorderLevel(take, T, 'goose', 1, seen(take, REST)))
    expect(inOrder(take.levels).map((entry) => entry.id)).toEqual(['tilda', 'goose', 'sky'])
    expect(reorderLevel(take, T, 'goose', 1, seen(take, REST))).toEqual({ ok: true, edits: [] })
  })

  it('that is duplicated shows the same drawings; taken out, it takes its cells along', () => {
    const take = sampleTake()
    const twice = done(take, duplicateLevel(take, T, 'tilda', 'tilda2', 'Tilda 2', newId))
    expect(shownCell(twice, { id: 'tilda2' }, 1)?.drawingId).toBe('d-2')
    const gone = done(twice, removeLevel(twice, T, 'tilda', seen(twice, REST)))
    expect(Object.values(gone.cells).some((cell) => cell.levelId === 'tilda')).toBe(false)
  })
})

describe('groups', () => {
  it('are there as long as they have levels, and are renamed and dissolved in one step', () => {
    const together = done(sampleTake(), groupLevels(sampleTake(), T, ['tilda', 'sky'], 'Figures'))
    expect(Object.values(together.levels).map((level) => level.group)).toEqual(['Figures', 'Figures'])
    const renamed = done(together, renameGroup(together, T, 'Figures', ' Crowd '))
    expect(renamed.levels.sky!.group).toBe('Crowd')
    const dissolved = done(renamed, renameGroup(renamed, T, 'Crowd', ''))
    expect(dissolved).toEqual(sampleTake())
    expect(groupLevels(sampleTake(), T, ['nobody'], 'x')).toMatchObject({ refusal: { code: 'missing' } })
  })
})
