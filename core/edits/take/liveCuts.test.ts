import { describe, expect, it } from 'vitest'
import { EMPTY_TAKE, liveCameraAt, liveSpans, orderOfNumber, placedPanels, type CameraCut, type TakeBody } from '../../document'
import { applyToUnit, carryPanels, cutShot, joinShots, movePanels, removePanels, type Made } from '../index'
import { EMPTY_OUTLINE, type Film } from '../../document/units'
import { keepLive, liveInPanels } from './liveCuts'
import { Draft } from '../change/draft'

let ids = 0
const newId = () => `n${++ids}`

/** Panels of ten frames, with two cameras, and cuts at frames. */
function takeOf(name: string, panels: number, cuts: readonly (readonly [frame: number, camera: 'a' | 'b'])[]): TakeBody {
  return {
    ...EMPTY_TAKE,
    panels: Object.fromEntries(Array.from({ length: panels }, (_, i) => [`${name}${i}`, { id: `${name}${i}`, order: orderOfNumber(i), lengthFrames: 10, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
    cameras: Object.fromEntries(['A', 'B'].map((letter, i) => [letter.toLowerCase(), { id: letter.toLowerCase(), order: orderOfNumber(i), letter, locked: false }])),
    cuts: Object.fromEntries(cuts.map(([frame, cameraId], i): [string, CameraCut] => [`${name}c${i}`, { id: `${name}c${i}`, panelId: `${name}${Math.floor(frame / 10)}`, offsetFrames: frame % 10, cameraId, dissolveFrames: 0 }])),
  }
}
const filmOf = (takes: Readonly<Record<string, TakeBody>>): Film => ({
  outline: {
    ...EMPTY_OUTLINE,
    project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
    sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
    shots: Object.fromEntries(Object.keys(takes).map((id, i) => [`s${id}`, { id: `s${id}`, sequenceId: 'q', order: orderOfNumber(i), label: `0${i + 1}0`, title: '', circledTakeId: id }])),
    takes: Object.fromEntries(Object.keys(takes).map((id) => [id, { id, shotId: `s${id}`, order: 'a0', letter: 'A' }])),
  },
  takes,
  drawings: {},
})
/** Who is live, a letter for every five frames. */
const live = (take: TakeBody) => {
  const spans = liveSpans(take)
  return placedPanels(take).flatMap(({ startFrame }) => [liveCameraAt(spans, startFrame), liveCameraAt(spans, startFrame + 5)]).join('')
}
function bodiesAfter(film: Film, made: Made): Record<string, TakeBody> {
  if (!made.ok) throw new Error(made.refusal.code)
  const takes: Record<string, TakeBody> = { ...film.takes }
  for (const edit of made.edits) {
    if (edit.unit.kind !== 'take') continue
    const applied = applyToUnit(takes[edit.unit.id] ?? EMPTY_TAKE, edit)
    if (!applied.ok) throw new Error(applied.refusal.code)
    takes[edit.unit.id] = applied.value
  }
  return takes
}

describe('camera cuts', () => {
  const t = takeOf('t', 4, [[0, 'a'], [15, 'b'], [30, 'a']])
  const u = takeOf('u', 2, [])

  it('of a take that is here for the tests stand where they are said to', () => {
    expect([live(t), live(u)]).toEqual(['aaabbbaa', 'aaaa'])
    expect([...liveInPanels(t).values()]).toEqual(['a', 'a', 'b', 'a'])
  })

  it('that go with a panel are put again for those after it that would be seen otherwise', () => {
    const film = filmOf({ t, u })
    expect(live(bodiesAfter(film, removePanels(film, 'film', 't', ['t1'], newId)).t!)).toBe('aabbaa')
    expect(live(bodiesAfter(film, removePanels(film, 'film', 't', ['t0'], newId)).t!)).toBe('abbbaa')
    expect(live(bodiesAfter(film, removePanels(film, 'film', 't', ['t2'], newId)).t!)).toBe('aaabaa')
  })

  it('stay with their panels when those change places', () => {
    const film = filmOf({ t })
    expect(live(bodiesAfter(film, movePanels(t, 't', ['t1'], 't0', newId)).t!)).toBe('abaabbaa')
    expect(live(bodiesAfter(film, movePanels(t, 't', ['t2'], 't0', newId)).t!)).toBe('bbaaabaa')
  })

  it('are on both sides of a shot that is cut, whose half would begin on another camera', () => {
    const film = filmOf({ t })
    const after = bodiesAfter(film, cutShot(film, 'film', 'st', 't2', newId))
    const other = Object.keys(after).find((id) => id !== 't')!
    expect([live(after.t!), live(after[other]!)]).toEqual(['aaab', 'bbaa'])
    // One cut alone says what the whole shot is seen through, before it too.
    const late = filmOf({ t: takeOf('t', 4, [[30, 'b']]) })
    const halves = bodiesAfter(late, cutShot(late, 'film', 'st', 't2', newId))
    expect(Object.values(halves).map(live)).toEqual(['bbbb', 'bbbb'])
  })

  it('come along into another shot, and leave what lies around as it was', () => {
    const film = filmOf({ t, u })
    const after = bodiesAfter(film, carryPanels(film, 'film', 't', ['t1', 't2'], 'u', 'u1', newId))
    expect([live(after.t!), live(after.u!)]).toEqual(['aaaa', 'aaabbbaa'])
    expect(live(bodiesAfter(film, joinShots(film, 'film', ['st', 'su'], newId)).t!)).toBe('aaabbbaaaaaa')
    const swapped = filmOf({ u, t })
    expect(live(bodiesAfter(swapped, joinShots(swapped, 'film', ['su', 'st'], newId)).u!)).toBe('aaaaaaabbbaa')
  })

  it('are not put where nothing asks for them', () => {
    const draft = keepLive(new Draft(t), (panelId) => liveInPanels(t).get(panelId)!, newId)
    expect(draft.edit('x', { kind: 'take', id: 't' }).changes).toEqual({})
    const one = { ...u, cameras: { a: u.cameras.a! } }
    expect(keepLive(new Draft(one), () => 'b', newId).edit('x', { kind: 'take', id: 'u' }).changes).toEqual({})
  })
})
