import { inOrder, type Drawing, type Fill, type Mark, type Picture, type Stroke } from '@rubato/core/document'
import { grown, rectangleAround, union, type Rectangle } from '@rubato/core/geometry'
import { getStroke } from 'perfect-freehand'

export type Context2D = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

const COMPOSITE: Record<Stroke['mode'], GlobalCompositeOperation> = {
  ink: 'source-over',
  erase: 'destination-out',
  behind: 'destination-over',
}

const outlines = new WeakMap<Stroke, Path2D>()
/** Outlines are made at this many units a frame width, where the library's smoothing works as meant. */
const OUTLINE_UNITS_PER_FW = 1000

/** A stroke's inked outline, in thousandths of a frame width, y up. Made once for each stroke. */
export function strokeOutline(stroke: Stroke): Path2D {
  const known = outlines.get(stroke)
  if (known !== undefined) return known
  const path = strokePath(stroke.points, stroke.widthFw)
  outlines.set(stroke, path)
  return path
}

/** The outline of a pressed line: x, y (fw), pressure … Full width at pressure 1, a third of it at 0. */
export function strokePath(points: readonly number[], widthFw: number): Path2D {
  const path = new Path2D()
  const units = OUTLINE_UNITS_PER_FW
  const input: [number, number, number][] = []
  for (let i = 0; i + 2 < points.length; i += 3) input.push([points[i]! * units, points[i + 1]! * units, points[i + 2]!])
  const outline = getStroke(input, {
    size: widthFw * units,
    thinning: 0.5,
    smoothing: 0.5,
    streamline: 0.2,
    simulatePressure: false,
    last: true,
  }) as [number, number][]
  const first = outline[0]
  if (first === undefined) return path
  path.moveTo(first[0], first[1])
  for (let i = 0; i < outline.length; i++) {
    const a = outline[i]!
    const b = outline[(i + 1) % outline.length]!
    path.quadraticCurveTo(a[0], a[1], (a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
  }
  path.closePath()
  return path
}

const fillPaths = new WeakMap<Fill, Path2D>()

function fillPath(fill: Fill): Path2D {
  const known = fillPaths.get(fill)
  if (known !== undefined) return known
  const path = new Path2D()
  const units = OUTLINE_UNITS_PER_FW
  for (const outline of fill.outlines) {
    path.moveTo(outline[0]! * units, outline[1]! * units)
    for (let i = 2; i + 1 < outline.length; i += 2) path.lineTo(outline[i]! * units, outline[i + 1]! * units)
    path.closePath()
  }
  fillPaths.set(fill, path)
  return path
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
  if (mark.kind === 'picture') {
    const halfHeight = (mark.widthFw * mark.heightPx) / mark.widthPx / 2
    return { left: mark.x - mark.widthFw / 2, right: mark.x + mark.widthFw / 2, bottom: mark.y - halfHeight, top: mark.y + halfHeight }
  }
  const points: { x: number; y: number }[] = []
  if (mark.kind === 'stroke') {
    for (let i = 0; i + 2 < mark.points.length; i += 3) points.push({ x: mark.points[i]!, y: mark.points[i + 1]! })
    return grown(rectangleAround(points)!, mark.widthFw)
  }
  for (const outline of mark.outlines) {
    for (let i = 0; i + 1 < outline.length; i += 2) points.push({ x: outline[i]!, y: outline[i + 1]! })
  }
  return rectangleAround(points)!
}

const drawingExtents = new WeakMap<Drawing, { readonly rectangle: Rectangle | null }>()

/** What a drawing can touch; erasing never adds. Null for an empty one. */
export function drawingBounds(drawing: Drawing): Rectangle | null {
  const known = drawingExtents.get(drawing)
  if (known !== undefined) return known.rectangle
  let rectangle: Rectangle | null = null
  for (const mark of drawing.marks) {
    if (mark.kind !== 'picture' && mark.mode === 'erase') continue
    rectangle = union(rectangle, markBounds(mark))
  }
  drawingExtents.set(drawing, { rectangle })
  return rectangle
}

/** Looks a picture's pixels up, to be shown `neededPx` long at its longest; null while they are not there. */
export type PictureLookup = (picture: Picture, neededPx: number) => CanvasImageSource | null

/**
 * Paints marks on a context whose raster has `pxPerFw` and shows the point (left, top) of the art at (padPx, padPx).
 */
export function paintMarks(context: Context2D, marks: readonly Mark[], pxPerFw: number, left: number, top: number, padPx: number, pictures: PictureLookup) {
  const scale = pxPerFw / OUTLINE_UNITS_PER_FW
  for (const mark of marks) {
    if (mark.kind === 'picture') {
      paintPicture(context, mark, pxPerFw, left, top, padPx, pictures)
      continue
    }
    context.setTransform(scale, 0, 0, -scale, padPx - left * pxPerFw, padPx + top * pxPerFw)
    context.globalCompositeOperation = COMPOSITE[mark.mode]
    context.globalAlpha = mark.opacity
    context.fillStyle = mark.colour
    if (mark.kind === 'stroke') context.fill(strokeOutline(mark))
    else context.fill(fillPath(mark), 'evenodd')
  }
  context.globalCompositeOperation = 'source-over'
  context.globalAlpha = 1
  context.setTransform(1, 0, 0, 1, 0, 0)
}

function paintPicture(context: Context2D, mark: Picture, pxPerFw: number, left: number, top: number, padPx: number, pictures: PictureLookup) {
  const box = markBounds(mark)
  const source = pictures(mark, Math.max(box.right - box.left, box.top - box.bottom) * pxPerFw)
  if (source === null) return
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalCompositeOperation = 'source-over'
  context.globalAlpha = 1
  context.imageSmoothingEnabled = true
  context.imageSmoothingQuality = 'high'
  context.drawImage(
    source,
    padPx + (box.left - left) * pxPerFw,
    padPx + (top - box.top) * pxPerFw,
    (box.right - box.left) * pxPerFw,
    (box.top - box.bottom) * pxPerFw,
  )
}

export function marksInOrder(drawing: Drawing): readonly Mark[] {
  return inOrder(drawing.marks)
}
