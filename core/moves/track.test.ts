import { describe, expect, it } from 'vitest'
import type { Optics } from '../camera/lens'
import { createCameraTrack, type FramingKey } from './cameraTrack'
import { createMove, type MoveSpec } from './move'
import { createTiming, settleOf, type Timing } from './timing'
import { findBumps } from './bumps'
import { excerptOf, splitMoveAt } from './excerpt'
import type { Keyable, Mix } from './keyable'
import { thinKeys } from './thinKeys'
import { beginsOf, createTrack, type TrackKey } from './track'

const EVEN: Timing = { kind: 'even' }
const settling = (settleFrames: number): Timing => ({ kind: 'cushioned', leaveFrames: 4, arriveFrames: 4, settleFrames })
const spec = (timing: Timing): MoveSpec => ({ timing, path: { kind: 'straight' }, evenness: { kind: 'set' } })
const key = (frame: number, value: number, timing: Timing = EVEN): TrackKey<number, number> => ({ frame, value, move: spec(timing), of: frame })

/** Numbers, mixed as they are. */
const mix: Mix<number> = (from, to, { timing }, lengthFrames, mostSettleFrames) => {
  const share = createTiming(timing, lengthFrames, mostSettleFrames)
  const end = lengthFrames + Math.min(settleOf(timing), mostSettleFrames)
  return (frame) => (frame >= end ? to : from + (to - from) * share(frame / lengthFrames))
}
const NUMBERS: Keyable<number> = { fields: [{ name: 'value', of: (value) => value, least: 1e-3, turns: false }], equal: (a, b) => a === b, placeOf: () => null, turnOf: () => 0, mirrored: (value) => value }

function numbers(keys: readonly TrackKey<number, number>[]) {
  const solved: number[] = []
  const track = createTrack(keys, (from, ...rest) => {
    solved.push(from)
    return mix(from, ...rest)
  })
  return { track, solved }
}

describe('a track', () => {
  it('of nothing has no value, of one key that one, everywhere', () => {
    expect(numbers([]).track.at(3)).toBeNull()
    const { track } = numbers([key(5, 7)])
    expect([-1, 5, 900].map((frame) => track.at(frame))).toEqual([7, 7, 7])
    expect([track.begins, track.lastMovingFrame]).toEqual([[5], 5])
  })

  it('is each key’s value at its frame, holds before the first and after the last, and mixes between', () => {
    const { track } = numbers([key(0, 0), key(10, 5), key(20, 3)])
    expect([-4, 0, 5, 10, 15, 20, 99].map((frame) => track.at(frame))).toEqual([0, 0, 2.5, 5, 4, 3, 3])
  })

  it('goes on past a key while the way there settles, up to the frame before the next one', () => {
    const { track } = numbers([key(0, 0, settling(6)), key(10, 10), key(30, 0)])
    expect(track.begins).toEqual([0, 16, 30])
    expect(track.at(10)).toBeLessThan(10)
    expect([16, 23, 30].map((frame) => track.at(frame))).toEqual([10, 5, 0])
    // No more room than four frames.
    expect(numbers([key(0, 0, settling(60)), key(10, 10), key(15, 0)]).track.begins).toEqual([0, 14, 15])
    expect(numbers([key(0, 0, settling(8)), key(10, 10)]).track.lastMovingFrame).toBe(18)
  })

  it('solves each way once, and only those that are asked for', () => {
    const { track, solved } = numbers(Array.from({ length: 100 }, (_, i) => key(i * 10, i)))
    for (const frame of [205, 207, 203, 905]) track.at(frame)
    expect(solved).toEqual([20, 90])
  })

  it('is the same whether it is played or jumped about in, for random keys', () => {
    let seed = 7
    const random = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32
    for (let round = 0; round < 60; round++) {
      let frame = 0
      const keys = Array.from({ length: 2 + Math.floor(random() * 8) }, () => key((frame += 1 + Math.floor(random() * 12)), random(), random() < 0.5 ? EVEN : settling(Math.floor(random() * 10))))
      const { track } = numbers(keys)
      const played = Array.from({ length: frame + 12 }, (_, at) => track.at(at))
      const jumped = numbers(keys).track
      for (const at of played.map((_, i) => i).sort(() => random() - 0.5)) expect(jumped.at(at)).toBe(played[at])
      // As a search from the first to the last would find it.
      const { begins } = beginsOf(keys)
      for (const [at, value] of played.entries()) if (at <= begins[0]!) expect(value).toBe(keys[0]!.value)
      expect(track.at(track.lastMovingFrame)).toBe(keys.at(-1)!.value)
    }
  })

  it('of poses is a camera', () => {
    const optics: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 } as Optics
    const pose = (x: number) => ({ x, y: 0, depth: -1, panDegrees: x * 10, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 })
    const move: MoveSpec = { timing: settling(4), path: { kind: 'straight' }, evenness: { kind: 'set' } }
    const framings: FramingKey[] = [{ frame: 0, framing: { pose: pose(0), move } }, { frame: 20, framing: { pose: pose(1), move } }]
    const track = createCameraTrack(framings, optics)
    const direct = createMove(pose(0), pose(1), move, 20, optics)
    for (let frame = 0; frame <= 30; frame++) expect(track.at(frame)).toEqual(direct(frame))
    expect(track.keys.map(({ of }) => of)).toEqual(framings)
  })
})

