import type { Point3 } from '@rubato/core/geometry'

/** Which of the set's directions a drawn view shows across and upwards. */
export interface Axes {
  readonly id: 'plan' | 'side'
  readonly across: 'x' | 'depth'
  readonly up: 'depth' | 'y'
}

/** From above: x to the right, depth upwards. */
export const PLAN_AXES: Axes = Object.freeze({ id: 'plan', across: 'x', up: 'depth' })
/** From the side: depth to the right, so that the camera stands at the left; y upwards. */
export const SIDE_AXES: Axes = Object.freeze({ id: 'side', across: 'depth', up: 'y' })

/** A drawn view's scale: one factor for both directions, so angles are true. */
export interface DrawnScale {
  readonly axes: Axes
  readonly pxPerFw: number
  /** What stands in the middle, fw. */
  readonly centreAcross: number
  readonly centreUp: number
  readonly widthPx: number
  readonly heightPx: number
}

export interface Px {
  readonly x: number
  readonly y: number
}

export function toPx(scale: DrawnScale, point: Partial<Point3>): Px {
  const { axes } = scale
  return { x: scale.widthPx / 2 + ((point[axes.across] ?? 0) - scale.centreAcross) * scale.pxPerFw, y: scale.heightPx / 2 - ((point[axes.up] ?? 0) - scale.centreUp) * scale.pxPerFw }
}

/** Where in the set a px is; the third direction is left out. */
export function fromPx(scale: DrawnScale, px: number, py: number): { readonly across: number; readonly up: number } {
  return { across: scale.centreAcross + (px - scale.widthPx / 2) / scale.pxPerFw, up: scale.centreUp - (py - scale.heightPx / 2) / scale.pxPerFw }
}

/** How far in the set a drag of so many px goes; the third direction stays 0. */
export function dragged(scale: DrawnScale, dx: number, dy: number): Point3 {
  return { x: 0, y: 0, depth: 0, [scale.axes.across]: dx / scale.pxPerFw, [scale.axes.up]: -dy / scale.pxPerFw }
}

const LEAST: Readonly<Record<'x' | 'y' | 'depth', readonly [number, number]>> = { x: [-0.6, 0.6], y: [-0.5, 0.5], depth: [-1.6, 0.5] }

/** A scale that shows the points, with room around them. */
export function fitScale(axes: Axes, points: readonly Partial<Point3>[], widthPx: number, heightPx: number): DrawnScale {
  const range = (field: 'x' | 'y' | 'depth') => {
    const values = points.map((point) => point[field] ?? 0)
    return [Math.min(LEAST[field][0], ...values), Math.max(LEAST[field][1], ...values)] as const
  }
  const [left, right] = range(axes.across)
  const [low, high] = range(axes.up)
  const pxPerFw = Math.max(2, Math.min((widthPx - 30) / (right - left), (heightPx - 40) / (high - low)))
  return { axes, pxPerFw, centreAcross: (left + right) / 2, centreUp: (low + high) / 2, widthPx, heightPx }
}

/** The scale a step nearer or farther, with what is under the pointer kept there. */
export function zoomedAt(scale: DrawnScale, px: number, py: number, factor: number): DrawnScale {
  const point = fromPx(scale, px, py)
  const pxPerFw = Math.min(2000, Math.max(2, scale.pxPerFw * factor))
  return { ...scale, pxPerFw, centreAcross: point.across - (px - scale.widthPx / 2) / pxPerFw, centreUp: point.up + (py - scale.heightPx / 2) / pxPerFw }
}
