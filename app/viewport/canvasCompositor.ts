import type { ArtRaster } from './artRaster'
import type { ComposedLevel, Composition } from './composition'
import { createShown, type AnyCanvas, type Background, type Compositor, type Resampling } from './compositor'
import { keptBy, type PixelCut } from './cuts'
import type { Context2D } from './paint'
import { overlap, type PixelBox } from './pixelBox'
import { boxSeen, turnedPixels } from './turnedPixels'
import type { ViewBox } from './viewBox'

/**
 * The 2D backend. Its canvas is kept in main memory: where there is no graphics card that is several times as fast as a canvas
 * on a simulated one, but for turned levels, which it works out px by px. `clear`: where no art is, nothing is.
 */
export function createCanvasCompositor(canvas: AnyCanvas, clear = false): Compositor {
  const context = canvas.getContext('2d', { alpha: clear, willReadFrequently: true }) as Context2D | null
  if (context === null) throw new Error('createCanvasCompositor: the canvas gives no 2D context')
  const shown = createShown()
  return {
    kind: 'canvas',
    canvas,
    draw(composition, background, resampling) {
      const { repaint, as } = shown.replacedBy(composition, background, resampling)
      if (repaint === 'nothing') return false
      if (repaint === 'all') paintComposition(context, composition, background, as)
      else {
        context.save()
        context.setTransform(1, 0, 0, 1, 0, 0)
        context.beginPath()
        for (const box of repaint) context.rect(box.left, box.top, box.right - box.left, box.bottom - box.top)
        context.clip()
        paintComposition(context, composition, background, as, repaint)
        context.restore()
      }
      return true
    },
    dispose() {
      shown.forget()
    },
  }
}

/**
 * A hair of skew, far below what shows, keeps the canvas from its quick way of resampling, which weighs neighbours in
 * sixteenths: twice as fast, but up to a tenth of the range off in hard edges.
 */
const SKEW = 1e-9

function paintComposition(context: Context2D, composition: Composition, background: Background, resampling: Resampling, only: readonly PixelBox[] | null = null) {
  const skew = resampling === 'exact' ? SKEW : 0
  const { view } = composition
  const { canvas } = context
  if (canvas.width !== view.widthPx) canvas.width = view.widthPx
  if (canvas.height !== view.heightPx) canvas.height = view.heightPx
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = 1
  context.globalCompositeOperation = 'source-over'
  if (background.surround === null && background.frame === null) context.clearRect(0, 0, view.widthPx, view.heightPx)
  else {
    context.fillStyle = background.surround ?? background.frame!
    context.fillRect(0, 0, view.widthPx, view.heightPx)
  }
  context.imageSmoothingEnabled = true
  context.imageSmoothingQuality = 'low'
  for (const level of composition.levels) {
    if (only !== null && !only.some((box) => touches(level.corners, box))) continue
    if (level.affine === null || level.part !== null) {
      drawByPixels(context, level, view, resampling, skew)
      continue
    }
    context.globalAlpha = level.opacity
    drawSquare(context, level.raster, level.affine, skew)
  }
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = 1
}

function drawSquare(context: Context2D, raster: ArtRaster, [m11, m12, m21, m22, dx, dy]: NonNullable<ComposedLevel['affine']>, skew: number): void {
  context.setTransform(m11, m12 + skew, m21 + skew, m22, dx, dy)
  context.drawImage(raster.canvas as CanvasImageSource, 0, 0)
}

let aside: Context2D | null = null

/** What is turned or cut is made aside, a box of px, and laid over what is there. */
function drawByPixels(context: Context2D, level: ComposedLevel, view: ViewBox, resampling: Resampling, skew: number): void {
  const box = level.part?.box ?? boxSeen(level.corners, view)
  if (box === null) return
  const [width, height] = [box.right - box.left, box.bottom - box.top]
  const cuts = level.part?.cuts ?? []
  aside ??= new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
  // A new size clears it too.
  aside.canvas.width = width
  aside.canvas.height = height
  if (level.affine === null) aside.putImageData(turnedPixels(level, box, cuts, resampling), 0, 0)
  else {
    aside.imageSmoothingQuality = 'low'
    const [m11, m12, m21, m22, dx, dy] = level.affine
    drawSquare(aside, level.raster, [m11, m12, m21, m22, dx - box.left, dy - box.top], skew)
    if (cuts.length > 0) aside.putImageData(cutPixels(aside.getImageData(0, 0, width, height), box, cuts), 0, 0)
  }
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = level.affine === null ? 1 : level.opacity
  context.drawImage(aside.canvas, box.left, box.top)
}

function cutPixels(image: ImageData, { left, top }: PixelBox, cuts: readonly PixelCut[]): ImageData {
  const { data, width, height } = image
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) if (!keptBy(cuts, left + x, top + y)) data.fill(0, (y * width + x) * 4, (y * width + x) * 4 + 4)
  return image
}

function touches(corners: ComposedLevel['corners'], box: PixelBox): boolean {
  if (corners.some(([, , w]) => w !== 1)) return true
  const xs = corners.map((corner) => corner[0])
  const ys = corners.map((corner) => corner[1])
  return overlap(box, { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) })
}