/** What is made for cameras does for any value that can be keyed: here plain numbers, as an opacity is. */
describe('keys of numbers', () => {
  const random = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32
  const timings = (chance: () => number): Timing => [EVEN, settling(Math.floor(chance() * 6)), { kind: 'hold' } as const, { kind: 'custom', x1: chance(), y1: 0, x2: chance(), y2: 1 } as const][Math.floor(chance() * 4)]!
  const randomKeys = (chance: () => number) => {
    let frame = Math.floor(chance() * 5)
    return Array.from({ length: 2 + Math.floor(chance() * 5) }, () => key((frame += 1 + Math.floor(chance() * 14)), Math.round(chance() * 10), timings(chance)))
  }

  it('are divided by a new key without a change of any frame', () => {
    const chance = random(3)
    for (let round = 0; round < 200; round++) {
      const keys = randomKeys(chance)
      const track = numbers(keys).track
      const at = keys[0]!.frame + Math.floor(chance() * (keys.at(-1)!.frame - keys[0]!.frame))
      if (keys.some(({ frame }) => frame === at)) continue
      const split = splitMoveAt(keys, NUMBERS, at)
      if (split.kind !== 'split') continue
      const divided = keys.flatMap((each, i) => (i === split.before ? [{ ...each, move: split.first }, { frame: at, value: track.at(at)!, move: split.second, of: -1 }] : [each]))
      const now = numbers(divided).track
      for (let frame = 0; frame <= track.lastMovingFrame + 3; frame++) expect(now.at(frame)).toBeCloseTo(track.at(frame)!, 6)
    }
  })

  it('show in an excerpt what they showed', () => {
    const chance = random(11)
    for (let round = 0; round < 200; round++) {
      const keys = randomKeys(chance)
      const track = numbers(keys).track
      const [from, to] = [Math.floor(chance() * 20), 20 + Math.floor(chance() * 20)]
      const cut = excerptOf(track, NUMBERS, from, to)
      const now = numbers(cut.map((each, i) => ({ ...each, of: i }))).track
      for (let frame = from; frame <= to; frame++) expect(now.at(frame)).toBeCloseTo(track.at(frame)!, 6)
    }
  })

  it('are thinned within a tolerance, and those that are locked stay', () => {
    const line = [0, 10, 20, 30, 40].map((frame) => key(frame, frame / 10))
    const thin = (isLocked: (frame: number) => boolean) => {
      const { track } = numbers(line)
      return thinKeys(track, { mix, isLocked: ({ frame }) => isLocked(frame), off: (frame, value) => Math.abs(value - track.at(frame)!), limit: 1e-9 }).remove.map(({ frame }) => frame)
    }
    expect(thin(() => false)).toEqual([10, 20, 30])
    expect(thin((frame) => frame === 20)).toEqual([10, 30])
  })

  it('have a bump where they turn back without a rest', () => {
    const bumps = findBumps(numbers([key(0, 0), key(10, 5), key(20, 3), key(30, 8)]).track, NUMBERS)
    expect(bumps).toEqual([{ field: 'value', frame: 10, by: 2 }, { field: 'value', frame: 20, by: 5 }])
    expect(findBumps(numbers([key(0, 0), key(10, 5, { kind: 'hold' }), key(20, 3)]).track, NUMBERS)).toEqual([])
  })
})
