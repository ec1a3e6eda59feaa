/** Frames divided by frames come out with noise in their last bits; a curve that is upright there would show it. */
const GRID = 2 ** 40

/**
 * How far along at `u`, 0…1: the cubic Bézier from (0, 0) to (1, 1) with its inner points at (x1, y1) and (x2, y2), as a
 * function of its x; x1 and x2 are 0…1, so that it is one. The ends are exact. `u` is taken to 2⁻⁴⁰: where the curve is
 * upright (x1 = x2 = 0 at its start) 1e-16 beside it would be 1e-5 of the way.
 */
export function easeCurve(x1: number, y1: number, x2: number, y2: number): (u: number) => number {
  if (x1 === y1 && x2 === y2) return (u) => u
  const at = (a: number, b: number, t: number) => t * (3 * a * (1 - t) * (1 - t) + t * (3 * b * (1 - t) + t))
  const slope = (t: number) => 3 * (x1 * (1 - t) * (1 - t) + 2 * (x2 - x1) * (1 - t) * t + (1 - x2) * t * t)
  return (given) => {
    const u = Math.round(given * GRID) / GRID
    if (u <= 0) return 0
    if (u >= 1) return 1
    let [low, high, t] = [0, 1, u]
    // Newton's step, held between what is too little and what is too much: where the curve is upright it would stall.
    for (let step = 0; step < 80; step++) {
      const off = at(x1, x2, t) - u
      if (Math.abs(off) < 1e-16 || high - low < 1e-16) break
      if (off > 0) high = t
      else low = t
      const next = t - off / slope(t)
      t = next > low && next < high ? next : (low + high) / 2
    }
    return at(y1, y2, t)
  }
}
