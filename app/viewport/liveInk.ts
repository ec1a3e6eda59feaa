import { strokePath, type Context2D } from './paint'

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
  left: number
  top: number
  right: number
  bottom: number
}

/** Outlines are made in thousandths of this many px; the ink's outliner works in units of its own. */
const UNITS = 1000
/** A tail longer than this is set down but for its last points. */
const TAIL_POINTS = 72
const KEPT_POINTS = 24
/** Set-down ink and tail lie over each other by this much, so that no seam shows. */
const LAP_POINTS = 3

/**
 * Draws a stroke as it grows: what is settled is kept aside, and only a short tail is drawn anew with every point. So a
 * point costs the same however long the stroke is. The canvas is desynchronised: what is drawn need not wait for the
 * page, and where there is no graphics card a frame takes a third of the time.
 */
export class LiveInk {
  readonly #settled: Context2D
  readonly #shownOn: CanvasRenderingContext2D
  #ratio = 1
  #style: LiveStyle = { colour: '#000000', opacity: 1, widthPx: 1, thinning: 0.5, atop: null }
  #points: number[] = []
  #shown: Box | null = null
  #settledBox: Box | null = null
  #ring: Box | null = null

  constructor(canvas: HTMLCanvasElement) {
    this.#shownOn = canvas.getContext('2d', { willReadFrequently: true, desynchronized: true })!
    this.#settled = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
  }

  /** CSS size and device px a CSS px. What is drawn is lost. */
  resize(widthPx: number, heightPx: number, ratio: number) {
    this.#ratio = ratio
    const [w, h] = [Math.max(1, Math.round(widthPx * ratio)), Math.max(1, Math.round(heightPx * ratio))]
    for (const { canvas } of [this.#settled, this.#shownOn]) {
      if (canvas.width !== w) canvas.width = w
      if (canvas.height !== h) canvas.height = h
    }
    const { style } = this.#shownOn.canvas
    style.width = `${widthPx}px`
    style.height = `${heightPx}px`
    this.#shown = this.#settledBox = this.#ring = null
  }

  /** Shows how large the ink would be at a place; not while a stroke grows. */
  ring(x: number, y: number, sizePx: number) {
    this.hideRing()
    if (this.#points.length > 0) return
    const context = this.#shownOn
    const [r, at] = [Math.max(1.5, sizePx / 2), this.#ratio]
    context.setTransform(at, 0, 0, at, 0, 0)
    for (const [colour, radius] of [['rgb(255 255 255 / 0.7)', r + 1], ['rgb(39 36 30 / 0.8)', r]] as const) {
      context.strokeStyle = colour
      context.lineWidth = 1
      context.beginPath()
      context.arc(x, y, radius, 0, 7)
      context.stroke()
    }
    const out = r + 3
    this.#ring = { left: Math.floor((x - out) * at), top: Math.floor((y - out) * at), right: Math.ceil((x + out) * at), bottom: Math.ceil((y + out) * at) }
  }

  hideRing() {
    this.#wipe(this.#shownOn, this.#ring)
    this.#ring = null
  }

  begin(style: LiveStyle) {
    this.hideRing()
    this.clear()
    this.#style = style
    this.#shownOn.canvas.style.opacity = style.opacity === 1 ? '' : String(style.opacity)
  }

  add(x: number, y: number, pressure: number) {
    this.#points.push(x / UNITS, y / UNITS, pressure)
  }

  /** Shows what was added since. */
  paint() {
    if (this.#points.length > TAIL_POINTS * 3) {
      const cut = this.#points.length - KEPT_POINTS * 3
      const box = this.#draw(this.#settled, this.#points.slice(0, cut + LAP_POINTS * 3))
      this.#settledBox = joined(this.#settledBox, box)
      this.#points = this.#points.slice(cut)
      this.#shown = joined(this.#shown, box)
    }
    this.#showTail()
  }

  /** Shows other points instead of all that were there. */
  replace(points: readonly number[]) {
    this.#points = []
    for (let i = 0; i + 2 < points.length; i += 3) this.add(points[i]!, points[i + 1]!, points[i + 2]!)
    this.#showTail()
  }

  /** What the tail covered shows the settled ink again, then the tail is drawn over that. */
  #showTail() {
    const box = this.#shown
    this.#wipe(this.#shownOn, box)
    if (box !== null && this.#settledBox !== null) {
      const [w, h] = [box.right - box.left, box.bottom - box.top]
      this.#shownOn.drawImage(this.#settled.canvas, box.left, box.top, w, h, box.left, box.top, w, h)
    }
    this.#shown = this.#draw(this.#shownOn, this.#points)
  }

  clear() {
    this.#points = []
    this.#wipe(this.#shownOn, joined(this.#shown, this.#settledBox))
    this.#wipe(this.#settled, this.#settledBox)
    this.#shown = this.#settledBox = null
  }

  #wipe(context: Context2D, box: Box | null) {
    if (box === null) return
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.clearRect(box.left, box.top, box.right - box.left, box.bottom - box.top)
  }

  #draw(context: Context2D, points: readonly number[]): Box | null {
    if (points.length === 0) return null
    const { colour, widthPx, thinning, atop } = this.#style
    const scale = this.#ratio
    context.setTransform(scale, 0, 0, scale, 0, 0)
    context.fillStyle = colour
    context.fill(strokePath(points, widthPx / UNITS, thinning))
    const box = this.#boxOf(points, widthPx)
    if (atop !== null) {
      context.setTransform(1, 0, 0, 1, 0, 0)
      context.globalCompositeOperation = 'source-atop'
      const [w, h] = [box.right - box.left, box.bottom - box.top]
      context.drawImage(atop, box.left, box.top, w, h, box.left, box.top, w, h)
      context.globalCompositeOperation = 'source-over'
    }
    return box
  }

  #boxOf(points: readonly number[], widthPx: number): Box {
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let i = 0; i + 2 < points.length; i += 3) {
      left = Math.min(left, points[i]!)
      right = Math.max(right, points[i]!)
      top = Math.min(top, points[i + 1]!)
      bottom = Math.max(bottom, points[i + 1]!)
    }
    const { width, height } = this.#shownOn.canvas
    const out = (widthPx + 3) * this.#ratio
    const at = UNITS * this.#ratio
    return {
      left: Math.max(0, Math.floor(left * at - out)),
      top: Math.max(0, Math.floor(top * at - out)),
      right: Math.min(width, Math.ceil(right * at + out)),
      bottom: Math.min(height, Math.ceil(bottom * at + out)),
    }
  }
}

function joined(a: Box | null, b: Box | null): Box | null {
  if (a === null || b === null) return a ?? b
  return { left: Math.min(a.left, b.left), top: Math.min(a.top, b.top), right: Math.max(a.right, b.right), bottom: Math.max(a.bottom, b.bottom) }
}
