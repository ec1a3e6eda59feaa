/** Frames a second as an exact fraction. Both parts are positive whole numbers. */
export interface Rate {
  readonly numerator: number
  readonly denominator: number
}

/** The rates a project may have, slowest first. */
export const RATES: readonly Rate[] = Object.freeze([
  { numerator: 24000, denominator: 1001 },
  { numerator: 24, denominator: 1 },
  { numerator: 25, denominator: 1 },
  { numerator: 30000, denominator: 1001 },
  { numerator: 30, denominator: 1 },
  { numerator: 48, denominator: 1 },
  { numerator: 50, denominator: 1 },
  { numerator: 60000, denominator: 1001 },
  { numerator: 60, denominator: 1 },
])

export function isKnownRate(rate: Rate): boolean {
  return RATES.some((known) => known.numerator === rate.numerator && known.denominator === rate.denominator)
}

export function framesPerSecond(rate: Rate): number {
  return rate.numerator / rate.denominator
}

/** The whole number that timecode counts to in a second: 24 for 24000/1001. */
export function timecodeBase(rate: Rate): number {
  return Math.round(framesPerSecond(rate))
}

export function secondsOfFrames(frames: number, rate: Rate): number {
  return (frames * rate.denominator) / rate.numerator
}

/** The frame shown at a time: the last one that has begun. Seconds below 0 give negative frames. */
export function frameAtSeconds(seconds: number, rate: Rate): number {
  // A time computed from a frame number must give that frame back, so rounding noise is forgiven.
  return Math.floor((seconds * rate.numerator) / rate.denominator + 1e-7)
}

/** `24`, `23.976`, `29.97` … as the trade says it. */
export function rateName(rate: Rate): string {
  const fps = framesPerSecond(rate)
  return Number.isInteger(fps) ? String(fps) : String(Math.round(fps * 1000) / 1000)
}
