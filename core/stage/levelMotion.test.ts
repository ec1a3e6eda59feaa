import { describe, expect, it } from 'vitest'
import { applyThinned, editLevel, keyLevel, travelLevel } from '../edits'
import { done, newId, OPTICS, sampleTake, T } from '../edits/testing'
import { createTakeStage, frameSignature, thinLevel } from '.'
import { driftAt, swingAt } from '../moves'
import type { Level, TakeBody } from '../document'

const at = (x: number, y = 0, depth = 0) => ({ x, y, depth })
const takeWith = (fields: Partial<Level>, keys: readonly (readonly [number, number])[]): TakeBody => {
  const take = sampleTake([24, 24])
  return keys.reduce((now, [frame, x]) => done(now, keyLevel(now, T, 'tilda', frame, { place: at(x) }, newId)), done(take, editLevel(take, T, 'tilda', fields)))
}
const motion = (take: TakeBody) => createTakeStage(take, OPTICS).motionOf('tilda')

describe('a level’s motion', () => {
  it('stepped on 3s from a key at 10, frames 10…17 show 10 10 10 13 13 13 16 16; held shows the key until the next', () => {
    const steps = (stepped: Level['stepped']) => [10, 11, 12, 13, 14, 15, 16, 17].map((frame) => motion(takeWith({ stepped }, [[10, 0], [40, 1]])).stepOf('place', frame))
    expect(steps(3)).toEqual([10, 10, 10, 13, 13, 13, 16, 16])
    expect(steps(2)).toEqual([10, 10, 12, 12, 14, 14, 16, 16])
    expect(steps('held')).toEqual(Array(8).fill(10))
    expect(steps(undefined)).toEqual([10, 11, 12, 13, 14, 15, 16, 17])
    const held = motion(takeWith({ stepped: 'held' }, [[10, 0], [20, 0.5], [40, 1]]))
    expect([0, 10, 19, 20, 39, 40, 47].map((frame) => held.seenAt(frame).place.x)).toEqual([0, 0, 0, 0.5, 0.5, 1, 1])
    // Between steps a key is still seen exactly.
    expect(motion(takeWith({ stepped: 4 }, [[10, 0], [21, 1], [40, 2]])).seenAt(21).place.x).toBe(1)
  })

  it('swings 4° over 48 frames, phase .25: frames 0, 6, 12, 24 are 4, 2.828427, 0, −4', () => {
    const swing = { amount: 4, periodFrames: 48, phase: 0.25 }
    const { seenAt } = motion(takeWith({ swing, rollDegrees: 10 }, []))
    ;[[0, 4], [6, 2.828427], [12, 0], [24, -4]].forEach(([frame, degrees]) => {
      expect(swingAt(swing, frame!)).toBeCloseTo(degrees!, 6)
      expect(seenAt(frame!).turn.rollDegrees).toBeCloseTo(10 + degrees!, 6)
    })
    expect(motion(takeWith({ bob: swing, y: 1 }, [])).seenAt(6).place.y).toBeCloseTo(3.828427, 6)
    // Past the shot's ends it goes on.
    expect(seenAt(60).turn.rollDegrees).toBeCloseTo(10, 6)
  })

  it('drifts the same for the same seed, otherwise for another, smoothly, with mean 0 and never past its amount', () => {
    const drift = { amount: 0.2, periodFrames: 40, phase: 0, seed: 11 }
    const values = Array.from({ length: 40_000 }, (_, frame) => driftAt(drift, frame, 0))
    expect(values).toEqual(Array.from({ length: 40_000 }, (_, frame) => driftAt({ ...drift }, frame, 0)))
    expect(Math.max(...values.map(Math.abs))).toBeLessThanOrEqual(0.2)
    expect(Math.max(...values.map(Math.abs))).toBeGreaterThan(0.15)
    expect(Math.abs(values.reduce((sum, value) => sum + value, 0) / values.length)).toBeLessThan(2e-3)
    for (let i = 1; i < 2000; i++) expect(Math.abs(values[i]! - values[i - 1]!)).toBeLessThan(0.2 * 0.5)
    for (const other of [{ ...drift, seed: 12 }, { ...drift, seed: 4_294_967_295 }]) {
      const correlation = values.slice(0, 4000).reduce((sum, value, frame) => sum + value * driftAt(other, frame, 0), 0) / values.slice(0, 4000).reduce((sum, value) => sum + value * value, 0)
      expect(Math.abs(correlation)).toBeLessThan(0.5)
    }
    expect(driftAt(drift, 7, 0)).not.toBeCloseTo(driftAt(drift, 7, 1), 6)
  })

  it('goes its place by arc length, its size geometrically, its turns the short way, its opacity evenly and no further', () => {
    let take = sampleTake([40, 8])
    take = done(take, travelLevel(take, T, 'tilda', 0, 40, [
      { aspect: 'place', from: at(0), to: at(2, 1, 3) },
      { aspect: 'size', from: 0.5, to: 2 },
      { aspect: 'turn', from: { panDegrees: 0, tiltDegrees: 0, rollDegrees: 350 }, to: { panDegrees: 40, tiltDegrees: 0, rollDegrees: 10 } },
      { aspect: 'opacity', from: 0, to: 1 },
    ], newId))
    const even = { ...take, levelKeys: Object.fromEntries(Object.entries(take.levelKeys).map(([id, key]) => [id, { ...key, move: { ...key.move, timing: { kind: 'even' as const } } }])) }
    const { size, ...rest } = motion(even).keyedAt(20)
    expect(size).toBeCloseTo(1, 12)
    expect(rest).toEqual({ place: at(1, 0.5, 1.5), turn: { panDegrees: 20, tiltDegrees: 0, rollDegrees: 360 }, opacity: 0.5 })
    const past = { ...take, levelKeys: Object.fromEntries(Object.entries(take.levelKeys).map(([id, key]) => [id, { ...key, move: { ...key.move, timing: { kind: 'custom' as const, x1: 0.3, y1: -2, x2: 0.6, y2: 3 } } }])) }
    for (let frame = 0; frame < 48; frame++) {
      const { opacity, size } = motion(past).keyedAt(frame)
      expect(opacity >= 0 && opacity <= 1 && size > 0).toBe(true)
    }
  })

  it('played through or jumped to, a frame is the same; what stands still is the same object; a fade leaves the walk alone', () => {
    const take = done(takeWith({ stepped: 2, swing: { amount: 5, periodFrames: 20, phase: 0 } }, [[3, 0], [30, 1]]), keyLevel(takeWith({}, []), T, 'sky', 5, { opacity: 0.5 }, newId))
    const played = createTakeStage(take, OPTICS)
    const signature = (frame: number, stage = played) => frameSignature(stage.at(frame), (id) => id, new Set())
    const all = Array.from({ length: 48 }, (_, frame) => signature(frame))
    for (const frame of [47, 0, 31, 12, 12, 46]) {
      expect(signature(frame)).toBe(all[frame])
      expect(signature(frame, createTakeStage(take, OPTICS))).toBe(all[frame])
    }
    const stood = takeWith({}, [[10, 0], [20, 1]])
    const stage = createTakeStage(stood, OPTICS)
    const tilda = (frame: number) => stage.at(frame).levels.find((placed) => placed.level.id === 'tilda')!
    expect(tilda(0).plane).toBe(tilda(5).plane)
    expect(tilda(11).plane).not.toBe(tilda(12).plane)
    // Moving the last key changes nothing before the move that it ends.
    const later = done(stood, keyLevel(stood, T, 'tilda', 40, { place: at(9) }, newId))
    const other = createTakeStage(later, OPTICS)
    for (let frame = 0; frame <= 20; frame++) expect(signature(frame, other)).toBe(signature(frame, stage))
  })

  it('is tried without being written', () => {
    const take = takeWith({}, [[0, 0], [40, 1]])
    const stage = createTakeStage(take, OPTICS)
    const before = frameSignature(stage.at(20), (id) => id, new Set())
    const tried = stage.through(20, 'a', undefined, new Map([['tilda', { place: at(7), opacity: 0.25 }]])).levels.find((placed) => placed.level.id === 'tilda')!
    expect([tried.place.x, tried.opacity, tried.size]).toEqual([7, 0.25, 1])
    expect(frameSignature(stage.at(20), (id) => id, new Set())).toBe(before)
  })

  it('loses by thinning only what no frame needs: within the tolerance on the picture, on each track by itself', () => {
    let take = travelled()
    const motionOf = (of: TakeBody) => createTakeStage(of, OPTICS).motionOf('tilda')
    // Keyed again and again where it is anyway, and once where it is not.
    for (const frame of [6, 12, 18, 30]) take = done(take, keyLevel(take, T, 'tilda', frame, motionOf(take).keyedAt(frame), newId))
    const strayed = motionOf(take).keyedAt(24)
    take = done(take, keyLevel(take, T, 'tilda', 24, { place: { ...strayed.place, y: strayed.place.y + 0.2 } }, newId))
    const found = thinLevel(take, 'tilda', OPTICS, 0.5, 1920)
    const thinned = done(take, applyThinned(take, T, found))
    expect(found.remove.length).toBeGreaterThan(8)
    expect(found.mostPx).toBeLessThanOrEqual(0.5)
    expect(motionOf(thinned).keys.place.map(({ frame }) => frame)).toContain(24)
    for (let frame = 0; frame < 48; frame++) {
      const [now, before] = [motionOf(thinned).keyedAt(frame), motionOf(take).keyedAt(frame)]
      for (const axis of ['x', 'y', 'depth'] as const) expect(now.place[axis]).toBeCloseTo(before.place[axis], 2)
      expect(Math.abs(now.opacity - before.opacity)).toBeLessThan(1 / 250)
    }
    expect(thinLevel(thinned, 'tilda', OPTICS, 0.5, 1920).remove).toEqual([])
    expect(thinLevel(take, 'nobody', OPTICS, 0.5, 1920)).toEqual({ remove: [], change: [], mostPx: 0 })
  })
})

const travelled = () => {
  const take = sampleTake([24, 24])
  return done(take, travelLevel(take, T, 'tilda', 0, 40, [
    { aspect: 'place', from: at(0), to: at(2, 1, 0.5) },
    { aspect: 'size', from: 0.5, to: 2 },
    { aspect: 'opacity', from: 0, to: 1 },
  ], newId))
}
