import type { Mark } from '@rubato/core/document'
import { eachPoint, markBounds } from '@rubato/core/ink'

/** Whole px of a raster or a canvas, y down; `right` and `bottom` are past the last. */
export interface PixelBox {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}

/** Where a raster's px lie: `left`, `top` (fw) fall on px `padPx`. */
export interface PixelGrid {
  readonly widthPx: number
  readonly heightPx: number
  readonly pxPerFw: number
  readonly left: number
  readonly top: number
  readonly padPx: number
}

export const TILE_PX = 128
/** Edges are soft, and outlines stray a little from their points. */
const SOFT_PX = 2

/** The px that a mark can touch; null where it is outside. */
export function boxOf(mark: Mark, grid: PixelGrid): PixelBox | null {
  const bounds = markBounds(mark)
  const x = (fw: number) => grid.padPx + (fw - grid.left) * grid.pxPerFw
  const y = (fw: number) => grid.padPx + (grid.top - fw) * grid.pxPerFw
  return clipped({ left: Math.floor(x(bounds.left)) - SOFT_PX, top: Math.floor(y(bounds.top)) - SOFT_PX, right: Math.ceil(x(bounds.right)) + SOFT_PX, bottom: Math.ceil(y(bounds.bottom)) + SOFT_PX }, grid)
}

export function clipped(box: PixelBox, { widthPx, heightPx }: Pick<PixelGrid, 'widthPx' | 'heightPx'>): PixelBox | null {
  const cut = { left: Math.max(0, box.left), top: Math.max(0, box.top), right: Math.min(widthPx, box.right), bottom: Math.min(heightPx, box.bottom) }
  return cut.left < cut.right && cut.top < cut.bottom ? cut : null
}

export function around(boxes: readonly PixelBox[]): PixelBox | null {
  if (boxes.length === 0) return null
  return {
    left: Math.min(...boxes.map((box) => box.left)),
    top: Math.min(...boxes.map((box) => box.top)),
    right: Math.max(...boxes.map((box) => box.right)),
    bottom: Math.max(...boxes.map((box) => box.bottom)),
  }
}

/** What two boxes share; null where that is nothing. */
export function shared(a: PixelBox, b: PixelBox): PixelBox | null {
  return overlap(a, b) ? { left: Math.max(a.left, b.left), top: Math.max(a.top, b.top), right: Math.min(a.right, b.right), bottom: Math.min(a.bottom, b.bottom) } : null
}

export const overlap = (a: PixelBox, b: PixelBox): boolean => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom

/** The tiles that a mark can touch: for a stroke those along its way, so that a long diagonal has few. */
export function tilesOf(mark: Mark, grid: PixelGrid): PixelBox[] {
  const whole = boxOf(mark, grid)
  if (whole === null) return []
  const columns = Math.ceil(grid.widthPx / TILE_PX)
  const wanted = new Set<number>()
  const put = (left: number, top: number, right: number, bottom: number) => {
    const box = clipped({ left, top, right, bottom }, grid)
    if (box === null) return
    for (let row = Math.floor(box.top / TILE_PX); row * TILE_PX < box.bottom; row++) {
      for (let column = Math.floor(box.left / TILE_PX); column * TILE_PX < box.right; column++) wanted.add(row * columns + column)
    }
  }
  if (mark.kind !== 'stroke' || (whole.right - whole.left) * (whole.bottom - whole.top) <= 4 * TILE_PX * TILE_PX) put(whole.left, whole.top, whole.right, whole.bottom)
  else {
    const reach = Math.ceil(mark.widthFw * grid.pxPerFw) + SOFT_PX
    let before: readonly [number, number] | null = null
    eachPoint(mark, (fx, fy) => {
      const [x, y] = [grid.padPx + (fx - grid.left) * grid.pxPerFw, grid.padPx + (grid.top - fy) * grid.pxPerFw]
      const [px, py] = before ?? [x, y]
      const steps = Math.max(1, Math.ceil(Math.hypot(x - px, y - py) / (TILE_PX / 2)))
      for (let i = 1; i <= steps; i++) {
        const [sx, sy] = [px + ((x - px) * i) / steps, py + ((y - py) * i) / steps]
        put(Math.floor(sx - reach), Math.floor(sy - reach), Math.ceil(sx + reach), Math.ceil(sy + reach))
      }
      before = [x, y]
    })
  }
  return [...wanted].flatMap((tile) => {
    const [left, top] = [(tile % columns) * TILE_PX, Math.floor(tile / columns) * TILE_PX]
    // No more of a tile than the mark can touch.
    const box = clipped({ left: Math.max(left, whole.left), top: Math.max(top, whole.top), right: Math.min(left + TILE_PX, whole.right), bottom: Math.min(top + TILE_PX, whole.bottom) }, grid)
    return box === null ? [] : [box]
  })
}
