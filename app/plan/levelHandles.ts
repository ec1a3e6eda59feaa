import type { Px } from './elevation'
import { hitPathMark, type PathMark } from './pathMarks'

/** A key of a level's place, where it is seen. */
export interface WayKey {
  readonly id: string
  readonly frame: number
  readonly number: number
  readonly at: Px
  readonly locked: boolean
  readonly selected: boolean
  /** The playhead stands on it. */
  readonly here: boolean
}

/** What of the selected level can be taken hold of in the lens view, px. */
export interface LevelHandles {
  /** Of its art, one after the other around it. */
  readonly corners: readonly Px[]
  /** Above the art's top edge, to turn it by. */
  readonly knob: Px
  /** The middle of the edge that the knob stands on. */
  readonly top: Px
  readonly pivot: Px
}

/** The way that a level goes through the set, as the lens at this frame sees it. */
export interface SeenWay {
  /** The line, in pieces where part of it is behind the lens. */
  readonly line: readonly (readonly Px[])[]
  /** One for each frame, where it is shown. */
  readonly frames: readonly Px[]
  readonly keys: readonly WayKey[]
  readonly marks: readonly PathMark[]
}

export type LevelHit = { readonly kind: 'corner' } | { readonly kind: 'knob' } | { readonly kind: 'pivot' } | { readonly kind: 'key'; readonly id: string } | { readonly kind: 'mark'; readonly mark: PathMark } | { readonly kind: 'art' }

const KNOB_PX = 22
const HIT_PX = 8
export const FLAG_PX = 7

/** The handles around art whose corners are seen here: bottom left, bottom right, top right, top left. */
export function handlesAround(corners: readonly [Px, Px, Px, Px], pivot: Px): LevelHandles {
  const [bottomLeft, , topRight, topLeft] = corners
  const top = { x: (topLeft.x + topRight.x) / 2, y: (topLeft.y + topRight.y) / 2 }
  // Away from the art, whichever way it is turned.
  const up = { x: topLeft.x - bottomLeft.x, y: topLeft.y - bottomLeft.y }
  const length = Math.hypot(up.x, up.y)
  const knob = length < 1 ? { x: top.x, y: top.y - KNOB_PX } : { x: top.x + (up.x / length) * KNOB_PX, y: top.y + (up.y / length) * KNOB_PX }
  return { corners, knob, top, pivot }
}

const near = (at: Px, to: Px) => Math.hypot(at.x - to.x, at.y - to.y) <= HIT_PX

/** What is under the pointer: the small things before the large. The pivot, which is where a figure is taken hold of too, only when it is meant. */
export function hitLevel(handles: LevelHandles | null, way: SeenWay, at: Px, meansPivot: boolean): LevelHit | null {
  if (handles !== null) {
    if (meansPivot && near(at, handles.pivot)) return { kind: 'pivot' }
    if (near(at, handles.knob)) return { kind: 'knob' }
    if (handles.corners.some((corner) => near(at, corner))) return { kind: 'corner' }
  }
  // By its flag, which stands over the place: the figure itself stays in hand.
  const key = way.keys.findLast((each) => Math.hypot(at.x - each.at.x, at.y - (each.at.y - FLAG_PX)) < FLAG_PX - 1)
  if (key !== undefined) return { kind: 'key', id: key.id }
  const mark = hitPathMark(way.marks, at.x, at.y)
  if (mark !== null) return { kind: 'mark', mark }
  if (handles === null) return null
  return isInside(handles.corners, at) ? { kind: 'art' } : null
}

/** Whether a point is inside a shape of straight sides. */
export function isInside(corners: readonly Px[], { x, y }: Px): boolean {
  let inside = false
  for (let i = 0, j = corners.length - 1; i < corners.length; j = i++) {
    const [a, b] = [corners[i]!, corners[j]!]
    if (a.y > y !== b.y > y && x < ((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x) inside = !inside
  }
  return inside
}

/** How many times farther from the pivot the pointer is than where it took hold. */
export const growthFrom = (pivot: Px, from: Px, to: Px): number => Math.max(0.01, Math.hypot(to.x - pivot.x, to.y - pivot.y) / Math.max(4, Math.hypot(from.x - pivot.x, from.y - pivot.y)))

/** How far the pointer has gone round the pivot, degrees clockwise, −180…180. */
export function turnedFrom(pivot: Px, from: Px, to: Px): number {
  const degrees = ((Math.atan2(to.y - pivot.y, to.x - pivot.x) - Math.atan2(from.y - pivot.y, from.x - pivot.x)) * 180) / Math.PI
  return degrees > 180 ? degrees - 360 : degrees <= -180 ? degrees + 360 : degrees
}

/** How far a drawn line strays from the straight way between its ends, as a part of that way. */
export function strays(points: readonly Px[]): number {
  const [a, b] = [points[0], points.at(-1)]
  if (a === undefined || b === undefined) return 0
  const chord = Math.hypot(b.x - a.x, b.y - a.y)
  // There and back again.
  if (chord < 1e-9) return points.some(({ x, y }) => Math.hypot(x - a.x, y - a.y) > 1e-9) ? Infinity : 0
  return Math.max(...points.map(({ x, y }) => Math.abs((b.x - a.x) * (a.y - y) - (a.x - x) * (b.y - a.y)) / chord)) / chord
}
