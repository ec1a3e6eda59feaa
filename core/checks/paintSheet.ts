import { NEAREST_Z, project, type Lens } from '../camera/projection'
import { pointOnPlane, type LevelPlane } from '../depth/levelPlane'
import { heightOf, union, widthOf, type Rectangle } from '../geometry/rectangle'
import { needMarks, type SheetSight } from './needMarks'
import type { ArtNeed } from './needed'
import type { SheetPage } from './sheetPage'

/** The largest canvas that is laid out: its longest side and all of it, px. Browsers draw none longer, and the server takes in no larger picture. */
export const PAINT_MOST = Object.freeze({ sidePx: 16_384, px: 64_000_000 })

/** A level that is to be painted: what is needed of it, and how it stands where it is seen; null where it is not. */
export interface ToPaint {
  readonly need: ArtNeed
  readonly stands: { readonly lens: Lens; readonly plane: LevelPlane; readonly size: number } | null
}
export interface PaintSheet {
  readonly widthPx: number
  readonly heightPx: number
  /** Where the canvas lies in the art of each level, fw: its left upper corner is that of this rectangle. */
  readonly canvases: readonly Rectangle[]
  /** Of the size at which nothing is shown above 1:1; less than 1 where that would be too large. */
  readonly share: number
}

/**
 * One canvas to paint levels on. Of one level it is just what is needed. Several lie on it as the picture shows them from where one looks,
 * all of them square on, and it is so fine that the one that needs most has it.
 */
export function paintSheet(levels: readonly ToPaint[], outputWidthPx: number): PaintSheet {
  const placed = levels.map(({ need, stands }) => {
    const { box } = need
    const middle = { x: (box.left + box.right) / 2, y: (box.bottom + box.top) / 2 }
    const seen = levels.length === 1 || stands === null ? null : project(stands.lens, pointOnPlane(stands.plane, middle))
    // What is behind the lens, or too near to be seen, lies in the middle as large as it is ever seen.
    const isSeen = seen !== null && seen.z > NEAREST_Z
    const scale = isSeen ? (stands!.lens.k * stands!.size) / seen.z : need.magnification
    const [u, v] = isSeen ? [seen.u, seen.v] : [0, 0]
    return { need, scale, left: u + (box.left - middle.x) * scale, top: v + (box.top - middle.y) * scale, box }
  })
  const whole = placed.reduce<Rectangle | null>((sum, { left, top, scale, box }) => union(sum, { left, top, right: left + widthOf(box) * scale, bottom: top - heightOf(box) * scale }), null)!
  const finest = Math.max(...placed.map(({ need, scale }) => (need.magnification * outputWidthPx) / scale))
  const [across, up] = [widthOf(whole) * finest, heightOf(whole) * finest]
  const share = Math.min(1, PAINT_MOST.sidePx / Math.max(across, up), Math.sqrt(PAINT_MOST.px / (across * up)))
  // A px less where it would be too large by rounding.
  const whole1 = (px: number) => Math.max(1, share < 1 ? Math.floor(px * share) : Math.ceil(px - 1e-6))
  const [widthPx, heightPx] = [whole1(across), whole1(up)]
  const pxPerFw = share < 1 ? Math.min(widthPx / widthOf(whole), heightPx / heightOf(whole)) : finest
  return {
    widthPx,
    heightPx,
    share,
    canvases: placed.map(({ scale, left, top, box }) => {
      const own = pxPerFw * scale
      const corner = { left: box.left - (left - whole.left) / scale, top: box.top + (whole.top - top) / scale }
      return { ...corner, right: corner.left + widthPx / own, bottom: corner.top - heightPx / own }
    }),
  }
}

/** What lies over a level while it is painted, on a page as large as the canvas. */
export function paintGuide(canvas: Rectangle, widthPx: number, heightPx: number, name: string, need: ArtNeed, sights: readonly SheetSight[], fps: number): SheetPage {
  const scale = widthPx / widthOf(canvas)
  const unit = Math.max(1, Math.hypot(widthPx, heightPx) / 1000)
  const { marks, text, outline, sight } = needMarks(({ x, y }) => [(x - canvas.left) * scale, (canvas.top - y) * scale], unit)
  outline(need)
  sights.forEach((each, i) => sight(each, i, fps))
  text((need.box.left - canvas.left) * scale + 4 * unit, (canvas.top - need.box.bottom) * scale - 4 * unit, name, 9, undefined, true)
  return { width: widthPx, height: heightPx, marks }
}
