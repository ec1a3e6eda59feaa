/** Samples of one channel of a recording, from a place in it on. */
export interface Stretch {
  readonly samples: Float32Array
  /** The recording's sample that `samples[0]` is. */
  readonly first: number
}

/** Zero crossings of the sinc on either side, at the slower of the two rates. */
const HALF_WIDTH = 36
/** Kaiser's β for 90 dB (J. F. Kaiser, 1974: β = 0.1102·(A − 8.7)). */
const BETA = 0.1102 * (90 - 8.7)
/**
 * Where the filter begins to close, as a part of the slower rate's half. Coming from 44.1 kHz what must stay out mirrors
 * 20 kHz at 24.1 kHz, so it may close at the half itself. Going down to 48 kHz nothing above 24 kHz may fold back.
 */
const CUT_UP = 1
const CUT_DOWN = 22 / 24
/** Places between two samples for which the filter is kept ready. */
const MOST_PHASES = 512
const KEPT_FILTERS = 8
/** Closer than this to a sample is on it. */
const WHOLE = 1e-7

function bessel0(x: number): number {
  let [sum, term] = [1, 1]
  for (let k = 1; term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2
    sum += term
  }
  return sum
}

const sinc = (x: number) => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x))

/**
 * A sinc under a Kaiser window: J. O. Smith, "Digital Audio Resampling Home Page", the windowed-sinc interpolation there.
 * Kept as one set of weights for each place between samples that a run of a given step comes to.
 */
interface Filter {
  /** Samples on either side. */
  readonly half: number
  readonly phases: number
  /** Weights of samples −half + 1 … half about a place, phase after phase. */
  readonly weights: Float32Array
}

const filters = new Map<string, Filter>()

function filterFor(step: number, phases: number, offset: number): Filter {
  const key = `${step} ${phases} ${offset}`
  const known = filters.get(key)
  if (known !== undefined) return known
  const scale = Math.min(1, 1 / step)
  const cut = (step > 1 ? CUT_DOWN : CUT_UP) * scale
  const half = Math.ceil(HALF_WIDTH / scale)
  const weights = new Float32Array(phases * half * 2)
  const whole = bessel0(BETA)
  for (let phase = 0; phase < phases; phase++) {
    const place = offset + phase * step
    const fraction = place - Math.floor(place + WHOLE)
    for (let tap = 0; tap < half * 2; tap++) {
      const x = tap - half + 1 - fraction
      const w = Math.abs(x) / (HALF_WIDTH / scale)
      weights[phase * half * 2 + tap] = w >= 1 ? 0 : (cut * sinc(x * cut) * bessel0(BETA * Math.sqrt(1 - w * w))) / whole
    }
  }
  const made = { half, phases, weights }
  filters.set(key, made)
  if (filters.size > KEPT_FILTERS) filters.delete(filters.keys().next().value!)
  return made
}

/** After how many steps a run is between samples as it began; null where it never is, as far as it matters. */
function periodOf(step: number): number | null {
  for (let count = 1; count <= MOST_PHASES; count++) if (Math.abs(count * step - Math.round(count * step)) < 1e-9 * count) return count
  return null
}

/** How many samples beside a place are needed to read there, at `step` of the recording's samples for each that is made. */
export function reachSamples(step: number): number {
  return Math.ceil(HALF_WIDTH * Math.max(1, step)) + 1
}

/** Origins are taken to this part of a sample: some 80 picoseconds, so that runs share their filter. */
const ORIGIN_GRAIN = 2 ** 18

/**
 * Reads `count` samples of those that lie `step` apart from `origin` on (a place in the recording, between samples too),
 * the first of them number `index`, and adds them to `out` from `at` on, each times `gain(i)`. What is above 20 kHz fades
 * away, what is above half the slower rate is gone: nothing below 20 kHz is mirrored at more than −80 dB. Past what
 * `stretch` holds there is silence.
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
  const begin = Math.round(origin * ORIGIN_GRAIN) / ORIGIN_GRAIN
  const period = periodOf(step)
  // A step of no period has a filter for each place; the others come round to the same.
  const round = period === null ? null : filterFor(step, period, begin - Math.floor(begin))
  for (let i = 0; i < count; i++) {
    const place = begin + (index + i) * step
    const whole = Math.floor(place + WHOLE)
    const { half, weights, phases } = round ?? filterFor(step, 1, place - whole)
    const phase = phases === 1 ? 0 : (((index + i) % phases) + phases) % phases
    const base = phase * half * 2
    const low = whole - half + 1 - first
    const from = Math.max(0, -low)
    const to = Math.min(half * 2, samples.length - low)
    let sum = 0
    for (let tap = from; tap < to; tap++) sum += samples[low + tap]! * weights[base + tap]!
    out[at + i] = out[at + i]! + sum * gain(i)
  }
}
