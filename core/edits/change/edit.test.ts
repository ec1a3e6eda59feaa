import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inOrder, type TakeBody, takeLengthFrames } from '../../document'
import { addPanel, applyToUnit, checkEdit, duplicateLevel, type Edit, editLevel, editSchema, EMPTY_HISTORY, invert, keyFraming, type Made, merge, mergeChanges, moveKey, record, removeKeys, removePanel, setLevelDepth, setPanelLength, stepBack, stepForward } from '..'
import { newId, OPTICS, REST, T, seen, sampleTake, done, editsOf } from '../testing'

describe('an edit', () => {
  const take = sampleTake()
  const edit = editsOf(setPanelLength(take, T, 'p1', 30))[0]!

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
  (take, n) => setLevelDepth(take, T, Object.keys(take.levels)[n % Object.keys(take.levels).length]!, n / 20, seen(take, REST)),
  (take, n) => duplicateLevel(take, T, Object.keys(take.levels)[n % Object.keys(take.levels).length]!, `copy-${n}-${Object.keys(take.levels).length}`, 'copy', newId),
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

describe('history', () => {
  const at = (frame: number) => ({ shotId: 's1', frame, selection: [`level:${frame}`] })
  const take = sampleTake()
  const change = (id: string, length: number, from = take) => ({ id, label: `length ${length}`, edits: editsOf(setPanelLength(from, T, 'p1', length)) })

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
