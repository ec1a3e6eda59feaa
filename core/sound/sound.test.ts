import { orderOfNumber } from '../document'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Clip, Lane } from '../document'
import {
  addResampled, createLevels, lufsOf,
  babble,
  BABBLE_RATE_HZ,
  createStretcher,
  crossedFades,
  dbOfFactor,
  envelopeAt,
  factorOfDb,
  findPauses,
  isHeard,
  MIX_RATE_HZ,
  mixBlock,
  needsOf,
  PEAK_SAMPLES,
  PeakBuilder,
  peaksBetween,
  placeSound,
  proposeSplits,
  rampAt,
  voiceOf,
  type PlacedSound,
  type ReadSamples,
} from './index'

const RATE = { numerator: 24, denominator: 1 }
const HASH = 'a'.repeat(64)
const lane = (id: string, order: number, fields: Partial<Lane> = {}): Lane => ({ id, order: orderOfNumber(order), name: id, kind: 'voices', gainDb: 0, muted: false, soloed: false, ...fields })
const clip = (id: string, fields: Partial<Clip> = {}): Clip => ({ id, laneId: 'l1', shotId: null, offsetFrames: 0, assetHash: HASH, name: id, sourceSeconds: 10, fromSeconds: 0, lengthSeconds: 1, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null, ...fields })
const place = (clips: readonly Clip[], lanes: readonly Lane[] = [lane('l1', 1)], starts: Record<string, number> = {}, crossings: Parameters<typeof placeSound>[3] = []): PlacedSound =>
  placeSound({ lanes: Object.fromEntries(lanes.map((each) => [each.id, each])), clips: Object.fromEntries(clips.map((each) => [each.id, each])) }, RATE, (shotId) => starts[shotId] ?? null, crossings)

/** The first sample that is another, or -1; a matcher looks at each of them for some milliseconds a thousand. */
const firstOff = (a: Float32Array, b: Float32Array) => (a.length === b.length ? a.findIndex((value, i) => value !== b[i]) : Math.min(a.length, b.length))

describe('gain', () => {
  it('doubles every 6.02 dB, and is nothing from −60 dB down', () => {
    expect(factorOfDb(0)).toBe(1)
    expect(factorOfDb(20 * Math.log10(2))).toBeCloseTo(2, 12)
    expect([factorOfDb(-60), factorOfDb(-80)]).toEqual([0, 0])
    expect(dbOfFactor(factorOfDb(-12.5))).toBeCloseTo(-12.5, 10)
    expect(dbOfFactor(0)).toBe(-60)
  })

  it('of what goes out and what comes in is together as loud as one', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (at) => {
        const span = { fromSeconds: 0, toSeconds: 1 }
        expect(rampAt({ kind: 'in', ...span }, at) ** 2 + rampAt({ kind: 'out', ...span }, at) ** 2).toBeCloseTo(1, 9)
      }),
    )
    expect(rampAt({ kind: 'in', fromSeconds: 2, toSeconds: 2 }, 2)).toBe(1)
  })
})

