import { contextOf } from './artRaster'
import type { ComposedLevel } from './composition'
import type { AnyCanvas, Resampling } from './compositor'
import { veilAt, type Veil } from './levelAir'
import { keptBy, type PixelCut } from './cuts'
import { mipsOf } from './mips'
import { around, clipped, type PixelBox } from './pixelBox'
import { softPlace } from './softPyramid'
import type { ViewBox } from './viewBox'

/** A disc that is seen along is told from so many times its short side on: below, its samples would be seen one by one. */
export const SOFT_STRIDE = 3
/** As many samples as are taken, evenly over so many deviations, have that deviation. */
export const SPREAD = 2.683

/** Samples along the longer side of what a pixel covers on turned art, at most: the graphics card is told to take as many. */
export const SAMPLES = 4
/**
 * Over so many units (the px that are sampled) one sample, or two, differ from SAMPLES by at most 8 of 255, and so much only on
 * hatching of single px. Two stand so far apart that their deviation is that of SAMPLES.
 */
export const ONE_OVER = 0.04
export const TWO_OVER = 0.4
export const TWO_APART = Math.sqrt(5) / 3

const samplesOver = (reach: number, unit: number) => (reach <= ONE_OVER * unit ? 1 : reach <= TWO_OVER * unit ? 2 : SAMPLES)
const apart = (samples: number, reach: number) => reach * (samples === 1 ? 0 : samples === 2 ? TWO_APART : 1 / (SAMPLES - 1))

/**
 * From canvas px to parts of the raster's width and height, row by row; the third of what comes is 1 by the distance. Null where the
 * plane is seen edge-on.
 */
export function artOfPx(corners: ComposedLevel['corners']): readonly number[] | null {
  const [[bx, by, bw], , [rx, ry, rw], [ox, oy, ow]] = corners as readonly [Corner, Corner, Corner, Corner]
  const [a, b, c, d, e, f, g, h, i] = [rx - ox, bx - ox, ox, ry - oy, by - oy, oy, rw - ow, bw - ow, ow]
  const [A, B, C] = [e * i - f * h, f * g - d * i, d * h - e * g]
  const det = a * A + b * B + c * C
  if (Math.abs(det) < 1e-12) return null
  const to = 1 / det
  return [A * to, (c * h - b * i) * to, (b * f - c * e) * to, B * to, (a * i - c * g) * to, (c * d - a * f) * to, C * to, (b * g - a * h) * to, (a * e - b * d) * to]
}
type Corner = ComposedLevel['corners'][number]

interface Pixels {
  readonly width: number
  readonly height: number
  /** A px in each, premultiplied. */
  readonly whole: Int32Array
}
interface KeptPixels {
  readonly version: number
  readonly levels: readonly Pixels[]
  /** Worked out when it is first wanted. */
  blocks: Blocks | null
}
/** Which blocks of a raster have one colour in them and all around: what is sampled there is that, however it is sampled. */
interface Blocks {
  readonly columns: number
  readonly alike: Uint8Array
  readonly colour: Int32Array
}
/** A block is 16 px across. */
const BLOCK_BITS = 4
/** Where what a pixel covers has sides whose squares sum up to no more, px, all that is sampled for it lies within a block's side. */
const MOST_COVERED = 16
const kept = new WeakMap<object, KeptPixels>()

/** Of a channel, by an opacity of 0 to 255, to the nearest whole. */
function shareOf(channel: number, alpha: number): number {
  const product = channel * alpha + 128
  return (product + (product >> 8)) >> 8
}

/** The pixels of canvases that are one thing's, until it has another version. */
function pixelsKept(of: object, version: number, canvases: () => readonly AnyCanvas[]): KeptPixels {
  const known = kept.get(of)
  if (known?.version === version) return known
  const levels = canvases().map((canvas): Pixels => {
    const { width, height } = canvas
    const whole = new Int32Array(contextOf(canvas).getImageData(0, 0, width, height).data.buffer)
    for (let i = 0; i < whole.length; i++) {
      const straight = whole[i]!
      const alpha = straight >>> 24
      if (alpha < 255 && straight !== 0) whole[i] = (alpha << 24) | (shareOf((straight >> 16) & 255, alpha) << 16) | (shareOf((straight >> 8) & 255, alpha) << 8) | shareOf(straight & 255, alpha)
    }
    return { width, height, whole }
  })
  const made = { version, levels, blocks: null }
  kept.set(of, made)
  return made
}

