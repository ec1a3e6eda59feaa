/** A rise or fall between two moments of the film, seconds. Before and after it all or nothing is heard. */
export interface Ramp {
  readonly kind: 'in' | 'out'
  readonly fromSeconds: number
  readonly toSeconds: number
}

/**
 * The factor of a ramp: a quarter sine, so that what goes out and what comes in at the same time are together as loud as
 * each alone (sin² + cos² = 1; equal power).
 */
export function rampAt({ kind, fromSeconds, toSeconds }: Ramp, seconds: number): number {
  if (seconds < fromSeconds) return kind === 'in' ? 0 : 1
  if (seconds >= toSeconds) return kind === 'in' ? 1 : 0
  const share = (seconds - fromSeconds) / (toSeconds - fromSeconds)
  return Math.sin((kind === 'in' ? share : 1 - share) * (Math.PI / 2))
}

/** The product of ramps at a moment. */
export function envelopeAt(ramps: readonly Ramp[], seconds: number): number {
  let factor = 1
  for (const ramp of ramps) factor *= rampAt(ramp, seconds)
  return factor
}
