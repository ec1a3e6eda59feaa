import { contextOf, type ArtRaster } from './artRaster'
import type { AnyCanvas } from './paint'
import { soften } from './soften'

/**
 * A raster softened ever more, each level half the size of the one before: between two of them any softness is shown, by both
 * backends. It reaches beyond the raster by `padPx` on each side, for soft edges; at right and bottom by a little more, so
 * that every level is exactly half.
 */
export interface SoftPyramid {
  readonly padPx: number
  readonly widthPx: number
  readonly heightPx: number
  readonly levels: readonly AnyCanvas[]
}

/** Each pass is the mean of a px and its neighbours, half a px to and fro: a quarter of a px² of variance. */
const PASSES = 4
/** Of what is softened, halved and shown by straight mixing between its px, the variance grows so with the level: in px² of the raster, 4^level · LEVEL − HALVED. */
const HALVED = 1 / 12
const LEVEL = PASSES / 4 + HALVED + 1 / 6
const FIRST = LEVEL - HALVED

/** Which level shows a variance (px² of the raster): between whole ones they mix so that the variance is right. Below 0 it is the raster itself that mixes in. */
export interface SoftPlace {
  readonly level: number
  /** Of the pyramid, 0…1; the rest is the raster. */
  readonly share: number
}

export function softPlace(variance: number): SoftPlace {
  const q = (variance + HALVED) / LEVEL
  if (q < 1) return { level: 0, share: Math.min(1, Math.max(0, variance / FIRST)) }
  const whole = Math.floor(Math.log2(q) / 2)
  return { level: whole + (q / 4 ** whole - 1) / 3, share: 1 }
}

/** The same for the shader, which works it out by the pixel. */
export const SOFT_PLACE_GLSL = /* glsl */ `
  vec2 softPlace(float variance) {
    float q = (variance + ${HALVED.toFixed(9)}) / ${LEVEL.toFixed(9)};
    if (q < 1.0) return vec2(0.0, clamp(variance / ${FIRST.toFixed(9)}, 0.0, 1.0));
    float whole = floor(log2(q) / 2.0);
    return vec2(whole + (q / pow(4.0, whole) - 1.0) / 3.0, 1.0);
  }
`

/** Three deviations away a bell is as good as nothing. */
const REACH = 3
const LARGEST_SIDE_PX = 8192
/** Counts of levels that are made: a focus that is pulled does not make them anew at each frame. */
const COUNTS = [3, 5, 7, 9, 11]

/** How many levels show a variance at most. */
const countFor = (variance: number): number => COUNTS.find((count) => count - 1 >= softPlace(variance).level) ?? COUNTS.at(-1)!

interface Kept {
  version: number
  readonly count: number
  readonly pyramid: SoftPyramid
}
const kept = new WeakMap<ArtRaster, Kept>()

/** The pyramid of a raster that shows up to a variance, px². */
export function softPyramidOf(raster: ArtRaster, mostVariance: number): SoftPyramid {
  const count = countFor(mostVariance)
  let known = kept.get(raster)
  if (known === undefined || known.count < count) {
    if (known !== undefined) forget(known)
    kept.set(raster, (known = { version: NaN, count, pyramid: emptyPyramid(raster, count) }))
  }
  if (known.version !== raster.version) {
    known.version = raster.version
    paint(known.pyramid, raster)
  }
  return known.pyramid
}

/** Gives back what is kept of a raster that nobody shows any more. */
export function forgetSoft(raster: ArtRaster): void {
  const known = kept.get(raster)
  if (known !== undefined) forget(known)
  kept.delete(raster)
}

function forget({ pyramid }: Kept): void {
  for (const canvas of pyramid.levels) canvas.width = canvas.height = 0
}

function emptyPyramid({ canvas: { width, height } }: ArtRaster, count: number): SoftPyramid {
  const step = 2 ** (count - 1)
  const padPx = Math.ceil(REACH * Math.sqrt(LEVEL) * 2 ** (count - 1))
  const padded = (side: number) => Math.min(LARGEST_SIDE_PX, Math.ceil((side + 2 * padPx) / step) * step)
  const [widthPx, heightPx] = [padded(width), padded(height)]
  return { padPx, widthPx, heightPx, levels: Array.from({ length: count }, (_, i) => new OffscreenCanvas(Math.max(1, widthPx / 2 ** i), Math.max(1, heightPx / 2 ** i))) }
}

function paint({ padPx, levels }: SoftPyramid, raster: ArtRaster): void {
  levels.forEach((canvas, i) => {
    const context = contextOf(canvas)
    context.globalCompositeOperation = 'copy'
    context.imageSmoothingEnabled = true
    context.imageSmoothingQuality = 'low'
    if (i === 0) context.drawImage(raster.canvas as CanvasImageSource, padPx, padPx)
    else context.drawImage(levels[i - 1] as CanvasImageSource, 0, 0, canvas.width, canvas.height)
  })
  // Each is softened when the next has been made of it.
  for (const canvas of levels) soften(contextOf(canvas), PASSES)
}
