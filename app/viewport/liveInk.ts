import { strokePath } from './paint'

/** The stroke that is being drawn, before it is a mark. Places are CSS px of the view. */
export interface LiveStyle {
  readonly colour: string
  readonly opacity: number
  readonly widthPx: number
  readonly thinning: number
  /** A picture of the view that shows where the ink goes: what lies over it, or for an eraser all but what it rubs out. */
  readonly atop: CanvasImageSource | null
}

interface Box {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}

/** Outlines are made in thousandths of this many px; the ink's outliner works in units of its own. */
const UNITS = 1000
/** The side of the small canvas that goes with the pen's tip, CSS px. */
const TIP_PX = 288
/** A tail of more points than this is set down but for its last; one that outgrows the tip's canvas too. */
const TAIL_POINTS = 64
const KEPT_POINTS = 12
/** Set-down ink and tail lie over each other by this much, so that no seam shows. */
const LAP_POINTS = 3

/**
 * Draws a stroke as it grows: what is settled on a canvas as large as the view, now and then; the short tail anew with
 * every point, on a small canvas that goes with the pen's tip. So a point costs the same however long the stroke and
 * however large the view is.
 */
export class LiveInk {
  readonly #wrapper: HTMLElement
  readonly #settled: CanvasRenderingContext2D
  readonly #tip: CanvasRenderingContext2D
  #ratio = 1
  #style: LiveStyle = { colour: '#000000', opacity: 1, widthPx: 1, thinning: 0.5, atop: null }
  #points: number[] = []
  #settledBox: Box | null = null
  #tipShown = false

  constructor(wrapper: HTMLElement, settled: HTMLCanvasElement, tip: HTMLCanvasElement) {
    this.#wrapper = wrapper
    this.#settled = settled.getContext('2d', { willReadFrequently: true })!
    this.#tip = tip.getContext('2d', { willReadFrequently: true })!
  }

