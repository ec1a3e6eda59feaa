/** A place or a direction in the set, in frame widths. */
export interface Point3 {
  readonly x: number
  readonly y: number
  readonly depth: number
}

/** A place on a plane or in the picture, in frame widths, y up. */
export interface Point2 {
  readonly x: number
  readonly y: number
}

export const ORIGIN: Point3 = Object.freeze({ x: 0, y: 0, depth: 0 })

export function add(a: Point3, b: Point3): Point3 {
  return { x: a.x + b.x, y: a.y + b.y, depth: a.depth + b.depth }
}

export function subtract(a: Point3, b: Point3): Point3 {
  return { x: a.x - b.x, y: a.y - b.y, depth: a.depth - b.depth }
}

export function scale(a: Point3, factor: number): Point3 {
  return { x: a.x * factor, y: a.y * factor, depth: a.depth * factor }
}

export function dot(a: Point3, b: Point3): number {
  return a.x * b.x + a.y * b.y + a.depth * b.depth
}

export function cross(a: Point3, b: Point3): Point3 {
  return {
    x: a.y * b.depth - a.depth * b.y,
    y: a.depth * b.x - a.x * b.depth,
    depth: a.x * b.y - a.y * b.x,
  }
}

export function length(a: Point3): number {
  return Math.hypot(a.x, a.y, a.depth)
}

/** The point `fraction` of the way from `a` to `b`; both ends are hit exactly. */
export function between(a: Point3, b: Point3, fraction: number): Point3 {
  if (fraction === 0) return a
  if (fraction === 1) return b
  return {
    x: a.x + (b.x - a.x) * fraction,
    y: a.y + (b.y - a.y) * fraction,
    depth: a.depth + (b.depth - a.depth) * fraction,
  }
}
