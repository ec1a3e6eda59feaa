import type { AnyCanvas } from './compositor'
import { contextOf, type ArtRaster } from './artRaster'

interface Kept {
  version: number
  readonly canvases: readonly AnyCanvas[]
}
const kept = new WeakMap<ArtRaster, Kept>()

/** A raster and its halves, quarters and so on down to a px, which turned art is shown from; both backends read these. */
export function mipsOf(raster: ArtRaster): readonly AnyCanvas[] {
  let known = kept.get(raster)
  if (known === undefined) {
    const canvases: AnyCanvas[] = [raster.canvas]
    for (let { width, height } = raster.canvas; width > 1 || height > 1; ) {
      width = Math.max(1, Math.floor(width / 2))
      height = Math.max(1, Math.floor(height / 2))
      canvases.push(new OffscreenCanvas(width, height))
    }
    kept.set(raster, (known = { version: NaN, canvases }))
  }
  if (known.version === raster.version) return known.canvases
  known.version = raster.version
  for (const [i, canvas] of known.canvases.entries()) {
    if (i === 0) continue
    const context = contextOf(canvas)
    context.globalCompositeOperation = 'copy'
    context.imageSmoothingEnabled = true
    context.imageSmoothingQuality = 'low'
    context.drawImage(known.canvases[i - 1] as CanvasImageSource, 0, 0, canvas.width, canvas.height)
  }
  return known.canvases
}
