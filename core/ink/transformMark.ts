import type { Mark, Words } from '../document/records'
import type { Point2 } from '../geometry/point'
import { applyAffine, growth, mirrors, type Affine } from './affine'
import { outlinesOfArrow } from './arrow'
import { placeOfWords, wordsPlace } from './words'

const LARGEST_FW = 1e4
const WIDEST_FW = 10
const round = (value: number) => Math.min(LARGEST_FW, Math.max(-LARGEST_FW, Math.round(value * 1e6) / 1e6))

/** How art goes from one place to another: where a point lands, and by how much lengths grow there. */
export interface Carrying {
  readonly point: (from: Point2) => Point2
  readonly growth: number
  readonly turnDegrees: number
  readonly mirrors: boolean
}

export function carryingOf(m: Affine): Carrying {
  // Where the x axis (mirrored: turned about first) comes to lie.
  const flip = mirrors(m) ? -1 : 1
  return { point: (from) => applyAffine(m, from), growth: growth(m), turnDegrees: (Math.atan2(m.b * flip, m.a * flip) * 180) / Math.PI, mirrors: mirrors(m) }
}

/** A mark carried elsewhere. Lines get wider as they grow; a picture keeps its proportions. */
export function carryMark<T extends Mark>(mark: T, carrying: Carrying): T {
  const { point, growth: grows } = carrying
  if (mark.kind === 'picture') {
    const { x, y } = point(mark)
    const turn = mark.turnDegrees ?? 0
    const turnDegrees = Math.round((carrying.turnDegrees + (carrying.mirrors ? -turn : turn)) * 1e4) / 1e4
    const mirrored = (mark.mirrored ?? false) !== carrying.mirrors
    const { turnDegrees: _turn, mirrored: _mirrored, ...rest } = mark
    return { ...rest, x: round(x), y: round(y), widthFw: Math.min(LARGEST_FW, Math.max(1e-6, mark.widthFw * grows)), ...(turnDegrees === 0 ? {} : { turnDegrees }), ...(mirrored ? { mirrored } : {}) } as T
  }
  if (mark.kind === 'fill') {
    if (mark.arrow !== undefined) {
      const arrow = { ...mark.arrow, points: carryPoints(mark.arrow.points, 2, point), widthFw: Math.min(WIDEST_FW, Math.max(1e-6, mark.arrow.widthFw * grows)) }
      const outlines = outlinesOfArrow(arrow)
      return { ...mark, arrow, ...(outlines.length === 0 ? {} : { outlines }) }
    }
    const outlines = mark.outlines.map((outline) => carryPoints(outline, 2, point))
    return { ...mark, outlines, ...(mark.words === undefined ? {} : { words: { ...mark.words, place: carriedPlace(mark.words, point) } }) }
  }
  return { ...mark, points: carryPoints(mark.points, 3, point), widthFw: Math.min(WIDEST_FW, Math.max(1e-6, mark.widthFw * grows)) }
}

/** Where ems come to lie: by where their corners go. */
function carriedPlace(words: Words, point: Carrying['point']): number[] {
  const place = placeOfWords(words)
  const [origin, right, up] = [[0, 0], [1, 0], [0, 1]].map(([x, y]) => point(applyAffine(place, { x: x!, y: y! }))) as [Point2, Point2, Point2]
  return wordsPlace({ a: right.x - origin.x, b: right.y - origin.y, c: up.x - origin.x, d: up.y - origin.y, e: origin.x, f: origin.y })
}

function carryPoints(points: readonly number[], stride: 2 | 3, carry: (from: Point2) => Point2): number[] {
  const out = points.slice()
  for (let i = 0; i + 1 < points.length; i += stride) {
    const { x, y } = carry({ x: points[i]!, y: points[i + 1]! })
    out[i] = round(x)
    out[i + 1] = round(y)
  }
  return out
}
