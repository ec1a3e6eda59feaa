import { startsWith } from '@rubato/core/ink'
import type { Drawing, Mark } from '@rubato/core/document'
import type { Rectangle } from '@rubato/core/geometry'
import { paintMarks, type Context2D, type PictureLookup } from './paint'
import { passesFor, soften } from './soften'
import { around, boxOf, overlap, tilesOf, type PixelBox, type PixelGrid } from './pixelBox'

/** A drawing's pixels at one resolution, cropped to what is drawn, with a clear rim so that edges stay soft. */
export interface ArtRaster {
  readonly canvas: OffscreenCanvas | HTMLCanvasElement
  /** New whenever the pixels change, and no other raster's: it names these very pixels. */
  version: number
  readonly pxPerFw: number
  /** The art point that falls on the raster's top left pixel corner, inside the rim. */
  readonly left: number
  readonly top: number
  /** What has changed of late, oldest first: which px became what with the version. */
  readonly changes: readonly RasterChange[]
}

export interface RasterChange {
  readonly from: number
  readonly to: number
  readonly boxes: readonly PixelBox[]
}

export const RIM_PX = 2
const CHANGES_KEPT = 24
let versions = 0

/** The px that differ from an earlier version; null where that is not known, so that all must be taken to. */
export function changedSince(raster: ArtRaster, version: number): readonly PixelBox[] | null {
  if (raster.version === version) return []
  const first = raster.changes.findIndex((change) => change.from === version)
  return first < 0 ? null : raster.changes.slice(first).flatMap((change) => change.boxes)
}

type Change = { kind: 'none' } | { kind: 'grown' | 'shrunk'; marks: readonly Mark[] } | { kind: 'other'; marks: readonly Mark[] }

