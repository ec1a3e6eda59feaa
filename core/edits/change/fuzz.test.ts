import { describe, expect, it } from 'vitest'
import { untouchedPose, type CameraPose } from '../../camera'
import { cameraKeys, cellIdOf, drawingProblems, EMPTY_DRAWING, EMPTY_OUTLINE, EMPTY_TAKE, inOrder, liveSpans, orderOfNumber, outlineProblems, placedFramings, placedPanels, takeLengthFrames, takeProblems, type Carrier, type Film, type TakeBody, type UnitRef } from '../../document'
import { createTakeStage } from '../../stage'
import * as make from '../index'
import { applyChange, checkEdit, followMarks, insistOn, invertChange, readsOf, rebaseChange, rebaseOver, sameContent, sameJson, showsDrawing, type Change, type Edit, type Made } from '../index'

/**
 * Two hands on one film, any edits, in any order, with and without a connection: both end alike, nothing that was
 * accepted is missing, and undoing everything is the beginning. `RUBATO_FUZZ_EDITS=100000` makes it longer,
 * `RUBATO_FUZZ_SEED` another.
 */
const EDITS = Number(process.env.RUBATO_FUZZ_EDITS ?? 2000)
const SEED = Number(process.env.RUBATO_FUZZ_SEED ?? 7)
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const P = 'film'

