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

/** The affine that carries points to others nearest, by least squares, and how far the farthest is from where it should be; null where there are no two places. */
export function fittedAffine(from: readonly Point2[], to: readonly Point2[]): { readonly affine: Affine; readonly off: number } | null {
  const n = from.length
  if (n < 2 || n !== to.length) return null
  const mean = (of: readonly Point2[]) => ({ x: of.reduce((sum, { x }) => sum + x, 0) / n, y: of.reduce((sum, { y }) => sum + y, 0) / n })
  const [p, q] = [mean(from), mean(to)]
  let [xx, xy, yy, ux, uy, vx, vy] = [0, 0, 0, 0, 0, 0, 0]
  from.forEach((point, i) => {
    const [x, y, u, v] = [point.x - p.x, point.y - p.y, to[i]!.x - q.x, to[i]!.y - q.y]
    xx += x * x
    xy += x * y
    yy += y * y
    ux += u * x
    uy += u * y
    vx += v * x
    vy += v * y
  })
  const determinant = xx * yy - xy * xy
  if (determinant <= 1e-12 * (xx + yy) ** 2) {
    // On a line: turned and grown alike both ways.
    const square = xx + yy
    if (square === 0) return null
    const [a, b] = [(ux + vy) / square, (vx - uy) / square]
    return fitOf(from, to, { a, b, c: -b, d: a, e: q.x - a * p.x + b * p.y, f: q.y - b * p.x - a * p.y })
  }
  const [a, c] = [(ux * yy - uy * xy) / determinant, (uy * xx - ux * xy) / determinant]
  const [b, d] = [(vx * yy - vy * xy) / determinant, (vy * xx - vx * xy) / determinant]
  return fitOf(from, to, { a, b, c, d, e: q.x - a * p.x - c * p.y, f: q.y - b * p.x - d * p.y })
}

function fitOf(from: readonly Point2[], to: readonly Point2[], affine: Affine) {
  return { affine, off: from.reduce((most, point, i) => ((at) => Math.max(most, Math.hypot(at.x - to[i]!.x, at.y - to[i]!.y)))(applyAffine(affine, point)), 0) }
}
