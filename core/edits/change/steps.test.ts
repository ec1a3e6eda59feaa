import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareOrdered, isInOrder, orderOfNumber } from '../../document/order'
import { drawingRef, EMPTY_DRAWING, freeze, type Drawing, type Mark, type Stroke } from '../../document'
import { drawingBounds } from '../../ink'
import { applyToUnit, invert, type Edit, type RecordChange } from './edit'
import { rebaseChange } from './rebase'

const mark = (id: string, order: number, opacity = 1): Mark => freeze({ id, order: orderOfNumber(order), kind: 'stroke', mode: 'ink', points: [order / 100, 0, 0.5, order / 100, 0.1, 0.5], widthFw: 0.002, colour: '#000000', opacity })
const edit = (marks: Readonly<Record<string, RecordChange>>): Edit => ({ kind: 'x', unit: drawingRef('d'), changes: { marks } })
const pile = (count: number): Drawing => freeze({ ...EMPTY_DRAWING, marks: Array.from({ length: count }, (_, i) => mark(`m${i}`, i)) })
function after(drawing: Drawing, step: Edit): Drawing {
  const applied = applyToUnit(drawing, step)
  if (!applied.ok) throw new Error(applied.refusal.code)
  return applied.value
}
const plain = (drawing: Drawing) => JSON.parse(JSON.stringify(drawing)) as Drawing

describe('a step of a drawing that is taken back, or made again', () => {
  it('leads to the very pile that was there, put on top or changed in the middle', () => {
    for (const step of [edit({ new: { before: null, after: mark('new', 900) } }), edit({ m3: { before: pile(9).marks[3]!, after: null }, m5: { before: pile(9).marks[5]!, after: mark('m5', 1.5, 0.3) } })]) {
      const begun = pile(9)
      const once = after(begun, step)
      const back = after(once, invert(step))
      expect(back.marks).toBe(begun.marks)
      expect(after(back, step).marks).toBe(once.marks)
      // What is told of the pile is told of it again.
      expect(drawingBounds(back)).toEqual(drawingBounds(plain(begun)))
    }
  })

  it('is made on what others did meanwhile, and refused where that is not what it saw', () => {
    const begun = pile(4)
    const mine = edit({ new: { before: null, after: mark('new', 900) } })
    const theirs = edit({ m1: { before: begun.marks[1]!, after: mark('m1', 1, 0.5) } })
    const both = after(after(begun, mine), theirs)
    expect(after(both, invert(mine)).marks.map((each) => [each.id, (each as Stroke).opacity])).toEqual([['m0', 1], ['m1', 0.5], ['m2', 1], ['m3', 1]])
    const other = edit({ new: { before: mark('new', 900, 0.25), after: null } })
    expect(applyToUnit(both, other)).toEqual({ ok: false, refusal: { code: 'stale', path: ['marks', 'new'] } })
    // The same by its words, and not the same object: it goes, and makes a pile of its own.
    expect(plain(after(after(begun, mine), JSON.parse(JSON.stringify(invert(mine))) as Edit))).toEqual(plain(begun))
  })

  it('whatever is done, undone and done again, each drawing is what it would be worked out from nothing, and in order', () => {
    const step = fc.record({ what: fc.constantFrom('put', 'put', 'drop', 'change', 'undo', 'redo', 'again'), at: fc.nat(40), order: fc.double({ min: -50, max: 50, noNaN: true }) })
    let numRuns = 0
    fc.assert(
      fc.property(fc.nat(12), fc.array(step, { maxLength: 30 }), (count, steps) => {
        numRuns++
        let now = pile(count)
        let past: Edit[] = []
        let future: Edit[] = []
        let told: readonly Mark[] = plain(now).marks
        const tell = (each: Edit) => {
          const changed = Object.entries(each.changes.marks!)
          told = [...told.filter(({ id }) => each.changes.marks![id] === undefined), ...changed.flatMap(([, { after: put }]) => (put === null ? [] : [put as Mark]))].sort(compareOrdered)
        }
        for (const [i, { what, at, order }] of steps.entries()) {
          if (what === 'undo' || what === 'redo') {
            const taken = (what === 'undo' ? past : future).pop()
            if (taken === undefined) continue
            const made = what === 'undo' ? invert(taken) : taken
            const film = { outline: {} as never, takes: {}, drawings: { d: now } }
            const rebased = rebaseChange(film, { id: 'change-1', label: 'x', edits: [made] })
            if (!rebased.ok) throw new Error('clash')
            now = rebased.film.drawings.d!
            tell(made)
            ;(what === 'undo' ? future : past).push(taken)
          } else {
            const there = now.marks[at % Math.max(1, now.marks.length)]
            if (there === undefined && what !== 'put') continue
            const id = what === 'put' ? `n${numRuns}-${i}` : there!.id
            const made = edit({ [id]: { before: what === 'put' ? null : there!, after: what === 'drop' ? null : mark(id, order, what === 'change' ? 0.5 : 1) } })
            now = after(now, made)
            tell(made)
            past = [...past, made]
            future = []
          }
          expect(plain(now).marks).toEqual(JSON.parse(JSON.stringify(told)))
          expect([isInOrder(now.marks), isInOrder(plain(now).marks)]).toEqual([true, true])
          expect(drawingBounds(now)).toEqual(drawingBounds(plain(now)))
        }
      }),
      { numRuns: 300 },
    )
  })

  it('that names a record by another’s id is not remembered', () => {
    const begun = pile(3)
    const wrong = edit({ other: { before: null, after: mark('new', 900) } })
    expect(applyToUnit(after(begun, wrong), invert(wrong))).toMatchObject({ ok: false, refusal: { code: 'stale' } })
  })
})
