import type { Drawing } from '@rubato/core/document'
import { heightOf, widthOf, type Rectangle } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { ArtLibrary } from '../viewport/artLibrary'
import { RIM_PX } from '../viewport/artRaster'
import { createPictureCache } from '../viewport/pictureCache'

const ART_BYTES = 32 * 1024 * 1024
const TRIES = 4

/** A drawing as a picture with nothing around it, of so many px at the most, and where it lies in the art's own fw; null where it is empty. `finest`: twice as fine with each. */
export async function drawingPicture(id: string, drawing: Drawing, basePxPerFw: number, pictureBase: string, mostPx: number, finest = 0): Promise<{ readonly picture: Blob; readonly bounds: Rectangle } | null> {
  const bounds = drawingBounds(drawing)
  if (bounds === null) return null
  let library: ArtLibrary | null = null
  const cache = createPictureCache((hash, side) => `${pictureBase}${hash}${side === null ? '' : `?side=${side}`}`, (hash) => library?.forgetPicture(hash))
  library = new ArtLibrary(basePxPerFw, cache.lookup, { budgetBytes: ART_BYTES })
  const octave = Math.min(finest, Math.floor(Math.log2(mostPx / Math.max(1, widthOf(bounds) * heightOf(bounds) * basePxPerFw ** 2)) / 2))
  let raster = library.raster(id, drawing, octave)
  for (let tries = 0; cache.waiting && tries < TRIES; tries++) {
    await cache.settled()
    raster = library.raster(id, drawing, octave)
  }
  if (raster === null) return null
  const { canvas, pxPerFw, left, top } = raster
  return { picture: await (canvas as OffscreenCanvas).convertToBlob({ type: 'image/png' }), bounds: { left: left - RIM_PX / pxPerFw, right: left + (canvas.width - RIM_PX) / pxPerFw, top: top + RIM_PX / pxPerFw, bottom: top - (canvas.height - RIM_PX) / pxPerFw } }
}
