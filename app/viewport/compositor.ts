import { changedSince } from './artRaster'
import { samePicture, type ComposedLevel, type Composition } from './composition'
import { sameAir } from './levelAir'
import type { AnyCanvas } from './paint'
import { around, clipped, type PixelBox } from './pixelBox'

export type { AnyCanvas } from './paint'

/** `exact` everywhere the same to within 3/255; `fast` may be coarser in hard edges, for pictures in motion. */
export type Resampling = 'exact' | 'fast'

/** Draws compositions on its canvas, sized to their view. */
export interface Compositor {
  readonly kind: 'canvas' | 'gl'
  readonly canvas: AnyCanvas
  /** Draws; false where the composition is what is on the canvas already. */
  draw(composition: Composition, background: Background, resampling: Resampling): boolean
  /** For good: the canvas, and what was sent to a graphics card, give their memory back. */
  dispose(): void
}

/** What shows where no art is: a colour, or null for nothing (transparent). */
export interface Background {
  /** Inside the frame: paper. */
  readonly frame: string | null
  /** Outside it. */
  readonly surround: string | null
}

/** What of a canvas a new composition changes: nothing, all of it, or only some boxes. */
export type Repaint = 'nothing' | 'all' | readonly PixelBox[]

/** More of the canvas than this, and it is drawn whole. */
const MOST_OF_CANVAS = 0.5
const MOST_BOXES = 48

/** Remembers what is on a canvas, so that the same picture is not drawn twice, and of another only what is different. */
export function createShown() {
  let last: Composition | null = null
  let versions: readonly number[] = []
  let frame: string | null = null
  let surround: string | null = null
  let as: Resampling = 'fast'

  function changed(composition: Composition): Repaint {
    if (last === null || last.levels.length !== composition.levels.length) return 'all'
    const boxes: PixelBox[] = []
    const { view } = composition
    if (last.view.widthPx !== view.widthPx || last.view.heightPx !== view.heightPx) return 'all'
    for (let i = 0; i < composition.levels.length; i++) {
      const level = composition.levels[i]!
      const before = last.levels[i]!
      if (level.raster !== before.raster || level.opacity !== before.opacity || !sameCorners(level.corners, before.corners) || !sameCuts(level, before) || !sameAir(level.air, before.air)) return 'all'
      const px = changedSince(level.raster, versions[i]!)
      if (px === null || level.affine === null || (level.air?.soft ?? null) !== null) {
        if (px?.length === 0) continue
        return 'all'
      }
      for (const box of px) {
        const seen = clipped(boxUnder(level.affine, box), view)
        if (seen !== null) boxes.push(seen)
      }
    }
    const area = boxes.reduce((sum, box) => sum + (box.right - box.left) * (box.bottom - box.top), 0)
    if (area > view.widthPx * view.heightPx * MOST_OF_CANVAS) return 'all'
    return boxes.length > MOST_BOXES ? [around(boxes)!] : boxes
  }

  return {
    /** What must be drawn; it is taken to be there from now on. `as` says how exactly: small repairs keep to what is there. */
    replacedBy(composition: Composition, background: Background, resampling: Resampling): { readonly repaint: Repaint; readonly as: Resampling } {
      const same = last !== null && background.frame === frame && background.surround === surround
      if (same && resampling === as && samePicture(last!.signature, composition.signature)) return { repaint: 'nothing', as }
      // What rests exactly is mended exactly, also while it is being drawn on.
      const keeps = same && (resampling === as || as === 'exact')
      const repaint = keeps ? changed(composition) : 'all'
      if (repaint === 'all' || !keeps) as = resampling
      last = composition
      versions = composition.levels.map((level) => level.raster.version)
      frame = background.frame
      surround = background.surround
      return { repaint: repaint !== 'all' && repaint.length === 0 ? 'nothing' : repaint, as }
    },
    forget() {
      last = null
    },
  }
}

function sameCorners(a: Composition['levels'][number]['corners'], b: Composition['levels'][number]['corners']): boolean {
  return a.every((corner, i) => corner.every((value, j) => value === b[i]![j]))
}

function sameCuts({ part: a }: ComposedLevel, { part: b }: ComposedLevel): boolean {
  if (a === null || b === null) return a === b
  return a.cuts.length === b.cuts.length && a.cuts.every((cut, i) => cut.a === b.cuts[i]!.a && cut.b === b.cuts[i]!.b && cut.c === b.cuts[i]!.c && cut.before === b.cuts[i]!.before)
}

/** Bilinear resampling reaches this far. */
const REACH_PX = 2

function boxUnder(affine: readonly [number, number, number, number, number, number], box: PixelBox): PixelBox {
  const [a, b, c, d, e, f] = affine
  const corners = [[box.left - 1, box.top - 1], [box.right + 1, box.top - 1], [box.right + 1, box.bottom + 1], [box.left - 1, box.bottom + 1]] as const
  const xs = corners.map(([x, y]) => a * x + c * y + e)
  const ys = corners.map(([x, y]) => b * x + d * y + f)
  return { left: Math.floor(Math.min(...xs)) - REACH_PX, top: Math.floor(Math.min(...ys)) - REACH_PX, right: Math.ceil(Math.max(...xs)) + REACH_PX, bottom: Math.ceil(Math.max(...ys)) + REACH_PX }
}
