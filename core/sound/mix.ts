import { envelopeAt } from './envelope'
import type { PlacedClip, PlacedSound } from './placedClips'
import { LIMIT_REACH, limited } from './limit'
import { addResampled, reachSamples, type Stretch } from './resample'

/** Samples a second of the mix. */
export const MIX_RATE_HZ = 48_000

/** What a recording's samples are like. */
export interface RecordingShape {
  readonly sampleRateHz: number
  readonly channels: number
}

/** Samples of a recording, a channel each; from `first` on. Past its ends they are left out. */
export interface ReadSamples {
  readonly first: number
  readonly channels: readonly Float32Array[]
}

/** The part of a recording that a block of the mix needs: samples `first` to `end`, exclusive. */
export interface Need {
  readonly assetHash: string
  readonly first: number
  readonly end: number
}

/** Seconds of the mix, in its samples. */
export const mixSample = (seconds: number) => Math.round(seconds * MIX_RATE_HZ)

/** What of a clip falls into a block: samples `from` to `to` of the mix, the clip's `index`th and on, which its recording has `step` apart from `origin`. */
interface Segment {
  readonly from: number
  readonly to: number
  readonly step: number
  readonly origin: number
  readonly index: number
  readonly need: Need
}

function segmentOf(placed: PlacedClip, firstSample: number, count: number, { sampleRateHz }: RecordingShape): Segment | null {
  const start = mixSample(placed.startSeconds)
  const from = Math.max(firstSample, start)
  const to = Math.min(firstSample + count, mixSample(placed.endSeconds))
  if (to <= from) return null
  const step = sampleRateHz / MIX_RATE_HZ
  const begin = placed.clip.fromSeconds * sampleRateHz
  // At the mix's own rate samples are taken as they are.
  const origin = step === 1 ? Math.round(begin) : begin
  const index = from - start
  const position = origin + index * step
  const reach = step === 1 ? 0 : reachSamples(step)
  const need = { assetHash: placed.clip.assetHash, first: Math.max(0, Math.floor(position) - reach), end: Math.ceil(position + (to - from) * step) + reach + 1 }
  return { from, to, step, origin, index, need }
}

/** What a block of the mix needs of recordings, so that it can be fetched before. */
export function needsOf(sound: PlacedSound, blockFirst: number, blockCount: number, shapeOf: (assetHash: string) => RecordingShape | null): Need[] {
  const needs: Need[] = []
  const [firstSample, count] = [blockFirst - LIMIT_REACH, blockCount + 2 * LIMIT_REACH]
  for (const placed of heard(sound, firstSample, count)) {
    const shape = shapeOf(placed.clip.assetHash)
    const segment = shape === null ? null : segmentOf(placed, firstSample, count, shape)
    if (segment !== null) needs.push(segment.need)
  }
  return needs
}

/** Every clip that a block may hear of; the rounding of a sample to either side is allowed for. */
function heard(sound: PlacedSound, firstSample: number, count: number): readonly PlacedClip[] {
  return sound.between((firstSample - 1) / MIX_RATE_HZ, (firstSample + count + 1) / MIX_RATE_HZ).filter((placed) => placed.factor > 0)
}

/** Envelopes are worked out this often and go straight between. */
const ENVELOPE_EVERY = 32

/**
 * Mixes `count` samples of the film from `firstSample` on, as left and right. The block's place and size do not matter to
 * what comes out. A recording of one channel is heard on both sides; of more than two the first two, with the third
 * (the middle) on both at −3 dB. What comes out louder than 1 is turned down (`limited`).
 */
export function mixBlock(sound: PlacedSound, blockFirst: number, blockCount: number, read: (need: Need) => ReadSamples | null, shapeOf: (assetHash: string) => RecordingShape | null): readonly [Float32Array, Float32Array] {
  const [firstSample, count] = [blockFirst - LIMIT_REACH, blockCount + 2 * LIMIT_REACH]
  const out = [new Float32Array(count), new Float32Array(count)] as const
  for (const placed of heard(sound, firstSample, count)) {
    const shape = shapeOf(placed.clip.assetHash)
    if (shape === null) continue
    const segment = segmentOf(placed, firstSample, count, shape)
    if (segment === null) continue
    const { from, to, step, origin, index } = segment
    const samples = read(segment.need)
    if (samples === null || samples.channels.length === 0) continue
    const gain = gainOf(placed, from)
    if (samples.channels.length === 1) {
      // Heard on both sides, worked out once.
      const one = new Float32Array(to - from)
      addResampled(one, 0, to - from, { samples: samples.channels[0]!, first: samples.first } satisfies Stretch, origin, index, step, gain)
      for (const side of out) for (let i = 0; i < one.length; i++) side[from - firstSample + i] = side[from - firstSample + i]! + one[i]!
      continue
    }
    const put = (side: 0 | 1, channel: Float32Array, factor: number) => addResampled(out[side], from - firstSample, to - from, { samples: channel, first: samples.first } satisfies Stretch, origin, index, step, (i) => gain(i) * factor)
    const [first, second, middle] = samples.channels
    put(0, first!, 1)
    put(1, second!, 1)
    if (middle !== undefined) for (const side of [0, 1] as const) put(side, middle, Math.SQRT1_2)
  }
  return limited(out, blockCount)
}

/** A clip's gain from a sample of the mix on. The envelope's grid lies in the film, so blocks don't show. */
function gainOf({ factor, ramps }: PlacedClip, from: number): (i: number) => number {
  if (ramps.length === 0) return () => factor
  let cell = NaN
  let low = 0
  let high = 0
  return (i) => {
    const sample = from + i
    const at = Math.floor(sample / ENVELOPE_EVERY)
    if (at !== cell) {
      low = at === cell + 1 ? high : envelopeAt(ramps, (at * ENVELOPE_EVERY) / MIX_RATE_HZ)
      high = envelopeAt(ramps, ((at + 1) * ENVELOPE_EVERY) / MIX_RATE_HZ)
      cell = at
    }
    return factor * (low + (high - low) * (sample / ENVELOPE_EVERY - at))
  }
}
