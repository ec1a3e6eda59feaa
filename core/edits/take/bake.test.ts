import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CameraPose } from '../../camera'
import { freeze, placedFramings, type TakeBody } from '../../document'
import { artDepths, createTakeStage, fitFramings, pictureShift } from '../../stage'
import { addSpan, bakeOperated, bakeSpans, editKey, keyFraming, keyLevel, lockCamera, SPAN_DEFAULTS, type Baked, type NewSpan } from '../index'
import { done, newId, OPTICS, REST, sampleTake, T } from '../testing'

const BAKING = { optics: OPTICS, tolerancePx: 1, outputWidthPx: 1920 }
const span = (id: string, kind: 'follow' | 'aim' | 'hand', more: object = {}): NewSpan => ({ id, cameraId: 'a', kind, ...SPAN_DEFAULTS[kind], ...(kind === 'hand' ? { seed: 3 } : { target: { levelId: 'tilda' } }), ...more }) as NewSpan
const posesOf = (take: TakeBody): readonly CameraPose[] => {
  const stage = createTakeStage(take, OPTICS)
  return Array.from({ length: stage.lengthFrames }, (_, frame) => stage.poseAt(frame))
}
/** Tilda goes, stops, comes nearer and goes back; the camera is keyed at both ends. */
function base(lengths: readonly number[] = [60, 60]): TakeBody {
  const last = lengths.reduce((sum, each) => sum + each, 0) - 1
  const keys = [[0, 0, 0], [Math.floor(last * 0.3), 1.4, 0], [Math.floor(last * 0.45), 1.4, 0], [Math.floor(last * 0.7), 2, 1], [last, 0.6, 0.2]] as const
  const walked = keys.reduce((take, [frame, x, depth]) => done(take, keyLevel(take, T, 'tilda', frame, { place: { x, y: depth / 4, depth } }, newId)), sampleTake(lengths))
  return [0, last].reduce((take, frame, i) => done(take, keyFraming(take, T, 'a', frame, { ...REST, x: -i / 2, panDegrees: i * 6 }, newId())), walked)
}
const withSpans = (take: TakeBody, ...spans: readonly (readonly [NewSpan, number, number | null])[]) => spans.reduce((now, [each, first, last]) => done(now, addSpan(now, T, each, first, last)), take)
function mostOff(now: readonly CameraPose[], before: readonly CameraPose[], take: TakeBody, from = 0, to = before.length - 1): number {
  const depths = artDepths(take)
  return Math.max(...before.slice(from, to + 1).map((pose, i) => pictureShift(pose, now[from + i]!, OPTICS, depths))) * 1920
}
function baked(take: TakeBody, ids: readonly string[]): { readonly now: TakeBody; readonly told: Baked } {
  const told = bakeSpans(take, T, ids, BAKING, newId)!
  return { now: done(take, told.made), told }
}

