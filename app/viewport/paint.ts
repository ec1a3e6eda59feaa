import { type Drawing, type Fill, type Mark, type Picture, type Stroke } from '@rubato/core/document'
import { grown, rectangleAround, union, type Rectangle } from '@rubato/core/geometry'
import { eachPoint, pictureCorners } from '@rubato/core/ink'
import { getStroke } from 'perfect-freehand'

export type Context2D = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

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
/** Outlines are made at this many units a frame width, where the library's smoothing works as meant. */
export const OUTLINE_UNITS_PER_FW = 1000

export const USUAL_THINNING = 0.5

/**
 * The outline of a pressed line: x, y (fw), pressure … `thinning` is how much the pressure tells: at 0.5 it is of full
 * width at pressure 1 and a third of that at 0. Points come smoothed, so the outline keeps to them. x, y, x, y … in
 * thousandths of a frame width, y up.
 */
function outlineOf(points: readonly number[], widthFw: number, thinning = USUAL_THINNING): Float32Array {
  const units = OUTLINE_UNITS_PER_FW
  const input: [number, number, number][] = []
  for (let i = 0; i + 2 < points.length; i += 3) input.push([points[i]! * units, points[i + 1]! * units, points[i + 2]!])
  const outline = getStroke(input, {
    size: widthFw * units,
    thinning,
    smoothing: 0.5,
    streamline: 0,
    simulatePressure: false,
    last: true,
  }) as [number, number][]
  const flat = new Float32Array(outline.length * 2)
  outline.forEach(([x, y], i) => flat.set([x, y], i * 2))
  return flat
}

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

/** A line that is being drawn, as a path; see `outlineOf`. */
export function strokePath(points: readonly number[], widthFw: number, thinning = USUAL_THINNING): Path2D {
  const path = new Path2D()
  trace(path, outlineOf(points, widthFw, thinning))
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

/** Fills a stroke's inked outline. */
export function inkStroke(context: Context2D, stroke: Stroke): void {
  const outline = outlines.get(stroke) ?? kept(stroke, outlineOf(stroke.points, stroke.widthFw, stroke.thinning))
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

const bounds = new WeakMap<Mark, Rectangle>()

/** What a mark can touch, in fw. */
export function markBounds(mark: Mark): Rectangle {
  const known = bounds.get(mark)
  if (known !== undefined) return known
  const found = computeBounds(mark)
  bounds.set(mark, found)
  return found
}

function computeBounds(mark: Mark): Rectangle {
  if (mark.kind === 'picture') return rectangleAround(pictureCorners(mark))!
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity]
  eachPoint(mark, (x, y) => {
    if (x < left) left = x
    if (x > right) right = x
    if (y < bottom) bottom = y
    if (y > top) top = y
  })
  const around = { left, bottom, right, top }
  return mark.kind === 'stroke' ? grown(around, mark.widthFw) : around
}

interface Extent {
  readonly marks: readonly Mark[]
  readonly rectangle: Rectangle | null
}

const extents = new WeakMap<Drawing, Extent>()
/** The last extent found for a pile that ended with a mark: a drawing that only grew starts from there. */
const extentsByTop = new WeakMap<Mark, Extent>()

/** What a drawing can touch; erasing never adds. Null for an empty one. */
export function drawingBounds(drawing: Drawing): Rectangle | null {
  const known = extents.get(drawing)
  if (known !== undefined) return known.rectangle
  const { marks } = drawing
  const top = marks.at(-1)
  const extent = { marks, rectangle: extentOf(marks) }
  extents.set(drawing, extent)
  if (top !== undefined) extentsByTop.set(top, extent)
  return extent.rectangle
}

function extentOf(marks: readonly Mark[]): Rectangle | null {
  const last = marks.length - 1
  const same = last >= 0 ? extentsByTop.get(marks[last]!) : undefined
  if (same !== undefined && same.marks.length === marks.length && startsWith(marks, same.marks)) return same.rectangle
  const before = last > 0 ? extentsByTop.get(marks[last - 1]!) : undefined
  if (before !== undefined && before.marks.length === last && startsWith(marks, before.marks)) return withMark(before.rectangle, marks[last]!)
  let rectangle: Rectangle | null = null
  for (const mark of marks) rectangle = withMark(rectangle, mark)
  return rectangle
}

function withMark(rectangle: Rectangle | null, mark: Mark): Rectangle | null {
  return mark.kind !== 'picture' && mark.mode === 'erase' ? rectangle : union(rectangle, markBounds(mark))
}

/** True when the first marks of a pile are those of another, to the very object. */
export function startsWith(marks: readonly Mark[], start: readonly Mark[]): boolean {
  if (marks.length < start.length) return false
  for (let i = start.length - 1; i >= 0; i--) if (marks[i] !== start[i]) return false
  return true
}

/** Looks a picture's pixels up, to be shown `neededPx` long at its longest; null while they are not there. */
export type PictureLookup = (picture: Picture, neededPx: number) => CanvasImageSource | null

/**
 * Paints marks on a context whose raster has `pxPerFw` and shows the point (left, top) of the art at (padPx, padYPx).
 */
export function paintMarks(context: Context2D, marks: readonly Mark[], pxPerFw: number, left: number, top: number, padPx: number, pictures: PictureLookup, padYPx = padPx) {
  const scale = pxPerFw / OUTLINE_UNITS_PER_FW
  for (const mark of marks) {
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
