import type { Drawing } from '@rubato/core/document'
import { pointOnPlane, seenArt, type FlatArt, type SeenArt } from '@rubato/core/depth'
import { NEAREST_Z, project } from '@rubato/core/camera'
import { rectangleAround, type Rectangle } from '@rubato/core/geometry'
import { applyAffine, drawingBounds, followedBy, type Affine } from '@rubato/core/ink'
import { squareImage, type PlacedLevel, type StageFrame } from '@rubato/core/stage'
import { RIM_PX, type ArtLibrary, type ArtRaster } from './artLibrary'
import { AIR, airThrough, CLEAR, putAirNumbers, softOf, veilOf, type LevelAir, type Through } from './levelAir'
import { createPlaneOrder, partInView, type LevelPart, type PlaneOrder } from './cuts'
import { lookOf, type Look } from './looks'
import { inverseOf, pxOfFrame, turnOf, viewCorners, type ViewBox } from './viewBox'

export { wholeFrame } from './viewBox'
export type { ViewBox } from './viewBox'

/** One level's raster and where its pixels fall. */
export interface ComposedLevel {
  readonly levelId: string
  readonly raster: ArtRaster
  readonly opacity: number
  /** Raster px to canvas px, as canvas 2D takes it; null for a turned level. */
  readonly affine: readonly [number, number, number, number, number, number] | null
  /** The raster's corners from bottom left, counter-clockwise, as x·w, y·w, w in canvas px. */
  readonly corners: readonly (readonly [number, number, number])[]
  /** The corners of all that is drawn: with its soft edges, where it is soft. */
  readonly reach: ComposedLevel['corners']
  /** What of it is drawn here, where others cut through it; null: all. */
  readonly part: LevelPart | null
  /** Null: as it is drawn, sharp. */
  readonly air: LevelAir | null
}

export interface Composition {
  readonly view: ViewBox
  /** Far to near. A level that others cut through is there once for each of its parts. */
  readonly levels: readonly ComposedLevel[]
  readonly turned: boolean
  /** Equal, number by number, for two compositions exactly when their pictures are. */
  readonly signature: readonly number[]
  /** Drawings not loaded yet, which are missing from the picture. */
  readonly missing: readonly string[]
}

/** What of a level's opacity and presence a view changes. */
export type Dimming = (placed: PlacedLevel) => number

/** How a view shows a level's art. */
export type Looking = (placed: PlacedLevel) => Look

/** A picture of a reference sequence as a drawing of its own, made once. */
const ofSequence = new WeakMap<Drawing, Map<number, Drawing>>()
function pictureOf(drawing: Drawing, index: number): Drawing | null {
  const mark = drawing.marks[index]
  if (mark === undefined) return null
  const known = ofSequence.get(drawing) ?? new Map<number, Drawing>()
  ofSequence.set(drawing, known)
  let one = known.get(index)
  if (one === undefined) known.set(index, (one = { marks: [mark] }))
  return one
}

/**
 * What is to be drawn for a stage frame. `levels` hidden by `dimming` (0) are left out; reference levels are drawn
 * only with `withReference`.
 */
export function compose(
  stage: StageFrame,
  view: ViewBox,
  library: ArtLibrary,
  drawingOf: (id: string) => Drawing | null,
  withReference: boolean,
  dimming: Dimming = () => 1,
  looking: Looking = lookOf,
  through: Through = AIR,
): Composition {
  const shown: Shown[] = []
  const missing: string[] = []
  const put = (placed: PlacedLevel, look: Look) => {
    if (placed.drawingId === null || (placed.level.kind === 'reference' && !withReference)) return
    const opacity = placed.opacity * dimming(placed)
    if (opacity <= 0) return
    const drawing = drawingOf(placed.drawingId)
    if (drawing === null) {
      if (!missing.includes(placed.drawingId)) missing.push(placed.drawingId)
      return
    }
    shown.push({ placed, look, drawing, composed: composeLevel(stage, placed, placed.drawingId, drawing, opacity, look, view, library, through) })
  }
  for (const placed of stage.levels) put(placed, looking(placed))
  // Distances have no shadows, and none is drawn under.
  if (stage.shadows.length > 0 && through.kind === 'air') {
    for (const placed of stage.shadows) put(placed, { kind: 'shadow', soft: placed.level.shadow!.soft })
    shown.sort((a, b) => a.placed.layer - b.placed.layer || b.placed.z - a.placed.z || b.placed.rackIndex - a.placed.rackIndex)
  }
  return composed(view, shown.some(({ placed }) => !placed.square) ? inOrderOfPlanes(stage, shown, view, library) : shown.flatMap(({ composed }) => composed ?? []), missing)
}

