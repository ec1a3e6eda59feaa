import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CameraPose } from '../../camera'
import { EMPTY_OUTLINE, freeze, inOrder, keyOwners, placedKeys, placedPanels, placedSpans, takeBodySchema, takeProblems, type CameraSpan, type Film, type TakeBody } from '../../document'
import { createTakeStage } from '../../stage'
import { addSpan, applyChange, carryPanels, changeSpan, cutShot, duplicateShot, editLevel, faceLevels, fastenLevels, filmOrder, invertChange, joinShots, keyFraming, keyLevel, lockCamera, movePanels, placeSpan, readsOf, rebaseChange, removeLevel, removePanels, removeSpans, setPanelLength, setPivot, SPAN_DEFAULTS, splitPanel, type Change, type Made, type NewSpan } from '../index'
import { done, level, newId, OPTICS, REST, sampleTake, seen, T } from '../testing'

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const spanOf = (id: string, kind: CameraSpan['kind'], levelId: string, more: object = {}): NewSpan => {
  const common = { id, cameraId: 'a', kind, ...SPAN_DEFAULTS[kind] }
  return (kind === 'hand' ? { ...common, seed: 7, ...more } : { ...common, target: { levelId }, ...more }) as NewSpan
}

/** A take whose levels go about, with a camera that is keyed, and spans of all kinds over it. */
const working = (prefix: string): fc.Arbitrary<TakeBody> =>
  fc
    .record({
      lengths: fc.array(fc.integer({ min: 1, max: 16 }), { minLength: 2, maxLength: 5 }),
      walks: fc.array(fc.tuple(fc.constantFrom('tilda', 'sky'), number(0, 0.999), number(-2, 2), number(-1, 2)), { maxLength: 5 }),
      keys: fc.array(fc.tuple(number(0, 0.999), number(-1, 1), number(-20, 20)), { maxLength: 3 }),
      spans: fc.array(
        fc.record({ kind: fc.constantFrom('follow' as const, 'aim' as const, 'hand' as const), of: fc.constantFrom('tilda', 'sky'), at: number(0, 0.999), for: fc.option(number(0, 0.8)), inFrames: fc.integer({ min: 0, max: 9 }), outFrames: fc.integer({ min: 0, max: 9 }), lagFrames: number(0, 8), lead: number(0, 0.2), holds: fc.boolean(), depth: fc.boolean(), still: number(0, 0.1) }),
        { minLength: 1, maxLength: 3 },
      ),
    })
    .map(({ lengths, walks, keys, spans }) => {
      const base = sampleTake(lengths)
      const rename = (name: string) => `${prefix}${name}`
      const panels = Object.fromEntries(Object.values(base.panels).map((panel) => [rename(panel.id), { ...panel, id: rename(panel.id) }]))
      let take: TakeBody = freeze({ ...base, panels, cells: {} })
      const total = lengths.reduce((sum, each) => sum + each, 0)
      const frame = (at: number) => Math.floor(at * total)
      const put = (made: Made) => {
        take = made.ok ? done(take, made) : take
      }
      for (const [levelId, at, x, depth] of walks) put(keyLevel(take, T, levelId, frame(at), { place: { x, y: x / 4, depth } }, newId))
      for (const [at, x, panDegrees] of keys) put(keyFraming(take, T, 'a', frame(at), { ...REST, x, panDegrees }, newId()))
      spans.forEach((each, i) => {
        const axes = { x: true, y: i === 1, depth: each.depth }
        const chases = { lagFrames: each.lagFrames, ...(each.holds ? { holdsSize: true } : {}) }
        const follows = { axes, still: { widthFw: each.still, heightFw: each.still }, lead: { mostFw: each.lead, atFwPerFrame: 0.02 }, ...chases }
        const more = { inFrames: each.inFrames, outFrames: each.outFrames, ...(each.kind === 'follow' ? follows : each.kind === 'aim' ? chases : {}) }
        put(addSpan(take, T, spanOf(`${prefix}span${i}`, each.kind, each.of, more), frame(each.at), each.for === null ? null : frame(Math.min(0.999, each.at + each.for))))
      })
      return take
    })

