import { type Fill, type Mark, type Picture, type Stroke } from '@rubato/core/document'
import { isForPrint, markBounds, OUTLINE_UNITS_PER_FW, strokeOutline, USUAL_THINNING } from '@rubato/core/ink'

export type AnyCanvas = HTMLCanvasElement | OffscreenCanvas
export type Context2D = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

/** Gives a canvas's memory back, which the browser would only do when it next collects. */
export function freeCanvas(canvas: AnyCanvas): void {
  canvas.width = canvas.height = 0
}

const COMPOSITE: Record<Stroke['mode'], GlobalCompositeOperation> = {
  ink: 'source-over',
  erase: 'destination-out',
  behind: 'destination-over',
}

/**
 * Kept as plain numbers and traced each time: a path object of the browser takes some ten times as much, outside of what
 * it counts as the page's memory, and a film has tens of thousands of strokes. Those made first go first.
 */
const outlines = new Map<Stroke, Float32Array>()
const OUTLINES_BUDGET_BYTES = 8 * 1024 * 1024
let outlinesBytes = 0
/** Through the middles of an outline's sides, bent at its points. */
function trace(path: Pick<Context2D, 'moveTo' | 'quadraticCurveTo' | 'closePath'>, outline: Float32Array): void {
  const count = outline.length / 2
  if (count === 0) return
  path.moveTo(outline[0]!, outline[1]!)
  for (let i = 0; i < count; i++) {
    const next = i + 1 === count ? 0 : i + 1
    const [ax, ay, bx, by] = [outline[i * 2]!, outline[i * 2 + 1]!, outline[next * 2]!, outline[next * 2 + 1]!]
    path.quadraticCurveTo(ax, ay, (ax + bx) / 2, (ay + by) / 2)
  }
  path.closePath()
}

/** A line that is being drawn, as a path; see `strokeOutline`. */
export function strokePath(points: readonly number[], widthFw: number, thinning = USUAL_THINNING): Path2D {
  const path = new Path2D()
  trace(path, strokeOutline(points, widthFw, thinning))
  return path
}

function kept(stroke: Stroke, outline: Float32Array): Float32Array {
  outlines.set(stroke, outline)
  outlinesBytes += outline.byteLength
  for (const [oldest, { byteLength }] of outlines) {
    if (outlinesBytes <= OUTLINES_BUDGET_BYTES) break
    outlines.delete(oldest)
    outlinesBytes -= byteLength
  }
  return outline
}

/** Forgets what is kept of marks that are not painted any more: it would hold them in memory. */
export function forgetOutlines(marks: readonly Mark[]): void {
  for (const mark of marks) {
    if (mark.kind !== 'stroke') continue
    const known = outlines.get(mark)
    if (known === undefined) continue
    outlines.delete(mark)
    outlinesBytes -= known.byteLength
  }
}

/** For a film that is left. */
export function forgetAllOutlines(): void {
  outlines.clear()
  outlinesBytes = 0
}

/** Fills a stroke's inked outline. */
export function inkStroke(context: Context2D, stroke: Stroke): void {
  const outline = outlines.get(stroke) ?? kept(stroke, strokeOutline(stroke.points, stroke.widthFw, stroke.thinning))
  context.beginPath()
  trace(context, outline)
  context.fill()
}

export function inkFill(context: Context2D, fill: Fill): void {
  const units = OUTLINE_UNITS_PER_FW
  context.beginPath()
  for (const outline of fill.outlines) {
    context.moveTo(outline[0]! * units, outline[1]! * units)
    for (let i = 2; i + 1 < outline.length; i += 2) context.lineTo(outline[i]! * units, outline[i + 1]! * units)
    context.closePath()
  }
  context.fill('evenodd')
}

/** Looks a picture's pixels up, to be shown `neededPx` long at its longest; null while they are not there. */
export type PictureLookup = (picture: Picture, neededPx: number) => CanvasImageSource | null

/**
 * Paints marks on a context whose raster has `pxPerFw` and shows the point (left, top) of the art at (padPx, padYPx).
 */
export function paintMarks(context: Context2D, marks: readonly Mark[], pxPerFw: number, left: number, top: number, padPx: number, pictures: PictureLookup, padYPx = padPx) {
  const scale = pxPerFw / OUTLINE_UNITS_PER_FW
  for (const mark of marks) {
    if (isForPrint(mark)) continue
    if (mark.kind === 'picture') {
      paintPicture(context, mark, pxPerFw, left, top, padPx, padYPx, pictures)
      continue
    }
    context.setTransform(scale, 0, 0, -scale, padPx - left * pxPerFw, padYPx + top * pxPerFw)
    context.globalCompositeOperation = COMPOSITE[mark.mode]
    context.globalAlpha = mark.opacity
    context.fillStyle = mark.colour
    if (mark.kind === 'stroke') inkStroke(context, mark)
    else inkFill(context, mark)
  }
  context.globalCompositeOperation = 'source-over'
  context.globalAlpha = 1
  context.setTransform(1, 0, 0, 1, 0, 0)
}

function paintPicture(context: Context2D, mark: Picture, pxPerFw: number, left: number, top: number, padPx: number, padYPx: number, pictures: PictureLookup) {
  const width = mark.widthFw * pxPerFw
  const height = (width * mark.heightPx) / mark.widthPx
  const source = pictures(mark, Math.max(width, height))
  if (source === null) return
  context.globalCompositeOperation = 'source-over'
  context.globalAlpha = 1
  context.imageSmoothingEnabled = true
  context.imageSmoothingQuality = 'high'
  const turn = mark.turnDegrees ?? 0
  if (turn === 0 && mark.mirrored !== true) {
    // From the corner, so that a lone picture falls on whole px and 1:1 is 1:1.
    const box = markBounds(mark)
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.drawImage(source, padPx + (box.left - left) * pxPerFw, padYPx + (top - box.top) * pxPerFw, (box.right - box.left) * pxPerFw, (box.top - box.bottom) * pxPerFw)
    return
  }
  const [x, y] = [padPx + (mark.x - left) * pxPerFw, padYPx + (top - mark.y) * pxPerFw]
  const angle = (-turn * Math.PI) / 180
  const flip = mark.mirrored === true ? -1 : 1
  context.setTransform(Math.cos(angle) * flip, Math.sin(angle) * flip, -Math.sin(angle), Math.cos(angle), x, y)
  context.drawImage(source, -width / 2, -height / 2, width, height)
}
