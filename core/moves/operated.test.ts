import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { untouchedPose, type CameraPose } from '../camera'
import { operatedPoses, packSamples, unpackSamples, zeroPhase, type OperatedSample } from './operated'

const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
const at = (frame: number, more: Partial<CameraPose>): OperatedSample => ({ at: frame, pose: { ...REST, ...more } })
const tau = fc.double({ min: 0.1, max: 60, noNaN: true })

describe('the zero-phase filter', () => {
  it('leaves what stands and what goes straight as it is', () => {
    fc.assert(
      fc.property(fc.double({ min: -3, max: 3, noNaN: true }), fc.double({ min: -0.1, max: 0.1, noNaN: true }), fc.integer({ min: 2, max: 400 }), tau, (from, by, n, t) => {
        const line = Float64Array.from({ length: n }, (_, i) => from + by * i)
        zeroPhase(line, t).forEach((value, i) => expect(Math.abs(value - line[i]!)).toBeLessThan(1e-9))
      }),
    )
  })

  it('spreads a single beat to both sides alike: ((1 − a)/(1 + a))²·(1 + a²)/(1 − a²) is left of it', () => {
    const beat = new Float64Array(401)
    beat[200] = 1
    const [out, a] = [zeroPhase(beat, 5), Math.exp(-1 / 5)]
    expect(out[200]).toBeCloseTo((((1 - a) / (1 + a)) ** 2 * (1 + a * a)) / (1 - a * a), 9)
    expect(out[200]).toBeCloseTo(0.05033, 5)
    for (let k = 1; k < 60; k++) expect(out[200 - k]).toBeCloseTo(out[200 + k]!, 9)
    expect(out.reduce((sum, value) => sum + value, 0)).toBeCloseTo(1, 6)
  })

  it('keeps a slow swing in time and quells a quick tremble', () => {
    const swing = (period: number) => Float64Array.from({ length: 2401 }, (_, i) => Math.sin((2 * Math.PI * i) / period))
    const slow = zeroPhase(swing(400), 6)
    for (let i = 1000; i <= 1400; i += 100) expect(Math.abs(slow[i]! - Math.sin((2 * Math.PI * i) / 400))).toBeLessThan(0.03)
    expect(Math.max(...zeroPhase(swing(8), 6).slice(800, 1600).map(Math.abs))).toBeLessThan(0.01)
  })

  it('keeps the ends, and never goes farther off the straight way between them', () => {
    const numbers = fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 2, maxLength: 200 })
    const most = (line: Float64Array) => Math.max(...line.map((value, i) => Math.abs(value - line[0]! - ((line.at(-1)! - line[0]!) * i) / (line.length - 1))))
    fc.assert(
      fc.property(numbers, tau, (list, t) => {
        const [line, out] = [Float64Array.from(list), zeroPhase(Float64Array.from(list), t)]
        expect(Math.abs(out[0]! - line[0]!)).toBeLessThan(1e-4)
        expect(Math.abs(out.at(-1)! - line.at(-1)!)).toBeLessThan(1e-4)
        expect(most(out)).toBeLessThanOrEqual(most(line) + 1e-4)
      }),
    )
  })
})

describe('an operated try', () => {
  it('goes through its samples unsmoothed, and straight between them', () => {
    const poses = operatedPoses([at(0, { x: 0 }), at(0.5, { x: 1 }), at(2.5, { x: 2, focalLengthMm: 100 })], 4, 0)
    expect(poses.map(({ x }) => x)).toEqual([0, 1.25, 1.75, 2, 2])
    expect(poses[1]!.focalLengthMm).toBeCloseTo(50 * 2 ** 0.25, 9)
    expect(operatedPoses([], 10, 4)).toEqual([])
    expect(operatedPoses([at(3, { x: 7 })], 2, 4).map(({ x }) => x)).toEqual([7, 7, 7])
  })

  it('is the same however finely it was sampled, and whatever came twice at one time', () => {
    const path = (t: number) => ({ x: Math.sin(t / 9), panDegrees: t * 3, depth: -1 - t / 50 })
    const sampled = (rate: number) => Array.from({ length: 48 * rate + 1 }, (_, i) => at(i / rate, path(i / rate)))
    const [fine, coarse] = [operatedPoses(sampled(20), 48, 5), operatedPoses(sampled(5), 48, 5)]
    fine.forEach((pose, i) => expect(pose.x).toBeCloseTo(coarse[i]!.x, 3))
    fine.forEach((pose, i) => expect(pose.panDegrees).toBeCloseTo(i * 3, 6))
    const twice = sampled(5).flatMap((sample) => [{ ...sample, pose: REST }, sample])
    expect(operatedPoses(twice, 48, 0)).toEqual(operatedPoses(sampled(5), 48, 0))
  })
})

describe('samples as they are kept', () => {
  const number = (most: number) => fc.double({ min: -most, max: most, noNaN: true })
  const pose = fc.record({ x: number(50), y: number(50), depth: number(50), panDegrees: number(720), tiltDegrees: number(89), rollDegrees: fc.constant(0), focalLengthMm: fc.double({ min: 4, max: 1200, noNaN: true }) })

  it('come out as they went in, to a thousandth of a frame, a millionth of an fw and a hundred-thousandth of a degree', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.double({ min: 0, max: 20, noNaN: true }), pose), { minLength: 1, maxLength: 60 }), (list) => {
        let now = 0
        const samples = list.map(([by, each]): OperatedSample => ({ at: (now += by), pose: each }))
        const back = unpackSamples(JSON.parse(JSON.stringify(packSamples(samples))))
        expect(back).toHaveLength(samples.length)
        back.forEach(({ at: time, pose: found }, i) => {
          expect(Math.abs(time - samples[i]!.at)).toBeLessThan(5.1e-4)
          for (const [field, value] of Object.entries(samples[i]!.pose)) expect(Math.abs(found[field as keyof CameraPose] - value)).toBeLessThan(field.length <= 5 ? 5.1e-7 : 5.1e-6)
        })
      }),
    )
  })

  it('are small: what does not change is told once, and a minute at 120 a second takes less than 100 KB', () => {
    const minute = Array.from({ length: 7200 }, (_, i) => at(i / 5, { x: Math.sin(i / 900), y: Math.cos(i / 700) / 5 }))
    const packed = packSamples(minute)
    expect([packed.depth.length, packed.focalLengthMm.length, packed.x.length]).toEqual([1, 1, 7200])
    expect(JSON.stringify(packed).length).toBeLessThan(100_000)
  })
})
