/** A number that goes after another, and its speed a frame. */
export interface Chased {
  readonly at: number
  readonly speed: number
}

/** How a number chases its goal: critically damped, so that it never swings past; `lagFrames` behind one that goes evenly. */
export type Chase = (from: Chased, goal: number) => Chased

/** Less than this is no lag: a frame's step is then at its goal to the last bit. */
const LEAST_LAG = 0.01

/**
 * One exact step of a frame: ω = 2 / lag, d = x − goal, j = v + ω·d; x' = goal + (d + j)·e^−ω, v' = (v − ω·j)·e^−ω. Without a
 * lag it is at its goal.
 */
export function createChase(lagFrames: number): Chase {
  if (lagFrames < LEAST_LAG) return (_, goal) => ({ at: goal, speed: 0 })
  const omega = 2 / lagFrames
  const e = Math.exp(-omega)
  return ({ at, speed }, goal) => {
    const d = at - goal
    const j = speed + omega * d
    return { at: goal + (d + j) * e, speed: (speed - omega * j) * e }
  }
}

export const atRest = (at: number): Chased => ({ at, speed: 0 })
