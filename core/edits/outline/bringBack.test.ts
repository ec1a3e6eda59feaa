import { describe, expect, it } from 'vitest'
import { drawingSchema } from '../../document/units'
import { EMPTY_OUTLINE, setsIn, unfolded, UNIT_KINDS, type Film, type Level, type LevelOwner, type TakeBody } from '../../document'
import { createTakeStage, placedLevel, seenAt } from '../../stage'
import { applyChange, bringAsLevels, bringBack, editInSet, invertChange, keyLevel, makeSet, redraw, type Change, type Made, type PaintedBack } from '../index'
import { level, newId, OPTICS, REST, sampleTake, T } from '../testing'

const stroke = (id: string, order = 'a1') => ({ id, order, kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5, 1, 1, 0.5], widthFw: 0.01, colour: '#000000', opacity: 1 })
const paint = (levelId: string, drawingId: string, hash = 'a'): PaintedBack => ({ levelId, drawingId, picture: { assetHash: hash.repeat(64), widthPx: 200, heightPx: 100, x: 0.1, y: 0.2, widthFw: 1.5 } })
const TAKE: LevelOwner = { kind: 'take', id: T }

function film(): Film {
  const take: TakeBody = sampleTake([24, 12])
  const tilda: Level = { ...take.levels.tilda!, pivot: { x: 0.2, y: -0.1 }, swing: { amount: 8, periodFrames: 10, phase: 0 } }
  let now: Film = { outline: EMPTY_OUTLINE, takes: { [T]: { ...take, levels: { ...take.levels, tilda, gull: level('gull', 3, 1) } } }, drawings: { 'd-sky': { marks: [stroke('m1')] }, 'd-1': { marks: [stroke('m2')] }, 'd-2': { marks: [stroke('m3')] } }, sets: {} }
  for (const [frame, size] of [[0, 1], [20, 2]] as const) now = after(now, keyLevel(now.takes[T]!, T, 'tilda', frame, { place: { x: frame / 40, y: 0, depth: frame / 50 }, size }, newId))
  return now
}
const change = (made: Made): Change => {
  if (!made.ok) throw new Error(made.refusal.code)
  return { id: newId(), label: 'x', edits: made.edits }
}
function after(now: Film, made: Made): Film {
  const applied = applyChange(now, change(made))
  if (!applied.ok) throw new Error(`${applied.refusal.code} ${applied.refusal.path.join('.')}`)
  for (const take of Object.values(applied.value.takes)) expect(UNIT_KINDS.take.problems(take)).toEqual([])
  for (const set of Object.values(applied.value.sets ?? {})) expect(UNIT_KINDS.set.problems(set)).toEqual([])
  return applied.value
}
const referenceOn = (levels: Readonly<Record<string, Level>>, levelId: string) => Object.values(levels).filter(({ kind, carrier }) => kind === 'reference' && carrier?.kind === 'level' && carrier.levelId === levelId)
const roughAt = (now: Film, frame: number, levelId: string) => {
  const [reference] = referenceOn(now.takes[T]!.levels, levelId)
  return placedLevel(createTakeStage(now.takes[T]!, OPTICS).at(frame), reference!.id)?.drawingId ?? null
}

