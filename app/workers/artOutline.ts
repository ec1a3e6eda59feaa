import { insetOutline, type ArtOutline } from '@rubato/core/checks'
import { contours } from 'd3-contour'
import { contextOf, RIM_PX, type ArtRaster } from '../viewport/artRaster'

/** Art is where its alpha is at least so much. */
const LIMIT = 127.5
/** Islands smaller than this are specks, px². Holes are kept: what is promised must be there. */
const LEAST_AREA_PX = 4
/** How far points may be moved, always inwards, px of the raster. */
const TOLERANCE_PX = 0.5
/** The alpha of the raster that is looked at, in memory that the next one is looked at in. */
let kept = new Uint8Array(0)

/** Where a raster's art covers, in the art's own fw; null where nothing does. */
export function outlineOfRaster({ canvas, pxPerFw, left, top }: ArtRaster): ArtOutline | null {
  const { width, height } = canvas
  const { data } = contextOf(canvas).getImageData(0, 0, width, height)
  const size = width * height
  if (kept.length < size) kept = new Uint8Array(size)
  const alpha = kept.subarray(0, size)
  let any = false
  for (let i = 0; i < size; i++) {
    alpha[i] = data[i * 4 + 3]!
    if (alpha[i]! > LIMIT) any = true
  }
  if (!any) return null
  const [shape] = contours().size([width, height]).smooth(true).thresholds([LIMIT])(alpha as unknown as number[])
  const rings = (shape?.coordinates ?? []).flatMap(([outer, ...holes]) => (Math.abs(areaInside(outer!)) < LEAST_AREA_PX ? [] : [outer!, ...holes]))
  const inArt = rings.map((ring) => ring.slice(0, -1).flatMap(([x, y]) => [left + (x! - RIM_PX) / pxPerFw, top - (y! - RIM_PX) / pxPerFw]))
  const outline = insetOutline({ rings: inArt }, TOLERANCE_PX / pxPerFw)
  return outline.rings.length === 0 ? null : outline
}

function areaInside(ring: readonly (readonly number[])[]): number {
  let twice = 0
  for (let i = 0; i + 1 < ring.length; i++) twice += ring[i]![0]! * ring[i + 1]![1]! - ring[i + 1]![0]! * ring[i]![1]!
  return twice / 2
}
