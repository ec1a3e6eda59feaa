/** From here down there is nothing to be heard. */
export const SILENCE_DB = -60

/** The factor of a gain in dB: 10^(dB/20), and 0 from −60 dB down. */
export function factorOfDb(db: number): number {
  return db <= SILENCE_DB ? 0 : 10 ** (db / 20)
}

/** The gain in dB of a factor, no lower than −60. */
export function dbOfFactor(factor: number): number {
  return factor <= 0 ? SILENCE_DB : Math.max(SILENCE_DB, 20 * Math.log10(factor))
}
