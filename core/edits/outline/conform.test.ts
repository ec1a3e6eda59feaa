import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { drawingsOf, EMPTY_DRAWING, freeze, inOrder, isInFilm, takeLengthFrames, takeProblems, type Film, type Outline, type Transition } from '../../document'
import { createFilmStage, cutListOf, type CutList, type CutPicture } from '../../stage'
import { applyChange, conform, cutShot, duplicateShot, filmOrder, invertChange, planConform, type Change, type CutPlan } from '..'
import { newId, sampleTake } from '../testing'

const RATE = { numerator: 24, denominator: 1 }
const PROJECT = { id: 'film', title: 'Salt', rate: RATE, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 48 }
const stageOf = (film: Film) => createFilmStage(film.outline, (takeId) => takeLengthFrames(film.takes[takeId]!))
const listOf = (film: Film) => cutListOf(film.outline, stageOf(film))

/** Two sequences of shots of 72 frames, with a dissolve, a clip and a mark. */
function sample(count = 6): Film {
  const ids = Array.from({ length: count }, (_, i) => String(i + 1))
  const outline: Outline = {
    project: { film: PROJECT },
    sequences: { q1: { id: 'q1', order: 'a0', label: '01', title: '', targetFrames: null }, q2: { id: 'q2', order: 'a1', label: '02', title: '', targetFrames: null } },
    shots: Object.fromEntries(ids.map((n, i) => [`s${n}`, { id: `s${n}`, sequenceId: i < count / 2 ? 'q1' : 'q2', order: `a${n}`, label: `0${n}0`, title: '', circledTakeId: `t${n}` }])),
    takes: Object.fromEntries(ids.map((n) => [`t${n}`, { id: `t${n}`, shotId: `s${n}`, order: 'a0', letter: 'A' }])),
    passages: {}, links: {}, sets: {},
    rulerMarks: { m1: { id: 'm1', shotId: 's2', offsetFrames: 10, name: 'cue', meaning: 'note' } },
    lanes: { v: { id: 'v', order: 'a0', name: 'Voices', kind: 'voices', gainDb: 0, muted: false, soloed: false } },
    clips: Object.fromEntries(['s2', 's4'].map((shotId) => [`c${shotId}`, { id: `c${shotId}`, laneId: 'v', shotId, offsetFrames: 12, assetHash: 'a'.repeat(64), name: `line ${shotId}`, sourceSeconds: 4, fromSeconds: 0.5, lengthSeconds: 2, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null }])),
    transitions: { s3: { id: 's3', at: 'cut', kind: 'dissolve', lengthFrames: 12, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false } satisfies Transition },
  }
  const takes = Object.fromEntries(ids.map((n) => [`t${n}`, sampleTake()]))
  const drawings = Object.fromEntries(drawingsOf(sampleTake()).map((id) => [id, EMPTY_DRAWING]))
  return freeze({ outline: freeze(outline), takes, drawings })
}
const all = (plan: CutPlan) => new Set(plan.lines.map(({ id }) => id))
function taken(film: Film, plan: CutPlan, chosen = all(plan)): { readonly film: Film; readonly change: Change } {
  const made = conform(film, 'film', plan, chosen, newId)
  if (!made.ok) throw new Error(made.refusal.code)
  const change = { id: 'conform-change', label: 'conform', edits: made.edits }
  const applied = applyChange(film, change)
  if (!applied.ok) throw new Error(applied.refusal.code)
  for (const take of Object.values(applied.value.takes)) expect(takeProblems(take)).toEqual([])
  return { film: applied.value, change }
}
const labels = (film: Film) => filmOrder(film.outline).map(({ label }) => label)
const plan = (film: Film, list: CutList) => planConform(film.outline, stageOf(film), list)
const withPictures = (list: CutList, pictures: readonly CutPicture[]): CutList => ({ ...list, pictures, transitions: [], sounds: [] })
const kinds = (of: CutPlan) => of.lines.map(({ kind }) => kind).filter((kind) => kind !== 'transition')

