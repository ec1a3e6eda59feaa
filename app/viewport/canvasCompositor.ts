import type { Composition } from './composition'
import type { AnyCanvas, Background, Compositor } from './compositor'
import type { Context2D } from './paint'

/** The 2D backend: for compositions in which no level is turned. */
export function createCanvasCompositor(canvas: AnyCanvas, options: CanvasRenderingContext2DSettings = {}): Compositor {
  const context = canvas.getContext('2d', { alpha: true, ...options }) as Context2D | null
  if (context === null) throw new Error('createCanvasCompositor: the canvas gives no 2D context')
  let shown = ''
  return {
    kind: 'canvas',
    canvas,
    draw(composition, background) {
      if (composition.turned) throw new Error('createCanvasCompositor: a turned level needs the GL backend')
      const signature = `${composition.signature}|${background.frame}|${background.surround}`
      if (signature === shown) return false
      shown = signature
      paintComposition(context, composition, background)
      return true
    },
    dispose() {
      shown = ''
    },
  }
}

function paintComposition(context: Context2D, composition: Composition, background: Background) {
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
    context.globalAlpha = level.opacity
    context.setTransform(...(level.affine as [number, number, number, number, number, number]))
    context.drawImage(level.raster.canvas as CanvasImageSource, 0, 0)
  }
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = 1
}
