import type { ComposedLevel, Composition } from './composition'
import { createShown, type AnyCanvas, type Background, type Compositor, type Resampling } from './compositor'
import { keptBy, type PixelCut } from './cuts'
import { freeCanvas, type Context2D } from './paint'
import { around, overlap, shared, type PixelBox } from './pixelBox'
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
      freeCanvas(canvas)
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
    if (only !== null && !only.some((box) => touches(level.reach, box))) continue
    if (level.affine === null || level.part !== null || level.air !== null) {
      drawAside(context, level, view, resampling, skew, only)
      continue
    }
    context.globalAlpha = level.opacity
    drawSquare(context, level.raster.canvas, level.affine, skew)
  }
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = 1
}

function drawSquare(context: Context2D, canvas: AnyCanvas, [m11, m12, m21, m22, dx, dy]: NonNullable<ComposedLevel['affine']>, skew: number): void {
  context.setTransform(m11, m12 + skew, m21 + skew, m22, dx, dy)
  context.drawImage(canvas as CanvasImageSource, 0, 0)
}

let aside: Context2D | null = null

/** What is turned, cut, hazy or soft is made aside, a box of px, and laid over what is there. */
function drawAside(context: Context2D, level: ComposedLevel, view: ViewBox, resampling: Resampling, skew: number, only: readonly PixelBox[] | null): void {
  const whole = level.part?.box ?? boxSeen(level.reach, view)
  // A turned level is worked out px by px: no more of them than are painted over.
  const box = whole === null || only === null || level.affine !== null ? whole : shared(whole, around(only)!)
  if (box === null) return
  const [width, height] = [box.right - box.left, box.bottom - box.top]
  const cuts = level.part?.cuts ?? []
  aside ??= new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
  // In motion, what is soft is made only as large as its softness lets anyone see.
  const softLevel = resampling === 'fast' && cuts.length === 0 && level.affine !== null ? (level.air?.soft?.place.level ?? 0) : 0
  const shrunk = 2 ** -Math.min(3, Math.floor(softLevel))
  // A new size clears it too, and is cheaper than clearing: what was drawn from it need not be kept.
  aside.canvas.width = Math.ceil(width * shrunk)
  aside.canvas.height = Math.ceil(height * shrunk)
  if (level.affine === null) aside.putImageData(turnedPixels(level, box, cuts, resampling), 0, 0)
  else {
    const [m11, m12, m21, m22, dx, dy] = level.affine
    drawSoft(aside, level, [m11 * shrunk, m12 * shrunk, m21 * shrunk, m22 * shrunk, (dx - box.left) * shrunk, (dy - box.top) * shrunk], skew)
    const veil = level.air?.veil ?? null
    if (veil !== null) {
      aside.setTransform(1, 0, 0, 1, 0, 0)
      aside.globalCompositeOperation = 'source-atop'
      aside.globalAlpha = veil.share
      aside.fillStyle = veil.colour
      aside.fillRect(0, 0, width, height)
    }
    if (cuts.length > 0) aside.putImageData(cutPixels(aside.getImageData(0, 0, width, height), box, cuts), 0, 0)
  }
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalAlpha = level.affine === null ? 1 : level.opacity
  if (shrunk === 1) context.drawImage(aside.canvas, box.left, box.top)
  else context.drawImage(aside.canvas, box.left, box.top, aside.canvas.width / shrunk, aside.canvas.height / shrunk)
}

/** A square level, or what its softness is between: the raster and the pyramid's first level, or two levels of that. */
function drawSoft(context: Context2D, { raster, air }: ComposedLevel, [m11, m12, m21, m22, dx, dy]: NonNullable<ComposedLevel['affine']>, skew: number): void {
  context.imageSmoothingQuality = 'low'
  const soft = air?.soft ?? null
  if (soft === null) return drawSquare(context, raster.canvas, [m11, m12, m21, m22, dx, dy], skew)
  const { pyramid: { levels, padPx }, place: { level, share } } = soft
  const whole = Math.min(levels.length - 1, Math.floor(level))
  // Straight sums of what is premultiplied: a softer and a sharper picture share out one.
  let first = true
  const put = (canvas: AnyCanvas, part: number, times: number, pad: number) => {
    if (part <= 0) return
    context.globalCompositeOperation = first ? 'source-over' : 'lighter'
    context.globalAlpha = part
    first = false
    drawSquare(context, canvas, [m11 * times, m12 * times, m21 * times, m22 * times, dx - pad * (m11 + m21), dy - pad * (m12 + m22)], skew)
  }
  put(raster.canvas, 1 - share, 1, 0)
  put(levels[whole]!, share * (1 - (level - whole)), 2 ** whole, padPx)
  if (whole + 1 < levels.length) put(levels[whole + 1]!, share * (level - whole), 2 ** (whole + 1), padPx)
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
