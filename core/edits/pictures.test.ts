import fc from 'fast-check'
import { isDeepStrictEqual } from 'node:util'
import { describe, expect, it } from 'vitest'
import { untouchedPose, type CameraPose } from '../camera'
import { airKeys, cameraKeys, cellAt, drawingsOf, EMPTY_OUTLINE, EMPTY_TAKE, freeze, inOrder, liveCameraAt, liveSpans, orderOfNumber, placedFramings, placedKeys, placedPanels, takeBodySchema, takeLengthFrames, takeProblems, type Film, type Framing, type PlacedFraming, type TakeBody } from '../document'
import { hazeAt, type Air } from '../depth'
import { channelsOf, createCameraTrack } from '../moves'
import { beginsOf } from '../moves/track'
import { createTakeStage } from '../stage'
import { liveInPanels } from './take/liveCuts'
import { applyChange, carryPanels, copyKeyTo, cutShot, duplicateShot, filmOrder, holdUntil, invertChange, joinPanels, joinShots, keyFraming, movePanels, removePanels, splitPanel, trimShot, type Made } from './index'

const framingBegins = (placed: readonly PlacedFraming[]) => beginsOf(placed.map(({ framing, frame }) => ({ frame, move: framing.move })))

/** No edit changes a picture but those that it says it changes. */
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
let ids = 0
const newId = () => `n${++ids}`

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const pose: fc.Arbitrary<CameraPose> = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(-3, -0.5), panDegrees: number(-200, 200), tiltDegrees: number(-40, 40), rollDegrees: number(-400, 400), focalLengthMm: number(20, 90) })
const point = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(-0.5, 0.5) })
const frames = fc.integer({ min: 0, max: 30 })
const move = fc.record({
  timing: fc.oneof(
    fc.constant({ kind: 'hold' as const }),
    fc.constant({ kind: 'even' as const }),
    fc.record({ kind: fc.constant('cushioned' as const), leaveFrames: frames, arriveFrames: frames }),
    fc.record({ kind: fc.constant('cushioned' as const), leaveFrames: frames, arriveFrames: frames, settleFrames: fc.integer({ min: 1, max: 20 }) }),
    // Upright at an end or in its middle now and then, where a frame’s last bits tell.
    fc.record({ kind: fc.constant('custom' as const), x1: fc.oneof(fc.constantFrom(0, 1), number(0, 1)), y1: number(0, 1), x2: fc.oneof(fc.constantFrom(0, 1), number(0, 1)), y2: number(0, 1) }),
  ),
  path: fc.oneof(fc.constant({ kind: 'straight' as const }), fc.record({ kind: fc.constant('bent' as const), leave: point, arrive: point })),
  evenness: fc.oneof(fc.constant({ kind: 'set' as const }), fc.constant({ kind: 'screen' as const, subjectDepth: 1 })),
})

const haze = fc.record({ density: number(0, 2), start: number(0, 5), colour: fc.constantFrom('#c0d0e0', '#ffe0b0') })

