import { quadContains, type Quad } from '@rubato/core/geometry'
import type { Px } from '~/plan/elevation'
import { hitPathMark, type PathMark } from '~/plan/pathMarks'
import type { TableFrame } from './tableScale'

const KNOB_PX = 18
const KNOB_REACH_PX = 9
const CORNER_PX = 8
const EDGE_PX = 6

/** A framing as Table shows it. */
export interface TableBead {
  readonly id: string
  readonly number: number
  readonly colour: string
  readonly selected: boolean
  readonly locked: boolean
  readonly frame: TableFrame
  /** Where its number stands. */
  readonly tag: Px
}

/** What can be taken hold of; the live frame's id is null. */
export interface TableHold {
  readonly grips: readonly { readonly id: string | null; readonly frame: TableFrame }[]
  readonly marks: readonly PathMark[]
  readonly frames: readonly TableBead[]
  readonly live: TableFrame | null
  /** The framing that the live frame stands for. */
  readonly liveId: string | null
}

export type TableHit = { readonly kind: 'knob' | 'corner' | 'frame'; readonly id: string | null; readonly frame: TableFrame } | { readonly kind: 'mark'; readonly index: number }

export const outlineOf = ({ corners }: TableFrame) => `M${corners.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`

/** The knob stands off the frame's upper edge. */
export function knobOf({ centre, top }: TableFrame): Px {
  const reach = Math.max(1, Math.hypot(top.x - centre.x, top.y - centre.y))
  return { x: top.x + ((top.x - centre.x) / reach) * KNOB_PX, y: top.y + ((top.y - centre.y) / reach) * KNOB_PX }
}

const near = (a: Px, b: Px, px: number) => Math.hypot(a.x - b.x, a.y - b.y) <= px

/** How far a place is from a frame's outline, px. */
function toEdge(at: Px, corners: readonly Px[]): number {
  return Math.min(
    ...corners.map((a, i) => {
      const b = corners[(i + 1) % corners.length]!
      const t = Math.max(0, Math.min(1, ((at.x - a.x) * (b.x - a.x) + (at.y - a.y) * (b.y - a.y)) / Math.max(1e-6, (b.x - a.x) ** 2 + (b.y - a.y) ** 2)))
      return Math.hypot(at.x - a.x - t * (b.x - a.x), at.y - a.y - t * (b.y - a.y))
    }),
  )
}

/** What lies under the pointer: knobs and corners before the path's handles, those before numbers and outlines, the nearest first; the live frame also anywhere inside it. */
export function hitTable({ grips, marks, frames, live, liveId }: TableHold, at: Px): TableHit | null {
  for (const grip of grips) {
    if (near(at, knobOf(grip.frame), KNOB_REACH_PX)) return { kind: 'knob', ...grip }
    if (grip.frame.corners.some((corner) => near(at, corner, CORNER_PX))) return { kind: 'corner', ...grip }
  }
  const mark = hitPathMark(marks, at.x, at.y)
  if (mark !== null) return { kind: 'mark', index: marks.indexOf(mark) }
  const byTag = frames.findLast(({ tag }) => at.x >= tag.x && at.x <= tag.x + 20 && at.y >= tag.y - 15 && at.y <= tag.y + 1)
  const edges = frames.map((each) => ({ each, off: toEdge(at, each.frame.corners) })).filter(({ off }) => off < EDGE_PX)
  const nearest = byTag ?? edges.sort((a, b) => a.off - b.off)[0]?.each
  if (nearest !== undefined && nearest.id !== liveId) return { kind: 'frame', id: nearest.id, frame: nearest.frame }
  if (live !== null && (quadContains(live.corners as Quad, at) || toEdge(at, live.corners) < EDGE_PX)) return { kind: 'frame', id: null, frame: live }
  return null
}

/** How much room these places take, in units of so many px. */
export function extentOf(places: readonly Px[], pxPerUnit: number): { readonly width: number; readonly height: number } | null {
  if (places.length === 0) return null
  const [xs, ys] = [places.map(({ x }) => x), places.map(({ y }) => y)]
  return { width: (Math.max(...xs) - Math.min(...xs)) / pxPerUnit, height: (Math.max(...ys) - Math.min(...ys)) / pxPerUnit }
}