function blocksOf({ width, height, whole }: Pixels): Blocks {
  const side = 1 << BLOCK_BITS
  // The last may be empty: what is sampled at the raster's very end is looked for there.
  const columns = (width >> BLOCK_BITS) + 1
  const rows = (height >> BLOCK_BITS) + 1
  const [last, lowest] = [(width - 1) >> BLOCK_BITS, (height - 1) >> BLOCK_BITS]
  const isOne = new Uint8Array(columns * rows)
  const colour = new Int32Array(columns * rows)
  for (let row = 0; row <= lowest; row++) {
    for (let column = 0; column <= last; column++) {
      const own = whole[row * side * width + column * side]!
      const [right, bottom] = [Math.min(width, (column + 1) * side), Math.min(height, (row + 1) * side)]
      let isAlike = true
      for (let y = row * side; isAlike && y < bottom; y++) {
        for (let x = column * side; x < right; x++) {
          if (whole[y * width + x] === own) continue
          isAlike = false
          break
        }
      }
      colour[row * columns + column] = own
      isOne[row * columns + column] = isAlike ? 1 : 0
    }
  }
  const alike = new Uint8Array(columns * rows)
  // What lies beyond the raster is as its edge.
  for (let row = 0; row <= lowest; row++) {
    for (let column = 0; column <= last; column++) {
      const own = colour[row * columns + column]
      let isAlike = 1
      for (let y = Math.max(0, row - 1); y <= Math.min(lowest, row + 1); y++) {
        for (let x = Math.max(0, column - 1); x <= Math.min(last, column + 1); x++) if (isOne[y * columns + x] === 0 || colour[y * columns + x] !== own) isAlike = 0
      }
      alike[row * columns + column] = isAlike
    }
  }
  return { columns, alike, colour }
}

/** The px that a level can touch; all of the canvas where it goes past the lens. */
export function boxSeen(corners: ComposedLevel['corners'], view: ViewBox): PixelBox | null {
  const all = { left: 0, top: 0, right: view.widthPx, bottom: view.heightPx }
  if (corners.some(([, , w]) => w <= 0)) return all
  const box = around(corners.map(([x, y, w]) => ({ left: Math.floor(x / w), top: Math.floor(y / w), right: Math.ceil(x / w), bottom: Math.ceil(y / w) })))
  return box === null ? null : clipped(box, view)
}

// Numbers of `sampled`: where the first sample is and how far to the next, parts of the pyramid's size, and its level.
const AT_X = 0
const AT_Y = 1
const STEP_X = 2
const STEP_Y = 3
const AT_LEVEL = 4

const LOG2_OF = Float32Array.from({ length: 1024 }, (_, i) => Math.log2(1 + (i + 0.5) / 1024))
const float = new Float32Array(1)
const bits = new Int32Array(float.buffer)
/** From 1 on, to within a thousandth: what is shown of two levels of a pyramid differs by less than the steps of colours. */
function log2(number: number): number {
  float[0] = number
  return (bits[0]! >> 23) - 127 + LOG2_OF[(bits[0]! >> 13) & 1023]!
}

/** Sums of what is opaque come so near 255. */
const OPAQUE = 254.9999

/** Premultiplied colours, as they are kept: with their opacity now, and not when they are laid over the rest, which would round twice. */
function put(data: Uint8ClampedArray, at: number, r: number, g: number, b: number, alpha: number, opacity: number, veil: Veil | null, distance: number): void {
  const factor = alpha >= OPAQUE ? 1 : 255 / alpha
  if (veil === null) {
    data[at] = r * factor
    data[at + 1] = g * factor
    data[at + 2] = b * factor
  } else {
    const share = veilAt(veil, distance)
    data[at] = r * factor + (veil.rgb[0] * 255 - r * factor) * share
    data[at + 1] = g * factor + (veil.rgb[1] * 255 - g * factor) * share
    data[at + 2] = b * factor + (veil.rgb[2] * 255 - b * factor) * share
  }
  data[at + 3] = alpha * opacity
}

/** A sample alone. */
function stand(at: Float64Array, x: number, y: number, level: number): void {
  at[AT_X] = x
  at[AT_Y] = y
  at[STEP_X] = at[STEP_Y] = 0
  at[AT_LEVEL] = level
}