const takeBody = (prefix: string): fc.Arbitrary<TakeBody> =>
  fc
    .record({
      lengths: fc.array(fc.integer({ min: 1, max: 24 }), { minLength: 1, maxLength: 5 }),
      keys: fc.array(fc.record({ at: number(0, 0.999), pose, move, locked: fc.boolean() }), { maxLength: 5 }),
      other: fc.array(fc.record({ at: number(0, 0.999), pose, move, locked: fc.boolean() }), { maxLength: 3 }),
      cuts: fc.oneof(fc.constant([] as { at: number; cameraId: 'a' | 'b' }[]), fc.array(fc.record({ at: number(0, 0.999), cameraId: fc.constantFrom('a' as const, 'b' as const) }), { maxLength: 4 })),
      haze: fc.option(fc.record({ said: haze, keys: fc.array(fc.record({ at: number(0, 0.999), value: haze, move }), { maxLength: 4 }) }), { nil: null }),
      shows: fc.array(fc.array(fc.constantFrom('hold', 'own', 'none', 'inside', 'both'), { minLength: 5, maxLength: 5 }), { maxLength: 3 }),
    })
    .map(({ lengths, keys, other, cuts, shows, haze: air }) => {
      const panels = Object.fromEntries(lengths.map((lengthFrames, i) => [`${prefix}${i}`, { id: `${prefix}${i}`, order: orderOfNumber(i), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
      const total = lengths.reduce((sum, length) => sum + length, 0)
      const placed = placedPanels({ panels })
      const anchorOf = (at: number) => {
        const frame = Math.floor(at * total)
        const panel = placed.findLast((entry) => entry.startFrame <= frame)!
        return { panelId: panel.panel.id, offsetFrames: frame - panel.startFrame }
      }
      const framings: Record<string, Framing> = {}
      for (const [cameraId, own] of [['a', keys], ['b', other]] as const) {
        for (const key of [...own].reverse()) {
          const id = `${prefix}${cameraId}${Math.floor(key.at * total)}`
          framings[id] = { id, cameraId, ...anchorOf(key.at), pose: key.pose, move: key.move, locked: key.locked }
        }
      }
      const airKeys = Object.fromEntries((air?.keys ?? []).map(({ at, value, move: leaves }) => [`${prefix}h${Math.floor(at * total)}`, { id: `${prefix}h${Math.floor(at * total)}`, airId: 'haze' as const, ...anchorOf(at), value, move: leaves, locked: false }]))
      const cutRecords = Object.fromEntries(cuts.map(({ at, cameraId }, i) => [`${prefix}c${i}`, { id: `${prefix}c${i}`, ...anchorOf(at), cameraId, dissolveFrames: 0 }]))
      // A take of one camera, or of two that are cut between.
      const cameras = { a: { id: 'a', order: 'a0', letter: 'A', locked: false }, ...(cuts.length + other.length > 0 ? { b: { id: 'b', order: 'a1', letter: 'B', locked: false } } : {}) }
      const levels = Object.fromEntries(shows.map((_, i) => [`l${i}`, { id: `l${i}`, order: orderOfNumber(i), name: `l${i}`, kind: 'drawn' as const, x: 0, y: 0, depth: i, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }]))
      const cells = Object.fromEntries(
        shows.flatMap((row, i) =>
          lengths.flatMap((_, p) => {
            const here = (offset: number, name: string | null) => [cellAt(`l${i}`, `${prefix}${p}`, offset, name)].map((cell) => [cell.id, cell] as const)
            const [own, inside] = [`${prefix}d${i}${p}`, lengths[p]! < 2 ? [] : here(1 + ((i + p) % (lengths[p]! - 1)), `${prefix}e${i}${p}`)]
            return { hold: [], own: here(0, own), none: here(0, null), inside, both: [...here(0, own), ...inside] }[row[p]!]
          }),
        ),
      )
      return freeze({ ...EMPTY_TAKE, panels, framings, levels, cells, cameras, cuts: cutRecords, air: air === null ? {} : { haze: { id: 'haze' as const, ...air.said } }, airKeys } as TakeBody)
    })

const filmOf = (takes: Readonly<Record<string, TakeBody>>): Film => {
  const names = Object.keys(takes)
  const drawings = Object.fromEntries(names.flatMap((name) => Object.values(takes[name]!.cells).flatMap(({ drawingId }) => (drawingId === null ? [] : [[drawingId, { marks: [{ id: drawingId, order: 'a0', kind: 'fill' as const, mode: 'ink' as const, outlines: [[0, 0, 1, 0, 1, 1]], colour: '#000000', opacity: 1 }] }]]))))
  return {
    outline: {
      ...EMPTY_OUTLINE,
      project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
      sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
      shots: Object.fromEntries(names.map((name, i) => [`s-${name}`, { id: `s-${name}`, sequenceId: 'q', order: orderOfNumber(i), label: `0${i + 1}0`, title: '', circledTakeId: name }])),
      takes: Object.fromEntries(names.map((name) => [name, { id: name, shotId: `s-${name}`, order: 'a0', letter: 'A' }])),
    },
    takes,
    drawings,
  }
}

/** What is seen at a frame: the pose, and the ink of each level that shows something, by the level's name. */
interface Seen {
  readonly pose: CameraPose
  readonly shows: readonly string[]
  /** How much of a near and a far level's colour is gone, and what the far one has of the haze's instead. */
  readonly haze: readonly number[]
}
function hazeSeen({ haze: air }: Air): readonly number[] {
  if (air === null) return [0, 0, 0, 0, 0]
  const far = hazeAt(air, 6)
  return [hazeAt(air, 2), far, ...channelsOf(air.colour).map((channel) => channel * far)]
}
function seenIn(film: Film, take: TakeBody): readonly Seen[] {
  const stage = createTakeStage(take, OPTICS)
  return Array.from({ length: takeLengthFrames(take) }, (_, frame) => {
    const at = stage.at(frame)
    const shows = at.levels.flatMap(({ level, drawingId }) => (drawingId === null ? [] : [`${level.name}: ${film.drawings[drawingId]!.marks[0]!.id}`]))
    return { pose: at.pose, shows: shows.sort(), haze: hazeSeen(at.air) }
  })
}
const filmSeen = (film: Film) => filmOrder(film.outline).flatMap((shot) => seenIn(film, film.takes[shot.circledTakeId]!))

const FIELDS = ['x', 'y', 'depth', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'focalLengthMm'] as const
function off(a: CameraPose, b: CameraPose): number {
  return Math.max(
    ...FIELDS.map((field) => {
      const by = Math.abs(a[field] - b[field])
      return field.endsWith('Degrees') ? Math.min(by % 360, 360 - (by % 360)) : by
    }),
  )
}
function expectSame(now: readonly (Seen | null)[], before: readonly Seen[], inks = true) {
  expect(now.length).toBe(before.length)
  now.forEach((each, frame) => {
    if (each === null) return
    const wrong = off(each.pose, before[frame]!.pose)
    if (!(wrong < 5e-5)) throw new Error(`frame ${frame} is off by ${wrong}: ${JSON.stringify(each.pose)} for ${JSON.stringify(before[frame]!.pose)}`)
    if (inks && !isDeepStrictEqual(each.shows, before[frame]!.shows)) expect(each.shows).toEqual(before[frame]!.shows)
    const hazes = [each.haze, before[frame]!.haze]
    // A colour is a whole number: rounding may take it to the next.
    if (hazes[0]!.some((value, i) => !(Math.abs(value - hazes[1]![i]!) <= (i < 2 ? 5e-5 : 1.02)))) throw new Error(`frame ${frame} is in another haze: ${JSON.stringify(hazes)}`)
  })
}

/** The film after, whose bodies fit their schema, and which undo takes back exactly. */
function done(film: Film, made: Made): Film {
  if (!made.ok) throw new Error(JSON.stringify(made.refusal))
  const change = { id: newId(), label: 'x', edits: made.edits }
  const applied = applyChange(film, change)
  if (!applied.ok) throw new Error(JSON.stringify(applied.refusal))
  for (const shot of Object.values(applied.value.outline.shots)) {
    const take = applied.value.takes[shot.circledTakeId]!
    expect(takeProblems(take)).toEqual([])
    const parsed = takeBodySchema.safeParse(take)
    expect(parsed.success ? null : parsed.error.issues[0]).toBeNull()
  }
  const back = applyChange(applied.value, invertChange(change, newId()))
  if (!back.ok) throw new Error('undo')
  for (const [id, take] of Object.entries(film.takes)) expect(back.value.takes[id]).toEqual(take)
  expect(back.value.outline).toEqual(film.outline)
  return applied.value
}

const RUNS = { numRuns: Number(process.env.RUBATO_RUNS ?? 200) }

describe('no frame changes', () => {
  it('by a framing that keeps what the camera shows', () => {
    fc.assert(
      fc.property(takeBody('p'), number(0, 0.999), (take, at) => {
        const film = filmOf({ t: take })
        const before = seenIn(film, take)
        const frame = Math.floor(at * before.length)
        const cameraId = liveCameraAt(liveSpans(take), frame)!
        fc.pre(!placedFramings(take, cameraId).some((entry) => entry.frame === frame))
        const made = keyFraming(take, 't', cameraId, frame, before[frame]!.pose, newId())
        if (made.ok) expectSame(seenIn(film, done(film, made).takes.t!), before)
        else expect(made.refusal).toMatchObject({ code: 'still-settling' })
      }),
      RUNS,
    )
  })

  it('before the frame that a framing is copied from, or until which the camera waits', () => {
    fc.assert(
      fc.property(takeBody('p'), number(0, 0.999), (take, at) => {
        const film = filmOf({ t: take })
        const before = seenIn(film, take)
        const frame = Math.floor(at * before.length)
        const cameraId = liveCameraAt(liveSpans(take), frame)!
        if (frame < before.length - 1) {
          const made = copyKeyTo(take, 't', cameraKeys(cameraId), frame, before[frame]!.pose, before.length - 1, newId)
          const track = createCameraTrack(placedFramings(take, cameraId), OPTICS)
          const settling = track.keys.some((entry, i) => entry.frame <= frame && track.begins[i]! > frame)
          if (made.ok && !settling) expectSame(seenIn(film, done(film, made).takes.t!).map((seen, f) => (f <= frame ? seen : null)), before)
        }
        const held = holdUntil(take, 't', cameraKeys(cameraId), frame, newId())
        if (!held.ok) return
        const placed = placedFramings(take, cameraId)
        const from = placed.findLastIndex((entry) => entry.frame < frame)
        const end = framingBegins(placed).begins[from + 1]!
        expectSame(seenIn(film, done(film, held).takes.t!).map((seen, f) => (f <= placed[from]!.frame || f >= end ? seen : null)), before)
      }),
      RUNS,
    )
  })

  it('by a panel that is split, or the camera by panels that are joined', () => {
    fc.assert(
      fc.property(takeBody('p'), fc.nat(), fc.nat(), (take, n, at) => {
        const film = filmOf({ t: take })
        const before = seenIn(film, take)
        const panels = inOrder(take.panels)
        const panel = panels[n % panels.length]!
        if (panel.lengthFrames > 1) expectSame(seenIn(film, done(film, splitPanel(take, 't', panel.id, 1 + (at % (panel.lengthFrames - 1)), newId())).takes.t!), before)
        if (panels.length > 1) {
          const first = n % (panels.length - 1)
          const joined = done(film, joinPanels(film, 'film', 't', [panels[first]!.id, panels[first + 1]!.id]))
          const second = placedPanels(take)[first + 1]!
          const inSecond = (f: number) => f >= second.startFrame && f < second.startFrame + second.panel.lengthFrames
          expectSame(seenIn(film, joined.takes.t!), before, false)
          expectSame(seenIn(film, joined.takes.t!).map((seen, f) => (inSecond(f) ? null : seen)), before)
        }
      }),
      RUNS,
    )
  })

  it('by a shot that is cut in two, duplicated, or joined with the next', () => {
    fc.assert(
      fc.property(takeBody('p'), takeBody('r'), fc.nat(), (t, u, n) => {
        const film = filmOf({ t, u })
        const before = filmSeen(film)
        const panels = inOrder(t.panels)
        expectSame(filmSeen(done(film, joinShots(film, 'film', ['s-t', 's-u'], newId))), before)
        const twice = done(film, duplicateShot(film, 'film', 's-t', newId))
        expectSame(filmSeen(twice).slice(takeLengthFrames(t)), before)
        if (panels.length < 2) return
        const cut = done(film, cutShot(film, 'film', 's-t', panels[1 + (n % (panels.length - 1))]!.id, newId))
        expectSame(filmSeen(cut), before)
        const again = done(cut, joinShots(cut, 'film', filmOrder(cut.outline).map((shot) => shot.id), newId))
        expectSame(filmSeen(again), before)
      }),
      RUNS,
    )
  })

  it('that stays where a shot begins or ends elsewhere, in what is left and in what is cut off', () => {
    fc.assert(
      fc.property(takeBody('p'), takeBody('r'), fc.integer({ min: -30, max: 20 }), fc.integer({ min: -30, max: 20 }), (t, u, head, tail) => {
        const film = filmOf({ t, u })
        const length = takeLengthFrames(t)
        if (length + Math.min(0, head) + Math.min(0, tail) < 1) return
        const trimmed = done(film, trimShot(film, 'film', 's-t', { head, tail }, newId))
        expect(takeLengthFrames(trimmed.takes.t!)).toBe(length + head + tail)
        const stays = seenIn(film, t).slice(Math.max(0, -head), length + Math.min(0, tail))
        const from = Math.max(0, head)
        expectSame(seenIn(trimmed, trimmed.takes.t!).slice(from, from + stays.length), stays)
        expectSame(seenIn(trimmed, trimmed.takes.u!), seenIn(film, u))
        // Every drawing that the shot showed is still shown, in it or in the tray.
        const all = (of: Film) => new Set(Object.values(of.outline.shots).flatMap((shot) => drawingsOf(of.takes[shot.circledTakeId]!).map((id) => JSON.stringify(of.drawings[id]))))
        for (const drawing of all(film)) expect(all(trimmed)).toContain(drawing)
      }),
      RUNS,
    )
  })

  it('of panels that are carried to another shot, nor of those that they are put between', () => {
    fc.assert(
      fc.property(takeBody('p'), takeBody('r'), fc.nat(), fc.nat(), fc.nat(), (t, u, first, count, at) => {
        const film = filmOf({ t, u })
        const [from, to] = [placedPanels(t), placedPanels(u)]
        const start = first % from.length
        const moving = from.slice(start, start + 1 + (count % 2))
        const before = at % (to.length + 1)
        const carried = done(film, carryPanels(film, 'film', 't', moving.map(({ panel }) => panel.id), 'u', to[before]?.panel.id ?? null, newId))
        const [seenT, seenU] = [seenIn(film, t), seenIn(film, u)]
        const cutFrame = to[before]?.startFrame ?? seenU.length
        const own = moving.flatMap(({ panel, startFrame }) => seenT.slice(startFrame, startFrame + panel.lengthFrames))
        expectSame(seenIn(carried, carried.takes.u!), [...seenU.slice(0, cutFrame), ...own, ...seenU.slice(cutFrame)])
      }),
      RUNS,
    )
  })

  it('of what a reordered panel shows, nor of what the others show', () => {
    fc.assert(
      fc.property(takeBody('p'), fc.nat(), fc.nat(), (take, n, to) => {
        const film = filmOf({ t: take })
        const panels = inOrder(take.panels)
        const [moving, before] = [panels[n % panels.length]!, panels[to % (panels.length + 1)] ?? null]
        const after = done(film, movePanels(take, 't', [moving.id], before?.id ?? null, newId)).takes.t!
        const shown = (body: TakeBody) => {
          const live = liveInPanels(body)
          return new Map(placedPanels(body).map(({ panel, startFrame }) => [panel.id, [live.get(panel.id), ...seenIn(film, body)[startFrame]!.shows]]))
        }
        for (const [id, shows] of shown(take)) expect(shown(after).get(id)).toEqual(shows)
      }),
      RUNS,
    )
  })

  it('around a panel that is taken out, but of a move that led into it or through it', () => {
    fc.assert(
      fc.property(takeBody('p'), fc.nat(), (take, n) => {
        const placed = placedPanels(take)
        fc.pre(placed.length > 1)
        const film = filmOf({ t: take })
        const before = seenIn(film, take)
        const { panel, startFrame, index } = placed[n % placed.length]!
        const end = startFrame + panel.lengthFrames
        const after = seenIn(film, done(film, removePanels(film, 'film', 't', [panel.id], newId)).takes.t!)
        const live = liveSpans(take)
        /** Of each track that is seen there: when its moves begin, and whether the panel has a key of it. */
        const tracksAt = (frame: number) => {
          const framings = placedFramings(take, liveCameraAt(live, frame)!)
          const hazes = placedKeys(take, airKeys('haze'))
          return [
            { begins: framingBegins(framings).begins, at: framings.map((entry) => entry.frame), keyed: framings.some((entry) => entry.framing.panelId === panel.id) },
            { begins: beginsOf(hazes.map(({ record, frame: at }) => ({ frame: at, move: record.move }))).begins, at: hazes.map((entry) => entry.frame), keyed: hazes.some(({ record }) => record.panelId === panel.id) },
          ]
        }
        const last = index === placed.length - 1
        /** Under way at the frame, in a move that goes on past `edge`. */
        const goesPast = (begins: readonly number[], frame: number, edge: number) => begins.some((begin, i) => frame > begin && frame < (begins[i + 1] ?? -1) && begins[i + 1]! > edge)
        /** Under way in a move that leaves a key before the panel’s end, though it may wait for that key to settle until after it. */
        const comesFrom = (begins: readonly number[], at: readonly number[], frame: number) => begins.some((begin, i) => frame > begin && frame < (begins[i + 1] ?? -1) && at[i]! < end)
        const kept = after.map((seen, f) => {
          const frame = f < startFrame ? f : f + panel.lengthFrames
          const tracks = tracksAt(frame)
          if (frame < startFrame) return last || tracks.every(({ begins }) => !goesPast(begins, frame, startFrame - 1)) ? seen : null
          // What settles past the panel's first frame does so in what is after it now.
          const settles = (begins: readonly number[], at: readonly number[]) => at.some((key, i) => key < startFrame && begins[i]! > f)
          return tracks.every(({ begins, at, keyed }) => (keyed || !comesFrom(begins, at, frame)) && !settles(begins, at)) ? seen : null
        })
        expectSame(kept, [...before.slice(0, startFrame), ...before.slice(end)])
      }),
      RUNS,
    )
  })
})

describe('a last framing’s move', () => {
  const still: Framing = { id: 'f', cameraId: 'a', panelId: 'p0', offsetFrames: 0, pose: REST, move: { timing: { kind: 'cushioned', leaveFrames: 4, arriveFrames: 4, settleFrames: 8 }, path: { kind: 'bent', leave: { x: 0.3, y: 0.3, depth: 0 }, arrive: { x: 0, y: 0.3, depth: 0 } }, evenness: { kind: 'set' } }, locked: false }
  const take: TakeBody = { ...EMPTY_TAKE, panels: { p0: { id: 'p0', order: 'a0', lengthFrames: 48, lengthLocked: false, action: '', dialogue: '', notes: '' } }, framings: { f: still }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } }

  it('does not come alive when something follows: a still camera stays still', () => {
    const film = filmOf({ t: take })
    expectSame(seenIn(film, done(film, keyFraming(take, 't', 'a', 40, REST, newId())).takes.t!), seenIn(film, take))
    const copied = done(film, copyKeyTo(take, 't', cameraKeys('a'), 0, REST, 40, newId)).takes.t!
    expectSame(seenIn(film, copied), seenIn(film, take))
  })
})

describe('a camera that settles across a cut', () => {
  /** It arrives at its second framing on frame 1 and rests only on frame 3. */
  const settling = (frame: number, settleFrames: number): Framing => ({ id: `f${frame}`, cameraId: 'a', panelId: 'p0', offsetFrames: frame, pose: { ...REST, x: frame / 2, focalLengthMm: 20 }, move: { timing: { kind: 'cushioned', leaveFrames: 0, arriveFrames: 0, settleFrames }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false })
  const panel = (id: string, order: number, lengthFrames: number) => ({ id, order: orderOfNumber(order), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' })
  const take: TakeBody = freeze({ ...EMPTY_TAKE, panels: { p0: panel('p0', 0, 2), p1: panel('p1', 1, 1), p2: panel('p2', 2, 2) }, framings: { f0: settling(0, 2), f1: settling(1, 1) }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } })
  const other: TakeBody = freeze({ ...EMPTY_TAKE, panels: { q: panel('q', 0, 1) }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } })

  it('is as it was before and after a panel that is put there', () => {
    const film = filmOf({ t: other, u: take })
    const carried = done(film, carryPanels(film, 'film', 't', ['q'], 'u', 'p1', newId))
    const [seen, own] = [seenIn(film, take), seenIn(film, other)]
    expectSame(seenIn(carried, carried.takes.u!), [...seen.slice(0, 2), ...own, ...seen.slice(2)])
  })
})
