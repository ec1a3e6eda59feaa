/** How loud one hop of sound is: its highest sample, and the weighted mean square that loudness is made of. */
export interface HopLevel {
  readonly peak: number
  readonly power: number
}

interface Biquad {
  readonly b: readonly [number, number, number]
  readonly a: readonly [number, number]
}

/** The K weighting at 48 kHz: a shelf for the head, then a high pass. ITU-R BS.1770-4, tables 1 and 2. */
const SHELF: Biquad = { b: [1.53512485958697, -2.69169618940638, 1.19839281085285], a: [-1.69065929318241, 0.73248077421585] }
const PASS: Biquad = { b: [1, -2, 1], a: [-1.99004745483398, 0.99007225036621] }

function createBiquad({ b, a }: Biquad): (x: number) => number {
  let [x1, x2, y1, y2] = [0, 0, 0, 0]
  return (x) => {
    const y = b[0] * x + b[1] * x1 + b[2] * x2 - a[0] * y1 - a[1] * y2
    x2 = x1
    x1 = x
    y2 = y1
    y1 = y
    return y
  }
}

/** Measures sound as it goes by, hop after hop, at 48 kHz. */
export function createLevels(): (left: Float32Array, right: Float32Array, from: number, count: number) => HopLevel {
  const sides = [0, 1].map(() => [createBiquad(SHELF), createBiquad(PASS)] as const)
  return (left, right, from, count) => {
    let peak = 0
    let sum = 0
    for (const [i, samples] of [left, right].entries()) {
      const [shelf, pass] = sides[i]!
      for (let k = from; k < from + count; k++) {
        const value = samples[k]!
        const high = Math.abs(value)
        if (high > peak) peak = high
        const weighted = pass(shelf(value))
        sum += weighted * weighted
      }
    }
    return { peak, power: sum / count }
  }
}

/**
 * Loudness of hops of equal length together, LUFS: −0.691 + 10·log10 of the sum over both sides of the mean squares
 * (ITU-R BS.1770-4, equation 2). Null for silence.
 */
export function lufsOf(hops: readonly Pick<HopLevel, 'power'>[]): number | null {
  const mean = hops.reduce((sum, hop) => sum + hop.power, 0) / Math.max(1, hops.length)
  return mean < 1e-10 ? null : -0.691 + 10 * Math.log10(mean)
}