interface Shown {
  readonly placed: PlacedLevel
  readonly look: Look
  readonly drawing: Drawing
  /** Null where it is not in the view. */
  readonly composed: ComposedLevel | null
}

const planeOrders = new WeakMap<ArtLibrary, Map<PlacedLevel['layer'], PlaneOrder>>()
const LAYERS = [-1, 0, 1] as const

/**
 * Levels that are turned to each other, each before what it hides, cut where they go through one another. What does not move keeps its
 * order from frame to frame, wherever it is seen from.
 */
function inOrderOfPlanes(stage: StageFrame, shown: readonly Shown[], view: ViewBox, library: ArtLibrary): ComposedLevel[] {
  const orders = planeOrders.get(library) ?? new Map<PlacedLevel['layer'], PlaneOrder>()
  planeOrders.set(library, orders)
  return LAYERS.flatMap((layer) => {
    // The list hangs on no camera, or what is kept of it would not last. What is out of the view is in it for that too.
    const drawn = shown.filter(({ placed }) => placed.layer === layer).sort((a, b) => a.placed.rackIndex - b.placed.rackIndex)
    const list = drawn.flatMap(({ placed: { plane, rackIndex }, drawing }): FlatArt[] => ((bounds) => (bounds === null ? [] : [{ plane, bounds, rackIndex }]))(drawingBounds(drawing)))
    const withArt = drawn.filter(({ drawing }) => drawingBounds(drawing) !== null)
    const order = orders.get(layer) ?? createPlaneOrder()
    orders.set(layer, order)
    return order.of(list).farToNear(stage.lens.position).flatMap((art): ComposedLevel[] => {
      const composed = withArt[art.of]!.composed
      const part = composed === null ? null : partInView(stage.lens, view, list, art, beyond(stage, withArt[art.of]!, view))
      return composed === null || part === null ? [] : [part === 'whole' ? composed : { ...composed, part }]
    })
  })
}

/** How far the soft edges of a level, or of a shadow, reach beyond its art, px of the canvas. */
function beyond({ lens }: StageFrame, { placed, look, composed }: Shown, view: ViewBox): number {
  const shadowPx = look.kind === 'shadow' ? (look.soft * view.frameWidthPx * lens.k * placed.size) / Math.max(0.1, placed.z) : 0
  return Math.min(view.widthPx, Math.ceil(shadowPx + 3 * (composed?.air?.soft?.mostPx ?? 0)))
}

/** One drawing as a level shows it; null where nothing of it is in the view. */
export function composeLevel(stage: StageFrame, placed: PlacedLevel, drawingId: string, whole: Drawing, opacity: number, look: Look, view: ViewBox, library: ArtLibrary, through: Through = CLEAR): ComposedLevel | null {
  const drawing = placed.pictureIndex === null ? whole : pictureOf(whole, placed.pictureIndex)
  if (drawing === null) return null
  const id = placed.pictureIndex === null ? drawingId : `${drawingId}#${placed.pictureIndex}`
  // What is shown many times is kept whole: each of them would need another part of it.
  const isRepeated = placed.level.repeat !== undefined
  if (!placed.square) {
    const seen = seenOfTurned(stage, placed, view, drawing)
    const raster = seen === null ? null : library.raster(id, drawing, octaveOfTurned(stage, placed, seen, view, library, drawing), look, isRepeated ? null : () => seen.art)
    return raster === null ? null : composeTurned(stage, placed, raster, opacity, view, seen!, through)
  }
  const octave = octaveNeeded(stage, placed, view, library, drawing)
  const toCanvas = canvasOfArt(stage, placed, view)
  const raster = library.raster(id, drawing, octave, look, isRepeated ? null : () => seenIn(view, toCanvas))
  return raster === null ? null : composeSquare(stage, placed, raster, opacity, view, toCanvas, through)
}

