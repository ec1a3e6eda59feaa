import { describe, expect, it } from 'vitest'
import { EMPTY_OUTLINE, EMPTY_TAKE, type Drawing, type Film, type TakeBody } from '@rubato/core/document'
import { overBudget } from './bodyBudget'

const drawing = (points: number): Drawing => ({ marks: [{ id: 'm', order: 'a1', kind: 'stroke', mode: 'ink', points: Array.from({ length: points }, () => 0.1), widthFw: 0.01, colour: '#000000', opacity: 1 }] })
const take = (...drawingIds: string[]): TakeBody => ({ ...EMPTY_TAKE, cells: Object.fromEntries(drawingIds.map((drawingId, i) => [`l${i}.p`, { id: `l${i}.p`, levelId: `l${i}`, panelId: 'p', drawingId }])) })
const film: Film = {
  outline: EMPTY_OUTLINE,
  takes: { a: take('d1', 'shared'), b: take('d2', 'shared'), c: take('d3') },
  drawings: { d1: drawing(3000), d2: drawing(3000), d3: drawing(3000), shared: drawing(3000) },
}
const usedAt = new Map([['a', 1], ['b', 2], ['c', 3]])
const nothing = { takes: new Set<string>(), drawings: new Set<string>() }

describe('the budget of bodies', () => {
  it('lets nothing go while it holds', () => {
    expect(overBudget(film, usedAt, nothing, 1e6)).toBeNull()
  })

  it('lets the take used longest ago go, with the drawings that only it shows', () => {
    expect(overBudget(film, usedAt, nothing, 98_000)).toEqual({ takes: ['a', 'b'], drawings: ['d1', 'd2', 'shared'] })
    expect(overBudget(film, new Map([['a', 9], ['b', 2], ['c', 3]]), nothing, 98_000)).toEqual({ takes: ['b', 'c'], drawings: ['d2', 'd3'] })
  })

  it('keeps what is needed, whatever it costs', () => {
    const needed = { takes: new Set(['a', 'b']), drawings: new Set(['d3']) }
    expect(overBudget(film, usedAt, needed, 10)).toEqual({ takes: ['c'], drawings: [] })
    expect(overBudget(film, usedAt, { ...needed, takes: new Set(['a', 'b', 'c']) }, 10)).toBeNull()
  })
})
