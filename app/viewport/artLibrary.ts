import type { Drawing, Mark } from '@rubato/core/document'
import { heightOf, widthOf, type Rectangle } from '@rubato/core/geometry'
import { drawingBounds, marksInOrder, paintMarks, type PictureLookup } from './paint'

/** A drawing's pixels at one resolution, cropped to what is drawn, with a clear rim so that edges stay soft. */
export interface ArtRaster {
  readonly canvas: OffscreenCanvas | HTMLCanvasElement
  /** New whenever the pixels change, and no other raster's: it names these very pixels. */
  version: number
  readonly pxPerFw: number
  /** The art point that falls on the raster's top left pixel corner, inside the rim. */
  readonly left: number
  readonly top: number
}

export const RIM_PX = 2
const LARGEST_SIDE_PX = 8192
const LARGEST_AREA_PX = 24_000_000
const LOWEST_OCTAVE = -6
const HIGHEST_OCTAVE = 4
/** Rasters are made this much wider than the ink, so that the next stroke mostly fits. */
const GROWTH_FW = 0.125
/** Of the budget, what rasters of shots left behind may fill. */
const RESTING_SHARE = 1 / 3

interface Kept {
  drawing: Drawing
  bounds: Rectangle
  raster: ArtRaster
  usedAt: number
  /** The shot that was open when it was last used, counted from the first. */
  usedIn: number
  bytes: number
}

let versions = 0

type MakeCanvas = (width: number, height: number) => OffscreenCanvas | HTMLCanvasElement

/**
 * Rasters of drawings by octave: octave 0 has `basePxPerFw` (the output's width), each above twice the one below.
 * Every octave is made from the marks themselves, so a close-up is as sharp as the pen. Least recently used rasters
 * go when the budget is passed; those not used since the shot before the last, as soon as a third of it is.
 */
export class ArtLibrary {
  readonly basePxPerFw: number
  readonly #pictures: PictureLookup
  readonly #makeCanvas: MakeCanvas
  readonly #budgetBytes: number
  readonly #kept = new Map<string, Kept>()
  #bytes = 0
  #clock = 0
  #shot = 0
  /** How many rasters were made from nothing; for benchmarks and tests. */
  made = 0

  constructor(basePxPerFw: number, pictures: PictureLookup, budgetBytes = 384 * 1024 * 1024, makeCanvas: MakeCanvas = (w, h) => new OffscreenCanvas(w, h)) {
    this.basePxPerFw = basePxPerFw
    this.#pictures = pictures
    this.#budgetBytes = budgetBytes
    this.#makeCanvas = makeCanvas
  }

  /** The octave whose raster is shrunk to no less than half when `pxPerFw` are needed; a native picture's own at most. */
  octaveFor(drawing: Drawing, pxPerFw: number): number {
    const wanted = Math.ceil(Math.log2(pxPerFw / this.basePxPerFw) - 1e-6)
    const bounds = drawingBounds(drawing)
    let octave = Math.min(HIGHEST_OCTAVE, Math.max(LOWEST_OCTAVE, wanted))
    if (bounds === null) return octave
    const longest = Math.max(widthOf(bounds), heightOf(bounds)) + GROWTH_FW * 2
    const area = (widthOf(bounds) + GROWTH_FW * 2) * (heightOf(bounds) + GROWTH_FW * 2)
    const fits = (o: number) => {
      const density = this.#density(drawing, o)
      return longest * density <= LARGEST_SIDE_PX && area * density * density <= LARGEST_AREA_PX
    }
    const native = nativePicture(drawing)
    if (native !== null) {
      const nativeOctave = Math.ceil(Math.log2(native / this.basePxPerFw) - 1e-6)
      octave = Math.min(octave, Math.max(LOWEST_OCTAVE, nativeOctave))
    }
    while (octave > LOWEST_OCTAVE && !fits(octave)) octave--
    return octave
  }

