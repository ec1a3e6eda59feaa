import { seen } from '../testing'
import { describe, expect, it } from 'vitest'
import { cellIdOf, EMPTY_OUTLINE, EMPTY_TAKE, orderOfNumber, type Film, type TakeBody } from '../../document'
import { untouchedPose } from '../../camera'
import { addShot, applyChange, blankCell, carryPanels, cutShot, drawMark, editPanel, editShot, insistOn, joinPanels, joinShots, keyFraming, readsOf, rebaseChange, reframe, removeLevel, removeSequence, removeShots, retime, type Change, type Made } from '../index'

/** Two hands on one film: each ends in both sides kept, or in a clash; never in work that is gone unseen. */
const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
let count = 0
const newId = () => `n${++count}`

function body(prefix: string): TakeBody {
  const panels = Object.fromEntries([0, 1, 2, 3].map((i) => [`${prefix}${i}`, { id: `${prefix}${i}`, order: orderOfNumber(i), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
  const level = { id: 'ink', order: 'a0', name: 'Ink', kind: 'drawn' as const, x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
  const cell = { id: cellIdOf('ink', `${prefix}0`), levelId: 'ink', panelId: `${prefix}0`, drawingId: `d-${prefix}` }
  return { ...EMPTY_TAKE, panels, levels: { ink: level }, cells: { [cell.id]: cell }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } }
}
const stroke = (id: string) => ({ id, kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5, 0.1, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 })

const base: Film = {
  outline: {
    ...EMPTY_OUTLINE,
    project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
    sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null }, r: { id: 'r', order: 'a1', label: '02', title: '', targetFrames: null } },
    shots: Object.fromEntries(['t', 'u', 'v'].map((id, i) => [`s-${id}`, { id: `s-${id}`, sequenceId: id === 'v' ? 'r' : 'q', order: orderOfNumber(i), label: `0${i + 1}0`, title: '', circledTakeId: id }])),
    takes: Object.fromEntries(['t', 'u', 'v'].map((id) => [id, { id, shotId: `s-${id}`, order: 'a0', letter: 'A' }])),
  },
  takes: { t: body('t'), u: body('u'), v: body('v') },
  drawings: Object.fromEntries(['t', 'u', 'v'].map((id) => [`d-${id}`, { marks: [{ ...stroke('first'), order: 'a0' }] }])),
}

const make = (label: string, made: Made, film = base): Change => {
  if (!made.ok) throw new Error(JSON.stringify(made.refusal))
  const reads = readsOf(film, made.edits)
  return { id: newId(), label, edits: made.edits, ...(reads.length > 0 ? { reads } : {}) }
}
const after = (film: Film, change: Change): Film => {
  const applied = applyChange(film, change)
  if (!applied.ok) throw new Error(JSON.stringify(applied.refusal))
  return applied.value
}
/** The second made on what the first left. */
const both = (first: Change, second: Change) => rebaseChange(after(base, first), second)

const draw = (take: 't' | 'u' | 'v', panel = `${take}0`) => make(`draw in ${take}`, drawMark(base.takes[take]!, take, base.drawings, 'ink', panel, stroke(newId()), newId(), panel !== `${take}0`))
const words = (take: 't' | 'u' | 'v') => make('words', editPanel(base.takes[take]!, take, `${take}1`, { action: 'Runs.' }))

describe('work that one takes away while another is at it', () => {
  const away: readonly (readonly [string, () => Change, () => Change])[] = [
    ['a shot joined to the one before, and words in its panels', () => make('join', joinShots(base, 'film', ['s-t', 's-u'], newId)), () => words('u')],
    ['all panels carried to another shot, and words in one', () => make('carry', carryPanels(base, 'film', 'u', ['u0', 'u1', 'u2', 'u3'], 't', null, newId)), () => words('u')],
    ['a shot removed, and a stroke in it', () => make('remove', removeShots(base.outline, 'film', ['s-u'])), () => draw('u')],
    ['a shot removed, and words in it', () => make('remove', removeShots(base.outline, 'film', ['s-u'])), () => words('u')],
    ['a sequence removed, and a stroke in its shot', () => make('remove', removeSequence(base.outline, 'film', 'r')), () => draw('v')],
    ['a level removed, and a stroke on it', () => make('remove', removeLevel(base.takes.u!, 'u', 'ink', seen(base.takes.u!, {}))), () => draw('u')],
    ['a cell blanked, and a stroke in its drawing', () => make('blank', blankCell(base.takes.u!, 'u', 'ink', 'u0')), () => draw('u')],
  ]
  for (const [name, taking, working] of away) {
    it(`clashes in either order: ${name}`, () => {
      const [one, other] = [both(taking(), working()), both(working(), taking())]
      expect(one.ok).toBe(false)
      expect(other.ok).toBe(false)
    })
  }

  it('clashes where a shot is cut through a drawing that both halves hold, and someone draws in it', () => {
    const cut = () => make('cut', cutShot(base, 'film', 's-t', 't2', newId))
    // Drawn first, the copy would be without it; cut first, only the left half would have it: that half is where it was drawn.
    expect(both(draw('t', 't3'), cut()).ok).toBe(false)
    expect(both(cut(), draw('t', 't3')).ok).toBe(true)
  })

  it('keeps both where panels are carried away and someone draws in a drawing that goes along', () => {
    const carry = () => make('carry', carryPanels(base, 'film', 'u', ['u0', 'u1', 'u2', 'u3'], 't', null, newId))
    const drawn = both(carry(), draw('u'))
    expect(drawn.ok).toBe(true)
    if (drawn.ok) expect(drawn.film.drawings['d-u']!.marks.length).toBe(2)
  })

  it('keeps both where shots are joined and someone draws in a drawing that goes along', () => {
    const join = () => make('join', joinShots(base, 'film', ['s-t', 's-u'], newId))
    for (const made of [both(join(), draw('u')), both(draw('u'), join())]) {
      expect(made.ok).toBe(true)
      if (made.ok) expect(made.film.drawings['d-u']!.marks.length).toBe(2)
    }
  })

  it('keeps both where only another shot is touched', () => {
    expect(both(make('remove', removeShots(base.outline, 'film', ['s-u'])), draw('t')).ok).toBe(true)
    expect(both(draw('t'), make('remove', removeShots(base.outline, 'film', ['s-u']))).ok).toBe(true)
  })
})

describe('two who do the same at once', () => {
  it('clash where both reframe a shot without framing, or key one frame: one framing would never be seen', () => {
    const frame = (x: number) => make('reframe', reframe(base.takes.t!, 't', 'a', 0, { ...REST, x }, newId()))
    expect(both(frame(0.1), frame(0.2))).toMatchObject({ ok: false, clashes: [{ collection: 'framings', fields: ['pose'] }] })
    const key = (x: number) => make('key', keyFraming(base.takes.t!, 't', 'a', 30, { ...REST, x }, newId()))
    expect(both(key(0.1), key(0.2)).ok).toBe(false)
    expect(both(key(0.1), make('key', keyFraming(base.takes.t!, 't', 'a', 31, REST, newId()))).ok).toBe(true)
  })

  it('clash where two steal from one giver, so that the film keeps its length', () => {
    const steal = (panel: string) => make('steal', retime(base, 'film', [{ lengths: [{ takeId: 't', panelId: panel, lengthFrames: 30 }], giver: { takeId: 't', panelId: 't3' } }], 'steal'))
    expect(both(steal('t0'), steal('t1'))).toMatchObject({ ok: false, clashes: [{ collection: 'panels', id: 't3', fields: ['lengthFrames'] }] })
    // The very same steal is one steal.
    const same = both(steal('t0'), steal('t0'))
    expect(same.ok && same.change.edits).toEqual([])
  })

  it('get two labels for two new shots at the end', () => {
    const add = () => make('add', addShot(base, 'film', 'q', null, { shot: newId(), take: newId(), panel: newId(), camera: newId() }, 24))
    const made = both(add(), add())
    if (!made.ok) throw new Error('clash')
    const labels = Object.values(made.film.outline.shots).map((shot) => shot.label)
    expect(new Set(labels).size).toBe(labels.length)
    expect(labels.sort()).toEqual(['010', '020', '030', '040', '050'])
  })

  it('bring a shot back with the take that it circles', () => {
    const gone = after(base, make('remove', removeShots(base.outline, 'film', ['s-u'])))
    const title = make('title', editShot(base.outline, 'film', 's-u', { title: 'Dusk' }))
    expect(rebaseChange(gone, title).ok).toBe(false)
    const insisted = insistOn(gone, title, newId())
    if (!insisted.ok) throw new Error('clash')
    expect(insisted.film.outline.shots['s-u']!.title).toBe('Dusk')
    expect(insisted.film.outline.takes.u).toMatchObject({ shotId: 's-u' })
  })

  it('merge words that were joined and words that were written elsewhere', () => {
    const joined = (ids: readonly string[]) => make('join', joinPanels(base, 'film', 't', ids))
    expect(both(words('t'), joined(['t0', 't1'])).ok).toBe(false)
    const kept = both(words('t'), joined(['t1', 't2']))
    expect(kept.ok && kept.film.takes.t!.panels.t1).toMatchObject({ action: 'Runs.', lengthFrames: 48 })
    expect(both(words('u'), joined(['t0', 't1'])).ok).toBe(true)
  })
})
