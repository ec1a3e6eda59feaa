import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { untouchedPose } from '../camera'
import { cellIdOf, EMPTY_TAKE, EMPTY_DRAWING, freeze, inOrder, openDrawing, openTakeBody, placedFramings, placedPanels, shownCell, takeBodySchema, takeLengthFrames, takeProblems, type Drawing, type Film, type Level, type Mark, type TakeBody, orderOfNumber, labelBetween } from '../document'
import {
  addLevel,
  addMarks,
  backFigure,
  blankCell,
  carryMarks,
  duplicatePanels,
  groupLevels,
  recolourMarks,
  removeMarks,
  renameGroup,
  addPanel,
  addShot,
  applyChange,
  applyToUnit,
  checkEdit,
  clearCell,
  drawMark,
  duplicateLevel,
  editKey,
  editLevel,
  editPanel,
  editSchema,
  editShot,
  fillArea,
  EMPTY_HISTORY,
  invert,
  invertChange,
  keyFraming,
  merge,
  mergeChanges,
  moveKey,
  newOutline,
  offsetsAfterLength,
  record,
  reframe,
  removeKeys,
  removeLevel,
  removePanel,
  removeShot,
  reorderLevel,
  sameJson,
  setLevelDepth,
  setPanelLength,
  spreadLevels,
  stepBack,
  stepForward,
  type Edit,
  type Made,
} from './index'

let ids = 0
const newId = () => `made${++ids}`
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const T = 'take-1'

function level(id: string, order: number, depth: number, fields: Partial<Level> = {}): Level {
  return { id, order: orderOfNumber(order), name: id, kind: 'drawn', x: 0, y: 0, depth, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields }
}