describe('placed clips', () => {
  it('keep their place in their shot, wherever it stands', () => {
    const one = clip('a', { shotId: 's', offsetFrames: 12 })
    expect(place([one], undefined, { s: 0 }).placeOf('a')!.startSeconds).toBe(0.5)
    expect(place([one], undefined, { s: 240 }).placeOf('a')!.startSeconds).toBe(10.5)
  })

  it('are in the tray while their shot is not in the film, and come back with it', () => {
    const one = clip('a', { shotId: 's' })
    const without = place([one])
    expect([without.tray.map((each) => each.id), without.clips]).toEqual([['a'], []])
    expect(place([one], undefined, { s: 5 }).tray).toEqual([])
  })

  it('are found by the span they lie in, long ones before short ones too', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(200), fc.integer({ min: 1, max: 120 })), { maxLength: 30 }), fc.nat(250), fc.integer({ min: 1, max: 60 }), (spans, from, length) => {
        const sound = place(spans.map(([offsetFrames, frames], i) => clip(`c${i}`, { offsetFrames, lengthSeconds: frames / 24 })))
        const [a, b] = [from / 24, (from + length) / 24]
        const found = sound.between(a, b).map((each) => each.clip.id)
        expect([...found].sort()).toEqual(sound.clips.filter((each) => each.startSeconds < b && each.endSeconds > a).map((each) => each.clip.id).sort())
      }),
    )
  })

  it('cross over where they overlap in a lane, and not where one lies in another', () => {
    const spans = (list: readonly (readonly [number, number])[]) => list.map(([startSeconds, endSeconds], i) => ({ clip: clip(`c${i}`, { lengthSeconds: endSeconds - startSeconds }), startSeconds, endSeconds }))
    expect(crossedFades(spans([[0, 2], [1.5, 4]]))).toEqual([{ fadeInSeconds: 0, fadeOutSeconds: 0.5 }, { fadeInSeconds: 0.5, fadeOutSeconds: 0 }])
    expect(crossedFades(spans([[0, 5], [1, 2], [4, 6]]))).toEqual([{ fadeInSeconds: 0, fadeOutSeconds: 1 }, { fadeInSeconds: 0, fadeOutSeconds: 0 }, { fadeInSeconds: 1, fadeOutSeconds: 0 }])
  })

  it('too short for both fades share themselves out in their proportion', () => {
    const span = { clip: clip('a', { lengthSeconds: 1, fadeInSeconds: 3, fadeOutSeconds: 1 }), startSeconds: 0, endSeconds: 1 }
    expect(crossedFades([span])).toEqual([{ fadeInSeconds: 0.75, fadeOutSeconds: 0.25 }])
  })

  it('are heard from lanes that are not muted, and from soloed ones alone while there are any', () => {
    const lanes = [lane('a', 1), lane('b', 2, { muted: true }), lane('c', 3)]
    expect(lanes.map((each) => isHeard(each, lanes))).toEqual([true, false, true])
    const soloed = [lane('a', 1), lane('b', 2, { muted: true, soloed: true }), lane('c', 3, { soloed: true })]
    expect(soloed.map((each) => isHeard(each, soloed))).toEqual([false, false, true])
  })

  it('cross over along with a transition: those of the shot that goes and of the one that comes, and no others', () => {
    const crossings = [{ kind: 'cut' as const, outShotId: 'a', inShotId: 'b', fromSeconds: 1, toSeconds: 2 }]
    const sound = place([clip('of-a', { shotId: 'a', lengthSeconds: 4 }), clip('of-b', { shotId: 'b', offsetFrames: -24, lengthSeconds: 4 }), clip('of-film', { laneId: 'l2', lengthSeconds: 9 })], [lane('l1', 1), lane('l2', 2)], { a: 0, b: 36 }, crossings)
    const at = (id: string, seconds: number) => envelopeAt(sound.placeOf(id)!.ramps.filter((ramp) => ramp.fromSeconds === 1), seconds)
    expect([at('of-a', 0.9), at('of-a', 1.5), at('of-a', 2.1)]).toEqual([1, expect.closeTo(Math.SQRT1_2, 9), 0])
    expect([at('of-b', 0.9), at('of-b', 1.5), at('of-b', 2.1)]).toEqual([0, expect.closeTo(Math.SQRT1_2, 9), 1])
    expect(sound.placeOf('of-film')!.ramps).toEqual([])
  })
})

