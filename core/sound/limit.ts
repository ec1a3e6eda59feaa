/** Samples that the limiter looks ahead, and lets go in: 5 ms at 48 kHz. */
const WINDOW = 240

/** What is needed on both sides of a block for it to come out the same however it is cut: in samples. */
export const LIMIT_REACH = 2 * WINDOW

/**
 * Turns down what is louder than 1 on either side, both sides alike, before it comes and until it has gone: the gain at
 * each sample is the mean, over 5 ms on both sides, of the least gain that any sample within 5 ms needs. So no sample is
 * above 1, nothing is cut off, and what is not near a peak is left as it is. `sides` begin `LIMIT_REACH` before the block
 * and end as far after it; the result is the block.
 */
export function limited(sides: readonly [Float32Array, Float32Array], count: number): readonly [Float32Array, Float32Array] {
  const [left, right] = sides
  const total = count + 2 * LIMIT_REACH
  let loud = false
  for (let i = 0; i < total && !loud; i++) loud = Math.abs(left[i]!) > 1 || Math.abs(right[i]!) > 1
  if (!loud) return [left.slice(LIMIT_REACH, LIMIT_REACH + count), right.slice(LIMIT_REACH, LIMIT_REACH + count)]
  const needed = new Float64Array(total)
  for (let i = 0; i < total; i++) {
    const peak = Math.max(Math.abs(left[i]!), Math.abs(right[i]!))
    needed[i] = peak > 1 ? 1 / peak : 1
  }
  const least = slidingLeast(needed, WINDOW)
  const out = [new Float32Array(count), new Float32Array(count)] as const
  const width = 2 * WINDOW + 1
  let sum = 0
  for (let i = LIMIT_REACH - WINDOW; i <= LIMIT_REACH + WINDOW; i++) sum += least[i]!
  for (let i = 0; i < count; i++) {
    // Of ones alone the mean is 1 and not what adding up leaves of it.
    const gain = sum > width - 1e-9 ? 1 : sum / width
    const at = i + LIMIT_REACH
    out[0][i] = Math.max(-1, Math.min(1, left[at]! * gain))
    out[1][i] = Math.max(-1, Math.min(1, right[at]! * gain))
    sum += least[at + WINDOW + 1] ?? 1
    sum -= least[at - WINDOW]!
  }
  return out
}

/** The least of the values up to `reach` away on both sides (van Herk and Gil–Werman's running minimum, by a queue). */
function slidingLeast(values: Float64Array, reach: number): Float64Array {
  const out = new Float64Array(values.length)
  const queue = new Int32Array(values.length)
  let [head, tail] = [0, 0]
  for (let i = 0; i < values.length + reach; i++) {
    if (i < values.length) {
      while (tail > head && values[queue[tail - 1]!]! >= values[i]!) tail--
      queue[tail++] = i
    }
    const at = i - reach
    if (at < 0) continue
    while (queue[head]! < at - reach) head++
    out[at] = values[queue[head]!]!
  }
  return out
}