/** What makes one pile of marks of another: put on top, taken off the top, or anything else. */
function changeBetween(before: readonly Mark[], after: readonly Mark[]): Change {
  if (after.length > before.length && startsWith(after, before)) return { kind: 'grown', marks: after.slice(before.length) }
  if (after.length < before.length && startsWith(before, after)) return { kind: 'shrunk', marks: before.slice(after.length) }
  let start = 0
  while (start < before.length && start < after.length && before[start] === after[start]) start++
  let end = 0
  while (end < before.length - start && end < after.length - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end++
  const marks = [...before.slice(start, before.length - end), ...after.slice(start, after.length - end)]
  return marks.length === 0 ? { kind: 'none' } : { kind: 'other', marks }
}

interface Saved {
  readonly mark: Mark
  readonly tiles: readonly { readonly x: number; readonly y: number; readonly pixels: ImageData }[]
  readonly bytes: number
}

const SAVED_BYTES = 24 * 1024 * 1024
const SAVED_MARKS = 120
/** Marks are looked at by the clock after this many. */
const SLICE_MARKS = 12

/**
 * A raster that follows its drawing. A mark put on top is painted over; taken off again, the pixels beneath it come back
 * as they were saved; for any other change only what it touches is cleared and painted anew. So a stroke costs the same
 * among fifty and among thousands.
 */
export class PaintedRaster implements ArtRaster {
  readonly canvas: OffscreenCanvas | HTMLCanvasElement
  readonly pxPerFw: number
  readonly left: number
  readonly top: number
  readonly #pictures: PictureLookup
  readonly #grid: PixelGrid
  #drawing: Drawing
  #saved: Saved[] = []
  #savedBytes = 0
  #changes: RasterChange[] = []
  /** How many marks are painted: all of them once it is finished. */
  #painted = 0
  version = 0

  constructor(canvas: OffscreenCanvas | HTMLCanvasElement, drawing: Drawing, room: Pick<Rectangle, 'left' | 'top'>, pxPerFw: number, pictures: PictureLookup) {
    this.canvas = canvas
    this.pxPerFw = pxPerFw
    this.left = room.left
    this.top = room.top
    this.#pictures = pictures
    this.#drawing = drawing
    this.#grid = { widthPx: canvas.width, heightPx: canvas.height, pxPerFw, left: room.left, top: room.top, padPx: RIM_PX }
    this.version = ++versions
  }

  get drawing(): Drawing {
    return this.#drawing
  }

  get changes(): readonly RasterChange[] {
    return this.#changes
  }

  get finished(): boolean {
    return this.#painted === this.#drawing.marks.length
  }

  /** Paints what is missing, until `untilMs` of the clock; true when all is there. */
  continue(nowMs: () => number, untilMs: number): boolean {
    const { marks } = this.#drawing
    if (this.#painted === marks.length) return true
    while (this.#painted < marks.length) {
      const next = marks.slice(this.#painted, this.#painted + SLICE_MARKS)
      this.#paint(next)
      this.#painted += next.length
      if (nowMs() >= untilMs) break
    }
    this.version = ++versions
    this.#changes = []
    return this.#painted === marks.length
  }

  /** Makes the pixels those of another drawing that fits in the same room. */
  follow(drawing: Drawing) {
    if (drawing === this.#drawing) return
    if (!this.finished) this.continue(() => 0, Infinity)
    const change = changeBetween(this.#drawing.marks, drawing.marks)
    this.#drawing = drawing
    this.#painted = drawing.marks.length
    if (change.kind === 'grown') this.#tell(change.marks.flatMap((mark) => this.#paintOver(mark)))
    else if (change.kind === 'shrunk') this.#tell(this.#putBack(change.marks) ?? this.#paintAnew(change.marks))
    else if (change.kind === 'other') this.#tell(this.#paintAnew(change.marks))
  }

  /** The same on a wider canvas, which then shows more around. */
  movedTo(canvas: OffscreenCanvas | HTMLCanvasElement, room: Pick<Rectangle, 'left' | 'top'>): PaintedRaster {
    const moved = new PaintedRaster(canvas, this.#drawing, room, this.pxPerFw, this.#pictures)
    const [x, y] = [Math.round((this.left - room.left) * this.pxPerFw), Math.round((room.top - this.top) * this.pxPerFw)]
    contextOf(canvas).drawImage(this.canvas as CanvasImageSource, x, y)
    moved.#painted = this.#painted
    moved.#saved = this.#saved.map((saved) => ({ ...saved, tiles: saved.tiles.map((tile) => ({ ...tile, x: tile.x + x, y: tile.y + y })) }))
    moved.#savedBytes = this.#savedBytes
    return moved
  }

  #tell(boxes: readonly PixelBox[]) {
    const from = this.version
    this.version = ++versions
    this.#changes = [...this.#changes, { from, to: this.version, boxes }].slice(-CHANGES_KEPT)
  }

  #paint(marks: readonly Mark[]) {
    paintMarks(contextOf(this.canvas), marks, this.pxPerFw, this.left, this.top, RIM_PX, this.#pictures)
  }

  #paintOver(mark: Mark): PixelBox[] {
    const tiles = tilesOf(mark, this.#grid)
    const context = contextOf(this.canvas)
    const kept = tiles.map((box) => ({ x: box.left, y: box.top, pixels: context.getImageData(box.left, box.top, box.right - box.left, box.bottom - box.top) }))
    const bytes = tiles.reduce((sum, box) => sum + (box.right - box.left) * (box.bottom - box.top) * 4, 0)
    this.#saved.push({ mark, tiles: kept, bytes })
    this.#savedBytes += bytes
    while (this.#savedBytes > SAVED_BYTES || this.#saved.length > SAVED_MARKS) this.#savedBytes -= this.#saved.shift()!.bytes
    this.#paint([mark])
    return tiles
  }

  /** Null where what lay beneath was not saved. */
  #putBack(marks: readonly Mark[]): PixelBox[] | null {
    const from = this.#saved.length - marks.length
    if (from < 0 || marks.some((mark, i) => this.#saved[from + i]!.mark !== mark)) return null
    const context = contextOf(this.canvas)
    const boxes: PixelBox[] = []
    for (const { tiles, bytes } of this.#saved.splice(from).reverse()) {
      this.#savedBytes -= bytes
      for (const { x, y, pixels } of tiles) {
        context.putImageData(pixels, x, y)
        boxes.push({ left: x, top: y, right: x + pixels.width, bottom: y + pixels.height })
      }
    }
    return boxes
  }

  #paintAnew(touched: readonly Mark[]): PixelBox[] {
    // What was saved may no longer lie beneath.
    this.#saved = []
    this.#savedBytes = 0
    const box = around(touched.flatMap((mark) => boxOf(mark, this.#grid) ?? []))
    if (box === null) return []
    const boxes: PixelBox[] = [box]
    const marks = this.#drawing.marks.filter((mark) => {
      const own = boxOf(mark, this.#grid)
      const meets = own !== null && overlap(own, box)
      if (meets) boxes.push(own)
      return meets
    })
    const context = contextOf(this.canvas)
    const [w, h] = [box.right - box.left, box.bottom - box.top]
    const all = around(boxes)!
    context.setTransform(1, 0, 0, 1, 0, 0)
    if ((all.right - all.left) * (all.bottom - all.top) <= SCRATCH_PX) {
      // Soft edges of a path are not the same to the bit where it is cut, so it is painted whole, aside.
      const aside = clearScratch(all.right - all.left, all.bottom - all.top)
      paintMarks(aside, marks, this.pxPerFw, this.left, this.top, RIM_PX - all.left, this.#pictures, RIM_PX - all.top)
      context.clearRect(box.left, box.top, w, h)
      context.drawImage(aside.canvas as CanvasImageSource, box.left - all.left, box.top - all.top, w, h, box.left, box.top, w, h)
      return [box]
    }
    context.save()
    context.beginPath()
    context.rect(box.left, box.top, w, h)
    context.clip()
    context.clearRect(box.left, box.top, w, h)
    this.#paint(marks)
    context.restore()
    return [box]
  }
}

const SCRATCH_PX = 3_000_000
let scratch: Context2D | null = null

/** A canvas to paint aside on, at least so large, clear. */
function clearScratch(width: number, height: number): Context2D {
  scratch ??= new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
  const { canvas } = scratch
  // A new size clears it too.
  if (canvas.width < width || canvas.height < height) {
    canvas.width = Math.max(canvas.width, width)
    canvas.height = Math.max(canvas.height, height)
  } else {
    scratch.setTransform(1, 0, 0, 1, 0, 0)
    scratch.clearRect(0, 0, width, height)
  }
  return scratch
}

export function contextOf(canvas: OffscreenCanvas | HTMLCanvasElement): Context2D {
  return canvas.getContext('2d', { willReadFrequently: true }) as Context2D
}

/** The shadow of a raster: its silhouette in black, softened; a little wider on each side. */
export class ShadowRaster implements ArtRaster {
  readonly canvas: OffscreenCanvas | HTMLCanvasElement
  readonly source: ArtRaster
  readonly changes = []
  readonly #padPx: number
  readonly #deviationPx: number
  #seen = NaN
  version = 0

  constructor(source: ArtRaster, deviationPx: number, makeCanvas: (width: number, height: number) => OffscreenCanvas | HTMLCanvasElement) {
    this.source = source
    this.#deviationPx = deviationPx
    this.#padPx = Math.ceil(3 * deviationPx)
    this.canvas = makeCanvas(source.canvas.width + 2 * this.#padPx, source.canvas.height + 2 * this.#padPx)
  }

  get pxPerFw(): number {
    return this.source.pxPerFw
  }
  get left(): number {
    return this.source.left - this.#padPx / this.pxPerFw
  }
  get top(): number {
    return this.source.top + this.#padPx / this.pxPerFw
  }

  follow() {
    if (this.#seen === this.source.version) return
    this.#seen = this.source.version
    this.version = ++versions
    const context = contextOf(this.canvas)
    context.globalAlpha = 1
    context.globalCompositeOperation = 'copy'
    context.drawImage(this.source.canvas as CanvasImageSource, this.#padPx, this.#padPx)
    context.globalCompositeOperation = 'source-in'
    context.fillStyle = '#000000'
    context.fillRect(0, 0, this.canvas.width, this.canvas.height)
    if (this.#deviationPx > 0) soften(context, passesFor(this.#deviationPx))
  }
}

/** A raster made of another by repainting its colours; follows it by what has changed. */
export class DerivedRaster implements ArtRaster {
  readonly canvas: OffscreenCanvas | HTMLCanvasElement
  readonly #source: ArtRaster
  readonly #repaint: (context: Context2D, box: PixelBox) => void
  #seen = -1
  #changes: RasterChange[] = []
  version = 0

  constructor(canvas: OffscreenCanvas | HTMLCanvasElement, source: ArtRaster, repaint: (context: Context2D, box: PixelBox) => void) {
    this.canvas = canvas
    this.#source = source
    this.#repaint = repaint
  }

  get source(): ArtRaster {
    return this.#source
  }
  get pxPerFw(): number {
    return this.#source.pxPerFw
  }
  get left(): number {
    return this.#source.left
  }
  get top(): number {
    return this.#source.top
  }
  get changes(): readonly RasterChange[] {
    return this.#changes
  }

  follow() {
    if (this.#seen === this.#source.version) return
    const changed = changedSince(this.#source, this.#seen)
    const whole = { left: 0, top: 0, right: this.canvas.width, bottom: this.canvas.height }
    const context = contextOf(this.canvas)
    for (const box of changed ?? [whole]) {
      const [w, h] = [box.right - box.left, box.bottom - box.top]
      context.save()
      context.beginPath()
      context.rect(box.left, box.top, w, h)
      context.clip()
      context.globalCompositeOperation = 'copy'
      context.drawImage(this.#source.canvas as CanvasImageSource, box.left, box.top, w, h, box.left, box.top, w, h)
      this.#repaint(context, box)
      context.restore()
    }
    this.#seen = this.#source.version
    const from = this.version
    this.version = ++versions
    this.#changes = changed === null ? [] : [...this.#changes, { from, to: this.version, boxes: changed }].slice(-CHANGES_KEPT)
  }
}