describe('the mix', () => {
  /** A recording that is a tone; past its ends nothing. */
  const recording = (sampleRateHz: number, seconds: number, hz: number, channels = 1) => {
    const wave = Float32Array.from({ length: Math.round(seconds * sampleRateHz) }, (_, i) => 0.5 * Math.sin((2 * Math.PI * hz * i) / sampleRateHz))
    return {
      shape: { sampleRateHz, channels },
      read: ({ first, end }: { first: number; end: number }): ReadSamples => ({ first: Math.min(first, wave.length), channels: Array.from({ length: channels }, () => wave.subarray(first, end)) }),
    }
  }
  const mixed = (sound: PlacedSound, from: number, count: number, source: ReturnType<typeof recording>) => mixBlock(sound, from, count, source.read, () => source.shape)

  it('is the recording, to the sample, at the mix’s own rate', () => {
    const source = recording(MIX_RATE_HZ, 2, 1000)
    const sound = place([clip('a', { offsetFrames: 12, fromSeconds: 0.25, lengthSeconds: 1 })])
    const [left, right] = mixed(sound, 0, MIX_RATE_HZ * 2, source)
    const wave = source.read({ first: 12_000, end: 60_000 }).channels[0]!
    expect(left.subarray(0, 24_000).every((value) => value === 0)).toBe(true)
    expect([...left.subarray(24_000, 24_100)]).toEqual([...wave.subarray(0, 100)])
    expect(left[71_999]).toBe(wave[47_999])
    expect(left[72_000]).toBe(0)
    expect(firstOff(right, left)).toBe(-1)
  })

  it('comes out the same however it is cut into blocks', () => {
    const source = recording(44_100, 2, 700, 2)
    const sound = place([clip('a', { offsetFrames: 1, lengthSeconds: 0.4, fadeInSeconds: 0.1 }), clip('b', { offsetFrames: 7, fromSeconds: 0.3, lengthSeconds: 0.4, gainDb: -6 })])
    const total = 30_000
    const whole = mixed(sound, 0, total, source)[0]
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 8 }), (sizes) => {
        let at = 0
        for (const size of [...sizes, total]) {
          const count = Math.min(size, total - at)
          if (count === 0) break
          expect(firstOff(mixed(sound, at, count, source)[0], whole.subarray(at, at + count))).toBe(-1)
          at += count
        }
      }),
      { numRuns: 20 },
    )
  })

  it('asks for just what it reads', () => {
    const source = recording(44_100, 20, 700)
    const sound = place([clip('a', { offsetFrames: 3, fromSeconds: 2, lengthSeconds: 3, sourceSeconds: 20 })])
    const asked: object[] = []
    mixBlock(sound, 20_000, 4800, (need) => (asked.push(need), source.read(need)), () => source.shape)
    expect(needsOf(sound, 20_000, 4800, () => source.shape)).toEqual(asked)
  })

  it.each([22_050, 44_100, 48_000, 96_000])('keeps a tone’s pitch and level from a recording of %i Hz', (rate) => {
    const source = recording(rate, 2, 1000)
    const [left] = mixed(place([clip('a', { lengthSeconds: 1.5 })]), 4800, 4800, source)
    const expected = Float32Array.from({ length: 4800 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 1000 * (i + 4800)) / MIX_RATE_HZ))
    const off = Math.max(...left.map((value, i) => Math.abs(value - expected[i]!)))
    expect(off).toBeLessThan(0.002)
  })

  it.each([24_500, 25_000, 28_000, 34_000, 47_000])('does not fold back %i Hz of a recording of 96 kHz: 80 dB below it', (hz) => {
    const high = Float32Array.from({ length: 9600 }, (_, i) => Math.sin((2 * Math.PI * hz * i) / 96_000))
    const out = new Float32Array(2000)
    addResampled(out, 0, 2000, { samples: high, first: 0 }, 1000, 0, 2, () => 1)
    expect(Math.max(...out.map(Math.abs))).toBeLessThan(1e-4)
  })

  it.each([
    [44_100, 1000],
    [44_100, 18_000],
    [44_100, 20_000],
    [96_000, 18_000],
    [96_000, 20_000],
    [88_200, 20_000],
    [32_000, 12_000],
  ])('from %i Hz leaves a tone of %i Hz 80 dB above all that is not it', (rate, hz) => {
    const samples = Float32Array.from({ length: rate }, (_, i) => Math.sin((2 * Math.PI * hz * i) / rate))
    const count = 4800
    const out = new Float32Array(count)
    addResampled(out, 0, count, { samples, first: 0 }, rate / 4 + 0.37, 0, rate / MIX_RATE_HZ, () => 1)
    // What is left when the best sine of that pitch is taken away.
    const wave = (f: (x: number) => number) => Float64Array.from({ length: count }, (_, i) => f((2 * Math.PI * hz * i) / MIX_RATE_HZ))
    const [sin, cos] = [wave(Math.sin), wave(Math.cos)]
    const along = (axis: Float64Array) => out.reduce((sum, value, i) => sum + value * axis[i]!, 0) / axis.reduce((sum, value) => sum + value * value, 0)
    const [a, b] = [along(sin), along(cos)]
    const noise = out.reduce((sum, value, i) => sum + (value - a * sin[i]! - b * cos[i]!) ** 2, 0)
    const signal = out.reduce((sum, value) => sum + value * value, 0)
    expect(10 * Math.log10(signal / noise)).toBeGreaterThan(80)
    expect(Math.hypot(a, b)).toBeCloseTo(1, 1)
  })

  it('of clips that cross over neither swells nor sinks, and never leaves −1…1', () => {
    // Two tones that have nothing to do with each other: their powers add.
    const [a, b] = ['a'.repeat(64), 'b'.repeat(64)]
    const tones = { [a]: recording(MIX_RATE_HZ, 3, 441), [b]: recording(MIX_RATE_HZ, 3, 1370) }
    const sound = place([clip('one', { assetHash: a, lengthSeconds: 2 }), clip('two', { assetHash: b, offsetFrames: 24, lengthSeconds: 2 })])
    const [left] = mixBlock(sound, 0, MIX_RATE_HZ * 3, (need) => tones[need.assetHash]!.read(need), (hash) => tones[hash]!.shape)
    const power = (from: number) => left.subarray(from, from + 9600).reduce((sum, value) => sum + value * value, 0) / 9600
    const alone = power(0)
    for (const from of [40_000, 52_800, 67_200, 81_600, 100_000]) expect(power(from) / alone).toBeCloseTo(1, 1)
    const loud = mixBlock(place([clip('x', { gainDb: 24 })]), 0, 4800, tones[a]!.read, () => tones[a]!.shape)[0]
    expect([Math.max(...loud), Math.min(...loud)].every((value) => Math.abs(value) <= 1)).toBe(true)
  })

  it('turns two loud clips down together before they would clip, and leaves what is not near them alone', () => {
    const [a, b] = ['a'.repeat(64), 'b'.repeat(64)]
    const tones = { [a]: recording(MIX_RATE_HZ, 3, 441), [b]: recording(MIX_RATE_HZ, 3, 1370) }
    const read = (need: { readonly assetHash: string }) => tones[need.assetHash]!.read(need as never)
    const both = place([clip('one', { assetHash: a, lengthSeconds: 3, gainDb: 4 }), clip('two', { assetHash: b, offsetFrames: 24, lengthSeconds: 0.5, gainDb: 4 })])
    const [left] = mixBlock(both, 0, MIX_RATE_HZ * 2, read, (hash) => tones[hash]!.shape)
    const [alone] = mixBlock(place([clip('one', { assetHash: a, lengthSeconds: 3, gainDb: 4 })]), 0, MIX_RATE_HZ * 2, read, (hash) => tones[hash]!.shape)
    const between = (wave: Float32Array, from: number, to: number) => wave.subarray(from * MIX_RATE_HZ, to * MIX_RATE_HZ)
    expect(Math.max(...between(left, 1, 1.5).map(Math.abs))).toBeLessThanOrEqual(1)
    // Nothing stands at the ceiling for long, as it would where it is cut off.
    const run = between(left, 1, 1.5).reduce(({ now, most }, value) => (Math.abs(value) > 0.9999 ? { now: now + 1, most: Math.max(most, now + 1) } : { now: 0, most }), { now: 0, most: 0 }).most
    expect(run).toBeLessThan(6)
    expect(firstOff(between(left, 0, 0.98), between(alone, 0, 0.98))).toBe(-1)
    expect(firstOff(between(left, 1.52, 2), between(alone, 1.52, 2))).toBe(-1)
    // However it is cut into blocks.
    const cut = [0, 100, 4096, 48_700, 50_000, 96_000]
    const pieces = cut.slice(1).flatMap((end, i) => [...mixBlock(both, cut[i]!, end - cut[i]!, read, (hash) => tones[hash]!.shape)[0]])
    expect(firstOff(Float32Array.from(pieces), left)).toBe(-1)
  })

  it('measures loudness by the standard: a sine of 997 Hz at full scale on one side is −3.01 LUFS', () => {
    const measure = createLevels()
    const wave = Float32Array.from({ length: MIX_RATE_HZ }, (_, i) => Math.sin((2 * Math.PI * 997 * i) / MIX_RATE_HZ))
    const hops = Array.from({ length: 50 }, (_, i) => measure(wave, new Float32Array(MIX_RATE_HZ), i * 960, 960))
    expect(lufsOf(hops.slice(10))).toBeCloseTo(-3.01, 1)
    expect(Math.max(...hops.map((hop) => hop.peak))).toBeCloseTo(1, 3)
    expect(lufsOf([{ power: 0 }])).toBeNull()
  })

  it('leaves out a recording that can’t be read', () => {
    const [left] = mixBlock(place([clip('a')]), 0, 100, () => null, () => ({ sampleRateHz: 48_000, channels: 1 }))
    expect(left.every((value) => value === 0)).toBe(true)
  })
})

