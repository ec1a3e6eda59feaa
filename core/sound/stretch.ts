/** Grains of 40 ms, each half over the next, and how far beside its place one may be taken. */
const GRAIN = 1920
const HOP = GRAIN / 2
const SEARCH = 480
/** Every how many samples likeness is measured: enough for voices. */
const STRIDE = 8

/** Samples from a place on; may begin before the start. */
export type ReadMix = (first: number, count: number) => readonly [Float32Array, Float32Array]

/** How many samples the stretcher may read beyond the place that it has come to. */
export const STRETCH_REACH = GRAIN + SEARCH + HOP

const WINDOW = Float32Array.from({ length: GRAIN }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / GRAIN))

/**
 * Sound slower or faster at its own pitch: grains are laid over each other at the output's pace, each taken where it goes
 * on most like the one before (WSOLA: Verhelst and Roelands, ICASSP 1993). Output sample k is about input sample
 * `from + k · speed`, never more than a grain off.
 */
export function createStretcher(from: number, speed: number) {
  if (!(speed > 0)) throw new Error(`createStretcher: the speed ${speed} is not above 0`)
  let made = 0
  let natural: number | null = null
  let tail: [Float32Array, Float32Array] = [new Float32Array(HOP), new Float32Array(HOP)]
  return {
    /** The next 960 samples. */
    next(read: ReadMix): readonly [Float32Array, Float32Array] {
      const wanted = Math.round(from + made * HOP * speed) - HOP / 2
      const at = natural === null || speed === 1 ? wanted : likest(read, wanted, natural)
      const grain = read(at, GRAIN)
      const out: [Float32Array, Float32Array] = [new Float32Array(HOP), new Float32Array(HOP)]
      const next: [Float32Array, Float32Array] = [new Float32Array(HOP), new Float32Array(HOP)]
      for (const side of [0, 1] as const) {
        for (let i = 0; i < HOP; i++) {
          out[side][i] = tail[side][i]! + grain[side][i]! * WINDOW[i]!
          next[side][i] = grain[side][HOP + i]! * WINDOW[HOP + i]!
        }
      }
      tail = next
      natural = at + HOP
      made++
      return out
    },
  }
}

/** The place near `wanted` whose samples are most like those at `natural`, where the grain before goes on. */
function likest(read: ReadMix, wanted: number, natural: number): number {
  const [left, right] = read(natural, GRAIN)
  const [l, r] = read(wanted - SEARCH, GRAIN + 2 * SEARCH)
  const before = Float32Array.from(left, (value, i) => value + right[i]!)
  const around = Float32Array.from(l, (value, i) => value + r[i]!)
  let best = 0
  let most = -Infinity
  for (let shift = 0; shift <= 2 * SEARCH; shift += 4) {
    let sum = 0
    let energy = 1e-9
    for (let i = 0; i < GRAIN; i += STRIDE) {
      sum += before[i]! * around[shift + i]!
      energy += around[shift + i]! ** 2
    }
    const likeness = sum / Math.sqrt(energy)
    if (likeness > most) [most, best] = [likeness, shift]
  }
  return wanted - SEARCH + best
}
