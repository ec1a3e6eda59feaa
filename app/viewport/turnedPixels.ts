import { contextOf, type ArtRaster } from './artRaster'
import type { ComposedLevel } from './composition'
import type { AnyCanvas, Resampling } from './compositor'
import { veilAt } from './levelAir'
import { keptBy, type PixelCut } from './cuts'
import { mipsOf } from './mips'
import { around, clipped, type PixelBox } from './pixelBox'
import { softPlace } from './softPyramid'
import type { ViewBox } from './viewBox'

/** A disc that is seen along is told from so many times its short side on: below, its samples would be seen one by one. */
export const SOFT_STRIDE = 3
/** As many samples as are taken, evenly over so many deviations, have that deviation. */
export const SPREAD = 2.683

/** Samples along the longer side of what a pixel covers on turned art: the graphics card is told to take as many. */
export const SAMPLES = 4

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
  /** Premultiplied. */
  readonly data: Uint8ClampedArray
}
interface KeptPixels {
  readonly version: number
  readonly levels: readonly Pixels[]
}
const kept = new WeakMap<object, KeptPixels>()
const pixelsOf = (raster: ArtRaster) => pixelsKept(raster, raster.version, () => mipsOf(raster))

/** The pixels of canvases that are one thing's, until it has another version. */
function pixelsKept(of: object, version: number, canvases: () => readonly AnyCanvas[]): readonly Pixels[] {
  const known = kept.get(of)
  if (known?.version === version) return known.levels
  const levels = canvases().map((canvas): Pixels => {
    const { width, height } = canvas
    const { data } = contextOf(canvas).getImageData(0, 0, width, height)
    for (let i = 0; i < data.length; i += 4) {
      const alpha = data[i + 3]! / 255
      for (let channel = 0; channel < 3; channel++) data[i + channel] = data[i + channel]! * alpha
    }
    return { width, height, data }
  })
  kept.set(of, { version, levels })
  return levels
}

/** The px that a level can touch; all of the canvas where it goes past the lens. */
export function boxSeen(corners: ComposedLevel['corners'], view: ViewBox): PixelBox | null {
  const all = { left: 0, top: 0, right: view.widthPx, bottom: view.heightPx }
  if (corners.some(([, , w]) => w <= 0)) return all
  const box = around(corners.map(([x, y, w]) => ({ left: Math.floor(x / w), top: Math.floor(y / w), right: Math.ceil(x / w), bottom: Math.ceil(y / w) })))
  return box === null ? null : clipped(box, view)
}

