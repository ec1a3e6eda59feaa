import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { findEdges, needsOfTake, rectangleOutline, viewEdges, viewsAt } from '../checks'
import { EVEN, takeOf, travelling } from '../checks/testing'
import type { AimSpan, CameraSpan, FollowSpan, HandSpan, Level, TakeBody } from '../document'
import { addSpan, editLevel, keyFraming, SPAN_DEFAULTS, travelLevel } from '../edits'
import { done, level, newId, OPTICS, REST, T } from '../edits/testing'
import { CUSHIONED_MOVE, type MoveSpec } from '../moves'
import { project } from '../camera'
import { createTakeStage, frameSignature, NOTHING_BEYOND, placedLevel, type TakeStage } from '.'

const signatureOf = (stage: TakeStage, frame: number) => frameSignature(stage.at(frame), (id) => id, new Set())

const figure = level('tilda', 2, 0.4, { figure: true })
const whole = [level('sky', 1, 3), figure] as const
/** A framing at the first frame and one at the last, and the way between. */
function moved(move: MoveSpec, to: Partial<typeof REST>, frames = 49): TakeBody {
  const take = takeOf(whole, frames)
  const first = done(take, keyFraming(take, T, 'a', 0, REST, 'f1'))
  const second = done(first, keyFraming(first, T, 'a', frames - 1, { ...REST, ...to }, 'f2'))
  return { ...second, framings: { ...second.framings, f1: { ...second.framings.f1!, move } } }
}
/** Tilda goes evenly, so much a frame, all through the shot. */
function running(perFrame: number, fields: Partial<Level> = {}): TakeBody {
  const at = takeOf(whole)
  const take = done(at, editLevel(at, T, 'tilda', fields))
  const { x, y, depth } = take.levels.tilda!
  const gone = done(take, travelLevel(take, T, 'tilda', 0, 48, [{ aspect: 'place', from: { x, y, depth }, to: { x: x + perFrame * 48, y, depth } }], newId))
  return { ...gone, levelKeys: Object.fromEntries(Object.entries(gone.levelKeys).map(([id, key]) => [id, { ...key, move: EVEN }])) }
}
const poseAt = (take: TakeBody, frame: number) => createTakeStage(take, OPTICS).at(frame).pose
const placeAt = (take: TakeBody, frame: number) => placedLevel(createTakeStage(take, OPTICS).at(frame), 'tilda')!.place
const withSpan = (take: TakeBody, span: CameraSpan) => done(take, addSpan(take, T, span, 0, null))

