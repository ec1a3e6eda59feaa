import type { Point2 } from './point'

/** An upright rectangle, y up. It is never inside out: `left <= right` and `bottom <= top`. */
export interface Rectangle {
  readonly left: number
  readonly bottom: number
  readonly right: number
  readonly top: number
}

/** The smallest rectangle around the points; null for none. */
export function rectangleAround(points: Iterable<Point2>): Rectangle | null {
  let left = Infinity
  let bottom = Infinity
  let right = -Infinity
  let top = -Infinity
  for (const point of points) {
    left = Math.min(left, point.x)
    right = Math.max(right, point.x)
    bottom = Math.min(bottom, point.y)
    top = Math.max(top, point.y)
  }
  return left <= right ? { left, bottom, right, top } : null
}

export function union(a: Rectangle | null, b: Rectangle | null): Rectangle | null {
  if (a === null || b === null) return a ?? b
  return {
    left: Math.min(a.left, b.left),
    bottom: Math.min(a.bottom, b.bottom),
    right: Math.max(a.right, b.right),
    top: Math.max(a.top, b.top),
  }
}

/** The part that both cover; null where they do not touch. */
export function intersection(a: Rectangle, b: Rectangle): Rectangle | null {
  const left = Math.max(a.left, b.left)
  const right = Math.min(a.right, b.right)
  const bottom = Math.max(a.bottom, b.bottom)
  const top = Math.min(a.top, b.top)
  return left <= right && bottom <= top ? { left, bottom, right, top } : null
}

export function grown(a: Rectangle, margin: number): Rectangle {
  return { left: a.left - margin, bottom: a.bottom - margin, right: a.right + margin, top: a.top + margin }
}

/** Corners counter-clockwise from bottom left. */
export function cornersOf(a: Rectangle): readonly [Point2, Point2, Point2, Point2] {
  return [
    { x: a.left, y: a.bottom },
    { x: a.right, y: a.bottom },
    { x: a.right, y: a.top },
    { x: a.left, y: a.top },
  ]
}

export function widthOf(a: Rectangle): number {
  return a.right - a.left
}

export function heightOf(a: Rectangle): number {
  return a.top - a.bottom
}