describe('the stretcher', () => {
  const tone = (first: number, count: number) => {
    const wave = Float32Array.from({ length: count }, (_, i) => Math.sin((2 * Math.PI * 440 * (first + i)) / MIX_RATE_HZ))
    return [wave, wave] as const
  }
  const run = (speed: number, seconds: number) => {
    const stretcher = createStretcher(0, speed)
    const parts = Array.from({ length: Math.ceil((seconds * MIX_RATE_HZ) / 960) }, () => [...stretcher.next(tone)[0]])
    return parts.flat()
  }
  const crossings = (wave: readonly number[]) => wave.reduce((count, value, i) => count + (i > 0 && wave[i - 1]! < 0 && value >= 0 ? 1 : 0), 0)

  it.each([0.25, 0.5, 1, 1.5, 2])('keeps the pitch at %f times the speed, without gaps', (speed) => {
    const wave = run(speed, 1).slice(2000)
    expect(crossings(wave) / (wave.length / MIX_RATE_HZ)).toBeCloseTo(440, -1)
    const loudness = (from: number) => Math.sqrt(wave.slice(from, from + 960).reduce((sum, value) => sum + value * value, 0) / 960)
    for (let from = 0; from + 960 < wave.length; from += 960) expect(loudness(from)).toBeGreaterThan(0.5)
  })

  it('is the sound itself at its own speed', () => {
    const wave = run(1, 0.2)
    const expected = tone(-480, wave.length)[0]
    for (let i = 2000; i < 6000; i += 37) expect(wave[i]).toBeCloseTo(expected[i]!, 2)
  })

  it('refuses a speed of nothing', () => {
    expect(() => createStretcher(0, 0)).toThrow('not above 0')
  })
})

