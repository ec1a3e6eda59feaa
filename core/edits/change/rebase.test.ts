import fc from 'fast-check'
import { seen } from '../testing'
import { describe, expect, it } from 'vitest'
import { EMPTY_OUTLINE, EMPTY_TAKE, freeze, type Film, type Level, type TakeBody, orderOfNumber } from '../../document'
import { addLevel, applyChange, differencesOf, diffUnits, editLevel, editPanel, insistOn, invertChange, keyFraming, rebaseChange, rebaseOver, removeLevel, removePanel, sameJson, setPanelLength, type Change, type Made } from '../index'
import { untouchedPose } from '../../camera'

let ids = 0
const newId = () => `made${++ids}`
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const T = 't'

function level(id: string, order: number): Level {
  return { id, order: orderOfNumber(order), name: id, kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
}

function film(): Film {
  const panel = (id: string, order: number) => ({ id, order: orderOfNumber(order), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' })
  return {
    outline: freeze({ ...EMPTY_OUTLINE, takes: { [T]: { id: T, shotId: 's', order: 'a0', letter: 'A' } } }),
    takes: {
      [T]: freeze({
        ...EMPTY_TAKE,
        panels: { p1: panel('p1', 1), p2: panel('p2', 2) },
        levels: { sky: level('sky', 1), tilda: level('tilda', 2) },
        cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
      }),
    },
    drawings: {},
  }
}

let made = 0
function change(label: string, how: Made): Change {
  if (!how.ok) throw new Error(how.refusal.code)
  return { id: `change-${++made}`, label, edits: how.edits }
}
const after = (value: Film, ...changes: readonly Change[]): Film =>
  changes.reduce((now, each) => {
    const applied = applyChange(now, each)
    if (!applied.ok) throw new Error(applied.refusal.path.join('.'))
    return applied.value
  }, value)

describe('rebase', () => {
  const base = film()
  const name = (id: string, to: string) => change(`name ${id}`, editLevel(base.takes[T]!, T, id, { name: to }))
  const opacity = (id: string, to: number) => change(`opacity ${id}`, editLevel(base.takes[T]!, T, id, { opacity: to }))

  it('keeps what two people did to different fields of one level', () => {
    const theirs = after(base, name('sky', 'Evening'))
    const rebased = rebaseChange(theirs, opacity('sky', 0.5))
    expect(rebased.ok && rebased.film.takes[T]!.levels.sky).toMatchObject({ name: 'Evening', opacity: 0.5 })
  })

  it('names the field both gave a new value, with both values', () => {
    const theirs = after(base, opacity('sky', 0.2))
    const rebased = rebaseChange(theirs, opacity('sky', 0.5))
    expect(rebased).toMatchObject({ ok: false, clashes: [{ collection: 'levels', id: 'sky', fields: ['opacity'], mine: { opacity: 0.5 }, theirs: { opacity: 0.2 } }] })
  })

  it('takes the same thing done twice for one', () => {
    const theirs = after(base, opacity('sky', 0.5))
    const rebased = rebaseChange(theirs, opacity('sky', 0.5))
    expect(rebased.ok && rebased.change.edits).toEqual([])
  })

  it('tells when the other deleted what I changed, and the other way round', () => {
    const gone = after(base, change('delete', removeLevel(base.takes[T]!, T, 'sky', seen(base.takes[T]!, {}))))
    expect(rebaseChange(gone, opacity('sky', 0.5))).toMatchObject({ ok: false, clashes: [{ theirs: null, fields: [] }] })
    const changed = after(base, opacity('sky', 0.5))
    expect(rebaseChange(changed, change('delete', removeLevel(base.takes[T]!, T, 'sky', seen(base.takes[T]!, {}))))).toMatchObject({ ok: false, clashes: [{ mine: null, fields: [] }] })
  })

  it('finds that a panel I keyed in is gone, though no record was touched by both', () => {
    const gone = after(base, change('delete panel', removePanel(base.takes[T]!, T, 'p2', OPTICS, newId)))
    const key = change('key', keyFraming(base.takes[T]!, T, 'a', 30, untouchedPose(OPTICS), 'f1'))
    expect(rebaseChange(gone, key)).toMatchObject({ ok: false, clashes: [{ collection: 'framings', id: 'f1' }] })
  })

  it('insisting keeps their other fields and puts mine through', () => {
    const theirs = after(base, change('both', editLevel(base.takes[T]!, T, 'sky', { opacity: 0.2, name: 'Evening' })))
    const mine = insistOn(theirs, opacity('sky', 0.5), 'insisted')
    expect(mine.ok && mine.film.takes[T]!.levels.sky).toMatchObject({ name: 'Evening', opacity: 0.5 })
    expect(mine.ok && applyChange(theirs, mine.change).ok).toBe(true)
  })

  it('undoes only my own part of a level that another has changed since', () => {
    const mine = opacity('sky', 0.5)
    const both = after(base, mine, change('their name', editLevel(after(base, mine).takes[T]!, T, 'sky', { name: 'Evening' })))
    const undone = rebaseChange(both, invertChange(mine, 'undo'))
    expect(undone.ok && undone.film.takes[T]!.levels.sky).toMatchObject({ name: 'Evening', opacity: 1 })
  })

  it('the difference of two states makes the one into the other, and names what it touches', () => {
    const theirs = after(base, name('sky', 'Evening'), change('delete', removeLevel(base.takes[T]!, T, 'tilda', seen(base.takes[T]!, {}))))
    const unit = { kind: 'take' as const, id: T }
    const edit = diffUnits(unit, base.takes[T]!, theirs.takes[T]!, 'version')!
    expect(sameJson(after(base, { id: 'difference', label: 'x', edits: [edit] }).takes[T], theirs.takes[T])).toBe(true)
    expect(differencesOf(edit).map(({ id, how, name: called, fields }) => ({ id, how, called, fields }))).toEqual([
      { id: 'sky', how: 'changed', called: 'Evening', fields: ['name'] },
      { id: 'tilda', how: 'removed', called: 'tilda', fields: [] },
    ])
    expect(diffUnits(unit, theirs.takes[T]!, theirs.takes[T]!, 'version')).toBeNull()
  })

  it('changes of different records come out the same in either order', () => {
    const someChange = fc.oneof(
      fc.record({ id: fc.constantFrom('sky', 'tilda'), opacity: fc.double({ min: 0, max: 1, noNaN: true }) }).map((v) => (f: TakeBody) => editLevel(f, T, v.id, { opacity: v.opacity })),
      fc.record({ id: fc.constantFrom('sky', 'tilda'), name: fc.constantFrom('one', 'two') }).map((v) => (f: TakeBody) => editLevel(f, T, v.id, { name: v.name })),
      fc.record({ id: fc.constantFrom('p1', 'p2'), action: fc.constantFrom('runs', 'stops') }).map((v) => (f: TakeBody) => editPanel(f, T, v.id, { action: v.action })),
      fc.record({ id: fc.constantFrom('p1', 'p2'), frames: fc.integer({ min: 1, max: 60 }) }).map((v) => (f: TakeBody) => setPanelLength(f, T, v.id, v.frames)),
      fc.constant((f: TakeBody) => addLevel(f, T, level('added', 9), null)),
    )
    fc.assert(
      fc.property(fc.array(someChange, { maxLength: 4 }), fc.array(someChange, { maxLength: 4 }), (hers, his) => {
        const run = (makers: readonly ((f: TakeBody) => Made)[]) => {
          const changes: Change[] = []
          let now = film()
          for (const make of makers) {
            const result = make(now.takes[T]!)
            // A panel that gets the length it has changes nothing.
            if (!result.ok || result.edits.every((edit) => Object.keys(edit.changes).length === 0)) continue
            const one = change('x', result)
            changes.push(one)
            now = after(now, one)
          }
          return { changes, now }
        }
        const [a, b] = [run(hers), run(his)]
        const merged = rebaseOver(b.now, b.changes, (under) => after(under, ...a.changes))
        // Theirs stands whole; mine is kept or told, never lost in silence.
        expect(merged.clashing.length === 0 || merged.clashing.every(({ clashes }) => clashes.length > 0)).toBe(true)
        const replayed = after(a.now, ...merged.kept)
        expect(sameJson(replayed, merged.film)).toBe(true)
        // Where both went through the same values of one field, the later one stands: that depends on the order.
        const touched = (changes: readonly Change[]) => changes.flatMap(({ edits }) => edits.flatMap((edit) => Object.entries(edit.changes).flatMap(([collection, records]) => Object.keys(records).map((id) => `${collection}/${id}`))))
        const hersTouched = new Set(touched(a.changes))
        if (merged.clashing.length === 0 && !touched(b.changes).some((record) => hersTouched.has(record))) {
          const other = rebaseOver(a.now, a.changes, (under) => after(under, ...b.changes))
          expect(other.clashing).toEqual([])
          expect(sameJson(other.film, merged.film)).toBe(true)
        }
      }),
    )
  })
})