  /** A drawing that is one picture keeps the picture's own pixels at its top octave. */
  #density(drawing: Drawing, octave: number): number {
    const native = nativePicture(drawing)
    const density = this.basePxPerFw * 2 ** octave
    return native !== null && density >= native ? native : density
  }

  /** How much of the budget is used, 0…1. */
  get fullness(): number {
    return this.#bytes / this.#budgetBytes
  }

  /** Another shot was opened. */
  beginShot() {
    this.#shot++
    this.#makeRoom(null)
  }

  has(id: string, drawing: Drawing, octave: number): boolean {
    return this.#kept.get(`${id}@${octave}`)?.drawing === drawing
  }

  /** The raster of a drawing at an octave; null for an empty drawing. Made now where it is not there. */
  raster(id: string, drawing: Drawing, octave: number): ArtRaster | null {
    const bounds = drawingBounds(drawing)
    if (bounds === null) return null
    const key = `${id}@${octave}`
    const known = this.#kept.get(key)
    if (known !== undefined) {
      known.usedAt = ++this.#clock
      known.usedIn = this.#shot
      if (known.drawing === drawing) return known.raster
      if (this.#paintOn(known, drawing, bounds)) return known.raster
      this.#drop(key, known)
    }
    return this.#make(key, drawing, bounds, octave)
  }

  /** Some raster of a drawing for a small picture of it: the coarsest there is, else one made at a quarter. */
  anyRaster(id: string, drawing: Drawing): ArtRaster | null {
    for (let octave = LOWEST_OCTAVE; octave <= HIGHEST_OCTAVE; octave++) {
      if (this.has(id, drawing, octave)) return this.raster(id, drawing, octave)
    }
    return this.raster(id, drawing, this.octaveFor(drawing, this.basePxPerFw / 4))
  }

  /** Where a drawing only gained marks on top inside the raster, they are painted on it. */
  #paintOn(known: Kept, drawing: Drawing, bounds: Rectangle): boolean {
    if (bounds.left < known.bounds.left || bounds.right > known.bounds.right || bounds.bottom < known.bounds.bottom || bounds.top > known.bounds.top) return false
    const before = marksInOrder(known.drawing)
    const after = marksInOrder(drawing)
    if (after.length <= before.length || before.some((mark, i) => after[i] !== mark)) return false
    this.#paint(known.raster, after.slice(before.length))
    known.drawing = drawing
    return true
  }

  #paint(raster: ArtRaster, marks: readonly Mark[]) {
    const context = raster.canvas.getContext('2d', { willReadFrequently: true }) as OffscreenCanvasRenderingContext2D
    paintMarks(context, marks, raster.pxPerFw, raster.left, raster.top, RIM_PX, this.#pictures)
    raster.version = ++versions
  }

  #make(key: string, drawing: Drawing, bounds: Rectangle, octave: number): ArtRaster {
    const pxPerFw = this.#density(drawing, octave)
    const native = nativePicture(drawing) !== null
    const room = native ? bounds : this.#roomAround(bounds, pxPerFw)
    // A picture's edges fall on whole pixels, so that 1:1 is 1:1.
    const width = native ? Math.round(widthOf(room) * pxPerFw) : Math.ceil(widthOf(room) * pxPerFw)
    const height = native ? Math.round(heightOf(room) * pxPerFw) : Math.ceil(heightOf(room) * pxPerFw)
    const canvas = this.#makeCanvas(Math.max(1, width) + 2 * RIM_PX, Math.max(1, height) + 2 * RIM_PX)
    const raster: ArtRaster = { canvas, version: 0, pxPerFw, left: room.left, top: room.top }
    this.#paint(raster, marksInOrder(drawing))
    this.made++
    const bytes = canvas.width * canvas.height * 4
    this.#kept.set(key, { drawing, bounds: room, raster, usedAt: ++this.#clock, usedIn: this.#shot, bytes })
    this.#bytes += bytes
    this.#makeRoom(key)
    return raster
  }

  #roomAround(bounds: Rectangle, pxPerFw: number): Rectangle {
    const step = GROWTH_FW
    const down = (v: number) => Math.floor(v / step) * step
    const up = (v: number) => Math.ceil(v / step) * step
    const pad = 1 / pxPerFw
    return { left: down(bounds.left - pad), bottom: down(bounds.bottom - pad), right: up(bounds.right + pad), top: up(bounds.top + pad) }
  }

  #makeRoom(keep: string | null) {
    const resting = this.#budgetBytes * RESTING_SHARE
    if (this.#bytes <= resting) return
    const oldest = [...this.#kept].sort((a, b) => a[1].usedAt - b[1].usedAt)
    for (const [key, kept] of oldest) {
      const over = this.#bytes > this.#budgetBytes || (this.#bytes > resting && kept.usedIn < this.#shot - 1)
      if (over && key !== keep) this.#drop(key, kept)
    }
  }

  #drop(key: string, kept: Kept) {
    this.#kept.delete(key)
    this.#bytes -= kept.bytes
  }

  /** Forgets the rasters that show a picture whose pixels have come. */
  forgetPicture(assetHash: string) {
    for (const [key, kept] of this.#kept) {
      if (Object.values(kept.drawing.marks).some((mark) => mark.kind === 'picture' && mark.assetHash === assetHash)) this.#drop(key, kept)
    }
  }
}

/** Pixels a frame width of a drawing that is nothing but one picture; else null. */
function nativePicture(drawing: Drawing): number | null {
  let only: Mark | null = null
  for (const id in drawing.marks) {
    if (only !== null) return null
    only = drawing.marks[id]!
  }
  return only !== null && only.kind === 'picture' ? only.widthPx / only.widthFw : null
}
