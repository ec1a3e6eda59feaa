/** Where a level's art meets the ground in the picture: how high, fw from the frame's centre, and how far from the lens it is now. */
export interface Foot {
  readonly id: string
  readonly v: number
  readonly z: number
}

/** Nothing on the ground is nearer to the horizon in the picture than this, fw: it would be farther away than anything. */
const NEAREST_TO_HORIZON = 1e-6

/**
 * How far from the lens things stand that are drawn on level ground, by how low their feet are under the horizon: what is h
 * under it is at z = H·k/h, H being the lens's height over the ground. The lowest foot says H: it stays where it is. What
 * stands as high as the horizon or over it, and what would be past `farthest`, is there.
 */
export function depthsFromFeet(feet: readonly Foot[], horizon: number, farthest: number): ReadonlyMap<string, number> {
  const lowest = feet.reduce<Foot | null>((low, foot) => (low === null || foot.v < low.v ? foot : low), null)
  if (lowest === null) return new Map()
  const under = horizon - lowest.v
  return new Map(
    feet.map(({ id, v, z }) => {
      if (id === lowest.id) return [id, z]
      const h = horizon - v
      if (under <= NEAREST_TO_HORIZON || h <= NEAREST_TO_HORIZON) return [id, Math.max(farthest, lowest.z)]
      return [id, Math.min(Math.max(farthest, lowest.z), (lowest.z * under) / h)]
    }),
  )
}

/** How high the horizon of level ground stands in the picture of a camera that is not rolled: v = −k·tan tilt. */
export const horizonOf = (k: number, tiltDegrees: number): number => -k * Math.tan((tiltDegrees * Math.PI) / 180)
