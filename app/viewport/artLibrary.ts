import { drawingBounds, isForPrint } from '@rubato/core/ink'
import type { Drawing } from '@rubato/core/document'
import { grown, heightOf, intersection, widthOf, type Rectangle } from '@rubato/core/geometry'
import { contextOf, DerivedRaster, PaintedRaster, RIM_PX, ShadowRaster, type ArtRaster } from './artRaster'
import { INK, lookName, paintGhost, type Look } from './looks'
import { freeCanvas, type Context2D, type PictureLookup } from './paint'
import type { PixelBox } from './pixelBox'
import { deviationOf } from '@rubato/core/depth'
import { forgetSoft } from './softPyramid'

export { RIM_PX }
export type { ArtRaster }

const LARGEST_SIDE_PX = 8192
/** A whole drawing larger than this is kept only where it is looked at. */
const LARGEST_AREA_PX = 13_000_000
const LOWEST_OCTAVE = -6
const HIGHEST_OCTAVE = 8
/** Rasters are made this much wider than the ink, so that the next stroke mostly fits. */
const GROWTH_FW = 0.125
/** A window onto a drawing reaches this part of what is looked at beyond it on each side. */
const WINDOW_MARGIN = 0.15
/** Fewer marks are painted at once: showing every slice costs more than they do. */
const MANY_MARKS = 1500
/** Of the budget, what rasters of shots left behind may fill. */
const RESTING_SHARE = 1 / 16
/** A shadow's softness at its octave, px of deviation. */
const SHADOW_PX = 3

interface Kept {
  drawing: Drawing
  /** What the raster can show, fw. */
  room: Rectangle
  /** Part of the drawing only: it was too large for the whole. */
  window: boolean
  raster: PaintedRaster | DerivedRaster | ShadowRaster | ArtRaster
  usedAt: number
  /** The shot that was open when it was last used, counted from the first. */
  usedIn: number
  bytes: number
}

type MakeCanvas = (width: number, height: number) => OffscreenCanvas | HTMLCanvasElement

export interface LibraryOptions {
  readonly budgetBytes?: number
  readonly makeCanvas?: MakeCanvas
  /** Longer than this no raster is painted at once; what is missing comes with `continue`. */
  readonly sliceMs?: number
  readonly nowMs?: () => number
}

let ghostVersions = 0

/**
 * Rasters of drawings by octave: octave 0 has `basePxPerFw` (the output's width), each above twice the one below.
 * Every octave is made from the marks themselves, so a close-up is as sharp as the pen; what is too large for a whole
 * raster is kept as a window onto what is seen. Least recently used rasters go when the budget is passed; those not used
 * since the shot before the last, as soon as what may rest of it is.
 */
export class ArtLibrary {
  readonly basePxPerFw: number
  readonly #pictures: PictureLookup
  readonly #makeCanvas: MakeCanvas
  readonly #budgetBytes: number
  readonly #sliceMs: number
  readonly #nowMs: () => number
  readonly #kept = new Map<string, Kept>()
  readonly #unfinished = new Set<PaintedRaster>()
  #bytes = 0
  #clock = 0
  #shot = 0
  #letGo: { readonly raster: ArtRaster; readonly shot: number }[] = []
  /** How many rasters were made from nothing; for benchmarks and tests. */
  made = 0

  constructor(basePxPerFw: number, pictures: PictureLookup, { budgetBytes = 384 * 1024 * 1024, makeCanvas = (w, h) => new OffscreenCanvas(w, h), sliceMs = Infinity, nowMs = () => performance.now() }: LibraryOptions = {}) {
    this.basePxPerFw = basePxPerFw
    this.#pictures = pictures
    this.#budgetBytes = budgetBytes
    this.#makeCanvas = makeCanvas
    this.#sliceMs = sliceMs
    this.#nowMs = nowMs
  }

  /** The octave whose raster is shrunk to no less than half when `pxPerFw` are needed; a native picture's own at most. */
  octaveFor(drawing: Drawing, pxPerFw: number): number {
    const wanted = Math.ceil(Math.log2(pxPerFw / this.basePxPerFw) - 1e-6)
    const octave = Math.min(HIGHEST_OCTAVE, Math.max(LOWEST_OCTAVE, wanted))
    const native = nativePicture(drawing)
    if (native === null) return octave
    return Math.min(octave, Math.max(LOWEST_OCTAVE, Math.ceil(Math.log2(native / this.basePxPerFw) - 1e-6)))
  }