/** So many of them over `reach` px, along the longer side of what a pixel covers. */
function spreadOut(at: Float64Array, samples: number, reach: number, e: number, f: number, g: number, off: number, widthPx: number, heightPx: number): void {
  const along = e >= g ? (e - g) / 2 + off : f
  const down = e >= g ? f : (g - e) / 2 + off
  const size = Math.sqrt(along * along + down * down)
  if (size === 0) return
  const step = apart(samples, reach) / size
  at[STEP_X] = (along * step) / widthPx
  at[STEP_Y] = (down * step) / heightPx
  at[AT_X]! -= (at[STEP_X] * (samples - 1)) / 2
  at[AT_Y]! -= (at[STEP_Y] * (samples - 1)) / 2
}

/**
 * The mean of so many samples of a pyramid. Written out, and with its numbers in arrays: it is done a million times a picture, and each
 * that is handed to a function by itself is put on the heap.
 */
function sampled(levels: readonly Pixels[], at: Float64Array, samples: number, mean: Float64Array): void {
  const lod = Math.min(levels.length - 1, at[AT_LEVEL]!)
  const finer = Math.floor(lod)
  const share = lod - finer
  let r = 0
  let g = 0
  let b = 0
  let a = 0
  for (let mip = 0; mip < (share > 0 ? 2 : 1); mip++) {
    const { width, height, whole } = levels[finer + mip]!
    const weight = (mip === 0 ? 1 - share : share) / samples
    const stepX = at[STEP_X]! * width
    const stepY = at[STEP_Y]! * height
    let x = at[AT_X]! * width - 0.5
    let y = at[AT_Y]! * height - 0.5
    for (let sample = 0; sample < samples; sample++, x += stepX, y += stepY) {
      const left = Math.floor(x) | 0
      const top = Math.floor(y) | 0
      const x0 = left < 0 ? 0 : left < width ? left : width - 1
      const x1 = left < -1 ? 0 : left < width - 1 ? left + 1 : width - 1
      const y0 = (top < 0 ? 0 : top < height ? top : height - 1) * width
      const y1 = (top < -1 ? 0 : top < height - 1 ? top + 1 : height - 1) * width
      const nw = whole[y0 + x0]!
      const ne = whole[y0 + x1]!
      const sw = whole[y1 + x0]!
      const se = whole[y1 + x1]!
      // Most art is the same all around: nothing, or of one colour.
      if (nw === ne && nw === sw && nw === se) {
        if (nw === 0) continue
        r += (nw & 255) * weight
        g += ((nw >> 8) & 255) * weight
        b += ((nw >> 16) & 255) * weight
        a += (nw >>> 24) * weight
        continue
      }
      const fx = x - left
      const lower = (y - top) * weight
      const upper = weight - lower
      const wnw = (1 - fx) * upper
      const wne = fx * upper
      const wsw = (1 - fx) * lower
      const wse = fx * lower
      r += (nw & 255) * wnw + (ne & 255) * wne + (sw & 255) * wsw + (se & 255) * wse
      g += ((nw >> 8) & 255) * wnw + ((ne >> 8) & 255) * wne + ((sw >> 8) & 255) * wsw + ((se >> 8) & 255) * wse
      b += ((nw >> 16) & 255) * wnw + ((ne >> 16) & 255) * wne + ((sw >> 16) & 255) * wsw + ((se >> 16) & 255) * wse
      a += (nw >>> 24) * wnw + (ne >>> 24) * wne + (sw >>> 24) * wsw + (se >>> 24) * wse
    }
  }
  mean[0] = r
  mean[1] = g
  mean[2] = b
  mean[3] = a
}

/**
 * A turned level over a box of the canvas, as plain pixels: what a graphics card does, by the same numbers. A pixel of the canvas
 * covers an ellipse of the art; it is sampled along its longer axis from the level of the pyramid that its shorter one asks for, so that a
 * floor stays sharp across while it blurs along. Where it is soft, what a disc on the canvas becomes on the art is made of the pyramid in the same way:
 * the level that its shorter side asks for, sampled along the longer.
 */
