import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { EMPTY_OUTLINE, EMPTY_TAKE, outlineProblems, type Clip, type Film, type Lane, type Outline, type Transition, orderOfNumber, compareOrdered } from '../../document'
import { addClips, addLane, applyToFilm, cutShot, duplicateClips, editClip, editLane, holdSound, invert, joinShots, moveClips, moveLane, putTransition, removeClips, removeLane, removeShot, removeTransition, shotShifts, slipClip, splitClip, tieClips, trimClip, type Made } from '../index'

const RATE = { numerator: 24, denominator: 1 }
const lane = (id: string, order: number): Lane => ({ id, order: orderOfNumber(order), name: id, kind: 'effects', gainDb: 0, muted: false, soloed: false })
const clip = (id: string, fields: Partial<Clip> = {}): Clip => ({ id, laneId: 'l1', shotId: null, offsetFrames: 0, assetHash: 'b'.repeat(64), name: id, sourceSeconds: 10, fromSeconds: 2, lengthSeconds: 4, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null, ...fields })
const shot = (id: string, order: number) => ({ id, sequenceId: 's', order: orderOfNumber(order), label: `0${order}0`, title: '', circledTakeId: `t-${id}` })
const panel = (id: string, order: number) => ({ id, order: orderOfNumber(order), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' })
const body = (id: string) => ({ ...EMPTY_TAKE, panels: { [`${id}1`]: panel(`${id}1`, 1), [`${id}2`]: panel(`${id}2`, 2) }, cameras: { [`c-${id}`]: { id: `c-${id}`, order: 'a1', letter: 'A', locked: false } } })
const PROJECT = { id: 'p', title: 'x', rate: RATE, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 }
function filmWith(clips: readonly Clip[], transitions: readonly Transition[] = []): Film {
  const outline: Outline = {
    ...EMPTY_OUTLINE,
    project: { p: PROJECT },
    sequences: { s: { id: 's', order: 'a1', label: '01', title: '', targetFrames: null } },
    shots: { a: shot('a', 1), b: shot('b', 2) },
    takes: { 't-a': { id: 't-a', shotId: 'a', order: 'a1', letter: 'A' }, 't-b': { id: 't-b', shotId: 'b', order: 'a1', letter: 'A' } },
    lanes: { l1: lane('l1', 1), l2: lane('l2', 2), l3: lane('l3', 3) },
    clips: Object.fromEntries(clips.map((each) => [each.id, each])),
    transitions: Object.fromEntries(transitions.map((each) => [each.id, each])),
  }
  return { outline, takes: { 't-a': body('a'), 't-b': body('b') }, drawings: {} }
}
/** The film after a change that was made; every change must take itself back. */
function after(film: Film, change: Made): Film {
  if (!change.ok) throw new Error(change.refusal.code)
  let value = film
  for (const edit of change.edits) {
    const applied = applyToFilm(value, edit)
    if (!applied.ok) throw new Error(applied.refusal.code)
    value = applied.value
  }
  let back = value
  for (const edit of [...change.edits].reverse().map(invert)) {
    const applied = applyToFilm(back, edit)
    if (applied.ok) back = applied.value
  }
  expect(back.outline).toEqual(film.outline)
  expect(outlineProblems(value.outline)).toEqual([])
  return value
}
const code = (change: Made) => (change.ok ? 'made' : change.refusal.code)
const startOf = (id: string) => ({ a: 0, b: 48 })[id] ?? null

describe('clips', () => {
  it('trimmed at an end and pulled out again are what they were', () => {
    fc.assert(
      fc.property(fc.constantFrom('start' as const, 'end' as const), fc.integer({ min: 0, max: 95 }), (end, by) => {
        const film = filmWith([clip('a', { offsetFrames: 10 })])
        const [inward, outward] = end === 'start' ? [by, -by] : [-by, by]
        const trimmed = after(film, trimClip(film.outline, 'p', 'a', end, inward, RATE))
        const back = after(trimmed, trimClip(trimmed.outline, 'p', 'a', end, outward, RATE)).outline.clips.a!
        expect(back.offsetFrames).toBeCloseTo(10, 9)
        expect(back.fromSeconds).toBeCloseTo(2, 9)
        expect(back.lengthSeconds).toBeCloseTo(4, 9)
      }),
    )
  })

  it('are pulled out no further than their recording, and trimmed to no less than a moment', () => {
    const film = filmWith([clip('a', { offsetFrames: 100 })])
    const pulled = after(film, trimClip(film.outline, 'p', 'a', 'start', -500, RATE)).outline.clips.a!
    expect([pulled.fromSeconds, pulled.lengthSeconds, pulled.offsetFrames]).toEqual([0, 6, 52])
    expect(after(film, trimClip(film.outline, 'p', 'a', 'end', 500, RATE)).outline.clips.a!.lengthSeconds).toBe(8)
    expect(after(film, trimClip(film.outline, 'p', 'a', 'end', -500, RATE)).outline.clips.a!.lengthSeconds).toBeCloseTo(0.005, 9)
  })

  it('slipped show another part of the recording, at the same place', () => {
    const film = filmWith([clip('a', { offsetFrames: 7 })])
    expect(after(film, slipClip(film.outline, 'p', 'a', 0.5)).outline.clips.a).toEqual(clip('a', { offsetFrames: 7, fromSeconds: 1.5 }))
    expect(after(film, slipClip(film.outline, 'p', 'a', 50)).outline.clips.a!.fromSeconds).toBe(0)
    expect(after(film, slipClip(film.outline, 'p', 'a', -50)).outline.clips.a!.fromSeconds).toBe(6)
  })

  it('split are the same sound in parts, with the fades at the outer ends', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 95 }), { minLength: 1, maxLength: 6 }), (frames) => {
        const film = filmWith([clip('a', { offsetFrames: 24, fadeInSeconds: 0.04, fadeOutSeconds: 0.03, line: 'Mind the plank' })])
        const split = after(film, splitClip(film.outline, 'p', 'a', frames.map((frame) => frame / 24), frames.map((_, i) => `n${i}`), RATE))
        const parts = Object.values(split.outline.clips).sort((x, y) => x.offsetFrames - y.offsetFrames)
        expect(parts).toHaveLength(frames.length + 1)
        expect(parts[0]!.fadeInSeconds).toBeCloseTo(0.04, 9)
        expect(parts.at(-1)!.fadeOutSeconds).toBeCloseTo(0.03, 9)
        parts.forEach((part, i) => {
          // What sounds at a moment of the film is what sounded there before.
          expect(part.fromSeconds - part.offsetFrames / 24).toBeCloseTo(2 - 1, 9)
          const next = parts[i + 1]
          if (next !== undefined) expect(part.offsetFrames + part.lengthSeconds * 24).toBeCloseTo(next.offsetFrames, 9)
        })
        expect(parts.reduce((sum, part) => sum + part.lengthSeconds, 0)).toBeCloseTo(4, 9)
      }),
    )
    const film = filmWith([clip('a')])
    for (const at of [[0], [4], [7], [-1], [], [1, 1]]) expect(code(splitClip(film.outline, 'p', 'a', at, ['x', 'y'], RATE))).toBe('clip-not-there')
  })

  it('move together, as far as there are lanes', () => {
    const film = filmWith([clip('a'), clip('b', { laneId: 'l2', offsetFrames: 5 })])
    const moved = after(film, moveClips(film.outline, 'p', ['a', 'b'], 12, 4)).outline.clips
    expect([moved.a!.laneId, moved.a!.offsetFrames, moved.b!.laneId, moved.b!.offsetFrames]).toEqual(['l2', 12, 'l3', 17])
    expect(after(film, moveClips(film.outline, 'p', ['b'], 0, -9)).outline.clips.b!.laneId).toBe('l1')
    expect(code(moveClips(film.outline, 'p', ['gone'], 1, 0))).toBe('missing')
  })

  it('are copied right behind themselves, and taken out', () => {
    const film = filmWith([clip('a', { offsetFrames: 3, lengthSeconds: 1.01 })])
    expect(after(film, duplicateClips(film.outline, 'p', ['a'], ['n'], RATE)).outline.clips.n!.offsetFrames).toBe(28)
    expect(after(film, removeClips(film.outline, 'p', ['a'])).outline.clips).toEqual({})
    expect([code(duplicateClips(film.outline, 'p', ['x'], ['n'], RATE)), code(removeClips(film.outline, 'p', ['x']))]).toEqual(['missing', 'missing'])
  })

  it('tied to something else stay where they are; from the tray they keep their offset', () => {
    const film = filmWith([clip('a', { shotId: 'a', offsetFrames: 60 }), clip('lost', { shotId: 'gone', offsetFrames: 6 })])
    const tied = after(film, tieClips(film.outline, 'p', ['a', 'lost'], 'b', startOf)).outline.clips
    expect([tied.a!.offsetFrames, tied.a!.shotId, tied.lost!.offsetFrames]).toEqual([12, 'b', 6])
    expect(after(film, tieClips(film.outline, 'p', ['a'], null, startOf)).outline.clips.a).toMatchObject({ shotId: null, offsetFrames: 60 })
    expect(code(tieClips(film.outline, 'p', ['a'], 'gone', startOf))).toBe('missing')
  })

  it('stay when their shot goes, and are there again when it comes back', () => {
    const film = filmWith([clip('a', { shotId: 'a' })])
    expect(after(film, removeShot(film.outline, 'p', 'a')).outline.clips.a).toEqual(film.outline.clips.a)
  })

  it('keep their place in the film when their shot is cut in two or joined', () => {
    const film = filmWith([clip('early', { shotId: 'a', offsetFrames: 10 }), clip('late', { shotId: 'a', offsetFrames: 30 }), clip('other', { shotId: 'b', offsetFrames: -3 })], [])
    let n = 0
    const cut = after(film, cutShot(film, 'p', 'a', 'a2', () => `new${n++}`)).outline
    expect(cut.clips.late).toMatchObject({ offsetFrames: 6 })
    expect(cut.clips.late!.shotId).not.toBe('a')
    expect(cut.clips.early).toEqual(film.outline.clips.early)
    const joined = after(film, joinShots(film, 'p', ['a', 'b'], () => `new${n++}`)).outline
    expect(joined.clips.other).toMatchObject({ shotId: 'a', offsetFrames: 45 })
  })
})