const filmOf = (takes: Readonly<Record<string, TakeBody>>): Film => ({
  outline: {
    ...EMPTY_OUTLINE,
    project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
    sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
    shots: Object.fromEntries(Object.keys(takes).map((name, i) => [`s-${name}`, { id: `s-${name}`, sequenceId: 'q', order: `a${i}`, label: `0${i + 1}0`, title: '', circledTakeId: name }])),
    takes: Object.fromEntries(Object.keys(takes).map((name) => [name, { id: name, shotId: `s-${name}`, order: 'a0', letter: 'A' }])),
  },
  takes,
  drawings: {},
})
const posesOf = (take: TakeBody): readonly CameraPose[] => {
  const stage = createTakeStage(take, OPTICS)
  return Array.from({ length: stage.lengthFrames }, (_, frame) => stage.poseAt(frame))
}
const filmPoses = (film: Film) => filmOrder(film.outline).flatMap((shot) => posesOf(film.takes[shot.circledTakeId]!))
/** The film after, whose bodies fit their schema, and which undo takes back exactly. */
function after(film: Film, made: Made): Film {
  if (!made.ok) throw new Error(JSON.stringify(made.refusal))
  const change: Change = { id: newId(), label: 'x', edits: made.edits }
  const applied = applyChange(film, change)
  if (!applied.ok) throw new Error(JSON.stringify(applied.refusal))
  for (const shot of filmOrder(applied.value.outline)) {
    const take = applied.value.takes[shot.circledTakeId]!
    expect(takeProblems(take)).toEqual([])
    const parsed = takeBodySchema.safeParse(take)
    expect(parsed.success ? null : parsed.error.issues[0]).toBeNull()
  }
  const back = applyChange(applied.value, invertChange(change, newId()))
  if (!back.ok) throw new Error('undo')
  for (const [id, take] of Object.entries(film.takes)) expect(back.value.takes[id]).toEqual(take)
  return applied.value
}
const FIELDS = ['x', 'y', 'depth', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'focalLengthMm'] as const
function expectSame(now: readonly CameraPose[], before: readonly CameraPose[]) {
  expect(now.length).toBe(before.length)
  now.forEach((pose, frame) => {
    for (const field of FIELDS) if (!(Math.abs(pose[field] - before[frame]![field]) < 5e-5)) throw new Error(`frame ${frame}: ${field} ${pose[field]} for ${before[frame]![field]}`)
  })
}
/** Whether something moves right through a stretch, with no key in it: that has less time once the stretch is gone. */
const movesThrough = (take: TakeBody, from: number, to: number) =>
  keyOwners(take).some((owner) => {
    const frames = placedKeys(take, owner).map(({ frame }) => frame)
    return frames.some((frame) => frame < from) && frames.some((frame) => frame >= to) && !frames.some((frame) => frame >= from && frame < to)
  })
const RUNS = { numRuns: Number(process.env.RUBATO_RUNS ?? 100) }

describe('no frame of a camera that follows, aims or is held by hand changes', () => {
  it('by a panel that is split, or a shot that is cut in two and joined again', () => {
    fc.assert(
      fc.property(working('p'), fc.nat(), (take, n) => {
        const film = filmOf({ t: take })
        const before = filmPoses(film)
        const panels = inOrder(take.panels)
        const panel = panels[n % panels.length]!
        if (panel.lengthFrames > 1) expectSame(filmPoses(after(film, splitPanel(take, 't', panel.id, 1, newId()))), before)
        if (panel === panels[0]) return
        const cut = after(film, cutShot(film, 'film', 's-t', panel.id, newId))
        expectSame(filmPoses(cut), before)
        expectSame(filmPoses(after(cut, joinShots(cut, 'film', filmOrder(cut.outline).map(({ id }) => id), newId))), before)
      }),
      RUNS,
    )
  })

  it('by shots that are joined, or a shot that is copied', () => {
    fc.assert(
      fc.property(working('p'), working('q'), (one, two) => {
        const film = filmOf({ t: one, u: two })
        const before = filmPoses(film)
        const joined = after(film, joinShots(film, 'film', ['s-t', 's-u'], newId))
        expectSame(filmPoses(joined), before)
        const copied = after(film, duplicateShot(film, 'film', 's-t', newId))
        expectSame(filmPoses(copied), [...posesOf(one), ...posesOf(one), ...posesOf(two)])
      }),
      RUNS,
    )
  })

  it('by panels that are carried into another shot: there, around them, and after where they were', () => {
    fc.assert(
      fc.property(working('p'), working('q'), fc.nat(), fc.nat(), (one, two, n, m) => {
        const film = filmOf({ t: one, u: two })
        const [from, to] = [placedPanels(one), placedPanels(two)]
        const moving = from[n % from.length]!
        const at = m % (to.length + 1)
        const carried = after(film, carryPanels(film, 'film', 't', [moving.panel.id], 'u', to[at]?.panel.id ?? null, newId))
        const [left, there] = [posesOf(one), posesOf(two)]
        const start = to[at]?.startFrame ?? there.length
        const [a, b] = [moving.startFrame, moving.startFrame + moving.panel.lengthFrames]
        expectSame(posesOf(carried.takes.u!), [...there.slice(0, start), ...left.slice(a, b), ...there.slice(start)])
        if (!movesThrough(one, a, b)) expectSame(posesOf(carried.takes.t!).slice(a), left.slice(b))
      }),
      RUNS,
    )
  })

  it('after a panel that is taken out', () => {
    fc.assert(
      fc.property(working('p'), fc.nat(), (take, n) => {
        const placed = placedPanels(take)
        const { panel, startFrame } = placed[n % placed.length]!
        fc.pre(!movesThrough(take, startFrame, startFrame + panel.lengthFrames))
        const film = filmOf({ t: take })
        const now = posesOf(after(film, removePanels(film, 'film', 't', [panel.id], newId)).takes.t!)
        expectSame(now.slice(startFrame), posesOf(take).slice(startFrame + panel.lengthFrames))
      }),
      RUNS,
    )
  })
})

