import type { CameraPose } from '../camera/pose'
import { byField, POSE_FIELDS } from './poses'

/** Where a hand had the camera, so many frames after the try began: a fraction, by the pointer's own time. */
export interface OperatedSample {
  readonly at: number
  readonly pose: CameraPose
}

/** The most samples of a try: ten minutes at more than 300 a second. */
export const SAMPLES_MOST = 200_000

/**
 * Samples as they are kept: whole numbers, each as what it is more than the one before. Times are thousandths of a frame, places
 * millionths of an fw, turns and lenses hundred-thousandths of a degree and of a mm. What never changes is told once.
 */
export type PackedSamples = { readonly at: readonly number[] } & { readonly [field in keyof CameraPose]: readonly number[] }

const unitsOf = (field: keyof CameraPose) => (field === 'x' || field === 'y' || field === 'depth' ? 1e6 : 1e5)

export function packSamples(samples: readonly OperatedSample[]): PackedSamples {
  const packed = (of: (sample: OperatedSample) => number, unit: number) => {
    const numbers = samples.map((sample) => Math.round(of(sample) * unit))
    return numbers.every((each) => each === numbers[0]) ? numbers.slice(0, 1) : numbers.map((each, i) => (i === 0 ? each : each - numbers[i - 1]!))
  }
  // Times are always told one by one: they say how many there are.
  const times = samples.map(({ at }) => Math.round(at * 1e3))
  return { ...byField((field) => packed(({ pose }) => pose[field], unitsOf(field))), at: times.map((each, i) => (i === 0 ? each : each - times[i - 1]!)) }
}

export function unpackSamples(packed: PackedSamples): readonly OperatedSample[] {
  const now = byField(() => 0)
  let at = 0
  return packed.at.map((later, i) => {
    at += later
    for (const field of POSE_FIELDS) now[field] += packed[field][i] ?? 0
    return { at: at / 1e3, pose: byField((field) => now[field] / unitsOf(field)) }
  })
}

/** The filter runs on so many steps a frame: a hand is quicker than frames are. */
const STEPS = 4
/** Past its ends a try goes on as far as this many time constants, where what it began with is forgotten: e⁻¹². */
const PAST = 12

/**
 * A try's poses at frames 0 to `lastFrame`, smoothed. `smoothFrames` is the time constant of the filter, frames: of a quicker
 * tremble less is left, and nothing comes later than the hand did it. 0: the samples, and straight lines between them. Where a try
 * begins and ends the camera stays where the hand had it.
 */
export function operatedPoses(samples: readonly OperatedSample[], lastFrame: number, smoothFrames: number): readonly CameraPose[] {
  if (samples.length === 0) return []
  const steps = smoothFrames > 0 ? STEPS : 1
  // Of several at one time the last.
  const single = samples.filter(({ at }, i) => samples[i + 1]?.at !== at)
  const count = lastFrame * steps + 1
  // Lenses mix by their ratio.
  const values = byField((field) => {
    const of = (pose: CameraPose) => (field === 'focalLengthMm' ? Math.log(pose[field]) : pose[field])
    return zeroPhase(evenly(single, of, count, steps), smoothFrames * steps)
  })
  return Array.from({ length: lastFrame + 1 }, (_, frame) => {
    const pose = byField((field) => values[field][frame * steps]!)
    return { ...pose, focalLengthMm: Math.exp(pose.focalLengthMm) }
  })
}

/** Values at even steps, from straight lines between the samples. */
function evenly(samples: readonly OperatedSample[], of: (pose: CameraPose) => number, count: number, steps: number): Float64Array {
  const out = new Float64Array(count)
  let next = 0
  for (let i = 0; i < count; i++) {
    const at = i / steps
    while (next < samples.length && samples[next]!.at <= at) next++
    const [before, after] = [samples[Math.max(0, next - 1)]!, samples[Math.min(samples.length - 1, next)]!]
    const span = after.at - before.at
    const share = span <= 0 ? 0 : Math.min(1, Math.max(0, (at - before.at) / span))
    const value = of(before.pose)
    out[i] = share === 0 ? value : value + (of(after.pose) - value) * share
  }
  return out
}

/**
 * A low pass of one pole, y += (1 − a)(x − y) with a = e^(−1/τ), run twice forward and twice back: the delays of both ways cancel.
 * What is filtered is the way off the straight line from the first value to the last, and past each end it goes on turned
 * about that end: so both ends stay, and a straight way is the same way.
 */
export function zeroPhase(values: Float64Array, tau: number): Float64Array {
  const n = values.length
  if (tau <= 0 || n < 3) return values
  const a = Math.exp(-1 / tau)
  const past = Math.ceil(PAST * tau)
  const round = 2 * (n - 1)
  const chord = (i: number) => values[0]! + ((values[n - 1]! - values[0]!) * i) / (n - 1)
  const line = new Float64Array(n + 2 * past)
  for (let i = 0; i < line.length; i++) {
    const at = (((i - past) % round) + round) % round
    line[i] = at < n ? values[at]! - chord(at) : chord(round - at) - values[round - at]!
  }
  const run = (from: number, to: number, step: 1 | -1) => {
    let y = 0
    for (let i = from; i !== to; i += step) line[i] = y += (1 - a) * (line[i]! - y)
  }
  for (let time = 0; time < 2; time++) {
    run(0, line.length, 1)
    run(line.length - 1, -1, -1)
  }
  return Float64Array.from({ length: n }, (_, i) => chord(i) + line[past + i]!)
}