describe('art that comes back painted', () => {
  it('is what the level shows, and what was drawn lies under it, wherever that goes', () => {
    const before = film()
    const now = after(before, bringBack(before, TAKE, [paint('tilda', 'd-1')], true, newId))
    expect(now.drawings['d-1']!.marks).toMatchObject([{ kind: 'picture', widthFw: 1.5 }])
    expect(now.drawings['d-2']).toBe(before.drawings['d-2'])
    const references = referenceOn(now.takes[T]!.levels, 'tilda')
    expect(references).toHaveLength(1)
    expect(references[0]).toMatchObject({ name: 'tilda, rough', locked: true, visible: true, over: false })
    const stage = createTakeStage(now.takes[T]!, OPTICS)
    for (const frame of [0, 7, 20, 23]) {
      const { lens, ...view } = stage.at(frame)
      const [art, rough] = ['tilda', references[0]!.id].map((id) => placedLevel({ lens, ...view }, id)!)
      expect(now.drawings[rough!.drawingId!]!.marks.map(({ id }) => id)).toEqual(['m2'])
      for (const point of [{ x: -0.5, y: 0.3 }, { x: 1, y: 1 }]) {
        const [a, b] = [seenAt(lens, art!, point), seenAt(lens, rough!, point)]
        expect(b.u).toBeCloseTo(a.u, 9)
        expect(b.v).toBeCloseTo(a.v, 9)
      }
    }
    // Where it shows another drawing there is no rough of that yet.
    expect(roughAt(now, 30, 'tilda')).toBeNull()
    const both = after(now, bringBack(now, TAKE, [paint('tilda', 'd-2')], true, newId))
    expect(referenceOn(both.takes[T]!.levels, 'tilda')).toHaveLength(1)
    expect([roughAt(both, 0, 'tilda'), roughAt(both, 30, 'tilda')].map((id) => both.drawings[id!]!.marks.map((mark) => mark.id))).toEqual([['m2'], ['m3']])
  })

  it('painted again takes the place of what was painted; what was drawn on that is kept with the rough', () => {
    const first = after(film(), bringBack(film(), TAKE, [paint('sky', 'd-sky')], true, newId))
    const drawn: Film = { ...first, drawings: { ...first.drawings, 'd-sky': { marks: [...first.drawings['d-sky']!.marks, stroke('m1', 'a9')] } } }
    const again = after(drawn, bringBack(drawn, TAKE, [paint('sky', 'd-sky', 'b')], true, newId))
    expect(again.drawings['d-sky']!.marks).toMatchObject([{ kind: 'picture', assetHash: 'b'.repeat(64) }])
    const rough = again.drawings[roughAt(again, 0, 'sky')!]!
    expect(rough.marks.map(({ kind }) => kind)).toEqual(['stroke', 'stroke'])
    expect(referenceOn(again.takes[T]!.levels, 'sky')).toHaveLength(1)
    expect(drawingSchema.safeParse(rough).success).toBe(true)
  })

  it('leaves no reference where none is wanted, or nothing was drawn', () => {
    const before = film()
    const bare = after(before, bringBack(before, TAKE, [paint('sky', 'd-sky')], false, newId))
    expect(referenceOn(bare.takes[T]!.levels, 'sky')).toEqual([])
    const empty: Film = { ...before, drawings: { ...before.drawings, 'd-sky': { marks: [] } } }
    const painted = after(empty, bringBack(empty, TAKE, [paint('sky', 'd-sky')], true, newId))
    expect(referenceOn(painted.takes[T]!.levels, 'sky')).toEqual([])
    expect(painted.drawings['d-sky']!.marks).toHaveLength(1)
  })

  it('of a set’s piece is seen in every shot that the set stands in', () => {
    let before = film()
    const project = { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 }
    before = { ...before, outline: { ...EMPTY_OUTLINE, project: { film: project } } }
    before = after(before, makeSet(before, 'film', T, ['sky'], { set: 'marsh', level: 'marsh-level' }, 'Marsh', { frame: 0, camera: REST }))
    const now = after(before, bringBack(before, { kind: 'set', id: 'marsh' }, [paint('sky', 'd-sky')], true, newId))
    const set = now.sets!.marsh!
    const [rough] = referenceOn(set.pieces, 'sky')
    expect(now.drawings[set.art[rough!.id]!.drawingId]!.marks.map(({ id }) => id)).toEqual(['m1'])
    const take = unfolded(now.takes[T]!, (id) => now.sets?.[id] ?? null)
    const { lens, levels } = createTakeStage(take, OPTICS).at(3)
    const [a, b] = ['d-sky', set.art[rough!.id]!.drawingId].map((id) => levels.find(({ drawingId }) => drawingId === id)!)
    expect(seenAt(lens, b!, { x: 0.3, y: 0.2 })).toEqual(seenAt(lens, a!, { x: 0.3, y: 0.2 }))
    expect(setsIn(now.takes[T]!)).toHaveLength(1)
    // Painted again while the set is open in a shot: it is one reference still.
    const open = { takeId: T, setLevelId: 'marsh-level', frame: 0, camera: REST }
    const again = after(now, editInSet(now, open, (f) => bringBack(f, { kind: 'set', id: 'marsh' }, [paint('sky', 'd-sky', 'c')], true, newId)))
    expect(referenceOn(again.sets!.marsh!.pieces, 'sky')).toHaveLength(1)
  })

  it('undone is the original; a locked level, or one that shows it no more, refuses', () => {
    const before = film()
    const done = change(bringBack(before, TAKE, [paint('tilda', 'd-1'), paint('sky', 'd-sky')], true, newId))
    const applied = applyChange(before, done)
    const undone = applied.ok ? applyChange(applied.value, invertChange(done, 'back')) : applied
    expect(undone.ok && { ...undone.value, drawings: Object.fromEntries(Object.entries(undone.value.drawings).filter(([, { marks }]) => marks.length > 0)) }).toEqual(before)
    const why = (now: Film, painted: PaintedBack) => ((made) => (made.ok ? null : made.refusal.code))(bringBack(now, TAKE, [painted], true, newId))
    expect(why(before, paint('nobody', 'd-1'))).toBe('missing')
    expect(why(before, paint('gull', 'd-1'))).toBe('missing')
    const take = before.takes[T]!
    expect(why({ ...before, takes: { [T]: { ...take, levels: { ...take.levels, sky: { ...take.levels.sky!, locked: true } } } } }, paint('sky', 'd-sky'))).toBe('level-locked')
  })
})

