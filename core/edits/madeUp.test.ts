import { beforeAll, describe, expect, it, vi } from 'vitest'
import { z } from 'zod'
import { ANCHORED } from '../document/anchored'
import { orderOfNumber } from '../document/order'
import { placedPanels } from '../document/panels'
import { takeProblems } from '../document/checkTake'
import { UNIT_KINDS } from '../document/unitKinds'
import { EMPTY_OUTLINE, EMPTY_TAKE, type Film, type TakeBody } from '../document/units'
import { applyChange, carryPanels, checkEdit, cutShot, editSchema, filmOrder, invertChange, joinPanels, joinShots, mergeChanges, movePanels, rebaseChange, removePanels, setPanelLength, splitPanel, type Change, type Edit, type Made } from './index'

/**
 * A kind of record that stands at a panel's frame, and a kind of unit, neither of which there is. What the first takes is a
 * line in `anchored.ts` and its schema in `units.ts` (2 files), the second an entry in `unitKinds.ts` with its schema and its
 * place in a film in `units.ts` (2 files): everything here goes by those alone.
 */
vi.mock('../document/units', async (original) => {
  const units = await original<Record<'EMPTY_TAKE' | 'UNIT_SCHEMAS', Record<string, object>>>()
  const bell = z.strictObject({ id: z.string(), panelId: z.string(), offsetFrames: z.number(), tone: z.string() })
  const note = z.strictObject({ id: z.string(), words: z.string() })
  return { ...units, EMPTY_TAKE: Object.freeze({ ...units.EMPTY_TAKE, bells: Object.freeze({}) }), UNIT_SCHEMAS: { ...units.UNIT_SCHEMAS, take: { ...units.UNIT_SCHEMAS.take, bells: bell }, song: { notes: note } } }
})
beforeAll(() => {
  Object.assign(ANCHORED, { bells: { owner: null, slotOf: () => 'bell', track: false } })
})

interface Bell {
  readonly id: string
  readonly panelId: string
  readonly offsetFrames: number
  readonly tone: string
}
const bellsIn = (take: TakeBody) => (take as unknown as { readonly bells: Readonly<Record<string, Bell>> }).bells
/** Each bell by its tone and the frame it is heard at. */
function heard(take: TakeBody): Record<string, number> {
  const starts = new Map(placedPanels(take).map(({ panel, startFrame }) => [panel.id, startFrame]))
  return Object.fromEntries(Object.values(bellsIn(take)).map(({ tone, panelId, offsetFrames }) => [tone, starts.get(panelId)! + offsetFrames]))
}

