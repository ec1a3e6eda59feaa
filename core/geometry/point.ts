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

/**
 * A point as it is made anew with every frame. Of what a literal makes an engine notes where it is written, and once most of
 * the first of those live on it lays all later ones among what is kept for long: each frame's points would then fill that and
 * hold what they refer to. What a class makes is not noted so.
 */
class Place implements Point3 {
  constructor(
    readonly x: number,
    readonly y: number,
    readonly depth: number,
  ) {}
}
export const point3 = (x: number, y: number, depth: number): Point3 => new Place(x, y, depth)

export const ORIGIN: Point3 = Object.freeze({ x: 0, y: 0, depth: 0 })

export function add(a: Point3, b: Point3): Point3 {
  return new Place(a.x + b.x, a.y + b.y, a.depth + b.depth)
}

export function subtract(a: Point3, b: Point3): Point3 {
  return new Place(a.x - b.x, a.y - b.y, a.depth - b.depth)
}

export function scale(a: Point3, factor: number): Point3 {
  return new Place(a.x * factor, a.y * factor, a.depth * factor)
}

export function dot(a: Point3, b: Point3): number {
  return a.x * b.x + a.y * b.y + a.depth * b.depth
}

export function cross(a: Point3, b: Point3): Point3 {
  return new Place(a.y * b.depth - a.depth * b.y, a.depth * b.x - a.x * b.depth, a.x * b.y - a.y * b.x)
}

export function length(a: Point3): number {
  return Math.hypot(a.x, a.y, a.depth)
}

/** The point `fraction` of the way from `a` to `b`; both ends are hit exactly. */
export function between(a: Point3, b: Point3, fraction: number): Point3 {
  if (fraction === 0) return a
  if (fraction === 1) return b
  return new Place(a.x + (b.x - a.x) * fraction, a.y + (b.y - a.y) * fraction, a.depth + (b.depth - a.depth) * fraction)
}
