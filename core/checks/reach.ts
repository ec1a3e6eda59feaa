import type { SeenRings } from './outline'

export const SIDES = Object.freeze(['left', 'right', 'bottom', 'top'] as const)
export type Side = (typeof SIDES)[number]

/** How far art goes past each side of the frame, fw in the picture; below 0 it ends that far inside. Null where nothing of it is along that side. */
export type Reach = Readonly<Record<Side, number | null>>

/**
 * For the right side the largest u of what of an outline lies between the frame's upper and lower edge, less a half; the others
 * alike.
 */
export function reachOf(rings: SeenRings, halfHeight: number): Reach {
  let [left, right, bottom, top] = [Infinity, -Infinity, Infinity, -Infinity]
  for (const ring of rings) {
    const n = ring.length
    let u0 = ring[n - 2]!
    let v0 = ring[n - 1]!
    for (let i = 0; i < n; i += 2) {
      const u1 = ring[i]!
      const v1 = ring[i + 1]!
      // Of the edge, what lies in the band between the two sides.
      if (!((v0 < -halfHeight && v1 < -halfHeight) || (v0 > halfHeight && v1 > halfHeight))) {
        const [a, b] = within(v0, v1, halfHeight)
        const [ua, ub] = [u0 + (u1 - u0) * a, u0 + (u1 - u0) * b]
        left = Math.min(left, ua, ub)
        right = Math.max(right, ua, ub)
      }
      if (!((u0 < -0.5 && u1 < -0.5) || (u0 > 0.5 && u1 > 0.5))) {
        const [a, b] = within(u0, u1, 0.5)
        const [va, vb] = [v0 + (v1 - v0) * a, v0 + (v1 - v0) * b]
        bottom = Math.min(bottom, va, vb)
        top = Math.max(top, va, vb)
      }
      u0 = u1
      v0 = v1
    }
  }
  return {
    left: left === Infinity ? null : -0.5 - left,
    right: right === -Infinity ? null : right - 0.5,
    bottom: bottom === Infinity ? null : -halfHeight - bottom,
    top: top === -Infinity ? null : top - halfHeight,
  }
}

/** From where to where along an edge from `from` to `to` it is between −most and most. */
function within(from: number, to: number, most: number): readonly [number, number] {
  const way = to - from
  if (way === 0) return [0, 1]
  const [a, b] = [(-most - from) / way, (most - from) / way]
  return [Math.min(1, Math.max(0, Math.min(a, b))), Math.max(0, Math.min(1, Math.max(a, b)))]
}