/** Levels put together, far to near, as one picture. */
export function composed(view: ViewBox, levels: readonly ComposedLevel[], missing: readonly string[] = []): Composition {
  const signature = [view.widthPx, view.heightPx]
  for (const level of levels) {
    signature.push(level.raster.version, level.opacity)
    for (const corner of level.corners) signature.push(corner[0], corner[1], corner[2])
    signature.push(level.part?.cuts.length ?? 0)
    for (const { a, b, c, before } of level.part?.cuts ?? []) signature.push(a, b, c, before ? 1 : 0)
    if (level.air !== null) putAirNumbers(level.air, signature)
  }
  return { view, levels, turned: levels.some((level) => level.affine === null), signature, missing }
}

/** The octave at which a level's drawing is wanted in a view: as large as it is seen there. */
export function octaveNeeded(stage: StageFrame, placed: PlacedLevel, view: ViewBox, library: ArtLibrary, drawing: Drawing): number {
  const seen = placed.square ? null : seenOfTurned(stage, placed, view, drawing)
  return seen === null ? octaveAt(stage, placed, Math.max(placed.z, NEAREST_Z), view, library, drawing) : octaveOfTurned(stage, placed, seen, view, library, drawing)
}

/** A floor that goes far off is not made so large for what of it lies nearest as if it all did. */
const MOST_NEARER = 8

const octaveOfTurned = (stage: StageFrame, placed: PlacedLevel, { nearest, farthest }: SeenArt, view: ViewBox, library: ArtLibrary, drawing: Drawing): number =>
  octaveAt(stage, placed, Math.max(nearest, farthest / MOST_NEARER), view, library, drawing)

const octaveAt = (stage: StageFrame, placed: PlacedLevel, z: number, view: ViewBox, library: ArtLibrary, drawing: Drawing): number => library.octaveFor(drawing, (view.frameWidthPx * stage.lens.k * placed.size) / z)

function seenOfTurned(stage: StageFrame, placed: PlacedLevel, view: ViewBox, drawing: Drawing): SeenArt | null {
  const [bounds, back] = [drawingBounds(drawing), inverseOf(pxOfFrame(view, stage.lens.halfHeight))]
  const window = back === null ? null : rectangleAround(viewCorners(view, back))
  return bounds === null || window === null ? null : seenArt(stage.lens, placed.plane, bounds, window)
}

/** Where a square level's art (fw, y up) falls in the canvas. */
export function canvasOfArt(stage: StageFrame, placed: PlacedLevel, view: ViewBox): Affine {
  const image = squareImage(stage.lens, placed)
  return followedBy({ a: image.xu, b: image.xv, c: image.yu, d: image.yv, e: image.u0, f: image.v0 }, pxOfFrame(view, stage.lens.halfHeight))
}

/** What of a level's plane the canvas shows, fw; null for a plane seen edge-on. */
function seenIn(view: ViewBox, toCanvas: Affine): Rectangle | null {
  const back = inverseOf(toCanvas)
  return back === null ? null : rectangleAround(viewCorners(view, back))
}

function composeSquare(stage: StageFrame, placed: PlacedLevel, raster: ArtRaster, opacity: number, view: ViewBox, toCanvas: Affine, through: Through): ComposedLevel | null {
  const perPx = 1 / raster.pxPerFw
  // Art (x, y up) from raster px (i, j down): x = left + (i − rim)·perPx, y = top − (j − rim)·perPx.
  const { a, b, c, d, e, f } = followedBy({ a: perPx, b: 0, c: 0, d: -perPx, e: raster.left - RIM_PX * perPx, f: raster.top + RIM_PX * perPx }, toCanvas)
  const w = raster.canvas.width
  const h = raster.canvas.height
  const at = (i: number, j: number) => [a * i + c * j + e, b * i + d * j + f, 1] as const
  const corners = [at(0, h), at(w, h), at(w, 0), at(0, 0)]
  const z = Math.max(placed.z, NEAREST_Z)
  const air = airOf(stage, placed, view, raster, z, z, through, () => 1 / Math.sqrt(Math.abs(a * d - b * c)))
  const reach = reachOf(corners, raster, air)
  if (outside(reach, 0, view.widthPx) || outside(reach, 1, view.heightPx)) return null
  return { levelId: placed.level.id, raster, opacity, affine: [snap(a), snap(b), snap(c), snap(d), snapPx(e), snapPx(f)], corners, reach, part: null, air }
}

