/** The overhead view's scale: set x to the right, depth upwards; one factor for both, so angles are true. */
export interface PlanScale {
  readonly pxPerFw: number
  readonly centreX: number
  readonly centreDepth: number
  readonly widthPx: number
  readonly heightPx: number
}

export function toPlanPx(scale: PlanScale, x: number, depth: number): { readonly x: number; readonly y: number } {
  return { x: scale.widthPx / 2 + (x - scale.centreX) * scale.pxPerFw, y: scale.heightPx / 2 - (depth - scale.centreDepth) * scale.pxPerFw }
}

export function fromPlanPx(scale: PlanScale, px: number, py: number): { readonly x: number; readonly depth: number } {
  return { x: scale.centreX + (px - scale.widthPx / 2) / scale.pxPerFw, depth: scale.centreDepth - (py - scale.heightPx / 2) / scale.pxPerFw }
}

/** A scale that shows the points, with room around them. */
export function fitPlan(points: readonly { readonly x: number; readonly depth: number }[], widthPx: number, heightPx: number): PlanScale {
  const xs = points.map((point) => point.x)
  const depths = points.map((point) => point.depth)
  const [left, right] = [Math.min(-0.6, ...xs), Math.max(0.6, ...xs)]
  const [near, far] = [Math.min(-1.6, ...depths), Math.max(0.5, ...depths)]
  const pxPerFw = Math.max(2, Math.min((widthPx - 20) / (right - left), (heightPx - 34) / (far - near)))
  return { pxPerFw, centreX: (left + right) / 2, centreDepth: (near + far) / 2, widthPx, heightPx }
}
