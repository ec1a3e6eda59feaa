/** A swing or a bob: `amount · sin(2π(f / periodFrames + phase))`, in degrees or fw. */
export interface Swing {
  readonly amount: number
  readonly periodFrames: number
  /** Of a period, 0…1. */
  readonly phase: number
}

/** A wandering without a beat: smooth noise of its own for each seed, no farther than `amount` to each side. */
export interface Drift extends Swing {
  readonly seed: number
}

export function swingAt({ amount, periodFrames, phase }: Swing, frame: number): number {
  return amount * Math.sin(2 * Math.PI * (frame / periodFrames + phase))
}

/** Three sines whose periods have no common one: never the same again, of mean 0, and smooth everywhere. */
const VOICES = [{ share: 0.55, pace: 1 }, { share: 0.3, pace: Math.SQRT2 * 1.3 }, { share: 0.15, pace: Math.E * 1.45 }] as const

/** A drift's number at a frame; `channel` tells those apart that one drift moves at once. The same for the same seed and frame. */
export function driftAt({ amount, periodFrames, phase, seed }: Drift, frame: number, channel: number): number {
  const turns = frame / periodFrames + phase
  let sum = 0
  for (const [i, { share, pace }] of VOICES.entries()) {
    const own = scattered(seed, channel * VOICES.length + i)
    // Each seed has paces of its own, so that two drifts never run alongside.
    sum += share * Math.sin(2 * Math.PI * (turns * pace * (0.9 + 0.2 * own) + own * 17))
  }
  return amount * sum
}

/** An even number in 0…1 for a seed and an index: a hash (Wang's, of 32 bits), the same everywhere. */
export function scattered(seed: number, index: number): number {
  let hash = (Math.imul(seed | 0, 0x9e3779b1) ^ Math.imul(index + 1, 0x85ebca6b)) >>> 0
  hash = Math.imul(hash ^ 61 ^ (hash >>> 16), 9) >>> 0
  hash = (hash ^ (hash >>> 4)) >>> 0
  hash = Math.imul(hash, 0x27d4eb2d) >>> 0
  return ((hash ^ (hash >>> 15)) >>> 0) / 0x100000000
}
