import type { Point2 } from '../geometry/point'

/** x' = a·x + c·y + e, y' = b·x + d·y + f. */
export interface Affine {
  readonly a: number
  readonly b: number
  readonly c: number
  readonly d: number
  readonly e: number
  readonly f: number
}

export const IDENTITY: Affine = Object.freeze({ a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 })

export function applyAffine(m: Affine, { x, y }: Point2): Point2 {
  return { x: m.a * x + m.c * y + m.e, y: m.b * x + m.d * y + m.f }
}

/** Does `first`, then `second`. */
export function followedBy(first: Affine, second: Affine): Affine {
  return {
    a: second.a * first.a + second.c * first.b,
    b: second.b * first.a + second.d * first.b,
    c: second.a * first.c + second.c * first.d,
    d: second.b * first.c + second.d * first.d,
    e: second.a * first.e + second.c * first.f + second.e,
    f: second.b * first.e + second.d * first.f + second.f,
  }
}

/** Scaled by `sx`, `sy` (negative mirrors) and turned counter-clockwise by `degrees`, about a point that stays. */
export function about(centre: Point2, sx: number, sy: number, degrees: number): Affine {
  const angle = (degrees * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const [a, b, c, d] = [cos * sx, sin * sx, -sin * sy, cos * sy]
  return { a, b, c, d, e: centre.x - a * centre.x - c * centre.y, f: centre.y - b * centre.x - d * centre.y }
}

export function moved(dx: number, dy: number): Affine {
  return { ...IDENTITY, e: dx, f: dy }
}

/** By how much lengths grow in the mean: the root of the area's growth. */
export function growth(m: Affine): number {
  return Math.sqrt(Math.abs(m.a * m.d - m.b * m.c))
}

export function mirrors(m: Affine): boolean {
  return m.a * m.d - m.b * m.c < 0
}