/** mulberry32: the same numbers for the same seed. */
function chance(seed: number) {
  let a = seed >>> 0
  const next = () => {
    a = (a + 0x6d2b79f5) >>> 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  return {
    next,
    int: (n: number) => Math.floor(next() * n),
    of: <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!,
  }
}
type Chance = ReturnType<typeof chance>

let made = 0
const newId = () => `n${(++made).toString(36)}`
const stroke = () => ({ id: newId(), kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5, 0.1, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 })

function takeBody(prefix: string): TakeBody {
  const panels = Object.fromEntries([0, 1, 2].map((i) => [`${prefix}${i}`, { id: `${prefix}${i}`, order: orderOfNumber(i), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
  const level = (id: string, depth: number) => ({ id, order: orderOfNumber(depth), name: id, kind: 'drawn' as const, x: 0, y: 0, depth, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...(id === 'ink' ? { figure: true } : {}) })
  const cell = { id: cellIdOf('ink', `${prefix}0`), levelId: 'ink', panelId: `${prefix}0`, drawingId: `d-${prefix}` }
  return { ...EMPTY_TAKE, panels, levels: { ink: level('ink', 0), sky: level('sky', 3) }, cells: { [cell.id]: cell }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } }
}

function beginning(): Film {
  const names = ['t', 'u', 'v', 'w']
  return {
    outline: {
      ...EMPTY_OUTLINE,
      project: { [P]: { id: P, title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
      sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null }, r: { id: 'r', order: 'a1', label: '02', title: '', targetFrames: null } },
      shots: Object.fromEntries(names.map((id, i) => [`s-${id}`, { id: `s-${id}`, sequenceId: i < 3 ? 'q' : 'r', order: orderOfNumber(i), label: `0${i + 1}0`, title: '', circledTakeId: id }])),
      takes: Object.fromEntries(names.map((id) => [id, { id, shotId: `s-${id}`, order: 'a0', letter: 'A' }])),
      rulerMarks: { m: { id: 'm', shotId: 's-t', offsetFrames: 30, name: 'here', meaning: 'note' } },
      lanes: { l: { id: 'l', order: 'a0', name: 'Voices', kind: 'voices', gainDb: 0, muted: false, soloed: false } },
    },
    takes: Object.fromEntries(names.map((id) => [id, takeBody(id)])),
    drawings: Object.fromEntries(names.map((id) => [`d-${id}`, { marks: [{ ...stroke(), order: 'a0' }] }])),
  }
}

/** Some of what a level can be given. */
function valuesOf(c: Chance): make.SomeLevelValues {
  const all = { place: { x: c.int(10) / 5, y: 0, depth: c.int(3) }, turn: { panDegrees: 0, tiltDegrees: 0, rollDegrees: c.int(90) }, size: 0.5 + c.int(3), opacity: c.int(10) / 10 }
  return c.of([{ place: all.place }, { turn: all.turn, size: all.size }, { opacity: all.opacity }, all])
}

/** Something for a camera to do over a while. */
function spanOf(c: Chance, cameraId: string, levelId: string): make.NewSpan {
  const kind = c.of(['follow', 'aim', 'hand'] as const)
  return { id: newId(), cameraId, kind, ...make.SPAN_DEFAULTS[kind], ...(kind === 'hand' ? { seed: c.int(100) } : { target: { levelId } }) } as make.NewSpan
}

/** Something for a level to be fastened to, or nothing. */
function carrierOf(c: Chance, take: TakeBody): Carrier | null {
  const levelId = c.of(Object.keys(take.levels))
  return c.of([null, { kind: 'camera' }, { kind: 'level', levelId, turn: c.next() < 0.5, size: c.next() < 0.5 }, { kind: 'level', levelId, turn: true, size: true }] as const)
}

/** One thing that an artist may do to the film as it is. */
function anyEdit(film: Film, c: Chance): Made {
  const { outline } = film
  const shots = make.filmOrder(outline)
  const shot = c.of(shots)
  const takeId = shot.circledTakeId
  const take = film.takes[takeId]!
  const panels = inOrder(take.panels)
  const panel = c.of(panels)
  const level = c.of(Object.values(take.levels))
  const frame = c.int(takeLengthFrames(take))
  const pose: CameraPose = { ...REST, x: c.int(40) / 20 - 1, y: c.int(20) / 20, panDegrees: c.int(90) - 45, depth: REST.depth - c.int(10) / 10 }
  const framing = placedFramings(take, 'a')[0]?.framing ?? null
  const cameraId = inOrder(take.cameras)[0]!.id
  const other = c.of(shots)
  const levelKey = c.of([...Object.values(take.levelKeys), undefined])
  const span = c.of([...Object.values(take.spans), undefined])
  const seenHere = () => createTakeStage(take, OPTICS).seen(frame, pose)
  const pick: readonly (() => Made)[] = [
    () => make.keyFraming(take, takeId, cameraId, frame, pose, newId()),
    () => make.reframe(take, takeId, cameraId, frame, pose, newId()),
    () => (framing === null ? nothing : make.moveKey(take, takeId, framing.id, frame)),
    () => (framing === null ? nothing : make.removeKeys(take, takeId, [framing.id])),
    () => (framing === null ? nothing : make.editKey(take, takeId, framing.id, { move: { timing: { kind: 'cushioned', leaveFrames: 3, arriveFrames: 5, settleFrames: 4 }, path: { kind: 'straight' }, evenness: { kind: 'set' } } })),
    () => (framing === null ? nothing : make.bendMove(take, takeId, framing.id, 'leave', { x: 0.2, y: 0.1, depth: 0 })),
    () => make.holdUntil(take, takeId, cameraKeys(cameraId), frame, newId()),
    () => make.copyKeyTo(take, takeId, cameraKeys(cameraId), frame, pose, takeLengthFrames(take) - 1, newId),
    () => (level === undefined ? nothing : make.addSpan(take, takeId, spanOf(c, cameraId, level.id), frame, c.of([null, frame + 10]))),
    () => (span === undefined ? nothing : make.changeSpan(take, takeId, span.id, { inFrames: c.int(9) })),
    () => (span === undefined ? nothing : make.placeSpan(take, takeId, span.id, frame, c.of([null, frame + c.int(20)]))),
    () => (span === undefined ? nothing : make.removeSpans(take, takeId, [span.id])),
    () => (Object.keys(take.cameras).length > 3 ? nothing : make.addCamera(take, takeId, newId(), frame, pose, newId)),
    () => make.removeCamera(take, takeId, c.of(Object.keys(take.cameras)), newId),
    () => make.cutTo(take, takeId, frame, c.of(Object.keys(take.cameras)), newId),
    () => make.moveCut(take, takeId, c.of(liveSpans(take)).from, frame, newId),
    () => make.dissolveCut(take, takeId, c.of(liveSpans(take)).from, c.int(12), newId),
    () => make.removeCuts(take, takeId, [c.of(liveSpans(take)).from], newId),
    () => make.addPanel(take, takeId, newId(), panel.id, 12 + c.int(12)),
    () => make.duplicatePanels(take, takeId, [panel.id], [newId()]),
    () => make.editPanel(take, takeId, panel.id, { action: `Words ${c.int(100)}.` }),
    () => make.removePanels(film, P, takeId, [panel.id], newId),
    () => make.splitPanel(take, takeId, panel.id, 1 + c.int(20), newId()),
    () => (panels.length < 2 ? nothing : make.joinPanels(film, P, takeId, panels.slice(0, 2).map((each) => each.id))),
    () => make.movePanels(take, takeId, [panel.id], c.of([...panels.map((each) => each.id), null]), newId),
    () => make.carryPanels(film, P, takeId, [panel.id], other.circledTakeId, c.of([...Object.keys(film.takes[other.circledTakeId]!.panels), null]), newId),
    () => make.retime(film, P, [{ lengths: [{ takeId, panelId: panel.id, lengthFrames: 6 + c.int(30) }], giver: null }], 'push'),
    () => (panels.length < 2 ? nothing : make.retime(film, P, [{ lengths: [{ takeId, panelId: panels[0]!.id, lengthFrames: panels[0]!.lengthFrames + 1 }], giver: { takeId, panelId: panels.at(-1)!.id } }], 'steal')),
    () => (level === undefined ? nothing : make.drawMark(take, takeId, film.drawings, level.id, panel.id, stroke(), newId(), c.next() < 0.5)),
    () => (level === undefined ? nothing : make.drawMark(take, takeId, film.drawings, level.id, panel.id, stroke(), newId(), true)),
    () => (level === undefined ? nothing : make.blankCell(take, takeId, level.id, panel.id)),
    () => (level === undefined ? nothing : make.clearCell(take, takeId, level.id, panel.id)),
    () => (level === undefined ? nothing : make.editLevel(take, takeId, level.id, { x: c.int(10) / 10, opacity: c.int(10) / 10 })),
    () => (level === undefined ? nothing : make.setLevelDepth(take, takeId, level.id, c.int(5), seenHere(), c.next() < 0.3)),
    () => (level === undefined ? nothing : make.keyLevel(take, takeId, level.id, frame, valuesOf(c), newId)),
    () => (level === undefined ? nothing : make.shapeLevel(take, takeId, level.id, frame, valuesOf(c))),
    () => (level === undefined ? nothing : make.travelLevel(take, takeId, level.id, frame, Math.min(takeLengthFrames(take) - 1, frame + 12), [{ aspect: 'place', from: { x: 0, y: 0, depth: 1 }, to: { x: c.int(9) / 9, y: 0, depth: 1 } }], newId)),
    () => (level === undefined ? nothing : make.settleLevel(take, takeId, level.id, valuesOf(c))),
    () => (level === undefined ? nothing : make.setPivot(take, takeId, level.id, { x: c.int(9) / 9, y: 0.25 }, seenHere())),
    () => (level === undefined ? nothing : make.editLevel(take, takeId, level.id, { stepped: c.of([2, 3, 'held'] as const), swing: { amount: 4, periodFrames: 48, phase: 0.25 } })),
    () => (level === undefined ? nothing : make.fastenLevels(take, takeId, [level.id], carrierOf(c, take), seenHere())),
    () => (level === undefined ? nothing : make.carryTogether(take, takeId, [level.id, c.of(Object.keys(take.levels))!], newId(), 'Carrier', seenHere())),
    () => (level === undefined ? nothing : make.faceLevels(take, takeId, [level.id], c.of(['lens', 'upright', null] as const))),
    () => (level === undefined ? nothing : make.exposeFrom(take, takeId, level.id, frame, c.of([...Object.values(take.cells).map((cell) => cell.drawingId), null]))),
    () => (level === undefined ? nothing : make.exposeNew(take, takeId, level.id, frame, newId())),
    () => (level === undefined ? nothing : make.changeExposures(take, takeId, level.id, { from: frame, to: frame + 6 }, (shown) => make.thereAndBack(shown, 20))),
    () => (level === undefined ? nothing : make.endRun(take, takeId, level.id, frame, frame + c.int(9), c.next() < 0.5)),
    () => (level === undefined ? nothing : make.deleteExposures(take, takeId, level.id, { from: frame, to: frame + 3 })),
    () => (levelKey === undefined ? nothing : make.moveKey(take, takeId, levelKey.id, frame)),
    () => (levelKey === undefined ? nothing : make.removeKeys(take, takeId, [levelKey.id])),
    () => (levelKey === undefined ? nothing : make.editKey(take, takeId, levelKey.id, { locked: c.next() < 0.1 })),
    () => (level === undefined ? nothing : make.reorderLevel(take, takeId, level.id, c.of([-1, 1] as const), seenHere())),
    () => (level === undefined ? nothing : make.duplicateLevel(take, takeId, level.id, newId(), 'Copy', newId)),
    () => (level === undefined || Object.keys(take.levels).length < 3 ? nothing : make.removeLevel(take, takeId, level.id, seenHere())),
    () => make.addLevel(take, takeId, { ...Object.values(takeBody('x').levels)[0]!, id: newId(), name: 'New' }, null),
    () => make.addShot(film, P, shot.sequenceId, c.of([shot.id, null]), { shot: newId(), take: newId(), panel: newId(), camera: newId() }, 24),
    () => (shots.length < 4 ? nothing : make.removeShots(outline, P, [shot.id])),
    () => (shots.length > 12 ? nothing : make.duplicateShot(film, P, shot.id, newId)),
    () => (panels.length < 2 ? nothing : make.cutShot(film, P, shot.id, panels[1]!.id, newId)),
    () => make.trimShot(film, P, shot.id, { head: c.int(12) - 6, tail: c.int(12) - 6 }, newId),
    () => make.trayShots(outline, P, [shot.id]),
    () => make.untrayShots(outline, P, Object.values(outline.shots).filter(({ inTray }) => inTray === true).map(({ id }) => id)),
    () => {
      const next = make.shotsOf(outline, shot.sequenceId)[make.shotsOf(outline, shot.sequenceId).indexOf(shot) + 1]
      return next === undefined || shots.length < 4 ? nothing : make.joinShots(film, P, [shot.id, next.id], newId)
    },
    () => make.moveShots(outline, P, [shot.id], c.of(Object.keys(outline.sequences)), null),
    () => make.editShot(outline, P, shot.id, { title: `Title ${c.int(100)}` }),
    () => make.renumberShots(outline, P, null),
    () => make.addSequence(outline, P, newId(), null, 'New'),
    () => make.addRulerMark(outline, P, { id: newId(), shotId: shot.id, offsetFrames: frame, name: 'mark', meaning: 'note' }),
    () => make.addLane(outline, P, { id: newId(), name: 'Lane', kind: 'effects', gainDb: 0, muted: false, soloed: false }),
    () => make.moveLane(outline, P, c.of(Object.keys(outline.lanes)), null),
    () => make.lockCamera(take, takeId, cameraId, false),
    () => make.setPreset(take, takeId, { id: '1', name: 'Wide', pose }),
    () => make.drawOnGround(take, takeId, film.drawings, stroke(), newId()),
  ]
  return c.of(pick)()
}
const nothing: Made = { ok: true, edits: [] }

const key = (unit: UnitRef) => `${unit.kind}:${unit.id}`
const unitOf = (film: Film, { kind, id }: UnitRef) => (kind === 'outline' ? film.outline : kind === 'take' ? (film.takes[id] ?? EMPTY_TAKE) : (film.drawings[id] ?? EMPTY_DRAWING))

function joined(edits: readonly Edit[]): Edit[] {
  const units = new Map<string, Edit>()
  for (const edit of edits) units.set(key(edit.unit), units.has(key(edit.unit)) ? make.merge(units.get(key(edit.unit))!, edit)! : edit)
  return [...units.values()].filter((edit) => !make.isEmpty(edit))
}

/** The server's rules: revisions, what was read, schemas, records that fit. All of a batch or none. */
class Server {
  film: Film
  readonly journal: Change[] = []
  readonly revisions = new Map<string, number>()
  constructor(film: Film) {
    this.film = film
  }

  /** Null where it was taken; else why not. */
  why = ''
  #stale(why: string): 'stale' {
    this.why = why
    return 'stale'
  }

  take(changes: readonly Change[], base: ReadonlyMap<string, number>): 'stale' | { readonly invalid: string; readonly why: string } | null {
    let film = this.film
    const touched = new Map<string, number>()
    for (const change of changes) {
      for (const read of change.reads ?? []) if (read.kind === 'content' && !sameContent(unitOf(film, read.unit) as TakeBody, read)) return this.#stale(`content of ${key(read.unit)} for ${change.edits.map((edit) => edit.kind).join()}`)
      const brings = new Set(change.edits.flatMap((edit) => (edit.unit.kind === 'outline' ? Object.keys(edit.changes.takes ?? {}) : [])))
      for (const edit of change.edits) {
        const unit = key(edit.unit)
        if (!touched.has(unit) && (this.revisions.get(unit) ?? 0) !== (base.get(unit) ?? 0)) return this.#stale(`revision of ${unit}`)
        if (edit.unit.kind === 'take' && film.outline.takes[edit.unit.id] === undefined && !brings.has(edit.unit.id)) return this.#stale(`${unit} is gone for ${change.edits.map((each) => each.kind).join()}`)
        touched.set(unit, 1)
        const refusal = checkEdit(edit)
        expect(checkEdit(edit, true)).toEqual(refusal)
        if (refusal !== null) return { invalid: change.id, why: JSON.stringify(refusal) }
      }
      const applied = applyChange(film, change)
      if (!applied.ok) return { invalid: change.id, why: JSON.stringify(applied.refusal) }
      film = applied.value
      for (const read of change.reads ?? []) {
        if (read.kind === 'shown' && (film.outline.takes[read.takeId] === undefined || !showsDrawing(film.takes[read.takeId] ?? EMPTY_TAKE, read.drawingId))) return this.#stale(`${read.drawingId} is not shown in ${read.takeId}`)
      }
      for (const { unit } of change.edits) {
        const value = unitOf(film, unit)
        const [problem] = unit.kind === 'outline' ? outlineProblems(value as never) : unit.kind === 'take' ? takeProblems(value as never) : drawingProblems(value as never)
        if (problem !== undefined) return { invalid: change.id, why: JSON.stringify(problem) }
      }
    }
    for (const change of changes) {
      for (const unit of new Set(change.edits.map((edit) => key(edit.unit)))) this.revisions.set(unit, (this.revisions.get(unit) ?? 0) + 1)
      this.journal.push(change)
    }
    this.film = film
    return null
  }
}

/** A window: its film with what waits on top, and what can be undone. */
class Window {
  film: Film
  waiting: Change[] = []
  past: Change[] = []
  clashes = 0
  readonly seen = new Set<string>()
  readonly revisions = new Map<string, number>()
  readonly server: Server
  constructor(server: Server) {
    this.server = server
    this.film = server.film
  }

  do(result: Made) {
    if (!result.ok || result.edits.length === 0) return
    const edits = joined(followMarks(this.film, P, result.edits))
    if (edits.length === 0) return
    this.#put({ id: newId(), label: 'x', edits })
    this.past.push(this.waiting.at(-1)!)
  }

  #put(change: Change) {
    const reads = readsOf(this.film, change.edits)
    const applied = applyChange(this.film, change)
    if (!applied.ok) throw new Error(`own edit: ${JSON.stringify(applied.refusal)}`)
    this.film = applied.value
    this.waiting.push({ ...change, ...(reads.length > 0 ? { reads } : {}) })
  }

  undo() {
    const change = this.past.pop()
    if (change === undefined) return
    const { reads: _, ...plain } = invertChange(change, newId())
    const rebased = rebaseChange(this.film, plain)
    if (rebased.ok && rebased.change.edits.length > 0) this.#put(rebased.change)
  }

  /** Takes in what the journal has. */
  pull() {
    const others = this.server.journal.filter((change) => !this.seen.has(change.id))
    this.#accept(others)
    if (others.length === 0) return
    const rebased = rebaseOver(this.film, this.waiting, (under) =>
      others.reduce((film, change) => {
        const applied = applyChange(film, change)
        if (!applied.ok) throw new Error(`news: ${JSON.stringify(applied.refusal)}`)
        return applied.value
      }, under),
    )
    this.film = rebased.film
    this.waiting = [...rebased.kept]
    this.clashes += rebased.clashing.length
    // Some of what clashes the artist insists on.
    for (const { change } of rebased.clashing.slice(0, 1)) {
      const mine = insistOn(this.film, change, newId())
      if (mine.ok && mine.change.edits.length > 0 && change.label === 'x') this.#put({ ...mine.change, label: 'insisted', edits: mine.change.edits })
    }
  }

  #accept(changes: readonly Change[]) {
    for (const change of changes) {
      this.seen.add(change.id)
      for (const unit of new Set(change.edits.map((edit) => key(edit.unit)))) this.revisions.set(unit, (this.revisions.get(unit) ?? 0) + 1)
    }
  }

  push(most: number) {
    for (let tries = 0; this.waiting.length > 0 && tries < 12; ) {
      const batch = this.waiting.slice(0, most)
      const answer = this.server.take(batch, this.revisions)
      if (answer === null) {
        this.#accept(batch)
        this.waiting = this.waiting.slice(batch.length)
      } else if (answer === 'stale') {
        const before = this.seen.size
        this.pull()
        if (before === this.seen.size) throw new Error(`stale, and nothing is new: ${this.server.why}`)
        tries++
      } else throw new Error(`refused: ${answer.why} ${batch.find((change) => change.id === answer.invalid)!.edits.map((edit) => edit.kind).join()}`)
    }
  }
}

describe('any edits', () => {
  it(`by two hands, ${EDITS} of them, seed ${SEED}: both end alike, and nothing that was accepted is missing`, () => {
    const c = chance(SEED)
    let [accepted, clashes, rounds] = [0, 0, 0]
    while (accepted < EDITS) {
      const server = new Server(beginning())
      const [a, b] = [new Window(server), new Window(server)]
      for (let step = 0; step < 60; step++) {
        const [one] = c.next() < 0.5 ? [a] : [b]
        if (c.next() < 0.12) one.undo()
        else one.do(anyEdit(one.film, c))
        // Without a connection for a while, now and then.
        if (c.next() < 0.25) one.push(1 + c.int(4))
        if (c.next() < 0.15) one.pull()
      }
      for (const each of [a, b, a, b]) {
        each.push(3)
        each.pull()
      }
      expect([a.waiting.length, b.waiting.length]).toEqual([0, 0])
      for (const each of [a, b]) expectSame(each.film, server.film)
      // What was accepted is there: the journal, done again from the beginning, is the film.
      const again = server.journal.reduce((film, change) => {
        const applied = applyChange(film, change)
        if (!applied.ok) throw new Error('journal')
        return applied.value
      }, beginningOf(server))
      expectSame(again, server.film)
      for (const shot of Object.values(server.film.outline.shots)) {
        const take = server.film.takes[shot.circledTakeId]!
        const frames = placedFramings(take, inOrder(take.cameras)[0]!.id).map((each) => each.frame)
        expect(placedPanels(take).length).toBeGreaterThan(0)
        expect(frames).toEqual([...frames].sort((x, y) => x - y))
      }
      accepted += server.journal.length
      clashes += a.clashes + b.clashes
      rounds++
    }
    expect(rounds).toBeGreaterThan(0)
    // Hands that meet this often do clash.
    expect(clashes).toBeGreaterThan(0)
  }, 120_000)

  it('undone, all of them, are the beginning', () => {
    const c = chance(SEED + 1)
    for (let round = 0; round < Math.ceil(EDITS / 200); round++) {
      const server = new Server(beginning())
      const start = server.film
      const window = new Window(server)
      for (let step = 0; step < 60; step++) window.do(anyEdit(window.film, c))
      window.push(5)
      while (window.past.length > 0) window.undo()
      window.push(5)
      expect(sameJson(window.film.outline, start.outline)).toBe(true)
      for (const [id, take] of Object.entries(start.takes)) expect(sameJson(window.film.takes[id], take)).toBe(true)
      for (const [id, drawing] of Object.entries(start.drawings)) expect(sameJson(window.film.drawings[id], drawing)).toBe(true)
      expectSame(window.film, server.film)
    }
  }, 120_000)
})

/** Units that came and went are as good as none. */
function expectSame(one: Film, other: Film) {
  expect(sameJson(one.outline, other.outline)).toBe(true)
  for (const id of new Set([...Object.keys(one.takes), ...Object.keys(other.takes)])) expect([id, one.takes[id] ?? EMPTY_TAKE]).toEqual([id, other.takes[id] ?? EMPTY_TAKE])
  for (const id of new Set([...Object.keys(one.drawings), ...Object.keys(other.drawings)])) expect([id, one.drawings[id] ?? EMPTY_DRAWING]).toEqual([id, other.drawings[id] ?? EMPTY_DRAWING])
}

/** The film that a server's journal begins from: the marks' ids are made anew for each. */
function beginningOf(server: Server): Film {
  return [...server.journal].reverse().reduce((film, change) => {
    const applied = applyChange(film, invertChange(change, newId()))
    if (!applied.ok) throw new Error('journal, backwards')
    return applied.value
  }, server.film)
}
