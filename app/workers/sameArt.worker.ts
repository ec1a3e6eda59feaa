import type { Optics } from '@rubato/core/camera'
import { heightOf, union, widthOf } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { answerJobs } from './answerJobs'
import type { SameArtAsk } from './messages'
import { createThumbPainter } from './thumbPainter'

/** As far as a px may be from what is drawn, of 255: programs round when they mix. */
const SAME_WITHIN = 3
const STRIP = 512
const MOST_SIDE = 16_000
const PLAIN: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 1 }

/** Whether a picture that came back shows just what is drawn, at its own resolution. */
answerJobs<SameArtAsk, boolean>(async ({ drawing, picture, x, y, widthFw, pictureBase }) => {
  const bounds = drawingBounds(drawing)
  const bitmap = await createImageBitmap(picture, { premultiplyAlpha: 'premultiply', colorSpaceConversion: 'none' })
  try {
    const pxPerFw = bitmap.width / widthFw
    const [left, top] = [x - widthFw / 2, y + bitmap.height / pxPerFw / 2]
    const whole = union(bounds, { left, right: left + widthFw, top, bottom: top - bitmap.height / pxPerFw })!
    // On the picture’s own px.
    const [dx, dy] = [Math.ceil((left - whole.left) * pxPerFw - 1e-3), Math.ceil((whole.top - top) * pxPerFw - 1e-3)]
    const [width, height] = [Math.ceil(widthOf(whole) * pxPerFw) + 1, Math.ceil(heightOf(whole) * pxPerFw) + 1]
    if (Math.max(width, height) > MOST_SIDE) return false
    const painter = createThumbPainter(PLAIN, 1, pictureBase)
    const mine = new OffscreenCanvas(width, STRIP).getContext('2d', { willReadFrequently: true })!
    for (let from = 0; from < height; from += STRIP) {
      const rows = Math.min(STRIP, height - from)
      mine.clearRect(0, 0, width, STRIP)
      mine.drawImage(bitmap, dx, dy - from)
      const drawn = await painter.paintDrawing(drawing, { left: left - dx / pxPerFw, top: top + (dy - from) / pxPerFw, pxPerFw, widthPx: width, heightPx: rows })
      const [a, b] = [mine.getImageData(0, 0, width, rows).data, (drawn.getContext('2d') as OffscreenCanvasRenderingContext2D).getImageData(0, 0, width, rows).data]
      for (let i = 0; i < a.length; i += 4) {
        const [alphaA, alphaB] = [a[i + 3]! / 255, b[i + 3]! / 255]
        if (Math.abs(a[i + 3]! - b[i + 3]!) > SAME_WITHIN) return false
        for (let channel = 0; channel < 3; channel++) if (Math.abs(a[i + channel]! * alphaA - b[i + channel]! * alphaB) > SAME_WITHIN) return false
      }
    }
    return true
  } finally {
    bitmap.close()
  }
})