/** What is between a level and the lens; `perPx`: px of its raster to one of the canvas at a distance, where it faces the lens. */
function airOf(stage: StageFrame, placed: PlacedLevel, view: ViewBox, raster: ArtRaster, nearest: number, farthest: number, through: Through, perPx: (z: number) => number): LevelAir | null {
  if (through.kind !== 'depth' && stage.air.haze === null && stage.air.focus === null) return null
  const { air, range } = airThrough(through, stage, placed.layer)
  const veil = veilOf(air, range, nearest, farthest)
  const soft = softOf(air, view, raster, nearest, farthest, perPx)
  return veil === null && soft === null ? null : { veil, soft }
}

/** Where the corners of a pyramid fall, which reaches beyond its raster. */
function reachOf(corners: ComposedLevel['corners'], { canvas: { width, height } }: ArtRaster, air: LevelAir | null): ComposedLevel['corners'] {
  const pyramid = air?.soft?.pyramid
  if (pyramid === undefined) return corners
  const [below, , right, origin] = corners as readonly [Corner, Corner, Corner, Corner]
  const at = (i: number, j: number): Corner => {
    const [x, y] = [(i - pyramid.padPx) / width, (j - pyramid.padPx) / height]
    const along = (axis: 0 | 1 | 2) => origin[axis] + x * (right[axis] - origin[axis]) + y * (below[axis] - origin[axis])
    return [along(0), along(1), along(2)]
  }
  const { widthPx, heightPx } = pyramid
  return [at(0, heightPx), at(widthPx, heightPx), at(widthPx, 0), at(0, 0)]
}
type Corner = ComposedLevel['corners'][number]

/** True when all the corners lie before 0 or past `end` along one axis. */
function outside(corners: readonly (readonly [number, number, number])[], axis: 0 | 1, end: number): boolean {
  let before = true
  let past = true
  for (const corner of corners) {
    if (corner[axis] > 0) before = false
    if (corner[axis] < end) past = false
  }
  return before || past
}

function composeTurned(stage: StageFrame, placed: PlacedLevel, raster: ArtRaster, opacity: number, view: ViewBox, seen: SeenArt, through: Through): ComposedLevel | null {
  const W = view.frameWidthPx
  const cx = view.frameLeftPx + W / 2
  const cy = view.frameTopPx + W * stage.lens.halfHeight
  const perPx = 1 / raster.pxPerFw
  const w = raster.canvas.width
  const h = raster.canvas.height
  const turn = turnOf(view)
  const at = (i: number, j: number) => {
    const art = { x: raster.left + (i - RIM_PX) * perPx, y: raster.top - (j - RIM_PX) * perPx }
    const { u, v, z } = project(stage.lens, pointOnPlane(placed.plane, art))
    const flat = { x: cx + W * u, y: cy - W * v }
    const { x, y } = turn === null ? flat : applyAffine(turn, flat)
    return [x * z, y * z, z] as const
  }
  const corners = [at(0, h), at(w, h), at(w, 0), at(0, 0)]
  if (corners.every((corner) => corner[2] < NEAREST_Z)) return null
  const air = airOf(stage, placed, view, raster, seen.nearest, seen.farthest, through, (z) => (raster.pxPerFw * z) / (W * stage.lens.k * placed.size))
  return { levelId: placed.level.id, raster, opacity, affine: null, corners, reach: reachOf(corners, raster, air), part: null, air }
}

/** Less than this of a px shows in no pixel. */
const SAME_PX = 1e-4

export function samePicture(a: Composition['signature'], b: Composition['signature']): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (Math.abs(a[i]! - b[i]!) > SAME_PX) return false
  return true
}

/** Rounding noise in a 1:1 transform would make the canvas resample what it could copy. */
function snap(factor: number): number {
  const whole = Math.round(factor)
  return Math.abs(factor - whole) < 1e-9 ? whole : factor
}

function snapPx(place: number): number {
  const whole = Math.round(place)
  return Math.abs(place - whole) < 1e-6 ? whole : place
}