describe('a span', () => {
  const base = () => done(sampleTake([24, 12, 36]), keyLevel(sampleTake([24, 12, 36]), T, 'tilda', 0, { place: { x: 0, y: 0, depth: 0 } }, newId))
  const following = () => done(base(), addSpan(base(), T, spanOf('f', 'follow', 'tilda'), 6, 40))
  const framesOf = (take: TakeBody) => placedSpans(take).map(({ first, last, open }) => [first, last, open])

  it('goes along with its panels at both ends, and ends with the shot where it has no end', () => {
    const take = following()
    expect(framesOf(take)).toEqual([[6, 40, false]])
    expect(framesOf(done(take, setPanelLength(take, T, 'p1', 34)))).toEqual([[6, 50, false]])
    expect(framesOf(done(take, setPanelLength(take, T, 'p2', 4)))).toEqual([[6, 32, false]])
    const open = done(take, placeSpan(take, T, 'f', 6, null))
    expect(framesOf(open)).toEqual([[6, 71, true]])
    expect(framesOf(done(open, setPanelLength(open, T, 'p3', 60)))).toEqual([[6, 95, true]])
    // Its end's panel put before its start's: it keeps its length.
    expect(framesOf(done(take, movePanels(take, T, ['p3'], 'p1', newId)))).toEqual([[42, 71, false]])
  })

  it('is put, changed, placed and taken out; a locked camera, or what is not there, is refused', () => {
    const take = following()
    const changed = done(take, changeSpan(take, T, 'f', { lagFrames: 0, u: 0.2 }))
    expect(changed.spans.f).toMatchObject({ lagFrames: 0, u: 0.2, inFrames: 12 })
    expect(framesOf(done(take, placeSpan(take, T, 'f', 60, 500)))).toEqual([[60, 71, false]])
    expect(framesOf(done(take, placeSpan(take, T, 'f', 30, 10)))).toEqual([[30, 30, false]])
    expect(done(take, removeSpans(take, T, ['f']))).toEqual(base().levelKeys === undefined ? null : { ...take, spans: {}, spanEnds: {} })
    const locked = done(take, lockCamera(take, T, 'a', true))
    for (const made of [addSpan(locked, T, spanOf('g', 'hand', ''), 0, null), changeSpan(locked, T, 'f', { u: 0 }), placeSpan(locked, T, 'f', 0, 3), removeSpans(locked, T, ['f'])]) expect(made).toMatchObject({ ok: false, refusal: { code: 'camera-locked' } })
    expect(addSpan(take, T, spanOf('g', 'follow', 'nobody'), 0, null)).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'level' } })
    expect(changeSpan(take, T, 'g', {})).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'span' } })
  })

  it('goes with its level when that is taken out, and undo brings both back', () => {
    const take = following()
    const film = filmOf({ [T]: take })
    const now = after(film, removeLevel(take, T, 'tilda', seen(take, REST)))
    expect([now.takes[T]!.spans, now.takes[T]!.spanEnds]).toEqual([{}, {}])
  })

  it('never goes after what hangs on a camera, and nothing is made to hang that one goes after', () => {
    const take = following()
    const here = seen(take, REST)
    const travels = done(take, fastenLevels(take, T, ['sky'], { kind: 'camera' }, here))
    expect(addSpan(travels, T, spanOf('g', 'aim', 'sky'), 0, null)).toMatchObject({ ok: false, refusal: { code: 'target-hangs', id: 'sky' } })
    expect(fastenLevels(take, T, ['tilda'], { kind: 'camera' }, here)).toMatchObject({ ok: false, refusal: { code: 'followed-hangs', id: 'tilda', camera: 'A' } })
    expect(fastenLevels(travels, T, ['tilda'], { kind: 'level', levelId: 'sky', turn: false, size: false }, seen(travels, REST))).toMatchObject({ ok: false, refusal: { code: 'followed-hangs' } })
    // What turns to the lens may be followed by where it stands, not by another point of its art, nor what is turned by it.
    const faces = done(take, faceLevels(take, T, ['tilda', 'sky'], 'lens'))
    expect(changeSpan(faces, T, 'f', { target: { levelId: 'tilda', at: { x: 0.2, y: 0 } } })).toMatchObject({ ok: false, refusal: { code: 'target-hangs' } })
    const elsewhere = done(take, changeSpan(take, T, 'f', { target: { levelId: 'tilda', at: { x: 0.2, y: 0 } } }))
    expect(faceLevels(elsewhere, T, ['tilda'], 'upright')).toMatchObject({ ok: false, refusal: { code: 'followed-hangs' } })
    const onTurning: Made = fastenLevels(faces, T, ['tilda'], { kind: 'level', levelId: 'sky', turn: true, size: false }, seen(faces, REST))
    expect(onTurning).toMatchObject({ ok: false, refusal: { code: 'followed-hangs' } })
    expect(fastenLevels(faces, T, ['tilda'], { kind: 'level', levelId: 'sky', turn: false, size: false }, seen(faces, REST)).ok).toBe(true)
    // Someone else's file that has it so is refused as a whole.
    expect(takeProblems({ ...take, levels: { ...take.levels, tilda: { ...take.levels.tilda!, carrier: { kind: 'camera' } } } })).toEqual([{ code: 'target-hangs', path: ['spans', 'f'] }])
  })

  it('goes on after the same point of the art when the pivot is moved', () => {
    const take = following()
    const before = posesOf(take)
    const now = done(take, setPivot(take, T, 'tilda', { x: 0.3, y: 0.2 }, seen(take, REST)))
    expect(now.spans.f).toMatchObject({ target: { levelId: 'tilda', at: { x: 0, y: 0 } } })
    expectSame(posesOf(now), before)
  })

  it('two hands on different sides of one both stay; one that follows what another takes out is a clash', () => {
    const take = following()
    const film = filmOf({ [T]: take })
    const change = (made: Made): Change => {
      if (!made.ok) throw new Error(made.refusal.code)
      return { id: newId(), label: 'x', edits: made.edits, reads: readsOf(film, made.edits) }
    }
    const on = (mine: Change, theirs: Change) => {
      const now = applyChange(film, theirs)
      if (!now.ok) throw new Error('theirs')
      return rebaseChange(now.value, mine)
    }
    const lag = change(changeSpan(take, T, 'f', { lagFrames: 1 }))
    const end = change(placeSpan(take, T, 'f', 6, 20))
    const both = on(lag, end)
    expect(both.ok && [both.film.takes[T]!.spans.f, framesOf(both.film.takes[T]!)]).toMatchObject([{ lagFrames: 1 }, [[6, 20, false]]])
    const gone = change(removeLevel(take, T, 'tilda', seen(take, REST)))
    const added = change(addSpan(take, T, spanOf('g', 'aim', 'tilda'), 3, null))
    expect(on(added, gone)).toMatchObject({ ok: false })
    const dropped = on(gone, added)
    expect(dropped.ok).toBe(false)
    const travels = change(fastenLevels(done(take, removeSpans(take, T, ['f'])), T, ['tilda'], { kind: 'camera' }, seen(take, REST)))
    expect(on(travels, change(changeSpan(take, T, 'f', { u: 0.1 })))).toMatchObject({ ok: false })
  })

  it('a level that moves while it is followed moves what the camera shows, and only from its key on', () => {
    const take = following()
    const moved = done(take, editLevel(take, T, 'sky', { x: 3 }))
    expectSame(posesOf(moved), posesOf(take))
    expect(level('x', 1, 0).id).toBe('x')
  })
})