describe('few framings through many poses', () => {
  it('finds the one move that they were made by, and a locked-off camera', () => {
    const timing = { kind: 'custom' as const, x1: 1 / 3, y1: 0.1, x2: 2 / 3, y2: 0.8 }
    const move = { timing, path: { kind: 'bent' as const, leave: { x: 0.3, y: 0.5, depth: 0 }, arrive: { x: -0.2, y: 0.4, depth: 0 } }, evenness: { kind: 'set' as const } }
    let take = [0, 71].reduce((now, frame, i) => done(now, keyFraming(now, T, 'a', frame, { ...REST, x: i * 2, panDegrees: i * 10 }, `k${i}`)), sampleTake())
    take = done(take, editKey(take, T, 'k0', { move }))
    const found = fitFramings(posesOf(take), { optics: OPTICS, depths: [0], limit: 1 / 1920 })!
    expect(found.framings.length).toBeLessThanOrEqual(3)
    expect(found.most * 1920).toBeLessThan(1)
    const still = fitFramings(Array<CameraPose>(50).fill(REST), { optics: OPTICS, depths: [0], limit: 1 / 1920 })!
    expect([still.framings.map(({ frame }) => frame), still.most]).toEqual([[0, 49], 0])
    expect(fitFramings([REST], { optics: OPTICS, depths: [0], limit: 1 / 1920 })!.framings).toHaveLength(1)
    expect(fitFramings(posesOf(take), { optics: OPTICS, depths: [0], limit: 1 / 1920, told: () => true })).toBeNull()
  })

  it('is never off by more than its limit at any frame, however the camera goes', () => {
    const pose = fc.record({ x: fc.double({ min: -1, max: 1, noNaN: true }), y: fc.double({ min: -1, max: 1, noNaN: true }), depth: fc.double({ min: -3, max: -1, noNaN: true }), panDegrees: fc.double({ min: -30, max: 30, noNaN: true }), tiltDegrees: fc.constant(0), rollDegrees: fc.double({ min: -90, max: 90, noNaN: true }), focalLengthMm: fc.double({ min: 20, max: 90, noNaN: true }) })
    fc.assert(
      fc.property(fc.array(pose, { minLength: 2, maxLength: 6 }), (corners) => {
        const take = corners.reduce((now, each, i) => done(now, keyFraming(now, T, 'a', i * 14, each, newId())), sampleTake())
        const poses = posesOf(take)
        const { framings, most } = fitFramings(poses, { optics: OPTICS, depths: [0, 2], limit: 2 / 1920 })!
        const fitted = framings.reduce((now, each) => done(now, keyFraming(now, T, 'a', each.frame, each.pose, `f${each.frame}`)), sampleTake())
        const moved = framings.reduce((now, each) => done(now, editKey(now, T, `f${each.frame}`, { move: each.move })), fitted)
        const now = posesOf(moved)
        const worst = Math.max(...poses.map((each, i) => pictureShift(each, now[i]!, OPTICS, [0, 2])))
        expect(worst).toBeLessThanOrEqual(2 / 1920 + 1e-9)
        expect(worst).toBeLessThanOrEqual(most + 1e-9)
      }),
      { numRuns: 25 },
    )
  })
})

describe('baking', () => {
  it('writes follow, aim and hand-held as few framings, within the tolerance at every frame of the shot', () => {
    const take = withSpans(base(), [span('f', 'follow', { still: { widthFw: 0, heightFw: 0 } }), 10, 100], [span('g', 'aim', { target: { levelId: 'sky' }, lagFrames: 2 }), 20, 80])
    const before = posesOf(take)
    for (const ids of [['f'], ['g'], ['f', 'g']]) {
      const { now, told } = baked(take, ids)
      // The aim goes by where the follow puts the camera, so that goes along with it.
      expect(Object.keys(now.spans)).toEqual(ids.includes('g') ? [] : ['g'])
      expect(mostOff(posesOf(now), before, take)).toBeLessThan(1.3)
      expect(told.mostPx).toBeLessThanOrEqual(1)
      expect(told.locked).toBe(0)
    }
  })

  it('makes of a follow over a camera that stands a dozen framings of its more than a hundred frames', () => {
    const locked = base()
    const [first] = placedFramings(locked, 'a')
    const take = withSpans(freeze({ ...locked, framings: { [first!.framing.id]: first!.framing } }), [span('f', 'follow'), 0, null])
    const { now, told } = baked(take, ['f'])
    expect(told.framings).toBeLessThanOrEqual(16)
    expect(mostOff(posesOf(now), posesOf(take), take)).toBeLessThan(1.3)
  })

  it('of a hand over a follow takes the follow along, which comes before it', () => {
    const take = withSpans(base(), [span('f', 'follow', { axes: { x: true, y: true, depth: false } }), 10, 100], [span('h', 'hand', { placeFw: 0.01 }), 30, 90])
    const { now, told } = baked(take, ['h'])
    expect([...told.spanIds].sort()).toEqual(['f', 'h'])
    expect(mostOff(posesOf(now), posesOf(take), take)).toBeLessThan(1.3)
  })

  it('of one that comes in or goes out at once jumps there, as it did, and leaves all else as it was', () => {
    const take = withSpans(base(), [span('f', 'follow', { inFrames: 0, outFrames: 0, u: 0.2 }), 30, 70])
    const before = posesOf(take)
    expect(Math.abs(before[30]!.x - before[29]!.x)).toBeGreaterThan(0.3)
    const { now } = baked(take, ['f'])
    expect(mostOff(posesOf(now), before, take)).toBeLessThan(1.3)
    const whole = withSpans(base(), [span('f', 'follow'), 0, null])
    expect(mostOff(posesOf(baked(whole, ['f']).now), posesOf(whole), whole)).toBeLessThan(1.3)
    const unkeyed = withSpans(freeze({ ...base(), framings: {} }), [span('f', 'follow', { inFrames: 0 }), 40, null])
    expect(mostOff(posesOf(baked(unkeyed, ['f']).now), posesOf(unkeyed), unkeyed)).toBeLessThan(1.3)
  })

  it('keeps locked framings inside, goes over to each and back, and says how many; a locked camera is refused', () => {
    const start = base()
    const keyed = done(start, keyFraming(start, T, 'a', 50, { ...REST, x: 3 }, 'held'))
    const take = withSpans(done(keyed, editKey(keyed, T, 'held', { locked: true })), [span('f', 'follow'), 10, 100])
    const { now, told } = baked(take, ['f'])
    expect(told.locked).toBe(1)
    expect(placedFramings(now, 'a').find(({ framing }) => framing.id === 'held')).toMatchObject({ frame: 50, framing: { locked: true, pose: { x: 3 } } })
    expect(posesOf(now)[50]!.x).toBe(3)
    for (const [from, to] of [[0, 44], [56, 119]] as const) expect(mostOff(posesOf(now), posesOf(take), take, from, to)).toBeLessThan(1.3)
    expect(bakeSpans(done(take, lockCamera(take, T, 'a', true)), T, ['f'], BAKING, newId)!.made).toMatchObject({ ok: false, refusal: { code: 'camera-locked' } })
    expect(bakeSpans(take, T, ['x'], BAKING, newId)!.made).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'span' } })
    expect(bakeSpans(take, T, ['f'], { ...BAKING, told: () => true }, newId)).toBeNull()
  })
})

