import { applyAffine, followedBy, IDENTITY, type Affine } from '@rubato/core/ink'

/** The frame's rectangle inside a canvas, in px; what falls outside it is surround. The whole may be turned and flipped. */
export interface ViewBox {
  readonly widthPx: number
  readonly heightPx: number
  readonly frameLeftPx: number
  readonly frameTopPx: number
  readonly frameWidthPx: number
  /** How the canvas is turned about its middle, clockwise, after it was flipped. Absent: 0. */
  readonly turnDegrees?: number
  /** Left and right changed about. Absent: no. */
  readonly flipped?: boolean
}

/** A canvas that is the frame and nothing else. */
export function wholeFrame(widthPx: number, heightPx: number): ViewBox {
  return { widthPx, heightPx, frameLeftPx: 0, frameTopPx: 0, frameWidthPx: widthPx }
}

/** A whole frame of a width, as tall as the film's shape makes it. */
export const frameOfWidth = (widthPx: number, aspect: number): ViewBox => wholeFrame(widthPx, Math.round(widthPx / aspect))

/** How the canvas's own px go to where they are seen; null where they stay. */
export function turnOf(view: ViewBox): Affine | null {
  const degrees = view.turnDegrees ?? 0
  if (degrees === 0 && view.flipped !== true) return null
  const angle = (degrees * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const flip = view.flipped === true ? -1 : 1
  const [cx, cy] = [view.widthPx / 2, view.heightPx / 2]
  return { a: cos * flip, b: sin * flip, c: -sin, d: cos, e: cx - cos * flip * cx + sin * cy, f: cy - sin * flip * cx - cos * cy }
}

/** From (u, v) of the frame (fw from its centre, v up) to canvas px. */
export function pxOfFrame(view: ViewBox, halfHeight: number): Affine {
  // Each level of a picture asks for it.
  if (told?.view !== view || told.halfHeight !== halfHeight) told = { view, halfHeight, px: pxOf(view, halfHeight) }
  return told.px
}
let told: { readonly view: ViewBox; readonly halfHeight: number; readonly px: Affine } | null = null

function pxOf(view: ViewBox, halfHeight: number): Affine {
  const W = view.frameWidthPx
  const flat = { a: W, b: 0, c: 0, d: -W, e: view.frameLeftPx + W / 2, f: view.frameTopPx + W * halfHeight }
  const turn = turnOf(view)
  return turn === null ? flat : followedBy(flat, turn)
}

/** The way back; null where an affine flattens everything. */
export function inverseOf(m: Affine): Affine | null {
  const det = m.a * m.d - m.b * m.c
  if (Math.abs(det) < 1e-300) return null
  return { a: m.d / det, b: -m.b / det, c: -m.c / det, d: m.a / det, e: (m.c * m.f - m.d * m.e) / det, f: (m.b * m.e - m.a * m.f) / det }
}

/** The corners of a view, carried by an affine. */
export function viewCorners(view: ViewBox, by: Affine = IDENTITY) {
  return [[0, 0], [view.widthPx, 0], [view.widthPx, view.heightPx], [0, view.heightPx]].map(([x, y]) => applyAffine(by, { x: x!, y: y! }))
}
