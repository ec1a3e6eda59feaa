import { describe, expect, it } from 'vitest'
import { breakdownSchema, EMPTY_BREAKDOWN, EMPTY_OUTLINE, type Breakdown, type Film } from '../../document'
import { WEIGHTS } from '../../checks'
import { addWorkColumn, applyChange, invertChange, rebaseChange, removeWorkColumn, renameWorkColumn, sayOfWork, setWorkWeights, type Change, type Made } from '../index'
import { newId } from '../testing'

const film = (breakdown: Breakdown): Film => ({ outline: EMPTY_OUTLINE, takes: {}, drawings: {}, breakdowns: { film: breakdown } })
const change = (made: Made): Change => {
  if (!made.ok) throw new Error(made.refusal.code)
  return { id: newId(), label: 'x', edits: made.edits }
}
function after(breakdown: Breakdown, made: Made): Breakdown {
  const applied = applyChange(film(breakdown), change(made))
  if (!applied.ok) throw new Error(applied.refusal.code)
  const now = applied.value.breakdowns!.film!
  expect(breakdownSchema.safeParse(now).success).toBe(true)
  return now
}
const say = (breakdown: Breakdown, id: string, fields: Parameters<typeof sayOfWork>[1][number]['fields']) => after(breakdown, sayOfWork(breakdown, [{ id, fields }]))

describe('what is said of work', () => {
  it('is kept field by field, and nothing is kept where nothing is said', () => {
    let now = say(EMPTY_BREAKDOWN, 'shot.a', { state: 'work', who: 'Ines' })
    now = say(now, 'shot.a', { days: 2.5, notes: '' })
    expect(now.work).toEqual({ 'shot.a': { id: 'shot.a', state: 'work', who: 'Ines', days: 2.5 } })
    now = say(now, 'shot.a', { state: null, who: null, days: null })
    expect(now.work).toEqual({})
    expect(sayOfWork(now, [])).toMatchObject({ ok: false, refusal: { code: 'nothing-selected' } })
    // One row twice in a table: both are said.
    const both = after(EMPTY_BREAKDOWN, sayOfWork(EMPTY_BREAKDOWN, [{ id: 'set.b', fields: { who: 'Ines' } }, { id: 'set.b', fields: { days: 1 } }]))
    expect(both.work['set.b']).toEqual({ id: 'set.b', who: 'Ines', days: 1 })
  })

  it('in columns of one’s own goes with the column, and comes back with it', () => {
    let now = after(EMPTY_BREAKDOWN, addWorkColumn(EMPTY_BREAKDOWN, 'c1', ' Palette ', 'things'))
    now = after(now, addWorkColumn(now, 'c2', 'Brush', 'things'))
    expect(Object.values(now.columns).map(({ name }) => name)).toEqual(['Palette', 'Brush'])
    now = say(now, 'set.b', { own: { c1: 'tar', c2: 'wide' } })
    now = say(now, 'shot.a', { own: { c1: 'ochre' } })
    now = after(now, renameWorkColumn(now, 'c1', 'Colours'))
    const gone = change(removeWorkColumn(now, 'c1'))
    const applied = applyChange(film(now), gone)
    expect(applied.ok && applied.value.breakdowns!.film!.work).toEqual({ 'set.b': { id: 'set.b', own: { c2: 'wide' } } })
    const back = applied.ok ? applyChange(applied.value, invertChange(gone, 'back')) : applied
    expect(back.ok && back.value.breakdowns!.film).toEqual(now)
    expect(removeWorkColumn(now, 'zz')).toMatchObject({ ok: false })
    let many = EMPTY_BREAKDOWN
    for (let i = 0; i < 24; i++) many = after(many, addWorkColumn(many, `c${i}`, `C${i}`, 'shots'))
    expect(addWorkColumn(many, 'c24', 'C', 'shots')).toMatchObject({ ok: false, refusal: { code: 'too-many-columns' } })
  })

  it('by two hands at once is both, of one thing in two fields too', () => {
    const base = say(EMPTY_BREAKDOWN, 'shot.a', { state: 'work' })
    const [mine, theirs] = [change(sayOfWork(base, [{ id: 'shot.a', fields: { who: 'Ines' } }])), change(sayOfWork(base, [{ id: 'shot.a', fields: { days: 3 } }, { id: 'set.b', fields: { state: 'done' } }]))]
    const now = applyChange(film(base), theirs)
    if (!now.ok) throw new Error('theirs')
    const rebased = rebaseChange(now.value, mine)
    expect(rebased.ok).toBe(true)
    const both = rebased.ok ? applyChange(now.value, rebased.change) : null
    expect(both?.ok === true && both.value.breakdowns!.film!.work).toEqual({ 'shot.a': { id: 'shot.a', state: 'work', who: 'Ines', days: 3 }, 'set.b': { id: 'set.b', state: 'done' } })
  })

  it('counts as the film says, or as usual', () => {
    const now = after(EMPTY_BREAKDOWN, setWorkWeights(EMPTY_BREAKDOWN, { ...WEIGHTS, level: 2 }))
    expect(now.weights.weights).toMatchObject({ level: 2 })
    expect(after(now, setWorkWeights(now, null)).weights).toEqual({})
  })
})