let ids = 0
const newId = () => `n${++ids}`
/** Panels of twelve frames, each with a bell on its sixth. */
function takeOf(name: string, panels: number): TakeBody {
  const list = Array.from({ length: panels }, (_, i) => `${name}${i}`)
  const bells = Object.fromEntries(list.map((id): [string, Bell] => [`bell-${id}`, { id: `bell-${id}`, panelId: id, offsetFrames: 5, tone: id }]))
  return {
    ...EMPTY_TAKE,
    panels: Object.fromEntries(list.map((id, i) => [id, { id, order: orderOfNumber(i), lengthFrames: 12, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
    cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } },
    ...({ bells } as object),
  }
}
const film: Film = {
  outline: {
    ...EMPTY_OUTLINE,
    project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
    sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
    shots: Object.fromEntries(['p', 'r'].map((id, i) => [`s${id}`, { id: `s${id}`, sequenceId: 'q', order: orderOfNumber(i), label: `0${i + 1}0`, title: '', circledTakeId: id }])),
    takes: Object.fromEntries(['p', 'r'].map((id) => [id, { id, shotId: `s${id}`, order: 'a0', letter: 'A' }])),
  },
  get takes() {
    return { p: takeOf('p', 3), r: takeOf('r', 2) }
  },
  drawings: {},
}
const changeOf = (edits: readonly Edit[]): Change => ({ id: `change-${newId()}`, label: 'x', edits })

/** The film after, which undo takes back exactly, and in which all bells stand in panels. */
function after(made: Made, from: Film = film): Film {
  if (!made.ok) throw new Error(made.refusal.code)
  for (const edit of made.edits) expect(checkEdit(edit)).toBeNull()
  const change = changeOf(made.edits)
  const applied = applyChange(from, change)
  if (!applied.ok) throw new Error(applied.refusal.code)
  const back = applyChange(applied.value, invertChange(change, newId()))
  if (!back.ok) throw new Error('undo')
  expect(back.value.takes.p).toEqual(from.takes.p)
  for (const shot of Object.values(applied.value.outline.shots)) expect(takeProblems(applied.value.takes[shot.circledTakeId]!)).toEqual([])
  return applied.value
}
const takeP = (made: Made) => heard(after(made).takes.p!)
const p = () => film.takes.p!

describe('a made-up kind of anchored record', () => {
  it('stays at its frame when panels are split and joined', () => {
    expect(takeP(splitPanel(p(), 'p', 'p1', 3, newId()))).toEqual(heard(p()))
    expect(takeP(splitPanel(p(), 'p', 'p1', 8, newId()))).toEqual(heard(p()))
    expect(takeP(joinPanels(film, 'film', 'p', ['p0', 'p1']))).toEqual(heard(p()))
  })

  it('goes along with its panel, and is drawn in where that gets shorter', () => {
    expect(takeP(movePanels(p(), 'p', ['p2'], 'p0', newId))).toEqual({ p2: 5, p0: 17, p1: 29 })
    expect(takeP(setPanelLength(p(), 'p', 'p0', 4))).toEqual({ p0: 3, p1: 9, p2: 21 })
    expect(takeP(removePanels(film, 'film', 'p', ['p1'], newId))).toEqual({ p0: 5, p2: 17 })
  })

  it('goes with its panels into another shot', () => {
    const carried = after(carryPanels(film, 'film', 'p', ['p1'], 'r', 'r1', newId))
    expect([heard(carried.takes.p!), heard(carried.takes.r!)]).toEqual([{ p0: 5, p2: 17 }, { r0: 5, p1: 17, r1: 29 }])
    const joined = after(joinShots(film, 'film', ['sp', 'sr'], newId))
    expect(heard(joined.takes.p!)).toEqual({ p0: 5, p1: 17, p2: 29, r0: 41, r1: 53 })
    const cut = after(cutShot(film, 'film', 'sp', 'p1', newId))
    expect(filmOrder(cut.outline).map((shot) => heard(cut.takes[shot.circledTakeId]!))).toEqual([{ p0: 5 }, { p1: 5, p2: 17 }, { r0: 5, r1: 17 }])
  })

  it('is checked, and two of them at one frame are a clash', () => {
    const lost = { ...p(), ...({ bells: { x: { id: 'x', panelId: 'gone', offsetFrames: 0, tone: 'x' }, y: { id: 'y', panelId: 'p0', offsetFrames: 12, tone: 'y' } } } as object) }
    expect(takeProblems(lost)).toEqual([{ code: 'missing-panel', path: ['bells', 'x'] }, { code: 'offset-past-panel', path: ['bells', 'y'] }])
    const ring = (id: string): Change => changeOf([{ kind: 'ring', unit: { kind: 'take', id: 'p' }, changes: { bells: { [id]: { before: null, after: { id, panelId: 'p0', offsetFrames: 2, tone: id } } } } }])
    const [theirs, mine] = [ring('theirs'), ring('mine')]
    const now = applyChange(film, theirs)
    if (!now.ok) throw new Error('ring')
    expect(rebaseChange(now.value, mine)).toMatchObject({ ok: false, clashes: [{ collection: 'bells', id: 'mine', theirs: { id: 'theirs' } }] })
  })
})

describe('a made-up kind of unit', () => {
  const song = (id: string) => ({ kind: 'song', id }) as never
  const put = (songId: string, noteId: string, words: string, before: object | null = null): Edit => ({ kind: 'sing', unit: song(songId), changes: { notes: { [noteId]: { before, after: { id: noteId, words } } } } })
  const songs = (value: Film) => (value as unknown as { readonly songs: Readonly<Record<string, { readonly notes: Readonly<Record<string, { readonly words: string }>> }>> }).songs
  beforeAll(() => {
    Object.assign(UNIT_KINDS, {
      song: {
        home: 'songs',
        empty: { notes: {} },
        schemas: { notes: z.strictObject({ id: z.string(), words: z.string().max(9) }) },
        open: (value: unknown) => ({ ok: true, value }),
        problems: (unit: { notes: Record<string, { words: string }> }) => Object.entries(unit.notes).flatMap(([id, { words }]) => (words === 'wrong' ? [{ code: 'id-mismatch', path: ['notes', id] }] : [])),
      },
    })
  })

  it('is changed, checked, undone and merged as the others are', () => {
    expect(editSchema.safeParse(put('s1', 'n', 'la')).success).toBe(true)
    expect(editSchema.safeParse({ ...put('s1', 'n', 'la'), unit: { kind: 'dance', id: 's1' } }).success).toBe(false)
    expect([checkEdit(put('s1', 'n', 'la')), checkEdit(put('s1', 'n', 'la la la la'))]).toMatchObject([null, { path: ['notes', 'n', 'words'] }])
    const change = changeOf([put('s1', 'n', 'la'), put('s2', 'm', 'lo')])
    const applied = applyChange(film, change)
    if (!applied.ok) throw new Error(applied.refusal.code)
    expect(songs(applied.value)).toMatchObject({ s1: { notes: { n: { words: 'la' } } }, s2: { notes: { m: { words: 'lo' } } } })
    const back = applyChange(applied.value, invertChange(change, newId()))
    expect(back.ok && songs(back.value)).toEqual({ s1: { notes: {} }, s2: { notes: {} } })
    const merged = mergeChanges(change, changeOf([put('s1', 'n', 'li', { id: 'n', words: 'la' })]))
    expect(merged.edits).toMatchObject([{ changes: { notes: { n: { before: null, after: { words: 'li' } } } } }, { unit: { id: 's2' } }])
  })

  it('is made again on a film that has moved on; what does not go together is a clash', () => {
    const begun = applyChange(film, changeOf([put('s1', 'n', 'la')]))
    if (!begun.ok) throw new Error('begin')
    const theirs = applyChange(begun.value, changeOf([put('s1', 'o', 'lu')]))
    if (!theirs.ok) throw new Error('theirs')
    const mine = rebaseChange(theirs.value, changeOf([put('s1', 'n', 'li', { id: 'n', words: 'la' })]))
    expect(mine.ok && songs(mine.film).s1).toEqual({ notes: { n: { id: 'n', words: 'li' }, o: { id: 'o', words: 'lu' } } })
    expect(rebaseChange(theirs.value, changeOf([put('s1', 'o', 'lo')]))).toMatchObject({ ok: false, clashes: [{ collection: 'notes', id: 'o' }] })
    // What its own check would not have is no film.
    expect(rebaseChange(theirs.value, changeOf([put('s1', 'w', 'wrong')]))).toMatchObject({ ok: false, clashes: [{ collection: 'notes', id: 'w' }] })
  })
})