/** Adds what a level of the pyramid shows at (x, y), parts of its size, times `weight`. Written out: it is done millions of times. */
function addFrom({ width, height, data }: Pixels, x: number, y: number, weight: number, to: Float64Array): void {
  const px = x * width - 0.5
  const py = y * height - 0.5
  const left = Math.floor(px)
  const top = Math.floor(py)
  const fx = px - left
  const fy = (py - top) * weight
  const x0 = Math.min(width - 1, Math.max(0, left)) * 4
  const x1 = Math.min(width - 1, Math.max(0, left + 1)) * 4
  const y0 = Math.min(height - 1, Math.max(0, top)) * width * 4
  const y1 = Math.min(height - 1, Math.max(0, top + 1)) * width * 4
  const upper = weight - fy
  const w00 = (1 - fx) * upper
  const w10 = fx * upper
  const w01 = (1 - fx) * fy
  const w11 = fx * fy
  const a = y0 + x0
  const b = y0 + x1
  const c = y1 + x0
  const d = y1 + x1
  to[0]! += data[a]! * w00 + data[b]! * w10 + data[c]! * w01 + data[d]! * w11
  to[1]! += data[a + 1]! * w00 + data[b + 1]! * w10 + data[c + 1]! * w01 + data[d + 1]! * w11
  to[2]! += data[a + 2]! * w00 + data[b + 2]! * w10 + data[c + 2]! * w01 + data[d + 2]! * w11
  to[3]! += data[a + 3]! * w00 + data[b + 3]! * w10 + data[c + 3]! * w01 + data[d + 3]! * w11
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
  const levels = pixelsOf(level.raster)
  const { width, height } = level.raster.canvas
  const samples = resampling === 'exact' ? SAMPLES : 1
  const veil = level.air?.veil ?? null
  const soft = level.air?.soft ?? null
  const pyramid = soft === null ? [] : pixelsKept(soft.pyramid, level.raster.version, () => soft.pyramid.levels)
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
      const x = (m00 * px + m01 * py + m02) / z
      const y = (m10 * px + m11 * py + m12) / z
      if (!keptBy(cuts, i, j)) continue
      const isOutside = x < 0 || x > 1 || y < 0 || y > 1
      if (isOutside && soft === null) continue
      const sx = soft === null ? 0 : (x * width + soft.pyramid.padPx) / soft.pyramid.widthPx
      const sy = soft === null ? 0 : (y * height + soft.pyramid.padPx) / soft.pyramid.heightPx
      if (sx < 0 || sx > 1 || sy < 0 || sy > 1) continue
      const xx = ((m00 - x * m20) / z) * width
      const yx = ((m10 - y * m20) / z) * height
      const xy = ((m01 - x * m21) / z) * width
      const yy = ((m11 - y * m21) / z) * height
      const e = xx * xx + xy * xy
      const f = xx * yx + xy * yy
      const g = yx * yx + yy * yy
      const mean = (e + g) / 2
      const off = Math.sqrt(((e - g) * (e - g)) / 4 + f * f)
      const long = Math.sqrt(mean + off)
      const wide = Math.max(1, long / samples, samples === 1 ? long : Math.sqrt(Math.max(0, mean - off)))
      const reach = Math.max(0, long - wide)
      const ax = e >= g ? mean + off - g : f
      const ay = e >= g ? f : mean + off - e
      const size = Math.sqrt(ax * ax + ay * ay)
      const dx = size > 0 ? ax / size / width : 0
      const dy = size > 0 ? ay / size / height : 0
      const lod = Math.min(levels.length - 1, Math.log2(wide))
      const finer = Math.floor(lod)
      const coarser = Math.min(levels.length - 1, finer + 1)
      sum[0] = sum[1] = sum[2] = sum[3] = 0
      let share = 0
      if (soft !== null) {
        const deviation = Math.min(soft.mostPx, Math.abs(z - soft.inverseSharp) * soft.strengthPx)
        const narrow = Math.max(deviation * (samples === 1 ? long : Math.sqrt(Math.max(0, mean - off))), (deviation * long) / SOFT_STRIDE)
        const place = softPlace((narrow / wide) ** 2)
        share = place.share
        if (share > 0) {
          const softLod = Math.min(pyramid.length - 1, Math.log2(wide) + place.level)
          const sharper = Math.floor(softLod)
          const softer = Math.min(pyramid.length - 1, sharper + 1)
          const spread = samples === 1 ? 0 : Math.sqrt(Math.max(0, (deviation * long) ** 2 - narrow ** 2)) * SPREAD
          softened[0] = softened[1] = softened[2] = softened[3] = 0
          for (let sample = 0; sample < samples; sample++) {
            const t = samples === 1 ? 0 : (sample / (samples - 1) - 0.5) * spread
            const px = sx + (dx * width * t) / soft.pyramid.widthPx
            const py = sy + (dy * height * t) / soft.pyramid.heightPx
            addFrom(pyramid[sharper]!, px, py, (1 - softLod + sharper) / samples, softened)
            if (softLod > sharper) addFrom(pyramid[softer]!, px, py, (softLod - sharper) / samples, softened)
          }
        }
      }
      for (let sample = share < 1 && !isOutside ? 0 : samples; sample < samples; sample++) {
        const t = samples === 1 ? 0 : (sample / (samples - 1) - 0.5) * reach
        addFrom(levels[finer]!, x + dx * t, y + dy * t, (1 - lod + finer) / samples, sum)
        if (lod > finer) addFrom(levels[coarser]!, x + dx * t, y + dy * t, (lod - finer) / samples, sum)
      }
      if (share > 0) for (let channel = 0; channel < 4; channel++) sum[channel] = sum[channel]! * (1 - share) + softened[channel]! * share
      const alpha = sum[3]!
      if (alpha <= 0) continue
      const at = (row * columns + column) * 4
      const veiled = veil === null ? 0 : veilAt(veil, 1 / z)
      for (let channel = 0; channel < 3; channel++) {
        const own = (sum[channel]! * 255) / alpha
        data[at + channel] = veiled === 0 ? own : own + (veil!.rgb[channel]! * 255 - own) * veiled
      }
      // Now, and not when it is laid over the rest: that would round twice.
      data[at + 3] = alpha * level.opacity
    }
  }
  return image
}