describe('lines that come back', () => {
  const bare = ({ order: _, ...mark }: ReturnType<typeof stroke>) => mark
  it('take the place of those that went out, and change nothing of what lies as it lay', () => {
    const before = { ...film(), drawings: { ...film().drawings, 'd-sky': { marks: [stroke('m1', 'a1'), stroke('m2', 'a2'), stroke('m3', 'a3')] } } }
    const [m1, m2, m3] = before.drawings['d-sky']!.marks as [ReturnType<typeof stroke>, ReturnType<typeof stroke>, ReturnType<typeof stroke>]
    const same = redraw(before, TAKE, 'sky', 'd-sky', [m1, m2, m3].map(bare))
    expect(same.ok && same.edits.every((edit) => Object.keys(edit.changes).length === 0)).toBe(true)
    const moved = redraw(before, TAKE, 'sky', 'd-sky', [bare(m1), { ...bare(m3), colour: '#ff0000' }, bare(stroke('new'))])
    if (!moved.ok) throw new Error(moved.refusal.code)
    expect(Object.keys(moved.edits[0]!.changes.marks!).sort()).toEqual(['m2', 'm3', 'new'])
    const now = after(before, moved)
    expect(now.drawings['d-sky']!.marks.map(({ id }) => id)).toEqual(['m1', 'm3', 'new'])
    expect(applyChange(now, invertChange(change(moved), 'undo'))).toMatchObject({ ok: true, value: { drawings: { 'd-sky': before.drawings['d-sky'] } } })
    // Turned about in the pile.
    expect(after(before, redraw(before, TAKE, 'sky', 'd-sky', [m3, m1].map(bare))).drawings['d-sky']!.marks.map(({ id }) => id)).toEqual(['m3', 'm1'])
    expect(drawingSchema.safeParse(now.drawings['d-sky']).success).toBe(true)
  })

  it('are refused where there is nothing to come back to', () => {
    const now = film()
    expect(redraw(now, TAKE, 'gone', 'd-sky', [])).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'level' } })
    expect(redraw(now, TAKE, 'sky', 'd-1', [])).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'drawing' } })
    const locked = { ...now, takes: { [T]: { ...now.takes[T]!, levels: { ...now.takes[T]!.levels, sky: { ...now.takes[T]!.levels.sky!, locked: true } } } } }
    expect(redraw(locked, TAKE, 'sky', 'd-sky', [bare(stroke('m1'))])).toMatchObject({ ok: false, refusal: { code: 'level-locked' } })
  })

  it('that are new are a drawn level, in any of the ways that boards come in', () => {
    const now = film()
    const layer = { name: 'Lines', picture: [bare(stroke('a')), bare(stroke('b'))], opacity: 1, visible: true }
    const levels = after(now, bringAsLevels(now.takes[T]!, T, Object.keys(now.takes[T]!.panels)[0]!, [layer], newId))
    const made = Object.values(levels.takes[T]!.levels).find(({ name }) => name === 'Lines')!
    const cell = Object.values(levels.takes[T]!.cells).find(({ levelId }) => levelId === made.id)!
    expect([made.kind, levels.drawings[cell.drawingId!]!.marks.map(({ id }) => id)]).toEqual(['drawn', ['a', 'b']])
  })
})
