import type { Context2D } from './paint'

let aside: Context2D | null = null

/** Softens what a context shows: `passes` (even) quarters of a px² of variance. */
export function soften(context: Context2D, passes: number): void {
  const { canvas } = context
  aside ??= new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
  // A new size clears it too.
  aside.canvas.width = canvas.width
  aside.canvas.height = canvas.height
  for (const each of [aside, context]) {
    each.setTransform(1, 0, 0, 1, 0, 0)
    each.globalAlpha = 1
    each.globalCompositeOperation = 'copy'
    each.imageSmoothingEnabled = true
    each.imageSmoothingQuality = 'low'
  }
  for (let pass = 0; pass < passes; pass += 2) {
    aside.drawImage(canvas as CanvasImageSource, 0.5, 0.5)
    context.drawImage(aside.canvas, -0.5, -0.5)
  }
  aside.canvas.width = aside.canvas.height = 0
}

/** Passes that make a deviation in px, an even number of them. */
export const passesFor = (deviationPx: number): number => Math.max(2, 2 * Math.round(2 * deviationPx ** 2))
