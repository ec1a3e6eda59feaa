import type { Drawing } from '@rubato/core/document'
import { pointOnPlane } from '@rubato/core/depth'
import { NEAREST_Z, project } from '@rubato/core/camera'
import { squareImage, type PlacedLevel, type StageFrame } from '@rubato/core/stage'
import { RIM_PX, type ArtLibrary, type ArtRaster } from './artLibrary'

/** The frame's rectangle inside a canvas, in px; what falls outside it is surround. */
export interface ViewBox {
  readonly widthPx: number
  readonly heightPx: number
  readonly frameLeftPx: number
  readonly frameTopPx: number
  readonly frameWidthPx: number
}

/** A canvas that is the frame and nothing else. */
export function wholeFrame(widthPx: number, heightPx: number): ViewBox {
  return { widthPx, heightPx, frameLeftPx: 0, frameTopPx: 0, frameWidthPx: widthPx }
}

/** One level's raster and where its pixels fall. */
export interface ComposedLevel {
  readonly levelId: string
  readonly raster: ArtRaster
  readonly opacity: number
  /** Raster px to canvas px, as canvas 2D takes it; null for a turned level. */
  readonly affine: readonly [number, number, number, number, number, number] | null
  /** The raster's corners from bottom left, counter-clockwise, as x·w, y·w, w in canvas px. */
  readonly corners: readonly (readonly [number, number, number])[]
}

export interface Composition {
  readonly view: ViewBox
  /** Far to near. */
  readonly levels: readonly ComposedLevel[]
  readonly turned: boolean
  /** Equal, number by number, for two compositions exactly when their pictures are. */
  readonly signature: readonly number[]
  /** Drawings not loaded yet, which are missing from the picture. */
  readonly missing: readonly string[]
}

/** What of a level's opacity and presence a view changes. */
export type Dimming = (placed: PlacedLevel) => number

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
): Composition {
  const levels: ComposedLevel[] = []
  const missing: string[] = []
  let turned = false
  const signature = [view.widthPx, view.heightPx]
  for (const placed of stage.levels) {
    if (placed.drawingId === null || (placed.level.kind === 'reference' && !withReference)) continue
    const opacity = placed.level.opacity * dimming(placed)
    if (opacity <= 0) continue
    const drawing = drawingOf(placed.drawingId)
    if (drawing === null) {
      missing.push(placed.drawingId)
      continue
    }
    const raster = library.raster(placed.drawingId, drawing, octaveNeeded(stage, placed, view, library, drawing))
    if (raster === null) continue
    const composed = placed.square ? composeSquare(stage, placed, raster, opacity, view) : composeTurned(stage, placed, raster, opacity, view)
    if (composed === null) continue
    if (composed.affine === null) turned = true
    levels.push(composed)
    signature.push(raster.version, opacity)
    for (const corner of composed.corners) signature.push(corner[0], corner[1], corner[2])
  }
  return { view, levels, turned, signature, missing }
}

/** The octave at which a level's drawing is wanted in a view: that of its pivot's magnification. */
export function octaveNeeded(stage: StageFrame, placed: PlacedLevel, view: ViewBox, library: ArtLibrary, drawing: Drawing): number {
  return library.octaveFor(drawing, (view.frameWidthPx * stage.lens.k * placed.level.scale) / Math.max(placed.z, NEAREST_Z))
}

function composeSquare(stage: StageFrame, placed: PlacedLevel, raster: ArtRaster, opacity: number, view: ViewBox): ComposedLevel | null {
  const image = squareImage(stage.lens, placed)
  const W = view.frameWidthPx
  const cx = view.frameLeftPx + W / 2
  const cy = view.frameTopPx + W * stage.lens.halfHeight
  const perPx = 1 / raster.pxPerFw
  // Art (x, y up) from raster px (i, j down): x = left + (i − rim)·perPx, y = top − (j − rim)·perPx.
  const a = W * image.xu * perPx
  const b = -W * image.xv * perPx
  const c = -W * image.yu * perPx
  const d = W * image.yv * perPx
  const x0 = raster.left - RIM_PX * perPx
  const y0 = raster.top + RIM_PX * perPx
  const e = cx + W * (image.u0 + image.xu * x0 + image.yu * y0)
  const f = cy - W * (image.v0 + image.xv * x0 + image.yv * y0)
  const w = raster.canvas.width
  const h = raster.canvas.height
  const at = (i: number, j: number) => [a * i + c * j + e, b * i + d * j + f, 1] as const
  const corners = [at(0, h), at(w, h), at(w, 0), at(0, 0)]
  if (outside(corners, 0, view.widthPx) || outside(corners, 1, view.heightPx)) return null
  return { levelId: placed.level.id, raster, opacity, affine: [snap(a), snap(b), snap(c), snap(d), snapPx(e), snapPx(f)], corners }
}

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

function composeTurned(stage: StageFrame, placed: PlacedLevel, raster: ArtRaster, opacity: number, view: ViewBox): ComposedLevel | null {
  const W = view.frameWidthPx
  const cx = view.frameLeftPx + W / 2
  const cy = view.frameTopPx + W * stage.lens.halfHeight
  const perPx = 1 / raster.pxPerFw
  const w = raster.canvas.width
  const h = raster.canvas.height
  const at = (i: number, j: number) => {
    const art = { x: raster.left + (i - RIM_PX) * perPx, y: raster.top - (j - RIM_PX) * perPx }
    const { u, v, z } = project(stage.lens, pointOnPlane(placed.plane, art))
    return [(cx + W * u) * z, (cy - W * v) * z, z] as const
  }
  const corners = [at(0, h), at(w, h), at(w, 0), at(0, 0)]
  if (corners.every((corner) => corner[2] < NEAREST_Z)) return null
  return { levelId: placed.level.id, raster, opacity, affine: null, corners }
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