describe('what a hand did becomes framings', () => {
  /** From frame 20 on, so many frames of a hand that wanders and trembles a little. */
  const hand = (frames: number) => Array.from({ length: frames }, (_, i): CameraPose => ({ ...REST, x: Math.sin(i / 17) / 3, y: i / 300 + Math.sin(i / 5) / 200, depth: REST.depth + i / 200, panDegrees: 4 * Math.sin(i / 23) }))
  const operated = (take: TakeBody, from: number, poses: readonly CameraPose[]) => bakeOperated(take, T, 'a', from, poses, BAKING, newId)!

  it('within the tolerance at every frame, few of them; before and after nothing changes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 119 }), fc.integer({ min: 1, max: 140 }), (from, frames) => {
        const [take, poses] = [base(), hand(frames)]
        const told = operated(take, from, poses)
        const [now, before, last] = [posesOf(done(take, told.made)), posesOf(take), Math.min(119, from + frames - 1)]
        expect(now).toHaveLength(120)
        expect(mostOff(now.slice(from, last + 1), poses.slice(0, last - from + 1), take)).toBeLessThan(1 + 1e-6)
        if (from > 0) expect(mostOff(now, before, take, 0, from - 1)).toBeLessThan(1e-3)
        if (last < 119) expect(mostOff(now, before, take, last + 1, 119)).toBeLessThan(1e-3)
        expect(told.framings).toBeLessThan(Math.max(4, frames / 2))
      }),
      { numRuns: 60 },
    )
  })

  it('not where spans work on the camera, nor on a locked one, nor past the shot, nor of what is no number', () => {
    const take = withSpans(base(), [span('f', 'follow'), 60, 100])
    expect(operated(take, 10, hand(80)).made).toMatchObject({ ok: false, refusal: { code: 'spans-work-there', id: 'f' } })
    expect(operated(take, 10, hand(50)).made.ok).toBe(true)
    expect(operated(take, 200, hand(5)).made).toMatchObject({ ok: false })
    expect(operated(done(take, lockCamera(take, T, 'a', true)), 10, hand(5)).made).toMatchObject({ ok: false, refusal: { code: 'camera-locked' } })
    expect(operated(take, 10, [{ ...REST, x: NaN }]).made).toMatchObject({ ok: false, refusal: { code: 'pose-not-finite' } })
    expect(bakeOperated(take, T, 'a', 10, hand(30), { ...BAKING, told: () => true }, newId)).toBeNull()
  })
})