describe('lanes', () => {
  it('are added last, changed, moved, and taken out with their clips', () => {
    const film = filmWith([clip('a', { laneId: 'l2' })])
    const added = after(film, addLane(film.outline, 'p', { id: 'l4', name: 'Wind', kind: 'effects', gainDb: -3, muted: false, soloed: false }))
    expect(added.outline.lanes.l4!.order).toBe('a4')
    const moved = after(film, moveLane(film.outline, 'p', 'l3', 'l1'))
    expect(Object.values(moved.outline.lanes).sort((x, y) => compareOrdered(x, y)).map((each) => each.id)).toEqual(['l3', 'l1', 'l2'])
    expect(after(film, moveLane(film.outline, 'p', 'l1', null)).outline.lanes.l1!.order > 'a3').toBe(true)
    expect(after(film, editLane(film.outline, 'p', 'l1', { muted: true })).outline.lanes.l1!.muted).toBe(true)
    const without = after(film, removeLane(film.outline, 'p', 'l2'))
    expect([without.outline.lanes.l2, without.outline.clips]).toEqual([undefined, {}])
    for (const change of [moveLane(film.outline, 'p', 'x', null), moveLane(film.outline, 'p', 'l1', 'x'), editLane(film.outline, 'p', 'x', {}), removeLane(film.outline, 'p', 'x'), addClips(film.outline, 'p', [clip('z', { laneId: 'x' })]), editClip(film.outline, 'p', 'a', { laneId: 'x' })]) expect(code(change)).toBe('missing')
    expect(code(moveLane(film.outline, 'p', 'l1', 'l1'))).toBe('made')
  })
})