describe('peaks', () => {
  const built = (wave: Float32Array, cut: readonly number[] = []) => {
    const builder = new PeakBuilder()
    let at = 0
    for (const size of [...cut, wave.length]) {
      builder.add([wave.subarray(at, Math.min(wave.length, at + size))])
      at = Math.min(wave.length, at + size)
    }
    return builder.finish(48_000)
  }

  it('hold every extreme, at every zoom', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 99_999 }), fc.integer({ min: 1, max: 400 }), (spike, columns) => {
        const wave = new Float32Array(100_000)
        wave[spike] = -0.75
        const found = peaksBetween(built(wave), 0, 100_000 / 48_000, columns)
        const lows = Array.from({ length: columns }, (_, i) => found[i * 2]!)
        expect(Math.min(...lows)).toBeLessThanOrEqual(-0.75)
        expect(lows.findIndex((value) => value <= -0.75)).toBeLessThanOrEqual(Math.floor((spike / 100_000) * columns))
      }),
    )
  })

  it('do not depend on how the recording came in', () => {
    const wave = Float32Array.from({ length: 20_000 }, (_, i) => Math.sin(i * 0.37) * Math.sin(i * 0.001))
    fc.assert(fc.property(fc.array(fc.integer({ min: 1, max: 3000 }), { maxLength: 12 }), (cut) => void expect(built(wave, cut).levels).toEqual(built(wave).levels)))
  })

  it('cost as many steps as columns, whatever the zoom', () => {
    const peaks = built(new Float32Array(48_000 * 60))
    expect(peaks.levels.length).toBeGreaterThan(4)
    expect(peaks.levels.at(-1)!.length).toBeLessThanOrEqual(8)
    expect(peaks.seconds).toBe(60)
    expect(peaksBetween(peaks, 0, 60, 0)).toHaveLength(0)
    expect([...peaksBetween(peaks, 70, 80, 2)]).toEqual([0, 0, 0, 0])
  })

  it('of nothing are none', () => {
    const none = new PeakBuilder().finish(48_000)
    expect([none.seconds, none.levels[0]!.length, [...peaksBetween(none, 0, 1, 1)]]).toEqual([0, 0, [0, 0]])
  })
})

