import { describe, expect, it } from 'vitest'
import { airKeys, keyTrack, placedKeys, type TakeBody } from '../../document'
import { createTakeStage, depthRangeOf, frameSignature, seenAt } from '../../stage'
import { rebaseChange, type Change } from '../index'
import { EMPTY_OUTLINE, type Film } from '../../document/units'
import { done, level, newId, OPTICS, REST, sampleTake, seen, T } from '../testing'
import { addAir, keyAir, settleAir, shapeAir } from './air'
import { editLevel, sendLevels } from './levels'

const MIST = { density: 0.2, start: 1, colour: '#c0d0e0' }
const airAt = (take: TakeBody, frame: number) => createTakeStage(take, OPTICS).airAt(frame)
const misty = () => done(sampleTake(), addAir(sampleTake(), T, 'haze', MIST))

describe('a shot’s air', () => {
  it('is clear until it is asked for, and again when it is turned off with all of its keys', () => {
    expect(airAt(sampleTake(), 0)).toEqual({ haze: null, focus: null })
    const keyed = done(misty(), keyAir(misty(), T, 'haze', 10, { ...MIST, density: 1 }, 'k'))
    expect(Object.keys(keyed.airKeys)).toEqual(['k'])
    expect(done(keyed, settleAir(keyed, T, 'haze', null))).toEqual(sampleTake())
    expect(settleAir(sampleTake(), T, 'haze', null)).toMatchObject({ refusal: { code: 'missing', what: 'air' } })
  })

  it('changes for the whole shot without keys, with one by that one; between several it is refused', () => {
    const thick = { ...MIST, density: 0.5 }
    const whole = done(misty(), shapeAir(misty(), T, 'haze', 7, thick))
    expect([whole.air.haze, whole.airKeys]).toEqual([{ id: 'haze', ...thick }, {}])
    const one = done(misty(), keyAir(misty(), T, 'haze', 10, MIST, 'k1'))
    expect(airAt(done(one, shapeAir(one, T, 'haze', 40, thick)), 0).haze).toEqual(thick)
    const two = done(one, keyAir(one, T, 'haze', 30, thick, 'k2'))
    expect(shapeAir(two, T, 'haze', 20, thick)).toMatchObject({ refusal: { code: 'between-air-keys' } })
    expect(airAt(done(two, shapeAir(two, T, 'haze', 30, { ...MIST, density: 0.9 })), 71).haze!.density).toBe(0.9)
    expect(shapeAir(sampleTake(), T, 'focus', 0, { sharp: 1, strength: 0.1 })).toMatchObject({ refusal: { code: 'missing' } })
  })

  it('goes from key to key by their moves; a key put on its way with what is shown changes no frame', () => {
    const two = [[4, 0.1], [28, 0.9]].reduce((take, [frame, density], i) => done(take, keyAir(take, T, 'haze', frame!, { ...MIST, density: density! }, `k${i}`)), misty())
    const frames = Array.from({ length: 72 }, (_, frame) => airAt(two, frame).haze!.density)
    expect([frames[0], frames[4], frames[28], frames[71]]).toEqual([0.1, 0.1, 0.9, 0.9])
    expect(frames[16]).toBeCloseTo(0.5, 9)
    const between = done(two, keyAir(two, T, 'haze', 11, airAt(two, 11).haze!, 'k9'))
    expect(placedKeys(between, airKeys('haze')).map(({ frame }) => frame)).toEqual([4, 11, 28])
    Array.from({ length: 72 }, (_, frame) => expect(airAt(between, frame).haze!.density).toBeCloseTo(frames[frame]!, 6))
    expect(keyTrack(between, airKeys('focus'), OPTICS).at(3)).toBeNull()
  })

  it('holds what can be held, and refuses numbers that lead nowhere', () => {
    expect(addAir(sampleTake(), T, 'haze', { ...MIST, density: NaN })).toMatchObject({ refusal: { code: 'pose-not-finite' } })
    expect(done(sampleTake(), addAir(sampleTake(), T, 'focus', { sharp: 0, strength: 7 })).air.focus).toEqual({ id: 'focus', sharp: 0.01, strength: 1 })
  })

  it('is the camera’s own: seen from elsewhere in the set it is clear', () => {
    const stage = createTakeStage(misty(), OPTICS)
    expect(stage.through(0, 'a').air.haze).toEqual(MIST)
    expect(stage.through(0, 'a', { ...REST, x: 1 }).air.haze).toEqual(MIST)
    expect(stage.through(0, 'a', undefined, null, { ...REST, x: 3 }).air.haze).toBeNull()
  })

  it('keyed at one frame by two hands is a clash; turned off under a key that comes, too', () => {
    const take = misty()
    const film: Film = { outline: { ...EMPTY_OUTLINE, shots: {}, takes: { [T]: { id: T, shotId: 's', order: 'a0', letter: 'A' } } }, takes: { [T]: take }, drawings: {} }
    const change = (made: ReturnType<typeof keyAir>): Change => {
      if (!made.ok) throw new Error(made.refusal.code)
      return { id: newId(), label: 'x', edits: made.edits }
    }
    const mine = change(keyAir(take, T, 'haze', 10, MIST, 'mine'))
    const theirs = done(take, keyAir(take, T, 'haze', 10, { ...MIST, density: 1 }, 'theirs'))
    expect(rebaseChange({ ...film, takes: { [T]: theirs } }, mine)).toMatchObject({ ok: false, clashes: [{ collection: 'airKeys', fields: ['value'] }] })
    const off = done(take, settleAir(take, T, 'haze', null))
    expect(rebaseChange({ ...film, takes: { [T]: off } }, mine)).toMatchObject({ ok: false })
  })
})

