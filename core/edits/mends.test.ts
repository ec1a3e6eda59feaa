import { describe, expect, it } from 'vitest'
import { counterZoom, frameThis, lensOf, meetPlane, slidePoint, slidePose, untouchedPose, project, type CameraPose } from '../camera'
import { keepPicture } from '../depth'
import { levelPlane } from '../depth/levelPlane'
import { EMPTY_OUTLINE, EMPTY_TAKE, orderOfNumber, placedFramings, type Film, type Framing, type TakeBody } from '../document'
import { createMove, createPath, createCameraTrack, findBumps, POSES, type MoveSpec } from '../moves'
import { createTakeStage } from '../stage'
import { framesOfEntry } from '../time'
import { addPanel, applyChange, bendMove, carryPanels, duplicatePanels, editKey, followMarks, joinPanels, keyCounterZoom, keyFraming, movePanels, removePanels, retime, setLevelDepth, smoothKey, splitPanel, type Made } from './index'

/** What was once wrong, with what is right. */
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const BENT: MoveSpec = { ...EVEN, path: { kind: 'bent', leave: { x: 0.3, y: 0.2, depth: 0 }, arrive: { x: -0.3, y: 0.2, depth: 0 } } }
let ids = 0
const newId = () => `n${++ids}`

const framing = (id: string, panelId: string, offsetFrames: number, pose: Partial<CameraPose> = {}, fields: Partial<Framing> = {}): Framing => ({ id, cameraId: 'a', panelId, offsetFrames, pose: { ...REST, ...pose }, move: EVEN, locked: false, ...fields })
const level = { id: 'l', order: 'a0', name: 'l', kind: 'drawn' as const, x: 0.3, y: 0.1, depth: 2, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
function take(framings: readonly Framing[] = [], locked = false, lengths: readonly number[] = [24, 24, 24]): TakeBody {
  return {
    ...EMPTY_TAKE,
    panels: Object.fromEntries(lengths.map((lengthFrames, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
    levels: { l: level },
    cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked } },
    framings: Object.fromEntries(framings.map((each) => [each.id, each])),
  }
}
const code = (made: Made) => (made.ok ? 'ok' : made.refusal.code)

describe('marks on the ruler', () => {
  const mark = { id: 'm', shotId: 's-t', offsetFrames: 30, name: '', meaning: 'note' as const }
  const film: Film = {
    outline: {
      ...EMPTY_OUTLINE,
      project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
      sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
      shots: Object.fromEntries(['t', 'u'].map((id, i) => [`s-${id}`, { id: `s-${id}`, sequenceId: 'q', order: orderOfNumber(i), label: `0${i}0`, title: '', circledTakeId: id }])),
      takes: Object.fromEntries(['t', 'u'].map((id) => [id, { id, shotId: `s-${id}`, order: 'a0', letter: 'A' }])),
      rulerMarks: { m: mark },
    },
    takes: { t: take(), u: take() },
    drawings: {},
  }
  const t = film.takes.t!
  /** Where the mark, 6 frames into the second panel, is afterwards. */
  const after = (made: Made) => {
    if (!made.ok) throw new Error(made.refusal.code)
    const applied = applyChange(film, { edits: followMarks(film, 'film', made.edits) })
    if (!applied.ok) throw new Error(applied.refusal.code)
    const { shotId, offsetFrames } = applied.value.outline.rulerMarks.m!
    return [shotId, offsetFrames]
  }
  it('stay over their panel when others are added, duplicated, moved, taken out or made longer before it', () => {
    expect(after(addPanel(t, 't', 'new', 'p0', 10))).toEqual(['s-t', 40])
    expect(after(duplicatePanels(t, 't', ['p0'], ['new']))).toEqual(['s-t', 54])
    expect(after(movePanels(t, 't', ['p1'], 'p0', newId))).toEqual(['s-t', 6])
    expect(after(movePanels(t, 't', ['p2'], 'p0', newId))).toEqual(['s-t', 54])
    expect(after(removePanels(film, 'film', 't', ['p0'], newId))).toEqual(['s-t', 6])
    expect(after(retime(film, 'film', [{ lengths: [{ takeId: 't', panelId: 'p0', lengthFrames: 30 }], giver: null }], 'push'))).toEqual(['s-t', 36])
  })
  it('stay where they are when panels are only divided otherwise, or their own goes', () => {
    expect(after(splitPanel(t, 't', 'p1', 3, 'new'))).toEqual(['s-t', 30])
    expect(after(joinPanels(film, 'film', 't', ['p0', 'p1']))).toEqual(['s-t', 30])
    expect(after(removePanels(film, 'film', 't', ['p1'], newId))).toEqual(['s-t', 24])
  })
  it('go along with panels that are carried to another shot, also when theirs is left empty', () => {
    expect(after(carryPanels(film, 'film', 't', ['p1'], 'u', 'p1', newId))).toEqual(['s-u', 30])
    expect(after(carryPanels(film, 'film', 't', ['p0', 'p1', 'p2'], 'u', null, newId))).toEqual(['s-u', 72 + 30])
  })
})

describe('locks', () => {
  const three = (fields: Partial<Framing>) => take([framing('f0', 'p0', 0, {}, { move: BENT, ...fields }), framing('f1', 'p1', 0, { x: 1 }, { move: BENT, smooth: true }), framing('f2', 'p2', 0, { x: 1, y: 1 })])
  it('of a framing hold when the path at its neighbour is bent or made smooth', () => {
    expect(code(bendMove(three({ locked: true }), 't', 'f1', 'leave', { x: 0.1, y: 0.4, depth: 0 }))).toBe('framing-locked')
    expect(code(smoothKey(three({ locked: true }), 't', 'f1', true))).toBe('framing-locked')
    expect(code(bendMove(three({}), 't', 'f1', 'leave', { x: 0.1, y: 0.4, depth: 0 }))).toBe('ok')
  })
  it('of a camera hold for its moves', () => {
    expect(code(editKey(take([framing('f', 'p0', 0)], true), 't', 'f', { move: BENT }))).toBe('camera-locked')
  })
  it('refuse a counter-zoom beside them that could not keep its plane', () => {
    const locked = take([framing('f0', 'p0', 0, {}, { locked: true })])
    expect(code(keyCounterZoom(locked, 't', 'a', 20, { ...REST, depth: -1 }, 2, 'new'))).toBe('framing-locked')
  })
})

describe('a framing put into a move', () => {
  it('leaves a bent move the curve that it was, in two pieces', () => {
    const before = take([framing('f0', 'p0', 0, {}, { move: BENT }), framing('f1', 'p2', 23, { x: 1 })])
    const stage = createTakeStage(before, OPTICS)
    const made = keyFraming(before, 't', 'a', 30, stage.poseAt(30), 'new')
    const applied = applyChange({ outline: EMPTY_OUTLINE, takes: { t: before }, drawings: {} }, { edits: made.ok ? made.edits : [] })
    const now = createTakeStage(applied.ok ? applied.value.takes.t! : before, OPTICS)
    for (let frame = 0; frame < 72; frame++) expect(Math.hypot(now.poseAt(frame).x - stage.poseAt(frame).x, now.poseAt(frame).y - stage.poseAt(frame).y)).toBeLessThan(1e-6)
  })
  it('is refused while the camera still settles, with the frame from which it can be', () => {
    const settling = take([framing('f0', 'p0', 0, {}, { move: { ...EVEN, timing: { kind: 'cushioned', leaveFrames: 2, arriveFrames: 4, settleFrames: 8 } } }), framing('f1', 'p1', 0, { x: 1 })])
    expect(keyFraming(settling, 't', 'a', 28, REST, 'new')).toMatchObject({ ok: false, refusal: { code: 'still-settling', restsAtFrame: 33 } })
    expect(code(keyFraming(settling, 't', 'a', 33, REST, 'new'))).toBe('ok')
  })
})

describe('numbers', () => {
  it('of a path with a cusp go by its length: no step is longer than the others', () => {
    // The handles cross: the curve runs into a point and back.
    const path = createPath({ x: 0, y: 0, depth: 0 }, { x: 1, y: 0, depth: 0 }, { kind: 'bent', leave: { x: 1, y: 1, depth: 0 }, arrive: { x: -1, y: 1, depth: 0 } })
    const steps = Array.from({ length: 400 }, (_, i) => [path.at(i / 400), path.at((i + 1) / 400)] as const).map(([a, b]) => Math.hypot(a.x - b.x, a.y - b.y))
    const even = path.lengthFw / 400
    // Across the point itself the way turns back, so the chord is shorter; it is never longer.
    expect(Math.max(...steps)).toBeLessThan(even * 1.0001)
    expect(steps.filter((step) => step < even * 0.999).length).toBeLessThan(12)
  })
  it('of a curve that overshoots go on past the ends of a bent path', () => {
    const over: MoveSpec = { ...BENT, timing: { kind: 'custom', x1: 0.3, y1: -0.6, x2: 0.6, y2: 1.6 } }
    const move = createMove(REST, { ...REST, x: 1 }, over, 100, OPTICS)
    const xs = Array.from({ length: 101 }, (_, frame) => move(frame).x)
    expect(Math.min(...xs)).toBeLessThan(-0.01)
    expect(Math.max(...xs)).toBeGreaterThan(1.01)
  })
  it('of a move even on screen far out, with as good as equal widths, stay on the way', () => {
    const far = { ...REST, depth: -1e5, x: 0 }
    const move = createMove(far, { ...far, x: 1, depth: -1e5 - 1e-7 }, { ...EVEN, evenness: { kind: 'screen', subjectDepth: 0 } }, 100, OPTICS)
    for (let frame = 0; frame <= 100; frame += 10) expect(move(frame).x).toBeCloseTo(frame / 100, 6)
  })
  it('that are none are refused, or change nothing', () => {
    expect(frameThis([{ x: NaN, y: 0, depth: 2 }], REST, REST, OPTICS, 0.1, 'truck')).toEqual({ ok: false, code: 'not-finite' })
    expect(counterZoom(REST, { ...REST, depth: NaN }, 2)).toBeNull()
    expect(slidePose(REST, OPTICS, NaN, 0, 1)).toBe(REST)
    expect(keepPicture(REST, { x: NaN, y: 0, depth: 0, scale: 1 }, 2).ok).toBe(false)
    expect(code(keyFraming(take(), 't', 'a', 0, { ...REST, x: NaN }, 'new'))).toBe('pose-not-finite')
  })
  it('past what can be kept are held to it, or refused in words', () => {
    const kept = keyFraming(take(), 't', 'a', 0, { ...REST, depth: -1e9 }, 'new')
    expect(kept.ok && Object.values(kept.edits[0]!.changes.framings!)[0]!.after).toMatchObject({ pose: { depth: -1e6 } })
    expect(setLevelDepth(take(), 't', 'l', 1e7, createTakeStage(take(), OPTICS).seen(0, REST))).toMatchObject({ ok: false, refusal: { code: 'out-of-reach', received: 1e7, most: 1e6 } })
    const long = take()
    const wordy = { ...long, panels: { ...long.panels, p0: { ...long.panels.p0!, action: 'a'.repeat(6000) }, p1: { ...long.panels.p1!, action: 'b'.repeat(6000) } } }
    const film = { outline: EMPTY_OUTLINE, takes: { t: wordy, u: take([], false, [900_000, 900_000]) }, drawings: {} }
    expect(joinPanels(film, 'film', 't', ['p0', 'p1'])).toMatchObject({ ok: false, refusal: { code: 'words-too-long', received: 12_001, most: 10_000 } })
    expect(code(joinPanels(film, 'film', 'u', ['p0', 'p1']))).toBe('length-out-of-range')
  })
  it('of a plane as small as a millionth are met all the same', () => {
    const met = meetPlane(lensOf(REST, OPTICS), 0.1, 0, levelPlane({ ...level, x: 0, y: 0, depth: 0, scale: 1e-6 }))
    expect(met!.x).toBeCloseTo(1e5, 3)
  })
  it('typed for a length have one sign, and are counted in tens', () => {
    const rate = { numerator: 24, denominator: 1 }
    expect(['--1:00', '+-4', '*0x10', '*1e3', '/0', '**2'].map((entry) => framesOfEntry(entry, rate, 48))).toEqual([null, null, null, null, null, null])
    expect(['-4', '+1:00', '*1.5', '/2', '*.5'].map((entry) => framesOfEntry(entry, rate, 48))).toEqual([44, 72, 72, 24, 24])
  })
})

describe('a level dragged under a panned camera', () => {
  it('stays under the pointer, at its depth', () => {
    const lens = lensOf({ ...REST, panDegrees: 35, tiltDegrees: 10, rollDegrees: 20 }, OPTICS)
    const from = { x: 2.4, y: 0.4, depth: 2 }
    const before = project(lens, from)
    const to = slidePoint(lens, from, 0.1, -0.05)!
    const after = project(lens, to)
    expect([after.u - before.u, after.v - before.v].map((value) => Number(value.toFixed(9)))).toEqual([0.1, -0.05])
    expect(to.depth).toBe(2)
    expect(slidePoint(lens, { x: 0, y: 0, depth: -9 }, 0.1, 0)).toBeNull()
  })
})

describe('bumps', () => {
  const bumpsOf = (framings: readonly Framing[]) => findBumps(createCameraTrack(placedFramings(take(framings), 'a'), OPTICS), POSES)
  it('are none in a steady pan past a full turn', () => {
    expect(bumpsOf([framing('f0', 'p0', 0, { panDegrees: 300 }), framing('f1', 'p0', 20, { panDegrees: 350 }), framing('f2', 'p1', 10, { panDegrees: 20 }), framing('f3', 'p2', 0, { panDegrees: 70 })])).toEqual([])
  })
  it('are none where the camera turns back after a true rest', () => {
    expect(bumpsOf([framing('f0', 'p0', 0), framing('f1', 'p0', 20, { x: 1 }), framing('f2', 'p1', 10, { x: 1 }), framing('f3', 'p2', 0, { x: 0.2 })])).toEqual([])
    expect(bumpsOf([framing('f0', 'p0', 0), framing('f1', 'p0', 20, { x: 1 }), framing('f3', 'p2', 0, { x: 0.2 })]).map(({ field, frame }) => [field, frame])).toEqual([['x', 20]])
  })
})
