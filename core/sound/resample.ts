/** Samples of one channel of a recording, from a place in it on. */
export interface Stretch {
  readonly samples: Float32Array
  /** The recording's sample that `samples[0]` is. */
  readonly first: number
}

/** Zero crossings of the sinc on either side. */
const HALF_WIDTH = 8
/** Steps of its table between two samples. */
const STEPS = 512

/**
 * A sinc under a Blackman window, as a table: J. O. Smith, "Digital Audio Resampling Home Page", the windowed-sinc
 * interpolation there.
 */
const TABLE = (() => {
  const table = new Float32Array(HALF_WIDTH * STEPS + 2)
  for (let i = 0; i < table.length; i++) {
    const x = i / STEPS
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)
    const w = Math.min(1, x / HALF_WIDTH)
    table[i] = sinc * (0.42 + 0.5 * Math.cos(Math.PI * w) + 0.08 * Math.cos(2 * Math.PI * w))
  }
  return table
})()

/** How many samples beside a place are needed to read there, at `step` of the recording's samples for each that is made. */
export function reachSamples(step: number): number {
  return Math.ceil(HALF_WIDTH * Math.max(1, step)) + 1
}

/**
 * Reads `count` samples of those that lie `step` apart from `origin` on (a place in the recording, between samples too),
 * the first of them number `index`, and adds them to `out` from `at` on, each times `gain(i)`. Where the step is longer than a sample the sinc is widened, so that nothing
 * above half the new rate folds back. Past what `stretch` holds there is silence.
 */
export function addResampled(out: Float32Array, at: number, count: number, stretch: Stretch, origin: number, index: number, step: number, gain: (i: number) => number): void {
  const { samples, first } = stretch
  if (step === 1 && Number.isInteger(origin)) {
    for (let i = 0; i < count; i++) {
      const value = samples[origin + index - first + i]
      if (value !== undefined) out[at + i] = out[at + i]! + value * gain(i)
    }
    return
  }
  const scale = Math.min(1, 1 / step)
  const half = HALF_WIDTH / scale
  for (let i = 0; i < count; i++) {
    const place = origin + (index + i) * step - first
    const from = Math.max(0, Math.ceil(place - half))
    const to = Math.min(samples.length - 1, Math.floor(place + half))
    let sum = 0
    for (let k = from; k <= to; k++) {
      const x = Math.abs(place - k) * scale * STEPS
      const j = x | 0
      sum += samples[k]! * (TABLE[j]! + (TABLE[j + 1]! - TABLE[j]!) * (x - j))
    }
    out[at + i] = out[at + i]! + sum * scale * gain(i)
  }
}