describe('shadows', () => {
  const SHADOW = { strength: 0.4, soft: 0.02, ground: -0.2, towardsDegrees: 180, length: 0.5 }

  it('are thrown by what asks for one and shows something, fade with it, and are told by a frame’s signature', () => {
    const take = sampleTake()
    const dark = done(take, editLevel(take, T, 'tilda', { shadow: SHADOW, opacity: 0.5 }))
    const at = createTakeStage(dark, OPTICS).at(0)
    expect(at.shadows.map(({ level: { id }, opacity }) => [id, opacity])).toEqual([['tilda', 0.2]])
    expect(at.levels).toHaveLength(2)
    expect(createTakeStage(take, OPTICS).at(0).shadows).toEqual([])
    const signature = (of: TakeBody) => frameSignature(createTakeStage(of, OPTICS).at(0), (id) => id, new Set())
    const softer = done(dark, editLevel(dark, T, 'tilda', { shadow: { ...SHADOW, soft: 0.03 } }))
    expect(new Set([take, dark, softer, misty()].map(signature)).size).toBe(4)
    expect(done(dark, editLevel(dark, T, 'tilda', { shadow: undefined, opacity: 1 }))).toEqual(take)
  })

  it('are seen as they were when their level is sent to another depth, and what carries it', () => {
    const hung = { ...sampleTake(), levels: { ...sampleTake().levels, lamp: level('lamp', 3, 0.2, { carrier: { kind: 'level', levelId: 'tilda', turn: true, size: true }, shadow: SHADOW }) }, cells: { ...sampleTake().cells, 'lamp.p1': { id: 'lamp.p1', levelId: 'lamp', panelId: 'p1', drawingId: 'd-lamp' } } } as TakeBody
    const dark = done(hung, editLevel(hung, T, 'tilda', { shadow: SHADOW }))
    const camera = { ...REST, x: 0.3, y: 0.2, panDegrees: 8 }
    const corners = (take: TakeBody) => ((at) => at.shadows.map((placed) => [[-0.3, -0.2], [0.3, 0.4]].map(([x, y]) => seenAt(at.lens, placed, { x: x!, y: y! }))))(createTakeStage(take, OPTICS).withPose(0, camera))
    const before = corners(dark)
    const after = corners(done(dark, sendLevels(dark, T, new Map([['tilda', { depth: 2.5 }]]), seen(dark, camera))))
    expect(before).toHaveLength(2)
    after.flat().forEach(({ u, v }, i) => expect(Math.hypot(u - before.flat()[i]!.u, v - before.flat()[i]!.v)).toBeLessThan(1e-3))
  })

  it('keep their plane while nothing moves', () => {
    const dark = done(sampleTake(), editLevel(sampleTake(), T, 'tilda', { shadow: SHADOW }))
    const stage = createTakeStage(dark, OPTICS)
    const planeAt = (x: number) => stage.withPose(0, { ...REST, x }).shadows[0]!.plane
    expect(planeAt(0.2)).toBe(planeAt(0.1))
  })
})

describe('the distances of a shot', () => {
  it('are those of what is seen in it, whatever moves; what is never seen does not count', () => {
    const take = sampleTake()
    const far = { ...take, levels: { ...take.levels, ref: level('ref', 3, 50, { kind: 'reference' }) }, cells: { ...take.cells, 'ref.p1': { id: 'ref.p1', levelId: 'ref', panelId: 'p1', drawingId: 'd-ref' } } } as TakeBody
    const [near, deep] = [-REST.depth, 6 - REST.depth]
    for (const each of [take, far]) {
      const found = depthRangeOf([createTakeStage(each, OPTICS)])!
      expect(found.nearest).toBeCloseTo(near, 9)
      expect(found.farthest).toBeCloseTo(deep, 9)
    }
    expect(depthRangeOf([createTakeStage({ ...take, cells: {} }, OPTICS)])).toBeNull()
    const one = { ...take, cells: { 'tilda.p1': take.cells['tilda.p1']! } } as TakeBody
    expect(depthRangeOf([createTakeStage(one, OPTICS)])!.farthest).toBeCloseTo(2 * near, 9)
  })
})
