import type { Composition } from './composition'
import { createShown, type AnyCanvas, type Background, type Compositor, type Resampling } from './compositor'
import type { Context2D } from './paint'
import { overlap, type PixelBox } from './pixelBox'

/**
 * The 2D backend: for compositions in which no level is turned. Its canvas is kept in main memory: where there is no
 * graphics card that is several times as fast as a canvas on a simulated one. `clear`: where no art is, nothing is.
 */
export function createCanvasCompositor(canvas: AnyCanvas, clear = false): Compositor {
  const context = canvas.getContext('2d', { alpha: clear, willReadFrequently: true }) as Context2D | null
  if (context === null) throw new Error('createCanvasCompositor: the canvas gives no 2D context')
  const shown = createShown()
  return {
    kind: 'canvas',
    canvas,
    draw(composition, background, resampling) {
      if (composition.turned) throw new Error('createCanvasCompositor: a turned level needs the GL backend')
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
    context.globalAlpha = level.opacity
    const [m11, m12, m21, m22, dx, dy] = level.affine!
    context.setTransform(m11, m12 + skew, m21 + skew, m22, dx, dy)
    context.drawImage(level.raster.canvas as CanvasImageSource, 0, 0)
  }
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = 1
}

function touches(corners: Composition['levels'][number]['corners'], box: PixelBox): boolean {
  const xs = corners.map((corner) => corner[0])
  const ys = corners.map((corner) => corner[1])
  return overlap(box, { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) })
}