  /** A drawing that is one picture keeps the picture's own pixels at its top octave. */
  #density(drawing: Drawing, octave: number): number {
    const native = nativePicture(drawing)
    const density = this.basePxPerFw * 2 ** octave
    return native !== null && density >= native ? native : density
  }

  /** True when all of a drawing can be kept at an octave. */
  fits(drawing: Drawing, octave: number): boolean {
    const bounds = drawingBounds(drawing)
    if (bounds === null) return true
    const density = this.#density(drawing, octave)
    const [w, h] = [(widthOf(bounds) + GROWTH_FW * 2) * density, (heightOf(bounds) + GROWTH_FW * 2) * density]
    return Math.max(w, h) <= LARGEST_SIDE_PX && w * h <= LARGEST_AREA_PX
  }

  /** How much of the budget is used, 0…1. */
  get fullness(): number {
    return this.#bytes / this.#budgetBytes
  }

  /** Another shot was opened. */
  beginShot() {
    this.#shot++
    this.#free(this.#shot - 1)
    this.#makeRoom(null)
  }

  has(id: string, drawing: Drawing, octave: number): boolean {
    const known = this.#kept.get(keyOf(id, octave, INK))
    return known?.drawing === drawing && !known.window
  }

  /** Some raster is only painted in part so far. */
  get unfinished(): boolean {
    return this.#unfinished.size > 0
  }

  /** Paints on at what is missing, for `ms`; true when nothing is. */
  continue(ms: number): boolean {
    const until = this.#nowMs() + ms
    for (const raster of this.#unfinished) {
      if (raster.continue(this.#nowMs, until)) this.#unfinished.delete(raster)
      if (this.#nowMs() >= until) break
    }
    return this.#unfinished.size === 0
  }

  /**
   * The raster of a drawing at an octave; null for an empty drawing, and where nothing of it is in `seen` (fw), which is
   * asked only for what is too large to be kept whole. Without it, a lower octave is given then.
   */
  raster(id: string, drawing: Drawing, octave: number, look: Look = INK, seen: (() => Rectangle | null) | null = null): ArtRaster | null {
    if (look === INK) {
      const known = this.#kept.get(keyOf(id, octave, INK))
      if (known?.drawing === drawing && !known.window) {
        this.#touch(known)
        return known.raster
      }
    }
    const bounds = drawingBounds(drawing)
    if (bounds === null) return null
    if (look.kind === 'shadow') return this.#shadow(id, drawing, octave, look)
    let level = octave
    let window: Rectangle | null = null
    if (!this.fits(drawing, level)) {
      const region = seen?.() ?? null
      if (seen !== null && region === null) return null
      if (region === null) while (level > LOWEST_OCTAVE && !this.fits(drawing, level)) level--
      else {
        window = intersection(region, grown(bounds, 1 / this.#density(drawing, level)))
        if (window === null) return null
      }
    }
    if (look.kind === 'toned' || look.kind === 'silhouette') return this.#derived(id, drawing, level, look, window)
    return this.#painted(id, drawing, level, look, bounds, window)
  }

  #painted(id: string, drawing: Drawing, octave: number, look: Look, bounds: Rectangle, window: Rectangle | null): ArtRaster | null {
    const key = keyOf(id, octave, look)
    const known = this.#kept.get(key)
    if (known !== undefined) {
      this.#touch(known)
      if (this.#serves(known, drawing, octave, bounds, window)) return known.raster
      this.#drop(key, known)
    }
    return this.#make(key, drawing, octave, look, bounds, window)
  }

  /** Makes a kept raster show what is wanted, where it can. */
  #serves(known: Kept, drawing: Drawing, octave: number, bounds: Rectangle, window: Rectangle | null): boolean {
    if (known.window !== (window !== null) || (window !== null && !covers(known.room, window))) return false
    if (known.drawing === drawing) return true
    const { raster } = known
    if (!(raster instanceof PaintedRaster) || raster.pxPerFw !== this.#density(drawing, octave)) return false
    if (window === null && !covers(known.room, bounds)) {
      if (nativePicture(drawing) !== null || !this.#widen(known, raster, this.#roomAround(bounds, raster.pxPerFw))) return false
    }
    known.drawing = drawing
    const now = known.raster as PaintedRaster
    this.#unfinished.delete(now)
    now.follow(drawing)
    return true
  }

  /** False where the wider raster's px would fall between this one's. */
  #widen(known: Kept, raster: PaintedRaster, wanted: Rectangle): boolean {
    const room = { left: Math.min(wanted.left, known.room.left), bottom: Math.min(wanted.bottom, known.room.bottom), right: Math.max(wanted.right, known.room.right), top: Math.max(wanted.top, known.room.top) }
    const off = [(raster.left - room.left) * raster.pxPerFw, (room.top - raster.top) * raster.pxPerFw]
    if (off.some((px) => Math.abs(px - Math.round(px)) > 1e-6)) return false
    const canvas = this.#canvasFor(room, raster.pxPerFw, false)
    this.#unfinished.delete(raster)
    if (!raster.finished) raster.continue(this.#nowMs, Infinity)
    known.raster = raster.movedTo(canvas, room)
    known.room = room
    this.#bytes += canvas.width * canvas.height * 4 - known.bytes
    known.bytes = canvas.width * canvas.height * 4
    return true
  }

  #canvasFor(room: Rectangle, pxPerFw: number, exact: boolean) {
    const size = (fw: number) => Math.max(1, exact ? Math.round(fw * pxPerFw) : Math.ceil(fw * pxPerFw - 1e-6)) + 2 * RIM_PX
    return this.#makeCanvas(size(widthOf(room)), size(heightOf(room)))
  }

  #make(key: string, drawing: Drawing, octave: number, look: Look, bounds: Rectangle, window: Rectangle | null): ArtRaster {
    const pxPerFw = this.#density(drawing, octave)
    const native = window === null && nativePicture(drawing) !== null
    // A picture's edges fall on whole pixels, so that 1:1 is 1:1.
    const room = native ? bounds : window === null ? this.#roomAround(bounds, pxPerFw) : windowAround(window, bounds, pxPerFw)
    const canvas = this.#canvasFor(room, pxPerFw, native)
    let raster: ArtRaster
    if (look.kind === 'ghost') {
      paintGhost(contextOf(canvas), drawing, look.side, pxPerFw, room.left, room.top, RIM_PX)
      raster = { canvas, version: --ghostVersions, pxPerFw, left: room.left, top: room.top, changes: [] }
    } else {
      const painted = new PaintedRaster(canvas, drawing, room, pxPerFw, this.#pictures)
      const untilMs = drawing.marks.length > MANY_MARKS ? this.#nowMs() + this.#sliceMs : Infinity
      if (!painted.continue(this.#nowMs, untilMs)) this.#unfinished.add(painted)
      raster = painted
    }
    return this.#keep(key, drawing, room, window !== null, raster)
  }

  #keep(key: string, drawing: Drawing, room: Rectangle, window: boolean, raster: ArtRaster): ArtRaster {
    this.made++
    const bytes = raster.canvas.width * raster.canvas.height * 4
    this.#kept.set(key, { drawing, room, window, raster, usedAt: ++this.#clock, usedIn: this.#shot, bytes })
    this.#bytes += bytes
    this.#makeRoom(key)
    return raster
  }

  /** A drawing's shadow, whole, at an octave where its softness is a few px: more would be made for nothing. */
  #shadow(id: string, drawing: Drawing, octave: number, look: Extract<Look, { readonly kind: 'shadow' }>): ArtRaster | null {
    const deviation = deviationOf(look.soft)
    let level = deviation === 0 ? octave : Math.min(octave, Math.max(LOWEST_OCTAVE, Math.floor(Math.log2(SHADOW_PX / deviation / this.basePxPerFw))))
    while (level > LOWEST_OCTAVE && !this.fits(drawing, level)) level--
    const source = this.#painted(id, drawing, level, INK, drawingBounds(drawing)!, null)
    if (source === null) return null
    const key = keyOf(id, level, look)
    const known = this.#kept.get(key)
    if (known?.raster instanceof ShadowRaster && known.raster.source === source) {
      this.#touch(known)
      known.drawing = drawing
      known.raster.follow()
      return known.raster
    }
    if (known !== undefined) this.#drop(key, known)
    const shadow = new ShadowRaster(source, deviation * source.pxPerFw, this.#makeCanvas)
    shadow.follow()
    return this.#keep(key, drawing, this.#kept.get(keyOf(id, level, INK))!.room, false, shadow)
  }

  #derived(id: string, drawing: Drawing, octave: number, look: Look, window: Rectangle | null): ArtRaster | null {
    const source = this.#painted(id, drawing, octave, INK, drawingBounds(drawing)!, window)
    if (source === null) return null
    const key = keyOf(id, octave, look)
    const known = this.#kept.get(key)
    if (known !== undefined && known.raster instanceof DerivedRaster && known.raster.source === source) {
      this.#touch(known)
      known.drawing = drawing
      known.raster.follow()
      return known.raster
    }
    if (known !== undefined) this.#drop(key, known)
    const derived = new DerivedRaster(this.#makeCanvas(source.canvas.width, source.canvas.height), source, (context, box) => repaint(context, box, look))
    derived.follow()
    const room = this.#kept.get(keyOf(id, octave, INK))!.room
    return this.#keep(key, drawing, room, window !== null, derived)
  }

  #touch(known: Kept) {
    known.usedAt = ++this.#clock
    known.usedIn = this.#shot
  }

  /** A raster that is there already and has `pxPerFw` or more, the coarsest of them; else one of that fineness is made. */
  anyRaster(id: string, drawing: Drawing, pxPerFw: number): ArtRaster | null {
    const least = this.octaveFor(drawing, pxPerFw)
    for (let octave = least; octave <= HIGHEST_OCTAVE; octave++) {
      if (this.has(id, drawing, octave)) return this.raster(id, drawing, octave)
    }
    return this.raster(id, drawing, least)
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
    if (kept.raster instanceof PaintedRaster) this.#unfinished.delete(kept.raster)
    this.#letGo.push({ raster: kept.raster, shot: this.#shot })
  }

  /**
   * Gives the memory of rasters back that were let go. What was let go since the shot before this one was opened may still
   * be on a screen.
   */
  #free(before: number) {
    this.#letGo = this.#letGo.filter(({ raster, shot }) => {
      if (shot >= before) return true
      freeCanvas(raster.canvas)
      forgetSoft(raster)
      return false
    })
  }

  /** For painters that show nothing themselves: whatever was let go is not looked at any more. */
  freeAll() {
    this.#free(Infinity)
  }

  /** Keeps nothing any more; for painters that have nothing left to do. */
  empty() {
    for (const [key, kept] of this.#kept) this.#drop(key, kept)
    this.freeAll()
  }

  /** Forgets all rasters of some drawings. */
  forgetDrawings(ids: readonly string[]) {
    const gone = new Set(ids)
    for (const [key, kept] of this.#kept) if (gone.has(key.slice(0, key.lastIndexOf('@')))) this.#drop(key, kept)
  }

  /** Forgets the rasters that show a picture whose pixels have come. */
  forgetPicture(assetHash: string) {
    for (const [key, kept] of this.#kept) {
      if (kept.drawing.marks.some((mark) => mark.kind === 'picture' && mark.assetHash === assetHash)) this.#drop(key, kept)
    }
  }
}

const keyOf = (id: string, octave: number, look: Look) => (look.kind === 'ink' ? `${id}@${octave}` : `${id}@${octave} ${lookName(look)}`)

function covers(room: Rectangle, wanted: Rectangle): boolean {
  const hair = 1e-9
  return room.left <= wanted.left + hair && room.right >= wanted.right - hair && room.bottom <= wanted.bottom + hair && room.top >= wanted.top - hair
}

/** A window with a margin, no wider than the drawing, on whole px of the octave. */
function windowAround(window: Rectangle, bounds: Rectangle, pxPerFw: number): Rectangle {
  const margin = WINDOW_MARGIN * Math.max(widthOf(window), heightOf(window))
  const most = grown(bounds, 2 / pxPerFw)
  const wide = intersection(grown(window, margin), most) ?? window
  const down = (v: number) => Math.floor(v * pxPerFw) / pxPerFw
  const up = (v: number) => Math.ceil(v * pxPerFw) / pxPerFw
  return { left: down(wide.left), bottom: down(wide.bottom), right: up(wide.right), top: up(wide.top) }
}

function repaint(context: Context2D, { left, top, right, bottom }: PixelBox, look: Look) {
  const turned = (colour: string, strength: number) => {
    context.globalCompositeOperation = 'source-atop'
    context.globalAlpha = strength
    context.fillStyle = colour
    context.fillRect(left, top, right - left, bottom - top)
  }
  if (look.kind === 'silhouette') return turned('#000000', 1)
  if (look.kind !== 'toned') return
  const { tint, tone } = look
  if (tint !== null) turned(tint.colour, tint.strength)
  if (tone === null) return
  if (tone.colour < 1) lessColour(context, { left, top, right, bottom }, tone.colour)
  if (tone.light !== 0) turned(tone.light > 0 ? '#ffffff' : '#000000', Math.abs(tone.light))
}

/** Weights of red, green and blue in how light a colour is: Rec. 709 on sRGB values. */
const LIGHTNESS = [0.2126, 0.7152, 0.0722] as const

/** Colours go so much of the way from the grey that is as light, whatever the context's own ways of mixing are. */
function lessColour(context: Context2D, { left, top, right, bottom }: PixelBox, kept: number) {
  const image = context.getImageData(left, top, right - left, bottom - top)
  const { data } = image
  for (let i = 0; i < data.length; i += 4) {
    const grey = data[i]! * LIGHTNESS[0] + data[i + 1]! * LIGHTNESS[1] + data[i + 2]! * LIGHTNESS[2]
    for (let channel = 0; channel < 3; channel++) data[i + channel] = grey + (data[i + channel]! - grey) * kept
  }
  context.putImageData(image, left, top)
}

/** Pixels a frame width of a drawing that is nothing but one picture, unturned; else null. */
function nativePicture({ marks }: Drawing): number | null {
  // What is in no picture changes none.
  const at = marks.findIndex((mark) => !isForPrint(mark))
  const only = marks[at]
  if (only === undefined || only.kind !== 'picture' || marks.some((mark, i) => i > at && !isForPrint(mark))) return null
  return (only.turnDegrees ?? 0) === 0 && only.mirrored !== true ? only.widthPx / only.widthFw : null
}