describe('transitions', () => {
  const dissolve: Transition = { id: 'b', at: 'cut', kind: 'dissolve', lengthFrames: 12, place: 'centre', angleDegrees: 0, softness: 0.1, colour: '#000000', soundToo: true }

  it('are put in, changed and taken out, and nothing else is touched', () => {
    const film = filmWith([])
    const put = after(film, putTransition(film.outline, 'p', dissolve, 40))
    expect(put.outline).toEqual({ ...film.outline, transitions: { b: dissolve } })
    expect(after(put, putTransition(put.outline, 'p', { ...dissolve, kind: 'wipe' }, 40)).outline.transitions.b!.kind).toBe('wipe')
    expect(after(put, removeTransition(put.outline, 'p', 'b')).outline).toEqual(film.outline)
  })

  it('are refused where the shots are too short, with how much room there is', () => {
    expect(putTransition(filmWith([]).outline, 'p', dissolve, 11)).toEqual({ ok: false, refusal: { code: 'transition-too-long', asked: 12, most: 11 } })
    expect([code(putTransition(filmWith([]).outline, 'p', { ...dissolve, id: 'gone' }, 40)), code(removeTransition(filmWith([]).outline, 'p', 'b'))]).toEqual(['missing', 'missing'])
  })

  it('go with the shot that they lead into, and with a cut that is joined away', () => {
    const film = filmWith([], [dissolve])
    expect(after(film, removeShot(film.outline, 'p', 'b')).outline.transitions).toEqual({})
    expect(after(film, joinShots(film, 'p', ['a', 'b'], () => 'new')).outline.transitions).toEqual({})
  })
})

describe('tapping through shots', () => {
  it('leaves their sound where it was heard, whatever becomes of the panels', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 4, maxLength: 4 }), fc.integer({ min: -30, max: 60 }), (lengths, offsetFrames) => {
        const film = filmWith([clip('one', { shotId: 'a', offsetFrames }), clip('two', { shotId: 'b', offsetFrames }), clip('free', { offsetFrames: 5 })])
        const places = [['t-a', 'a1'], ['t-a', 'a2'], ['t-b', 'b1'], ['t-b', 'b2']].map(([takeId, panelId]) => ({ takeId: takeId!, panelId: panelId!, lengthFrames: 24, lengthLocked: false }))
        const ended = places.map((place, i) => ({ takeId: place.takeId, panelId: place.panelId, lengthFrames: lengths[i]! }))
        const shifts = shotShifts(places, ended, (takeId) => takeId.slice(2))
        expect(shifts.get('a')).toBe(0)
        const heldClips = after(film, { ok: true, edits: holdSound(film.outline, 'p', shifts) }).outline.clips
        const newStart = lengths[0]! + lengths[1]!
        expect(heldClips.one!.offsetFrames).toBe(offsetFrames)
        expect(newStart + heldClips.two!.offsetFrames).toBe(48 + offsetFrames)
        expect(heldClips.free).toEqual(film.outline.clips.free)
      }),
    )
    expect(holdSound(filmWith([clip('a', { shotId: 'a' })]).outline, 'p', new Map([['a', 0]]))).toEqual([])
  })
})
