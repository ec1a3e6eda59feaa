import { enclosedArea, figureArea, simplifyOutline, type Mask } from '@rubato/core/ink'
import { contours } from 'd3-contour'
import type { AreaAsk, AreaFound } from './messages'

/** The area goes on under lines by this much, so that no light shows between. */
const UNDER_PX = 2
/** Outlines keep to the mask within this. */
const OUTLINE_TOLERANCE_PX = 0.4
/** Islands and holes smaller than this are specks, px. */
const LEAST_AREA_PX = 6
/** A figure's openings are closed up to this part of its height. */
const WIDEST_OPENING = 0.12

/** What an area job finds, in px of the pixels it was given. */
export function findArea(ask: AreaAsk): AreaFound {
  const begun = performance.now()
  const { widthPx, heightPx } = ask
  const pixels = new Uint8ClampedArray(ask.pixels)
  if (ask.kind === 'fill') {
    const lines = unlike(pixels, widthPx, heightPx, ask.xPx, ask.yPx, ask.tolerance)
    const found = enclosedArea(lines, ask.xPx, ask.yPx, ask.gapPx, UNDER_PX)
    if (!found.ok) return { kind: 'refused', refusal: found.refusal }
    return { kind: 'found', outlines: outlinesOf(found.mask), gapPx: ask.gapPx, tookMs: performance.now() - begun }
  }
  const rim = Math.ceil((Math.max(widthPx, heightPx) * WIDEST_OPENING) / 2) + 3
  const ink = inkOf(pixels, widthPx, heightPx, rim)
  if (!ink.cells.includes(1)) return { kind: 'refused', refusal: { code: 'no-ink' } }
  const { mask, gapPx } = figureArea(ink, Math.max(1, ask.gapPx), Math.max(2, Math.max(widthPx, heightPx) * WIDEST_OPENING))
  return { kind: 'found', outlines: outlinesOf(mask).map((outline) => outline.map((value) => value - rim)), gapPx, tookMs: performance.now() - begun }
}

/** Every px whose colour over white is farther than `tolerance` (of 255, in any channel) from that at a place. */
function unlike(pixels: Uint8ClampedArray, widthPx: number, heightPx: number, xPx: number, yPx: number, tolerance: number): Mask {
  const cells = new Uint8Array(widthPx * heightPx)
  const over = (i: number, channel: number) => 255 - ((255 - pixels[i * 4 + channel]!) * pixels[i * 4 + 3]!) / 255
  const at = Math.min(heightPx - 1, Math.max(0, Math.round(yPx))) * widthPx + Math.min(widthPx - 1, Math.max(0, Math.round(xPx)))
  const [r, g, b] = [over(at, 0), over(at, 1), over(at, 2)]
  for (let i = 0; i < cells.length; i++) {
    if (Math.abs(over(i, 0) - r) > tolerance || Math.abs(over(i, 1) - g) > tolerance || Math.abs(over(i, 2) - b) > tolerance) cells[i] = 1
  }
  return { widthPx, heightPx, cells }
}

/** Where ink covers by half or more, with a clear rim around. */
function inkOf(pixels: Uint8ClampedArray, widthPx: number, heightPx: number, rim: number): Mask {
  const [w, h] = [widthPx + 2 * rim, heightPx + 2 * rim]
  const cells = new Uint8Array(w * h)
  for (let y = 0; y < heightPx; y++) {
    for (let x = 0; x < widthPx; x++) if (pixels[(y * widthPx + x) * 4 + 3]! >= 128) cells[(y + rim) * w + x + rim] = 1
  }
  return { widthPx: w, heightPx: h, cells }
}

/** Closed outlines around a mask and its holes: x, y, x, y …, px, for filling even-odd. */
export function outlinesOf(mask: Mask): number[][] {
  const cut = crop(mask)
  if (cut === null) return []
  const { left, top, widthPx, heightPx, cells } = cut
  const shapes = contours().size([widthPx, heightPx]).smooth(false).thresholds([0.5])(cells as unknown as number[])
  return shapes.flatMap(({ coordinates }) => coordinates.flat()).flatMap((ring) => {
    const outline = ring.slice(0, -1).flatMap(([x, y]) => [x! + left, y! + top])
    if (Math.abs(areaInside(outline)) < LEAST_AREA_PX) return []
    const simple = simplifyOutline(outline, OUTLINE_TOLERANCE_PX)
    return simple.length >= 6 ? [simple] : []
  })
}

function areaInside(outline: readonly number[]): number {
  let twice = 0
  for (let i = 0; i < outline.length; i += 2) {
    const [nx, ny] = [outline[(i + 2) % outline.length]!, outline[(i + 3) % outline.length]!]
    twice += outline[i]! * ny - nx * outline[i + 1]!
  }
  return twice / 2
}

/** The part of a mask that has anything, with an empty px around it. */
function crop({ widthPx, heightPx, cells }: Mask): (Mask & { readonly left: number; readonly top: number }) | null {
  let [left, top, right, bottom] = [widthPx, heightPx, -1, -1]
  for (let y = 0; y < heightPx; y++) {
    for (let x = 0; x < widthPx; x++) {
      if (cells[y * widthPx + x] === 0) continue
      left = Math.min(left, x)
      right = Math.max(right, x)
      top = Math.min(top, y)
      bottom = y
    }
  }
  if (right < 0) return null
  const [w, h] = [right - left + 3, bottom - top + 3]
  const out = new Uint8Array(w * h)
  for (let y = top; y <= bottom; y++) out.set(cells.subarray(y * widthPx + left, y * widthPx + right + 1), (y - top + 1) * w + 1)
  return { left: left - 1, top: top - 1, widthPx: w, heightPx: h, cells: out }
}