describe('past the ends of a shot', () => {
  it('an even move goes on at its speed and had come at it; its drawings and its panel are those of the end', () => {
    const take = travelling(takeOf(whole))
    expect([-8, -1, 48, 49, 60].map((frame) => poseAt(take, frame).x)).toEqual([-0.2, -0.025, 1.2, 1.225, 1.5].map((x) => expect.closeTo(x, 9)))
    const past = createTakeStage(take, OPTICS).at(60)
    expect([past.frame, past.panelId, past.levels.map(({ drawingId }) => drawingId)]).toEqual([48, 'p1', ['d-sky', 'd-tilda']])
    // What is asked of the shot alone ends with it.
    expect(createTakeStage(take, OPTICS).poseAt(60).x).toBe(1.2)
  })

  it('what comes to rest there rests: a cushion, a settle, a hold, a cut, one framing', () => {
    for (const move of [CUSHIONED_MOVE, { ...EVEN, timing: { kind: 'cushioned' as const, leaveFrames: 1, arriveFrames: 1 } }, { ...EVEN, timing: { kind: 'hold' as const } }]) {
      const take = moved(move, { x: 1 })
      expect([-9, 57].map((frame) => poseAt(take, frame).x)).toEqual([0, 1])
    }
    const cut = moved(EVEN, { x: 1 }, 2)
    expect([-5, 9].map((frame) => poseAt(cut, frame).x)).toEqual([0, 1])
    const settles = moved({ ...EVEN, timing: { kind: 'cushioned', leaveFrames: 4, arriveFrames: 4, settleFrames: 20 } }, { x: 1 })
    // It is on its way still when the shot ends, and comes to rest after it.
    const way = [48, 52, 60, 68, 90].map((frame) => poseAt(settles, frame).x)
    expect(way).toEqual([...way].sort((a, b) => a - b))
    expect([way[0]! < 1, way[3], way[4]]).toEqual([true, 1, 1])
    expect(poseAt(takeOf(whole), 60)).toEqual(poseAt(takeOf(whole), 0))
  })

  it('a push-in that is even on screen stays so: what is there grows by the same share each frame and is never passed', () => {
    const take = moved({ ...EVEN, evenness: { kind: 'screen', subjectDepth: 0.4 } }, { depth: -0.3, focalLengthMm: 70 })
    const size = (frame: number) => ((pose) => pose.focalLengthMm / (0.4 - pose.depth))(poseAt(take, frame))
    const growth = size(1) / size(0)
    for (const frame of [-12, 20, 48, 60, 120]) expect(size(frame + 1) / size(frame)).toBeCloseTo(growth, 9)
    // A lens goes no further than lenses do.
    expect(poseAt(moved(EVEN, { focalLengthMm: 1500 }), 400).focalLengthMm).toBe(2000)
  })

  it('is what a longer shot would have shown there', () => {
    const number = fc.double({ min: -1, max: 1, noNaN: true })
    fc.assert(
      fc.property(number, number, number, fc.integer({ min: 5, max: 30 }), fc.integer({ min: -30, max: 60 }), (x, depth, pan, from, frame) => {
        const long = moved(EVEN, { x, depth, panDegrees: 40 * pan }, 91)
        const stage = createTakeStage(long, OPTICS)
        const [a, b] = [stage.poseAt(from), stage.poseAt(from + 30)]
        const take = takeOf(whole, 31)
        const first = done(take, keyFraming(take, T, 'a', 0, a, 'f1'))
        const second = done(first, keyFraming(first, T, 'a', 30, b, 'f2'))
        const short = { ...second, framings: { ...second.framings, f1: { ...second.framings.f1!, move: EVEN } } }
        fc.pre(from + frame >= 0 && from + frame <= 90)
        const [there, here] = [stage.poseAt(from + frame), poseAt(short, frame)]
        for (const field of ['x', 'depth', 'panDegrees'] as const) expect(here[field]).toBeCloseTo(there[field], 6)
      }),
    )
  })

  it('a level walks on, on 2s where it is on 2s, carries what hangs on it, and sways on', () => {
    const take = running(0.02, { bob: { amount: 0.1, periodFrames: 24, phase: 0 } })
    expect(placeAt(take, 60).x - placeAt(take, 48).x).toBeCloseTo(0.24, 9)
    expect(placeAt(take, -10).x).toBeCloseTo(placeAt(take, 0).x - 0.2, 9)
    expect(placeAt(take, 54).y).toBeCloseTo(figure.y + 0.1, 9)
    const onTwos = running(0.02, { stepped: 2 })
    expect([48, 49, 50, 51, 52].map((frame) => placeAt(onTwos, frame).x - figure.x)).toEqual([0.96, 0.96, 1, 1, 1.04].map((x) => expect.closeTo(x, 9)))
    const held = running(0.02, { stepped: 'held' })
    expect(placeAt(held, 60)).toEqual(placeAt(held, 48))
  })

  it('what is followed is followed on, aimed at on, and held by the same hand', () => {
    const target = { levelId: 'tilda' }
    const still = { inFrames: 0, outFrames: 0, lagFrames: 0 }
    const follow = { id: 's', cameraId: 'a', kind: 'follow', target, ...SPAN_DEFAULTS.follow, ...still, still: { widthFw: 0, heightFw: 0 } } as FollowSpan
    const aim = { id: 's', cameraId: 'a', kind: 'aim', target, ...SPAN_DEFAULTS.aim, ...still } as AimSpan
    for (const span of [follow, aim]) {
      const stage = createTakeStage(withSpan(running(0.02), span), OPTICS)
      const seen = (frame: number) => ((at) => project(at.lens, placedLevel(at, 'tilda')!.place).u)(stage.at(frame))
      for (const frame of [48, 49, 60, 200, 1000]) expect(seen(frame)).toBeCloseTo(seen(40), 6)
      expect(seen(-1)).toBeCloseTo(seen(0), 2)
    }
    const hand = { id: 's', cameraId: 'a', kind: 'hand', seed: 5, ...SPAN_DEFAULTS.hand, inFrames: 0, outFrames: 0 } as HandSpan
    const shaken = withSpan(travelling(takeOf(whole)), hand)
    // As long as it lives in the shot it is one movement: no jump where the shot ends or begins, and no stop.
    const step = (frame: number) => poseAt(shaken, frame + 1).x - poseAt(shaken, frame).x
    for (const frame of [-2, -1, 0, 46, 47, 48, 49]) expect(Math.abs(step(frame) - step(frame - 1))).toBeLessThan(0.004)
    expect(new Set([49, 55, 61, 70].map((frame) => poseAt(shaken, frame).rollDegrees)).size).toBe(4)
    const out = withSpan(travelling(takeOf(whole)), { ...hand, inFrames: 12, outFrames: 12 })
    expect(poseAt(out, -4).rollDegrees).toBe(0)
  })

  it('frames that look alike are told to be alike, and others not', () => {
    const rests = createTakeStage(moved(CUSHIONED_MOVE, { x: 1 }), OPTICS)
    expect(signatureOf(rests, 52)).toBe(signatureOf(rests, 48))
    const goes = createTakeStage(travelling(takeOf(whole)), OPTICS)
    expect(signatureOf(goes, 52)).not.toBe(signatureOf(goes, 48))
  })
})

describe('what a transition shows past a shot’s ends', () => {
  const sea = level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })
  const outlines = { widthPx: 1920, outlineOf: () => rectangleOutline(-2.4, -0.25, 2.4, 0.25) }
  const take = travelling(takeOf([sea]))
  const found = (after: number) => {
    const stage = createTakeStage(take, OPTICS, { before: 0, after })
    const frames = Array.from({ length: stage.shown.last - stage.shown.first + 1 }, (_, i) => viewsAt(stage, stage.shown.first + i).map((view) => viewEdges(view, outlines)))
    return findEdges(stage, frames, outlines).filter(({ kind }) => kind === 'runs-out')
  }

  it('is looked through for art that runs out, and asked for of what is needed', () => {
    expect(createTakeStage(take, OPTICS).shown).toEqual({ first: 0, last: 48 })
    expect(found(0)).toEqual([])
    const [finding] = found(8)
    expect(finding).toMatchObject({ side: 'right', worstFrame: 56 })
    expect(finding!.ranges[0]![0]).toBeGreaterThan(48)
    const needed = (beyond: { readonly before: number; readonly after: number }) => needsOfTake(createTakeStage(take, OPTICS, beyond), T, new Map([['d-sea', { bounds: null, owes: null }]]), 0).get('d-sea')!.box
    const [own, more] = [needed(NOTHING_BEYOND), needed({ before: 4, after: 8 })]
    // 8 frames of the way, and 4 before it, at the art's own size.
    expect(more.right - own.right).toBeCloseTo((8 * 0.025) / 1.2, 6)
    expect(own.left - more.left).toBeCloseTo((4 * 0.025) / 1.2, 6)
  })
})
