import { describe, expect, it } from 'vitest'
import { cellIdOf, type Drawing, EMPTY_DRAWING, freeze, type Mark, orderOfNumber, placedPanels, shownCell } from '../../document'
import { addMarks, applyToUnit, backFigure, blankCell, carryMarks, clearCell, drawMark, duplicateLevel, duplicatePanels, editLevel, fillArea, invert, type Made, recolourMarks, removeMarks, replaceMarks } from '..'
import { drawingBounds } from '../../ink'
import { newId, T, sampleTake, done, editsOf } from '../testing'

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
    const take = done(sampleTake(), duplicateLevel(sampleTake(), T, 'sky', 'sky2', 'Sky 2', newId))
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

  it('sets words and arrows as ink is: anew on what is held; for print alone they leave it as it is seen', () => {
    const words = { id: 'w', kind: 'fill' as const, mode: 'ink' as const, outlines: [[0, 0, 0.1, 0, 0, 0.1]], colour: '#27241e', opacity: 1, words: { text: 'Dusk', font: 'plain' as const, align: 'start' as const, place: [0.1, 0, 0, 0.1, 0, 0] } }
    expect(after(drawMark(sampleTake(), T, marked, 'tilda', 'p3', words, 'new', false), 'new').map(({ id }) => id)).toEqual(['w'])
    const note = after(drawMark(sampleTake(), T, marked, 'tilda', 'p3', { ...words, forPrint: true }, 'new', false), 'new')
    expect([note.map(({ id }) => id), drawingBounds({ marks: note })]).toEqual([['a', 'b', 'w'], drawingBounds(marked['d-2'])])
    // Changed, they keep their place in the pile; what is gone meanwhile is passed over.
    const pile = { ...marked, 'd-2': { marks: [line('a', 1), { ...words, order: orderOfNumber(2) }, line('b', 3)] } }
    const changed = after(replaceMarks({ ...place('p2'), drawings: pile }, [{ ...words, colour: '#c2452d' }, { ...words, id: 'gone' }]), 'd-2', pile['d-2'])
    expect(changed.map(({ id }) => id)).toEqual(['a', 'w', 'b'])
    expect(changed[1]).toMatchObject({ colour: '#c2452d', order: orderOfNumber(2) })
    expect(replaceMarks(place('p2'), [])).toMatchObject({ ok: false, refusal: { code: 'nothing-selected' } })
  })

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
    const add = editsOf(drawMark(sampleTake(), T, { 'd-2': many }, 'tilda', 'p2', stroke, 'new', false))[0]!
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