  /** CSS size and device px a CSS px. What is drawn is lost. */
  resize(widthPx: number, heightPx: number, ratio: number) {
    this.#ratio = ratio
    const size = (canvas: HTMLCanvasElement, w: number, h: number) => {
      canvas.width = Math.max(1, Math.round(w * ratio))
      canvas.height = Math.max(1, Math.round(h * ratio))
      canvas.style.width = `${w}px`
      canvas.style.height = `${h}px`
    }
    size(this.#settled.canvas, widthPx, heightPx)
    size(this.#tip.canvas, TIP_PX, TIP_PX)
    this.#settledBox = null
    this.#tipShown = false
  }

  begin(style: LiveStyle) {
    this.clear()
    this.#style = style
    this.#wrapper.style.opacity = style.opacity === 1 ? '' : String(style.opacity)
  }

  add(x: number, y: number, pressure: number) {
    this.#points.push(x / UNITS, y / UNITS, pressure)
  }

  /** Shows what was added since. */
  paint() {
    if (this.#points.length === 0) return
    let box = this.#boxOf(this.#points)
    if (this.#points.length > TAIL_POINTS * 3 || !fitsTip(box)) {
      this.#settle(Math.max(0, this.#points.length - KEPT_POINTS * 3))
      box = this.#boxOf(this.#points)
      // The hand is faster than the tip's canvas is wide.
      if (!fitsTip(box)) this.#settle(this.#points.length - 3)
      box = this.#boxOf(this.#points)
    }
    if (fitsTip(box)) return this.#showTip(box)
    // The brush itself is wider: each dab goes straight down.
    this.#ink(this.#settled, this.#points, 0, 0)
    this.#settledBox = joined(this.#settledBox, box)
  }

  /** Sets ink down up to a value of the points; what is left is the tail. */
  #settle(cut: number) {
    if (cut <= 0) return
    const points = this.#points.slice(0, cut + LAP_POINTS * 3)
    this.#ink(this.#settled, points, 0, 0)
    this.#settledBox = joined(this.#settledBox, this.#boxOf(points))
    this.#points = this.#points.slice(cut)
  }

  #showTip(box: Box) {
    const { canvas } = this.#tip
    // On whole device px, so that the tail lies where the settled ink does.
    const place = (middle: number) => Math.round((middle - TIP_PX / 2) * this.#ratio) / this.#ratio
    const [left, top] = [place((box.left + box.right) / 2), place((box.top + box.bottom) / 2)]
    this.#tip.setTransform(1, 0, 0, 1, 0, 0)
    this.#tip.clearRect(0, 0, canvas.width, canvas.height)
    this.#ink(this.#tip, this.#points, left, top)
    canvas.style.transform = `translate(${left}px, ${top}px)`
    this.#tipShown = true
  }

  /** Shows other points instead of all that were there. */
  replace(points: readonly number[]) {
    const { opacity } = this.#wrapper.style
    this.clear()
    this.#wrapper.style.opacity = opacity
    const all: number[] = []
    for (let i = 0; i + 2 < points.length; i += 3) all.push(points[i]! / UNITS, points[i + 1]! / UNITS, points[i + 2]!)
    if (all.length === 0) return
    this.#ink(this.#settled, all, 0, 0)
    this.#settledBox = this.#boxOf(all)
  }

  clear() {
    this.#points = []
    if (this.#settledBox !== null) {
      const { left, top, right, bottom } = this.#settledBox
      const at = this.#ratio
      this.#settled.setTransform(1, 0, 0, 1, 0, 0)
      this.#settled.clearRect(Math.floor(left * at) - 1, Math.floor(top * at) - 1, Math.ceil((right - left) * at) + 3, Math.ceil((bottom - top) * at) + 3)
      this.#settledBox = null
    }
    if (this.#tipShown) {
      this.#tip.setTransform(1, 0, 0, 1, 0, 0)
      this.#tip.clearRect(0, 0, this.#tip.canvas.width, this.#tip.canvas.height)
      this.#tipShown = false
    }
  }

  /** Inks points on a canvas whose corner lies at (left, top) of the view. */
  #ink(context: CanvasRenderingContext2D, points: readonly number[], left: number, top: number) {
    const { colour, widthPx, thinning, atop } = this.#style
    const at = this.#ratio
    context.setTransform(at, 0, 0, at, -left * at, -top * at)
    context.fillStyle = colour
    context.fill(strokePath(points, widthPx / UNITS, thinning))
    if (atop === null) return
    // Only what was inked takes the picture on.
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.globalCompositeOperation = 'source-atop'
    const box = this.#boxOf(points)
    const [x, y] = [Math.max(0, Math.floor(box.left * at)), Math.max(0, Math.floor(box.top * at))]
    const [w, h] = [Math.ceil(box.right * at) - x, Math.ceil(box.bottom * at) - y]
    if (w > 0 && h > 0) context.drawImage(atop, x, y, w, h, x - Math.round(left * at), y - Math.round(top * at), w, h)
    context.globalCompositeOperation = 'source-over'
  }

  #boxOf(points: readonly number[]): Box {
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let i = 0; i + 2 < points.length; i += 3) {
      left = Math.min(left, points[i]!)
      right = Math.max(right, points[i]!)
      top = Math.min(top, points[i + 1]!)
      bottom = Math.max(bottom, points[i + 1]!)
    }
    const out = this.#style.widthPx + 3
    return { left: left * UNITS - out, top: top * UNITS - out, right: right * UNITS + out, bottom: bottom * UNITS + out }
  }
}

const fitsTip = (box: Box) => box.right - box.left <= TIP_PX && box.bottom - box.top <= TIP_PX

function joined(a: Box | null, b: Box | null): Box | null {
  if (a === null || b === null) return a ?? b
  return { left: Math.min(a.left, b.left), top: Math.min(a.top, b.top), right: Math.max(a.right, b.right), bottom: Math.max(a.bottom, b.bottom) }
}