describe('pauses', () => {
  const wave = (...parts: readonly (readonly [number, number])[]) => {
    const builder = new PeakBuilder()
    for (const [seconds, level] of parts) builder.add([Float32Array.from({ length: Math.round(seconds * 48_000) }, (_, i) => level * Math.sin(i * 0.3))])
    return builder.finish(48_000)
  }
  const each = PEAK_SAMPLES / 48_000

  it('are found where it is quiet for long enough, and split in their middle', () => {
    const peaks = wave([1, 0.5], [0.6, 0.001], [1, 0.5], [0.2, 0], [1, 0.5], [0.5, 0], [1, 0.4])
    const pauses = findPauses(peaks, 0, peaks.seconds)
    expect(pauses).toHaveLength(2)
    expect(Math.abs(pauses[0]!.fromSeconds - 1)).toBeLessThan(2 * each)
    expect(Math.abs(pauses[0]!.toSeconds - 1.6)).toBeLessThan(2 * each)
    expect(proposeSplits(peaks, 0, peaks.seconds)[0]).toBeCloseTo(1.3, 1)
  })

  it('at the ends of a recording split nothing', () => {
    const peaks = wave([0.5, 0], [1, 0.5], [0.5, 0])
    expect(findPauses(peaks, 0, peaks.seconds)).toHaveLength(2)
    expect(proposeSplits(peaks, 0, peaks.seconds)).toEqual([])
    expect(proposeSplits(peaks, 0.2, 0.4)).toEqual([])
  })
})

describe('the made-up voice', () => {
  const line = 'Tilda! Mind the third plank, it floats. Do you hear me?'

  it('says the same words the same way, and other words another way', () => {
    const voice = voiceOf('Oskar')
    expect(babble(line, voice)).toEqual(babble(line, voice))
    expect(babble('Mind the plank.', voice)).not.toEqual(babble('Mind the goose.', voice))
    expect(voiceOf('Oskar')).toEqual(voiceOf(' oskar '))
    expect(voiceOf('Tilda').pitchHz).not.toBe(voice.pitchHz)
  })

  it('lasts about as long as the words take to say, and pauses at their marks', () => {
    const seconds = babble(line, voiceOf('Oskar')).length / BABBLE_RATE_HZ
    expect(seconds).toBeGreaterThan(2)
    expect(seconds).toBeLessThan(5)
    expect(babble(line, voiceOf('Oskar'), 2).length).toBeCloseTo((seconds * BABBLE_RATE_HZ) / 2, -2)
    const builder = new PeakBuilder()
    builder.add([babble(line, voiceOf('Oskar'))])
    expect(proposeSplits(builder.finish(BABBLE_RATE_HZ), 0, 99, { thresholdDb: -34, leastSeconds: 0.2 }).length).toBeGreaterThanOrEqual(2)
  })

  it('is loud enough to time by, never out of range, and silent where there are no words', () => {
    for (const text of [line, 'hm', '…', 'Αλάτι και φως', '油灯', '']) {
      const wave = babble(text, voiceOf('Brisket'))
      expect(wave.every((value) => Math.abs(value) <= 1)).toBe(true)
      if (text === '' || text === '…') expect(wave).toHaveLength(0)
      else expect(Math.max(...wave.map(Math.abs))).toBeGreaterThan(0.1)
    }
  })
})
