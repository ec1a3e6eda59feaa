/** Takes a hand's points one by one and gives steadier ones. `amount` 0…1: 0 leaves them as they are. */
export interface Smoother {
  /** The steadied point for the next one of the hand. */
  next(x: number, y: number, pressure: number): readonly [number, number, number]
  /** What leads from the last steadied point to where the hand is; empty where it is there. */
  rest(): readonly (readonly [number, number, number])[]
}

/** At 1 a point goes this part of the way that is left. */
const SLOWEST = 0.08
const REST_STEPS = 6

/**
 * Each point goes a part of the way to the hand: an exponential mean, so a tremor is lost and a slow curve is not. The
 * end is always reached: `rest` closes the gap that is left when the pen is lifted.
 */
export function createSmoother(amount: number): Smoother {
  if (!(amount >= 0 && amount <= 1)) throw new RangeError(`createSmoother: amount ${amount}; allowed are 0 to 1`)
  const part = amount === 0 ? 1 : SLOWEST ** (amount ** 1.4)
  let at: [number, number, number] | null = null
  let hand: readonly [number, number, number] = [0, 0, 0]
  return {
    next(x, y, pressure) {
      hand = [x, y, pressure]
      if (at === null) at = [x, y, pressure]
      else {
        at[0] += (x - at[0]) * part
        at[1] += (y - at[1]) * part
        // Pressure is steadied too, but less: it carries the accent.
        at[2] += (pressure - at[2]) * Math.min(1, part * 1.6)
      }
      return [at[0], at[1], at[2]]
    },
    rest() {
      if (at === null || (at[0] === hand[0] && at[1] === hand[1])) return []
      const from = at
      at = [hand[0], hand[1], hand[2]]
      const steps = part > 0.6 ? 1 : REST_STEPS
      return Array.from({ length: steps }, (_, i) => {
        const t = (i + 1) / steps
        return [from[0] + (hand[0] - from[0]) * t, from[1] + (hand[1] - from[1]) * t, from[2] + (hand[2] - from[2]) * t] as const
      })
    },
  }
}
