import type { Point2 } from '../geometry/point'

export interface ShapeOptions {
  /** Lines to multiples of 15°, boxes square, ellipses round. */
  readonly even: boolean
  /** From the middle outwards. */
  readonly centred: boolean
}

const STEP_FW = 0.004
/** How near to a corner a point stands on each side, so that its inked outline stays sharp. */
const CORNER_FW = 0.0004
const PRESSURE = 0.5

function corners(kind: 'line' | 'box', from: Point2, to: Point2, { even, centred }: ShapeOptions): Point2[] {
  let [dx, dy] = [to.x - from.x, to.y - from.y]
  if (even && kind === 'line') {
    const length = Math.hypot(dx, dy)
    const angle = (Math.round(Math.atan2(dy, dx) / (Math.PI / 12)) * Math.PI) / 12
    ;[dx, dy] = [length * Math.cos(angle), length * Math.sin(angle)]
  } else if (even) [dx, dy] = squared(dx, dy)
  const a = centred ? { x: from.x - dx, y: from.y - dy } : from
  const b = { x: from.x + dx, y: from.y + dy }
  if (kind === 'line') return [a, b]
  return [a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }, a]
}

function squared(dx: number, dy: number): [number, number] {
  const side = Math.max(Math.abs(dx), Math.abs(dy))
  return [Math.sign(dx || 1) * side, Math.sign(dy || 1) * side]
}

/** The points of a stroke that draws a straight line, a box or an ellipse between two corners, at even pressure. */
export function shapeStroke(kind: 'line' | 'box' | 'ellipse', from: Point2, to: Point2, options: ShapeOptions): number[] {
  const out: number[] = []
  const put = (x: number, y: number) => out.push(x, y, PRESSURE)
  if (kind === 'ellipse') {
    let [dx, dy] = [to.x - from.x, to.y - from.y]
    if (options.even) [dx, dy] = squared(dx, dy)
    const centre = options.centred ? from : { x: from.x + dx / 2, y: from.y + dy / 2 }
    const [rx, ry] = options.centred ? [Math.abs(dx), Math.abs(dy)] : [Math.abs(dx) / 2, Math.abs(dy) / 2]
    const steps = Math.min(720, Math.max(32, Math.ceil((Math.PI * (rx + ry)) / STEP_FW)))
    for (let i = 0; i <= steps; i++) {
      const angle = (i / steps) * 2 * Math.PI
      put(centre.x + rx * Math.cos(angle), centre.y + ry * Math.sin(angle))
    }
    return out
  }
  const places = corners(kind, from, to, options)
  put(places[0]!.x, places[0]!.y)
  for (let i = 1; i < places.length; i++) {
    const [a, b] = [places[i - 1]!, places[i]!]
    const length = Math.hypot(b.x - a.x, b.y - a.y)
    const steps = Math.max(1, Math.ceil(length / STEP_FW))
    const near = length === 0 ? 0 : Math.min(0.25, CORNER_FW / length)
    const at = (t: number) => put(a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t)
    if (length > 0) at(near)
    for (let s = 1; s < steps; s++) at(s / steps)
    if (length > 0) at(1 - near)
    put(b.x, b.y)
  }
  return out
}
