import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { canDropFrames, feetOfFrames, frameAtSeconds, frameOfMoment, frameOfTimecode, framesOfEntry, framesOfFeet, isKnownRate, rateName, RATES, secondsOfFrames, shareFrames, showLength, showMoment, TIME_DISPLAYS, timecodeOfFrame } from './index'

const R24 = { numerator: 24, denominator: 1 }
const R2398 = { numerator: 24000, denominator: 1001 }
const R2997 = { numerator: 30000, denominator: 1001 }
const R5994 = { numerator: 60000, denominator: 1001 }

describe('rates', () => {
  it('are the nine that films have', () => {
    expect(RATES.map(rateName)).toEqual(['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60'])
    expect(isKnownRate({ numerator: 23976, denominator: 1000 })).toBe(false)
  })

  it('give every frame back from its own time', () => {
    fc.assert(
      fc.property(fc.constantFrom(...RATES), fc.nat(2_000_000), (rate, frame) => {
        expect(frameAtSeconds(secondsOfFrames(frame, rate), rate)).toBe(frame)
      }),
    )
  })

  it('count a second of 24000/1001 as a little more than 24 frames’ time', () => {
    expect(secondsOfFrames(24, R2398)).toBeCloseTo(1.001, 12)
    expect(frameAtSeconds(1, R2398)).toBe(23)
  })
})

describe('timecode', () => {
  it('counts hours, minutes, seconds and frames', () => {
    expect(timecodeOfFrame(0, R24)).toBe('00:00:00:00')
    expect(timecodeOfFrame(1198, R24)).toBe('00:00:49:22')
    expect(timecodeOfFrame(24 * 3600 + 1, R24)).toBe('01:00:00:01')
    expect(timecodeOfFrame(-25, R24)).toBe('-00:00:01:01')
  })

  it('drops two numbers a minute at 29.97, but not in tenth minutes', () => {
    expect(timecodeOfFrame(1799, R2997, true)).toBe('00:00:59;29')
    expect(timecodeOfFrame(1800, R2997, true)).toBe('00:01:00;02')
    expect(timecodeOfFrame(17982, R2997, true)).toBe('00:10:00;00')
    expect(timecodeOfFrame(107892, R2997, true)).toBe('01:00:00;00')
    expect(timecodeOfFrame(3600, R5994, true)).toBe('00:01:00;04')
  })

  it('refuses numbers that are dropped, and parts out of range', () => {
    expect(frameOfTimecode('00:01:00;00', R2997)).toBeNull()
    expect(frameOfTimecode('00:00:60:00', R24)).toBeNull()
    expect(frameOfTimecode('00:00:00:24', R24)).toBeNull()
    expect(frameOfTimecode('hello', R24)).toBeNull()
  })

  it('drops only where the rate asks for it', () => {
    expect(RATES.filter(canDropFrames).map(rateName)).toEqual(['29.97', '59.94'])
    expect(timecodeOfFrame(1800, R24, true)).toBe('00:01:15:00')
  })

  it('comes back as the frame it names, at every rate, dropping or not', () => {
    fc.assert(
      fc.property(fc.constantFrom(...RATES), fc.integer({ min: -200_000, max: 5_000_000 }), fc.boolean(), (rate, frame, drop) => {
        expect(frameOfTimecode(timecodeOfFrame(frame, rate, drop), rate)).toBe(frame)
      }),
    )
  })
})

describe('a typed length', () => {
  it('may be frames, seconds, seconds and frames, or timecode', () => {
    expect(framesOfEntry('58', R24, 10)).toBe(58)
    expect(framesOfEntry('58f', R24, 10)).toBe(58)
    expect(framesOfEntry('1.5s', R24, 10)).toBe(36)
    expect(framesOfEntry('2:12', R24, 10)).toBe(60)
    expect(framesOfEntry('00:00:02:12', R24, 10)).toBe(60)
  })

  it('may be relative', () => {
    expect(framesOfEntry('+6', R24, 10)).toBe(16)
    expect(framesOfEntry('-1s', R24, 30)).toBe(6)
    expect(framesOfEntry('*1.2', R24, 10)).toBe(12)
    expect(framesOfEntry('/2', R24, 9)).toBe(5)
  })

  it('is refused when it is none of these', () => {
    for (const text of ['', 'abc', '*', '/0', '1.5', '12:90', '*x']) expect(framesOfEntry(text, R24, 10)).toBeNull()
  })
})

describe('a moment as it is shown', () => {
  const base = { rate: R24, startFrame: 24 * 3600, drop: false }

  it('counts from the start timecode', () => {
    expect(TIME_DISPLAYS.map((display) => showMoment(50, display, base))).toEqual(['01:00:02:02', '86450', '3602.08 s', '5403+02'])
    expect(showLength(50, 'timecode', base)).toBe('00:02:02')
    expect(showLength(50, 'seconds', base)).toBe('2.08 s')
    expect(showMoment(1800, 'timecode', { rate: R2997, startFrame: 0, drop: true })).toBe('00:01:00;02')
  })

  it('comes back as the frame it names, in frames, timecode and feet', () => {
    fc.assert(
      fc.property(fc.constantFrom(...RATES), fc.integer({ min: -1000, max: 2_000_000 }), fc.nat(200_000), fc.boolean(), (rate, frame, startFrame, drop) => {
        for (const display of ['timecode', 'frames', 'feet'] as const) expect(frameOfMoment(showMoment(frame, display, { rate, startFrame, drop }), { rate, startFrame, drop })).toBe(frame)
      }),
    )
    expect(frameOfMoment('1.5s', { rate: R24, startFrame: 0, drop: false })).toBe(36)
    expect(frameOfMoment('soon', base)).toBeNull()
  })

  it('counts feet of sixteen frames', () => {
    expect([0, 15, 16, 56, -17].map(feetOfFrames)).toEqual(['0+00', '0+15', '1+00', '3+08', '-1+01'])
    expect(['3+08', '-1+01', '1+16', '3', ''].map(framesOfFeet)).toEqual([56, -17, null, null, null])
    expect(framesOfEntry('3+08', R24, 1)).toBe(56)
  })
})

describe('shared frames', () => {
  it('come to the total, none below one, each end within half a frame of its place', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 500 }), { minLength: 1, maxLength: 30 }), fc.integer({ min: 0, max: 5000 }), (weights, total) => {
        const shared = shareFrames(weights, total)
        if (total < weights.length) return void expect(shared).toBeNull()
        expect(shared!.reduce((sum, share) => sum + share, 0)).toBe(total)
        expect(Math.min(...shared!)).toBeGreaterThanOrEqual(1)
        const sum = weights.reduce((all, weight) => all + weight, 0)
        if (Math.min(...weights) * total < sum) return
        let [end, due] = [0, 0]
        weights.forEach((weight, i) => {
          end += shared![i]!
          due += (weight * total) / sum
          expect(Math.abs(end - due)).toBeLessThanOrEqual(0.5 + 1e-9)
        })
      }),
    )
  })

  it('of the same total are the same', () => {
    expect(shareFrames([7, 3, 11], 21)).toEqual([7, 3, 11])
    expect(shareFrames([1, 1000], 2)).toEqual([1, 1])
    expect(shareFrames([], 0)).toEqual([])
  })
})
