/** Samples for each of the finest peaks. */
export const PEAK_SAMPLES = 256
/** How many peaks of one level are one of the next. */
const FACTOR = 4
const STEPS = 127

/**
 * A recording's extremes, for drawing: for every 256 samples the lowest and highest of all channels, as bytes (−127…127),
 * and the same for ever four of them.
 */
export interface Peaks {
  readonly sampleRateHz: number
  readonly seconds: number
  /** Lowest, highest, lowest, highest …; the finest level first. */
  readonly levels: readonly Int8Array[]
}

/** Collects peaks while a recording is decoded from its start to its end. */
export class PeakBuilder {
  #low = Infinity
  #high = -Infinity
  #inPeak = 0
  #count = 0
  #finest = new Int8Array(4096)
  #samples = 0

  add(channels: readonly Float32Array[]): void {
    const frames = channels[0]?.length ?? 0
    let at = 0
    while (at < frames) {
      const upTo = Math.min(frames, at + PEAK_SAMPLES - this.#inPeak)
      let low = this.#low
      let high = this.#high
      for (const channel of channels) {
        for (let i = at; i < upTo; i++) {
          const value = channel[i]!
          if (value < low) low = value
          if (value > high) high = value
        }
      }
      this.#low = low
      this.#high = high
      this.#inPeak += upTo - at
      at = upTo
      if (this.#inPeak === PEAK_SAMPLES) this.#close()
    }
    this.#samples += frames
  }

  #close() {
    if (this.#count * 2 === this.#finest.length) {
      const grown = new Int8Array(this.#finest.length * 2)
      grown.set(this.#finest)
      this.#finest = grown
    }
    this.#finest[this.#count * 2] = byteOf(this.#low, Math.floor)
    this.#finest[this.#count * 2 + 1] = byteOf(this.#high, Math.ceil)
    this.#count++
    this.#low = Infinity
    this.#high = -Infinity
    this.#inPeak = 0
  }

  /** How many samples have come in. */
  get samples(): number {
    return this.#samples
  }

  finish(sampleRateHz: number): Peaks {
    if (this.#inPeak > 0) this.#close()
    return peaksOf(this.#finest.slice(0, this.#count * 2), sampleRateHz, this.#samples / sampleRateHz)
  }
}

/** Rounded outward: what is there is seen. */
const byteOf = (value: number, round: (value: number) => number) => Math.max(-STEPS, Math.min(STEPS, round(Math.max(-1, Math.min(1, value)) * STEPS)))

/** Peaks from their finest level. */
export function peaksOf(finest: Int8Array, sampleRateHz: number, seconds: number): Peaks {
  const levels = [finest]
  for (let last = finest; last.length > 2 * FACTOR; ) {
    const count = Math.ceil(last.length / 2 / FACTOR)
    const next = new Int8Array(count * 2)
    for (let i = 0; i < count; i++) {
      let low = STEPS
      let high = -STEPS
      for (let k = i * FACTOR; k < Math.min((i + 1) * FACTOR, last.length / 2); k++) {
        low = Math.min(low, last[k * 2]!)
        high = Math.max(high, last[k * 2 + 1]!)
      }
      next[i * 2] = low
      next[i * 2 + 1] = high
    }
    levels.push(next)
    last = next
  }
  return { sampleRateHz, seconds, levels }
}

/**
 * The extremes in `columns` equal parts of a span of the recording, −1…1, as lowest, highest, lowest …; 0 where it has
 * none. Costs about as much as there are columns, at every zoom.
 */
export function peaksBetween(peaks: Peaks, fromSeconds: number, toSeconds: number, columns: number): Float32Array {
  const found = new Float32Array(columns * 2)
  if (columns < 1 || !(toSeconds > fromSeconds)) return found
  const perColumn = ((toSeconds - fromSeconds) / columns) * (peaks.sampleRateHz / PEAK_SAMPLES)
  let level = 0
  let size = 1
  while (level < peaks.levels.length - 1 && size * FACTOR <= perColumn) {
    level++
    size *= FACTOR
  }
  const bytes = peaks.levels[level]!
  const count = bytes.length / 2
  const origin = (fromSeconds * peaks.sampleRateHz) / PEAK_SAMPLES / size
  const step = perColumn / size
  for (let column = 0; column < columns; column++) {
    const first = Math.floor(origin + column * step)
    const last = Math.max(first + 1, Math.ceil(origin + (column + 1) * step))
    let low = 0
    let high = 0
    let any = false
    for (let i = Math.max(0, first); i < Math.min(count, last); i++) {
      if (!any || bytes[i * 2]! < low) low = bytes[i * 2]!
      if (!any || bytes[i * 2 + 1]! > high) high = bytes[i * 2 + 1]!
      any = true
    }
    found[column * 2] = low / STEPS
    found[column * 2 + 1] = high / STEPS
  }
  return found
}