describe('a conform', () => {
  const film = sample()
  const list = listOf(film)

  it('of the film’s own list finds nothing', () => {
    expect(plan(film, list).lines).toEqual([])
  })

  it('moves as few shots as can be, each into the sequence that it comes to stand in', () => {
    const [a, b, c, d, e, f] = list.pictures
    const moved = plan(film, withPictures(list, [a!, e!, b!, c!, d!, f!]))
    expect(kinds(moved)).toEqual(['moved'])
    const after = taken(film, moved).film
    expect(labels(after)).toEqual(['010', '050', '020', '030', '040', '060'])
    expect(after.outline.shots.s5!.sequenceId).toBe('q1')
    // Across the sequences' border it stays in its own where it can.
    const [, , , swapped] = filmOrder(taken(film, plan(film, withPictures(list, [a!, b!, c!, e!, d!, f!]))).film.outline)
    expect([swapped!.label, swapped!.sequenceId]).toEqual(['050', 'q2'])
  })

  it('puts what is not in the list into the tray with its sound, and finds it there again', () => {
    const dropped = plan(film, withPictures(list, list.pictures.filter(({ label }) => label !== '020')))
    expect(kinds(dropped)).toContain('dropped')
    const { film: after } = taken(film, dropped)
    expect([labels(after), isInFilm(after.outline.shots.s2!)]).toEqual([['010', '030', '040', '050', '060'], false])
    expect(after.takes.t2).toBe(film.takes.t2)
    const back = plan(after, list)
    expect(back.lines.map(({ kind }) => kind)).toContain('returned')
    expect(labels(taken(after, back).film)).toEqual(labels(film))
  })

  it('trims both ends by the list’s source, matched by id, by label, or in the film as one movie', () => {
    const at = list.pictures[1]!
    const trimmed = { ...at, sourceFrame: at.sourceZero! + 6, lengthFrames: 60 }
    const with2 = (picture: CutPicture) => withPictures(list, list.pictures.map((each, i) => (i === 1 ? picture : each)))
    const expected = { kind: 'ends', shotId: 's2', ends: { head: -6, tail: -6 } }
    expect(plan(film, with2(trimmed)).lines).toContainEqual(expect.objectContaining(expected))
    expect(plan(film, with2({ ...trimmed, shotId: null, sourceZero: null, label: '020.mov' })).lines).toContainEqual(expect.objectContaining(expected))
    expect(plan(film, with2({ ...trimmed, shotId: null, sourceZero: null, sourceFrame: 6 })).lines).toContainEqual(expect.objectContaining(expected))
    expect(plan(film, with2({ ...trimmed, shotId: null, sourceZero: null, label: 'Salt.mov', sourceFrame: 72 + 6 })).lines).toContainEqual(expect.objectContaining(expected))
  })

  it('makes new shots empty ones with their names, and copies of shots that are seen again', () => {
    const added: CutPicture = { kind: 'shot', shotId: null, label: 'Storm', title: '', lengthFrames: 33, sourceFrame: 0, sourceZero: null, panels: [] }
    const twice = { ...list.pictures[0]!, sourceFrame: list.pictures[0]!.sourceZero! + 24, lengthFrames: 12 }
    const made = taken(film, plan(film, withPictures(list, [list.pictures[0]!, added, list.pictures[1]!, twice, ...list.pictures.slice(2)]))).film
    const order = filmOrder(made.outline)
    expect(order.map(({ circledTakeId }) => takeLengthFrames(made.takes[circledTakeId]!))).toEqual([72, 33, 72, 12, 72, 72, 72, 72])
    expect([order[1]!.label, order[0]!.id, order[2]!.id]).toEqual(['Storm', 's1', 's2'])
  })

  it('finds again what it made of a name that is too long for a label, of a hole, and of a shot that is seen once more', () => {
    const picture = (fields: Partial<CutPicture>): CutPicture => ({ kind: 'shot', shotId: null, label: '', title: '', lengthFrames: 30, sourceFrame: null, sourceZero: null, panels: [], ...fields })
    const [first, ...rest] = list.pictures
    const asked = withPictures(list, [picture({ label: 'The platform in the rain, at night' }), first!, picture({ kind: 'gap' }), { ...first!, sourceFrame: first!.sourceZero! + 10, lengthFrames: 20 }, ...rest])
    const after = taken(film, plan(film, asked)).film
    expect(filmOrder(after.outline).slice(0, 4).map(({ title }) => title)).toEqual(['The platform in the rain, at night', '', 'Hole', ''])
    expect(plan(after, asked).lines).toEqual([])
    // Out of the film it is found in the tray.
    const without = taken(after, plan(after, { ...asked, pictures: asked.pictures.slice(1) })).film
    expect(plan(without, asked).lines.map(({ kind }) => kind)).toContain('returned')
  })

  it('takes no other shot for one that is seen once more, however alike', () => {
    // The last of the list is the fourth again: as long, as untitled and as whole as the sixth, which stands in that very place.
    const asked = withPictures(list, [...list.pictures.slice(0, 5), list.pictures[3]!])
    const first = plan(film, asked)
    expect(first.lines.map(({ kind }) => kind)).toEqual(['again', 'dropped', 'transition'])
    const { film: after } = taken(film, first)
    const copy = filmOrder(after.outline).at(-1)!
    expect([copy.id === 's6', copy.againOf, isInFilm(after.outline.shots.s6!)]).toEqual([false, 's4', false])
    expect(plan(after, asked).lines).toEqual([])
    // A part of it, and a copy of it by hand, were asked for by no cut.
    const take = after.takes[copy.circledTakeId]!
    const loaded = { ...after, drawings: Object.fromEntries(drawingsOf(take).map((id) => [id, EMPTY_DRAWING])) }
    const [parted, copied] = [cutShot(loaded, 'film', copy.id, inOrder(take.panels)[1]!.id, newId), duplicateShot(loaded, 'film', copy.id, newId)].map((made) => {
      const applied = made.ok ? applyChange(loaded, made) : made
      if (!applied.ok) throw new Error(applied.refusal.code)
      return filmOrder(applied.value.outline).slice(-2).map(({ againOf }) => againOf)
    })
    expect([parted, copied]).toEqual([['s4', undefined], ['s4', undefined]])
  })

  it('slides sound against its shot only, and what is not heard any more goes to the tray', () => {
    const [c2, c4] = list.sounds
    const swapped = withPictures(list, [list.pictures[1]!, list.pictures[0]!, ...list.pictures.slice(2)])
    expect(plan(film, { ...swapped, sounds: [{ ...c2!, atFrame: c2!.atFrame - 72 }, c4!] }).lines.filter(({ kind }) => kind === 'sound')).toEqual([])
    const slid = plan(film, { ...list, sounds: [{ ...c2!, atFrame: c2!.atFrame + 5 }] })
    expect(slid.lines).toMatchObject([{ kind: 'sound', clipId: c2!.clipId, byFrames: 5 }, { kind: 'unheard', clipId: c4!.clipId }])
    const after = taken(film, slid).film
    expect([after.outline.clips.cs2!.offsetFrames, listOf(after).sounds.length]).toEqual([17, 1])
    expect(plan(film, { ...list, sounds: [] }).lines).toEqual([])
    // No more of a recording than there is.
    const long = taken(film, plan(film, { ...list, sounds: list.sounds.map((each) => ({ ...each, fromSeconds: 3, lengthSeconds: 60 })) })).film
    expect(Object.values(long.outline.clips).map(({ fromSeconds, lengthSeconds }) => [fromSeconds, lengthSeconds])).toEqual([[3, 1], [3, 1]])
  })

  it('takes one line without the others', () => {
    const [a, b, c, ...rest] = list.pictures
    const changed = plan(film, withPictures(list, [c!, a!, { ...b!, lengthFrames: 80 }, ...rest.slice(1)]))
    for (const line of changed.lines) {
      const after = plan(taken(film, changed, new Set([line.id])).film, changed.list)
      expect(after.lines.map(({ id }) => id)).not.toContain(line.id)
      expect(after.lines).toHaveLength(changed.lines.length - 1)
    }
  })

  const picture = fc.record({ of: fc.nat(7), head: fc.integer({ min: -20, max: 40 }), tail: fc.integer({ min: -30, max: 20 }) })
  it('makes the film what the list is, whatever was done to it, and undo takes it back', () => {
    fc.assert(
      fc.property(fc.array(picture, { minLength: 1, maxLength: 10 }), (picks) => {
        const pictures = picks.map(({ of, head, tail }, i): CutPicture => {
          const known = list.pictures[of]
          if (known === undefined) return { kind: of === 6 ? 'gap' : 'shot', shotId: null, label: `New ${i}`, title: '', lengthFrames: 10 + i, sourceFrame: null, sourceZero: null, panels: [] }
          return { ...known, sourceFrame: known.sourceZero! + head, lengthFrames: Math.max(1, 72 - head + tail) }
        })
        const asked = { ...withPictures(list, pictures), transitions: pictures.length > 1 ? [{ into: 1, kind: 'dissolve' as const, before: 2, after: 2 }] : [], sounds: [] }
        const first = plan(film, asked)
        const { film: after, change } = taken(film, first)
        const stage = stageOf(after)
        expect(stage.shots.map(({ lengthFrames }) => lengthFrames)).toEqual(pictures.map(({ lengthFrames }) => lengthFrames))
        // Taken once more nothing is left to take: each shot remembers where in its own time it begins, and what was made is found again.
        expect(plan(after, asked).lines).toEqual([])
        expect(plan(after, listOf(after)).lines).toEqual([])
        expect(stage.shots.flatMap(({ shot }) => (shot.id.startsWith('s') ? [shot.id] : [])).length).toBe(new Set(picks.filter(({ of }) => of < 6).map(({ of }) => of)).size)
        const back = applyChange(after, invertChange(change, 'undo-change'))
        expect(back.ok && [back.value.outline, Object.keys(film.takes).map((id) => back.value.takes[id])]).toEqual([film.outline, Object.values(film.takes)])
      }),
      { numRuns: 60 },
    )
  })
})