function sampleTake(lengths: readonly number[] = [24, 12, 36]): TakeBody {
  const panels = Object.fromEntries(lengths.map((lengthFrames, i) => [`p${i + 1}`, { id: `p${i + 1}`, order: orderOfNumber(i + 1), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
  const cell = (levelId: string, panelId: string, drawingId: string) => ({ id: cellIdOf(levelId, panelId), levelId, panelId, drawingId })
  const cells = [cell('sky', 'p1', 'd-sky'), cell('tilda', 'p1', 'd-1'), cell('tilda', 'p2', 'd-2')]
  return freeze({
    ...EMPTY_TAKE,
    panels,
    levels: { tilda: level('tilda', 1, 0), sky: level('sky', 2, 6) },
    cells: Object.fromEntries(cells.map((entry) => [entry.id, entry])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  })
}

function done(take: TakeBody, made: Made): TakeBody {
  if (!made.ok) throw new Error(made.refusal.code)
  let value = take
  for (const edit of made.edits) {
    const applied = applyToUnit(value, edit)
    if (!applied.ok) throw new Error(applied.refusal.code)
    value = applied.value
  }
  expect(takeProblems(value)).toEqual([])
  expect(takeBodySchema.safeParse(value).success).toBe(true)
  return value
}

function keyed(take: TakeBody, frames: readonly number[]): TakeBody {
  return frames.reduce((now, frame, i) => done(now, keyFraming(now, T, 'a', frame, { ...REST, x: i / 10 }, `k${i + 1}`)), take)
}
const framesOf = (take: TakeBody) => placedFramings(take, 'a').map((entry) => entry.frame)

describe('an edit', () => {
  const take = sampleTake()
  const edit = (setPanelLength(take, T, 'p1', 30) as { edits: Edit[] }).edits[0]!

  it('is data that survives JSON', () => {
    expect(editSchema.parse(JSON.parse(JSON.stringify(edit)))).toEqual(edit)
  })

  it('is refused as stale where a record is not what it saw, and changes nothing', () => {
    const other = done(take, setPanelLength(take, T, 'p1', 40))
    const applied = applyToUnit(other, edit)
    expect(applied).toEqual({ ok: false, refusal: { code: 'stale', path: ['panels', 'p1'] } })
  })

  it('that changes nothing gives the unit back itself', () => {
    const same = setPanelLength(take, T, 'p1', 24)
    expect(same.ok && applyToUnit(take, same.edits[0]!)).toEqual({ ok: true, value: take })
  })

  it('leaves what it does not touch as it was, to the very object', () => {
    const applied = applyToUnit(take, edit)
    expect(applied.ok && applied.value.levels).toBe(take.levels)
  })

  it('freezes what it makes', () => {
    const applied = applyToUnit(take, edit)
    expect(applied.ok && Object.isFrozen(applied.value.panels.p1)).toBe(true)
  })

  it('from outside is checked, record by record', () => {
    const bad: Edit = { kind: 'x', unit: { kind: 'take', id: T }, changes: { panels: { p1: { before: take.panels.p1!, after: { ...take.panels.p1!, lengthFrames: 0 } } } } }
    expect(checkEdit(bad)).toMatchObject({ code: 'malformed', path: ['panels', 'p1', 'lengthFrames'] })
    expect(checkEdit({ ...bad, changes: { secrets: {} } })).toMatchObject({ code: 'malformed', path: ['secrets'] })
  })

  it('of records that held before is checked by what has changed, and refused for the same', () => {
    const before = take.panels.p1!
    const { notes: _, ...without } = before
    const afters: readonly object[] = [{ ...before, lengthFrames: 0 }, { ...before, action: 'x'.repeat(20_000) }, { ...before, secret: 1 }, { ...without, secret: 1 }, without, { ...before, id: 'p2' }, { ...before, order: 7 }, JSON.parse(`{"__proto__":1,${JSON.stringify(without).slice(1)}`) as object]
    for (const after of afters) {
      const edit: Edit = { kind: 'x', unit: { kind: 'take', id: T }, changes: { panels: { p1: { before, after } } } }
      expect(checkEdit(edit, true)).toEqual(checkEdit(edit))
      expect(checkEdit(edit, true)).toMatchObject({ code: 'malformed' })
    }
    const made: Edit = { kind: 'x', unit: { kind: 'take', id: T }, changes: { panels: { p9: { before: null, after: { ...before, id: 'p9', lengthFrames: -1 } } } } }
    expect(checkEdit(made, true)).toMatchObject({ code: 'malformed', path: ['panels', 'p9', 'lengthFrames'] })
  })
})

type Step = (take: TakeBody, n: number) => Made
const STEPS: readonly Step[] = [
  (take, n) => setPanelLength(take, T, inOrder(take.panels)[n % inOrder(take.panels).length]!.id, 1 + (n % 60)),
  (take, n) => addPanel(take, T, `new-${n}-${Object.keys(take.panels).length}`, inOrder(take.panels)[n % inOrder(take.panels).length]!.id, 1 + (n % 30)),
  (take, n) => removePanel(take, T, inOrder(take.panels)[n % inOrder(take.panels).length]!.id, OPTICS, newId),
  (take, n) => keyFraming(take, T, 'a', n % Math.max(1, takeLengthFrames(take)), { ...REST, x: n / 100 }, `key-${n}-${Object.keys(take.framings).length}`),
  (take, n) => {
    const ids = Object.keys(take.framings)
    return ids.length === 0 ? { ok: true, edits: [] } : moveKey(take, T, ids[n % ids.length]!, n)
  },
  (take, n) => {
    const ids = Object.keys(take.framings)
    return ids.length === 0 ? { ok: true, edits: [] } : removeKeys(take, T, [ids[n % ids.length]!])
  },
  (take, n) => setLevelDepth(take, T, Object.keys(take.levels)[n % Object.keys(take.levels).length]!, n / 20, REST),
  (take, n) => duplicateLevel(take, T, Object.keys(take.levels)[n % Object.keys(take.levels).length]!, `copy-${n}-${Object.keys(take.levels).length}`, 'copy'),
  (take, n) => editLevel(take, T, Object.keys(take.levels)[n % Object.keys(take.levels).length]!, { x: n / 10, opacity: (n % 10) / 10 }),
]

describe('any run of edits', () => {
  const run = fc.array(fc.tuple(fc.nat(STEPS.length - 1), fc.nat(500)), { minLength: 1, maxLength: 25 })

  it('taken back one by one is the original', () => {
    fc.assert(
      fc.property(run, (steps) => {
        let take = sampleTake()
        const start = take
        const made: Edit[] = []
        for (const [which, n] of steps) {
          const result = STEPS[which]!(take, n)
          if (!result.ok) continue
          take = done(take, result)
          made.push(...result.edits)
        }
        for (const edit of made.reverse()) {
          const back = applyToUnit(take, invert(edit))
          if (!back.ok) throw new Error(back.refusal.code)
          take = back.value
        }
        expect(take).toEqual(start)
      }),
      { numRuns: 120 },
    )
  })

  it('merged into one does the same, and is taken back as one', () => {
    fc.assert(
      fc.property(run, (steps) => {
        const start = sampleTake()
        let take = start
        let all: Edit | null = null
        for (const [which, n] of steps) {
          const result = STEPS[which]!(take, n)
          if (!result.ok) continue
          take = done(take, result)
          for (const edit of result.edits) all = all === null ? edit : merge(all, edit)
        }
        if (all === null) return
        const forward = applyToUnit(start, all)
        expect(forward.ok && forward.value).toEqual(take)
        const back = applyToUnit(take, invert(all))
        expect(back.ok && back.value).toEqual(start)
      }),
      { numRuns: 120 },
    )
  })
})

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
    const made = setPanelLength(take, T, 'p1', 11) as { edits: Edit[] }
    const shrunk = done(take, made as Made)
    expect(framesOf(shrunk)).toEqual([0, 5, 10])
    const back = applyToUnit(shrunk, invert(made.edits[0]!))
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
  it('go to a depth with the picture kept, or not', () => {
    const take = sampleTake()
    const kept = done(take, setLevelDepth(take, T, 'tilda', 2.2, REST))
    expect(kept.levels.tilda!.scale).toBeCloseTo(2.584, 6)
    const plain = done(take, setLevelDepth(take, T, 'tilda', 2.2, null))
    expect(plain.levels.tilda!.scale).toBe(1)
    expect(setLevelDepth(take, T, 'tilda', -2, REST)).toMatchObject({ refusal: { code: 'depth-behind-lens' } })
  })

  it('refuse to move while locked, but may be hidden or renamed', () => {
    const take = done(sampleTake(), editLevel(sampleTake(), T, 'sky', { locked: true }))
    expect(editLevel(take, T, 'sky', { x: 1 })).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(setLevelDepth(take, T, 'sky', 3, REST)).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(removeLevel(take, T, 'sky')).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(spreadLevels(take, T, ['tilda', 'sky'], 0, 4, 'even', REST)).toMatchObject({ refusal: { code: 'level-locked' } })
    expect(editLevel(take, T, 'sky', { visible: false, name: 'Air' })).toMatchObject({ ok: true })
  })

  it('spread in one step, near to far', () => {
    const take = sampleTake()
    const spread = done(take, spreadLevels(take, T, ['sky', 'tilda'], -0.5, 4, 'even', REST))
    expect(spread.levels.tilda!.depth).toBe(-0.5)
    expect(spread.levels.sky!.depth).toBe(4)
  })

  it('change places only among equals', () => {
    let take = sampleTake()
    take = done(take, addLevel(take, T, { ...level('goose', 0, 0) }, 'tilda'))
    expect(inOrder(take.levels).map((entry) => entry.id)).toEqual(['goose', 'tilda', 'sky'])
    take = done(take, reorderLevel(take, T, 'goose', 1))
    expect(inOrder(take.levels).map((entry) => entry.id)).toEqual(['tilda', 'goose', 'sky'])
    expect(reorderLevel(take, T, 'goose', 1)).toEqual({ ok: true, edits: [] })
  })

  it('that is duplicated shows the same drawings; taken out, it takes its cells along', () => {
    const take = sampleTake()
    const twice = done(take, duplicateLevel(take, T, 'tilda', 'tilda2', 'Tilda 2'))
    expect(shownCell(twice, { id: 'tilda2' }, 1)?.drawingId).toBe('d-2')
    const gone = done(twice, removeLevel(twice, T, 'tilda'))
    expect(Object.values(gone.cells).some((cell) => cell.levelId === 'tilda')).toBe(false)
  })
})

describe('drawing', () => {
  const stroke = { id: 's1', kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 }
  const drawings = { 'd-1': { marks: [] }, 'd-2': { marks: [] }, 'd-sky': { marks: [] } }
  const kinds = (made: Made) => (made.ok ? made.edits.map((edit) => `${edit.kind} ${edit.unit.id}`) : made.refusal.code)

  it('goes into the level’s own drawing where it has one in the panel', () => {
    expect(kinds(drawMark(sampleTake(), T, drawings, 'tilda', 'p2', stroke, 'new', false))).toEqual(['mark-add d-2'])
  })

  it('on a held level starts a new drawing there, or continues the held one', () => {
    expect(kinds(drawMark(sampleTake(), T, drawings, 'tilda', 'p3', stroke, 'new', false))).toEqual([`cell-set ${T}`, 'mark-add new'])
    expect(kinds(drawMark(sampleTake(), T, drawings, 'tilda', 'p3', stroke, 'new', true))).toEqual(['mark-add d-2'])
  })

  it('on a drawing that another level shares makes a copy of its own first', () => {
    const take = done(sampleTake(), duplicateLevel(sampleTake(), T, 'sky', 'sky2', 'Sky 2'))
    const marked = { ...drawings, 'd-sky': { marks: [{ ...stroke, id: 'm', order: 'a1' }] } }
    const made = drawMark(take, T, marked, 'sky2', 'p1', stroke, 'new', false)
    expect(kinds(made)).toEqual([`cell-set ${T}`, 'mark-add new'])
    expect(made.ok && Object.keys(made.edits[1]!.changes.marks!)).toEqual(['m', 's1'])
  })

  it('is refused on a locked level and before the drawing is loaded', () => {
    const locked = done(sampleTake(), editLevel(sampleTake(), T, 'tilda', { locked: true }))
    expect(kinds(drawMark(locked, T, drawings, 'tilda', 'p1', stroke, 'new', false))).toBe('level-locked')
    expect(kinds(drawMark(sampleTake(), T, {}, 'tilda', 'p1', stroke, 'new', false))).toBe('missing')
  })

  const line = (id: string, order: number, x = 0): Mark => ({ ...stroke, id, order: orderOfNumber(order), points: [x, 0, 0.5, x + 0.1, 0, 0.5] })
  const marked = { 'd-1': { marks: [] }, 'd-2': { marks: [line('a', 1), line('b', 2, 0.3)] }, 'd-sky': { marks: [] } }
  const place = (panelId: string, editHeld = false, take = sampleTake()) => ({ take, takeId: T, drawings: marked, levelId: 'tilda', panelId, newDrawingId: 'new', editHeld })
  const after = (made: Made, id: string, from: Drawing = EMPTY_DRAWING) => {
    const edit = made.ok ? made.edits.find((each) => each.unit.id === id) : undefined
    const applied = edit === undefined ? null : applyToUnit(from, edit)
    if (!applied?.ok) throw new Error('not made')
    return applied.value.marks
  }

  it('that works on the lines that are there starts from a copy of what is held', () => {
    const erase = drawMark(sampleTake(), T, marked, 'tilda', 'p3', { ...stroke, mode: 'erase' }, 'new', false)
    expect(kinds(erase)).toEqual([`cell-set ${T}`, 'mark-add new'])
    expect(after(erase, 'new').map(({ id }) => id)).toEqual(['a', 'b', 's1'])
  })

  it('carries, recolours and removes only what was selected, in the panel only, unless the held drawing is edited', () => {
    const carrying = { point: ({ x, y }: { x: number; y: number }) => ({ x: x + 1, y }), growth: 1, turnDegrees: 0, mirrors: false }
    expect(after(carryMarks(place('p3'), ['b'], carrying), 'new').map((mark) => (mark as { points: number[] }).points[0])).toEqual([0, 1.3])
    expect(kinds(carryMarks(place('p3', true), ['b'], carrying))).toEqual(['marks-carry d-2'])
    expect(after(recolourMarks(place('p2'), ['a'], '#ffffff', 1), 'd-2', marked['d-2']).map((mark) => (mark as { colour: string }).colour)).toEqual(['#ffffff', '#27241e'])
    expect(after(removeMarks(place('p2'), ['a', 'gone']), 'd-2', marked['d-2']).map(({ id }) => id)).toEqual(['b'])
    expect(removeMarks(place('p2'), [])).toMatchObject({ refusal: { code: 'nothing-selected' } })
  })

  it('pastes on top, in order, above a copy of what is held', () => {
    const { order: _order, ...pasted } = line('c', 9)
    expect(after(addMarks(place('p3'), [pasted, { ...pasted, id: 'd' }]), 'new').map(({ id, order }) => [id, order])).toEqual([['a', 'a1'], ['b', 'a2'], ['c', 'a3'], ['d', 'a4']])
  })

  it('backs a figure behind its lines, once', () => {
    const back = (id: string) => ({ id, outlines: [[0, 0, 1, 0, 1, 1]], colour: '#ffffff', opacity: 1 })
    const once = after(backFigure(place('p2'), back('k1')), 'd-2', marked['d-2'])
    expect(once.at(-1)).toMatchObject({ id: 'k1', mode: 'behind', purpose: 'back' })
    const twice = backFigure({ ...place('p2'), drawings: { ...marked, 'd-2': { marks: once } } }, back('k2'))
    expect(after(twice, 'd-2', { marks: once }).map(({ id }) => id)).toEqual(['a', 'b', 'k2'])
  })

  it('fills an area right above what shows there, under every line', () => {
    const area = (id: string, order: number, mode: 'ink' | 'behind' = 'ink'): Mark => ({ id, order: orderOfNumber(order), kind: 'fill', mode, outlines: [[0, 0, 1, 0, 1, 1, 0, 1]], colour: '#ffffff', opacity: 1 })
    const filled = (marks: Mark[], x = 0.5) => {
      const made = fillArea({ ...place('p2'), drawings: { ...marked, 'd-2': { marks } } }, { x, y: 0.5 }, { id: 'new', outlines: [[0, 0, 1, 0, 1, 1]], colour: '#2e7a68', opacity: 1 })
      return after(made, 'd-2', { marks }).map((mark) => `${mark.id} ${mark.kind === 'picture' ? '' : mark.mode}`)
    }
    const eraser: Mark = { ...line('e', 3), mode: 'erase', points: [0, 0.5, 0.5, 1, 0.5, 0.5] } as Mark
    expect(filled([line('a', 1)])).toEqual(['a ink', 'new behind'])
    expect(filled([area('ground', 1), line('a', 2)])).toEqual(['ground ink', 'new ink', 'a ink'])
    expect(filled([area('ground', 1), line('a', 2)], 1.5)).toEqual(['ground ink', 'a ink', 'new behind'])
    expect(filled([line('a', 1), area('back', 2, 'behind')])).toEqual(['a ink', 'new behind', 'back behind'])
    // What was erased does not show.
    expect(filled([area('ground', 1), line('a', 2), eraser])).toEqual(['ground ink', 'a ink', 'e erase', 'new behind'])
  })

  it('blanked, the level shows nothing from there on, and holds nothing', () => {
    const blank = done(sampleTake(), blankCell(sampleTake(), T, 'tilda', 'p3'))
    expect([0, 1, 2].map((i) => shownCell(blank, { id: 'tilda' }, i)?.drawingId ?? null)).toEqual(['d-1', 'd-2', null])
  })

  it('in a duplicated panel changes the copy: figures have drawings of their own there, all else holds', () => {
    const start = done(sampleTake(), editLevel(sampleTake(), T, 'tilda', { figure: true }))
    const twice = done(start, duplicatePanels(start, T, ['p2'], ['p2b']))
    expect(placedPanels(twice).map(({ panel }) => panel.id)).toEqual(['p1', 'p2', 'p2b', 'p3'])
    expect(twice.cells[cellIdOf('tilda', 'p2b')]?.drawingId).toBe('d-2')
    expect(twice.cells[cellIdOf('sky', 'p2b')]).toBeUndefined()
    const drawn = carryMarks(place('p2b', false, twice), ['a'], { point: ({ x }) => ({ x, y: 2 }), growth: 1, turnDegrees: 0, mirrors: false })
    const now = done(twice, { ok: true, edits: drawn.ok ? drawn.edits.filter((edit) => edit.unit.kind === 'take') : [] })
    expect([1, 2].map((i) => shownCell(now, { id: 'tilda' }, i)?.drawingId)).toEqual(['d-2', 'new'])
  })

  it('a drawing of thousands is changed without its other marks being copied', () => {
    const many: Drawing = freeze({ marks: Array.from({ length: 3000 }, (_, i) => line(`m${i}`, i + 1)) })
    const add = (drawMark(sampleTake(), T, { 'd-2': many }, 'tilda', 'p2', stroke, 'new', false) as { edits: Edit[] }).edits[0]!
    expect(JSON.stringify(add).length).toBeLessThan(400)
    const applied = applyToUnit(many, add)
    expect(applied.ok && applied.value.marks).toHaveLength(3001)
    expect(applied.ok && applied.value.marks[17]).toBe(many.marks[17])
    const back = applied.ok ? applyToUnit(applied.value, invert(add)) : applied
    expect(back.ok && back.value).toEqual(many)
  })

  it('taken away, the level holds the one before again', () => {
    const take = done(sampleTake(), clearCell(sampleTake(), T, 'tilda', 'p2'))
    expect(shownCell(take, { id: 'tilda' }, 1)?.drawingId).toBe('d-1')
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

describe('shots', () => {
  const project = { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 48 }
  const empty: Film = { outline: newOutline(project, { id: 'seq', order: 'a1', label: '01', title: '', targetFrames: null }), takes: {}, drawings: {} }
  const ids = (n: number) => ({ shot: `s${n}`, take: `t${n}`, panel: `p${n}`, camera: `c${n}` })
  const withShot = (film: Film, n: number, after: string | null) => {
    const made = addShot(film, 'film', 'seq', after, ids(n), 24)
    const applied = made.ok ? applyChange(film, made) : null
    if (!applied?.ok) throw new Error('addShot')
    return applied.value
  }

  it('are numbered in tens, and by the middle between two', () => {
    const film = withShot(withShot(withShot(empty, 1, null), 2, null), 3, 's1')
    expect(inOrder(film.outline.shots).map((shot) => shot.label)).toEqual(['010', '015', '020'])
    expect(labelBetween('010', '011', new Set(['010', '011']))).toBe('010A')
    expect(labelBetween(null, null, new Set())).toBe('010')
    expect(labelBetween('030', null, new Set(['030', '040']))).toBe('050')
  })

  it('come with a take of one panel and a camera', () => {
    const film = withShot(empty, 1, null)
    expect(placedPanels(film.takes.t1!)).toHaveLength(1)
    expect(Object.values(film.takes.t1!.cameras).map((camera) => camera.letter)).toEqual(['A'])
  })

  it('taken out come back by undo with all they had', () => {
    const film = withShot(withShot(empty, 1, null), 2, null)
    const made = removeShot(film.outline, 'film', 's1')
    if (!made.ok) throw new Error('removeShot')
    const change = { id: 'change-1', label: 'delete shot 010', edits: made.edits }
    const gone = applyChange(film, change)
    expect(gone.ok && Object.keys(gone.value.outline.shots)).toEqual(['s2'])
    const back = gone.ok ? applyChange(gone.value, invertChange(change, 'change-2')) : gone
    expect(back.ok && back.value).toEqual(film)
  })

  it('keep labels unique', () => {
    const film = withShot(withShot(empty, 1, null), 2, null)
    expect(editShot(film.outline, 'film', 's1', { label: '020' })).toMatchObject({ refusal: { code: 'label-taken' } })
    expect(editShot(film.outline, 'film', 's1', { label: '005' })).toMatchObject({ ok: true })
  })
})

describe('history', () => {
  const at = (frame: number) => ({ shotId: 's1', frame, selection: [`level:${frame}`] })
  const take = sampleTake()
  const change = (id: string, length: number, from = take) => ({ id, label: `length ${length}`, edits: (setPanelLength(from, T, 'p1', length) as { edits: Edit[] }).edits })

  it('gives a step back with its name and where the artist was', () => {
    const history = record(EMPTY_HISTORY, { change: change('one-one-one', 30), before: at(1), after: at(2), gesture: null })
    const back = stepBack(history)!
    expect(back.entry.change.label).toBe('length 30')
    expect(back.entry.before).toEqual(at(1))
    expect(stepForward(back.history)!.entry.after).toEqual(at(2))
    expect(stepBack(back.history)).toBeNull()
  })

  it('makes one entry of the steps of one gesture', () => {
    const first = change('one-one-one', 30)
    const middle = done(take, { ok: true, edits: first.edits })
    const second = change('two-two-two', 36, middle)
    let history = record(EMPTY_HISTORY, { change: first, before: at(1), after: at(2), gesture: 'g' })
    history = record(history, { change: second, before: at(2), after: at(3), gesture: 'g' })
    expect(history.past).toHaveLength(1)
    expect(history.past[0]).toMatchObject({ before: at(1), after: at(3) })
    expect(mergeChanges(first, second).edits[0]!.changes.panels!.p1).toMatchObject({ before: { lengthFrames: 24 }, after: { lengthFrames: 36 } })
  })

  it('forgets what could be redone when something new is done', () => {
    const history = record(EMPTY_HISTORY, { change: change('one-one-one', 30), before: at(1), after: at(2), gesture: null })
    const back = stepBack(history)!.history
    expect(record(back, { change: change('two-two-two', 31), before: at(1), after: at(2), gesture: null }).future).toEqual([])
  })
})

describe('keeping', () => {
  it('opens a body of this format, and says what is wrong with others', () => {
    const take = sampleTake()
    expect(openTakeBody(JSON.parse(JSON.stringify(take)), 8)).toEqual({ ok: true, value: take })
    expect(openTakeBody(take, 9)).toMatchObject({ ok: false, code: 'format-too-new' })
    expect(openTakeBody(take, 0)).toMatchObject({ ok: false, code: 'format-unknown' })
    expect(openTakeBody({ ...take, panels: { p1: {} } }, 5)).toMatchObject({ ok: false, code: 'malformed' })
  })

  it('opens what earlier formats kept: a level drawn anew in some panel is a figure, marks are listed in order', () => {
    for (const version of [1, 2]) {
      const opened = openTakeBody(JSON.parse(JSON.stringify(sampleTake())), version)
      expect(opened.ok && [opened.value.levels.tilda!.figure, opened.value.levels.sky!.figure]).toEqual([true, undefined])
    }
    const mark = (id: string, order: number) => ({ id, order, kind: 'stroke', mode: 'ink', points: [0, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 })
    const old = { marks: { b: mark('b', 2), c: mark('c', 1), a: mark('a', 2) } }
    const opened = openDrawing(old, 2)
    expect(opened.ok && opened.value.marks.map(({ id }) => id)).toEqual(['c', 'a', 'b'])
    expect(opened.ok && opened.value.marks.map(({ order }) => order)).toEqual(['a1', 'a2', 'a2'])
    expect(openDrawing({ marks: [mark('a', 2), mark('b', 1)] }, 3)).toMatchObject({ ok: false, code: 'malformed' })
    expect(openDrawing({ marks: [mark('a', 1), mark('a', 2)] }, 3)).toMatchObject({ ok: false, code: 'malformed' })
  })

  it('finds keys and cells that stand nowhere', () => {
    const take = sampleTake()
    const framing = { id: 'f', cameraId: 'zz', panelId: 'p1', offsetFrames: 24, pose: REST, move: { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }, locked: false }
    expect(takeProblems({ ...take, framings: { f: framing } }).map((problem) => problem.code)).toEqual(['offset-past-panel', 'missing-camera'])
    expect(takeProblems({ ...take, panels: { p1: take.panels.p1! } }).map((problem) => problem.code)).toEqual(['missing-panel'])
  })

  it('compares JSON whatever the order of keys', () => {
    expect(sameJson({ a: 1, b: [1, { c: null }] }, { b: [1, { c: null }], a: 1 })).toBe(true)
    expect(sameJson({ a: 1 }, { a: 1, b: undefined })).toBe(false)
    expect(sameJson([1, 2], [2, 1])).toBe(false)
  })
})
