import { FillRule, union } from 'clipper2-ts'

/** One piece of a path as fonts have it, in any unit, y up. */
export type PathStep =
  | { readonly kind: 'move' | 'line'; readonly to: readonly [x: number, y: number] }
  | { readonly kind: 'quadratic'; readonly by: readonly [number, number]; readonly to: readonly [number, number] }
  | { readonly kind: 'cubic'; readonly by: readonly [number, number]; readonly then: readonly [number, number]; readonly to: readonly [number, number] }
  | { readonly kind: 'close' }

const MOST_PIECES = 64

/**
 * Paths as polygons, no farther than `tolerance` from their curves: x, y, x, y … each, closed. A curve is cut into
 * √(second difference · n(n−1)/8 / tolerance) pieces, a bound for Bézier curves of degree n.
 */
export function flattened(steps: readonly PathStep[], tolerance: number): number[][] {
  const rings: number[][] = []
  let ring: number[] = []
  const over = () => {
    if (ring.length >= 6) rings.push(ring)
    ring = []
  }
  for (const step of steps) {
    if (step.kind === 'close') {
      over()
      continue
    }
    if (step.kind === 'move') over()
    const [x0, y0] = [ring.at(-2) ?? step.to[0], ring.at(-1) ?? step.to[1]]
    if (step.kind === 'quadratic') {
      const { by: [bx, by], to: [x, y] } = step
      const pieces = piecesOf(Math.hypot(x0 - 2 * bx + x, y0 - 2 * by + y) / 4, tolerance)
      for (let i = 1; i < pieces; i++) {
        const [t, s] = [i / pieces, 1 - i / pieces]
        ring.push(s * s * x0 + 2 * s * t * bx + t * t * x, s * s * y0 + 2 * s * t * by + t * t * y)
      }
    } else if (step.kind === 'cubic') {
      const { by: [bx, by], then: [cx, cy], to: [x, y] } = step
      const bend = Math.max(Math.hypot(x0 - 2 * bx + cx, y0 - 2 * by + cy), Math.hypot(bx - 2 * cx + x, by - 2 * cy + y))
      const pieces = piecesOf((bend * 3) / 4, tolerance)
      for (let i = 1; i < pieces; i++) {
        const [t, s] = [i / pieces, 1 - i / pieces]
        ring.push(s ** 3 * x0 + 3 * s * s * t * bx + 3 * s * t * t * cx + t ** 3 * x, s ** 3 * y0 + 3 * s * s * t * by + 3 * s * t * t * cy + t ** 3 * y)
      }
    }
    ring.push(step.to[0], step.to[1])
  }
  over()
  return rings
}

const piecesOf = (bend: number, tolerance: number) => Math.min(MOST_PIECES, Math.max(1, Math.ceil(Math.sqrt(bend / tolerance))))

/** Whole numbers that polygons are counted in: a hundred-thousandth of a unit. */
const COUNTED = 1e5

/** What closed rings cover together when each is filled by its direction, as rings to be filled even-odd. */
export function joinedByDirection(rings: readonly (readonly number[])[]): number[][] {
  const paths = rings.map((ring) => Array.from({ length: ring.length / 2 }, (_, i) => ({ x: Math.round(ring[i * 2]! * COUNTED), y: Math.round(ring[i * 2 + 1]! * COUNTED) })))
  return union(paths, FillRule.NonZero).filter((path) => path.length > 2).map((path) => path.flatMap(({ x, y }) => [Number(x) / COUNTED, Number(y) / COUNTED]))
}