export function turnedPixels(level: Pick<ComposedLevel, 'raster' | 'corners' | 'opacity' | 'air'>, box: PixelBox, cuts: readonly PixelCut[], resampling: Resampling): ImageData {
  const [columns, rows] = [box.right - box.left, box.bottom - box.top]
  const image = new ImageData(columns, rows)
  const back = artOfPx(level.corners)
  if (back === null) return image
  const [m00, m01, m02, m10, m11, m12, m20, m21, m22] = back as readonly [number, number, number, number, number, number, number, number, number]
  const pixels = pixelsKept(level.raster, level.raster.version, () => mipsOf(level.raster))
  const { levels } = pixels
  const { columns: blockColumns, alike, colour } = (pixels.blocks ??= blocksOf(levels[0]!))
  const { width, height } = level.raster.canvas
  const isExact = resampling === 'exact'
  const veil = level.air?.veil ?? null
  const soft = level.air?.soft ?? null
  const pyramid = soft === null ? [] : pixelsKept(soft.pyramid, level.raster.version, () => soft.pyramid.levels).levels
  const at = new Float64Array(5)
  const softened = new Float64Array(4)
  const sum = new Float64Array(4)
  const { data } = image
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const i = box.left + column
      const j = box.top + row
      const px = i + 0.5
      const py = j + 0.5
      const z = m20 * px + m21 * py + m22
      if (z <= 0) continue
      if (cuts.length > 0 && !keptBy(cuts, i, j)) continue
      const distance = 1 / z
      const x = (m00 * px + m01 * py + m02) * distance
      const y = (m10 * px + m11 * py + m12) * distance
      const isOutside = x < 0 || x > 1 || y < 0 || y > 1
      if (isOutside && soft === null) continue
      const sx = soft === null ? 0 : (x * width + soft.pyramid.padPx) / soft.pyramid.widthPx
      const sy = soft === null ? 0 : (y * height + soft.pyramid.padPx) / soft.pyramid.heightPx
      if (sx < 0 || sx > 1 || sy < 0 || sy > 1) continue
      const xx = (m00 - x * m20) * width * distance
      const yx = (m10 - y * m20) * height * distance
      const xy = (m01 - x * m21) * width * distance
      const yy = (m11 - y * m21) * height * distance
      const e = xx * xx + xy * xy
      const f = xx * yx + xy * yy
      const g = yx * yx + yy * yy
      const block = soft === null && e + g <= MOST_COVERED ? ((y * height) >> BLOCK_BITS) * blockColumns + ((x * width) >> BLOCK_BITS) : -1
      if (block >= 0 && alike[block] === 1) {
        const one = colour[block]!
        if (one !== 0) put(data, (row * columns + column) * 4, one & 255, (one >> 8) & 255, (one >> 16) & 255, one >>> 24, level.opacity, veil, distance)
        continue
      }
      const mean = (e + g) * 0.5
      const off = Math.sqrt((e - g) * (e - g) * 0.25 + f * f)
      // Squares of the sides of what the pixel covers, px of the raster.
      const longer = mean + off
      const shorter = Math.max(0, mean - off)
      const wide = Math.max(1, isExact ? longer / (SAMPLES * SAMPLES) : longer, isExact ? shorter : 0)
      const lod = wide === 1 ? 0 : log2(wide) * 0.5
      let share = 0
      if (soft !== null) {
        const deviation = Math.min(soft.mostPx, Math.abs(z - soft.inverseSharp) * soft.strengthPx)
        // The squares of the sides of what a disc becomes.
        const along = deviation * deviation * longer
        const across = Math.max(deviation * deviation * (isExact ? shorter : longer), along / (SOFT_STRIDE * SOFT_STRIDE))
        const place = softPlace(across / wide)
        share = place.share
        if (share > 0) {
          const spread = isExact ? Math.sqrt(Math.max(0, along - across)) * SPREAD : 0
          const samples = samplesOver(spread, Math.sqrt(wide) * 2 ** place.level)
          stand(at, sx, sy, lod + place.level)
          if (samples > 1) spreadOut(at, samples, spread, e, f, g, off, soft.pyramid.widthPx, soft.pyramid.heightPx)
          sampled(pyramid, at, samples, softened)
        }
      }
      if (share < 1 && !isOutside) {
        const samples = longer <= (1 + ONE_OVER) ** 2 * wide ? 1 : samplesOver(Math.sqrt(longer) - Math.sqrt(wide), Math.sqrt(wide))
        stand(at, x, y, lod)
        if (samples > 1) spreadOut(at, samples, Math.sqrt(longer) - Math.sqrt(wide), e, f, g, off, width, height)
        sampled(levels, at, samples, sum)
      } else sum.fill(0)
      if (share > 0) for (let channel = 0; channel < 4; channel++) sum[channel] = sum[channel]! * (1 - share) + softened[channel]! * share
      if (sum[3]! > 0) put(data, (row * columns + column) * 4, sum[0]!, sum[1]!, sum[2]!, sum[3]!, level.opacity, veil, distance)
    }
  }
  return image
}
