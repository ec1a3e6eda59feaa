import type { StageFrame } from '@rubato/core/stage'
import type { ArtRaster } from './artRaster'
import { composed, type ComposedLevel, type Composition } from './composition'
import type { ViewBox } from './viewBox'

/** The paper that lies over everything but the level that is drawn on. */
const VEIL = 'veil'
let white: ArtRaster | null = null
const SIDE_PX = 8

function veilRaster(): ArtRaster {
  if (white !== null) return white
  const canvas = new OffscreenCanvas(SIDE_PX, SIDE_PX)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.fillStyle = '#ffffff'
  context.fillRect(0, 0, SIDE_PX, SIDE_PX)
  white = { canvas, version: Number.MIN_SAFE_INTEGER, pxPerFw: 1, left: 0, top: 0, changes: [] }
  return white
}

function veil(view: ViewBox, opacity: number): ComposedLevel {
  // Wider than the view, so that its soft edges are outside.
  const out = Math.max(view.widthPx, view.heightPx)
  const [left, top, w, h] = [-out, -out, view.widthPx + 2 * out, view.heightPx + 2 * out]
  const corners = [[left, top + h, 1], [left + w, top + h, 1], [left + w, top, 1], [left, top, 1]] as const
  return { levelId: VEIL, raster: veilRaster(), opacity, affine: [w / SIDE_PX, 0, 0, h / SIDE_PX, left, top], corners, reach: corners, part: null, air: null }
}

/**
 * Paper to draw on: everything else faded towards white by `fade` (0…1), the ghosts over that, and the level that is
 * drawn on above all. Without fading, levels keep their order and ghosts lie right under the level.
 */
export function drawingSheet(picture: Composition, selectedId: string | null, fade: number, ghosts: readonly ComposedLevel[]): Composition {
  const own = picture.levels.filter((level) => level.levelId === selectedId)
  if (fade === 0) {
    if (ghosts.length === 0) return picture
    const at = own.length === 0 ? picture.levels.length : picture.levels.indexOf(own[0]!)
    return composed(picture.view, [...picture.levels.slice(0, at), ...ghosts, ...picture.levels.slice(at)], picture.missing)
  }
  const others = picture.levels.filter((level) => level.levelId !== selectedId)
  return composed(picture.view, [...others, ...(others.length === 0 ? [] : [veil(picture.view, fade)]), ...ghosts, ...own], picture.missing)
}

/** Only the levels asked for. */
export function onlyLevels(picture: Composition, keep: (level: ComposedLevel, index: number) => boolean): Composition {
  return composed(picture.view, picture.levels.filter(keep), picture.missing)
}

/** Which panels' drawings show through, nearest first on each side, and how strongly. */
export interface GhostPlan {
  readonly panelIndex: number
  readonly side: 'before' | 'after'
  readonly strength: number
}

/** Ghosts farther off are fainter by this. */
const FALLING = 0.6

const reach = ({ before, after, strength, halfway }: GhostReach) => (halfway ? { before: 1, after: 1, strength: 0.5 } : { before, after, strength })
/** How many show through on each side, and how strongly the nearest. */
export interface GhostReach {
  readonly before: number
  readonly after: number
  readonly strength: number
  readonly halfway: boolean
}

/** Which drawings of one level show through, around the run at `index`: the last on top. None twice, and none that shows already. */
export function ghostsAround(runs: readonly { readonly drawingId: string | null }[], index: number, ghosts: GhostReach): { readonly drawingId: string; readonly side: 'before' | 'after'; readonly strength: number }[] {
  const { strength, ...most } = reach(ghosts)
  const seen = new Set([runs[index]?.drawingId ?? null, null])
  const found: { drawingId: string; side: 'before' | 'after'; strength: number }[] = []
  const taken = { before: 0, after: 0 }
  for (let step = 1; step < runs.length && (taken.before < most.before || taken.after < most.after); step++) {
    for (const side of ['before', 'after'] as const) {
      const run = runs[index + (side === 'before' ? -step : step)]
      if (run === undefined || taken[side] === most[side] || seen.has(run.drawingId)) continue
      seen.add(run.drawingId)
      found.push({ drawingId: run.drawingId!, side, strength: strength * FALLING ** taken[side]++ })
    }
  }
  return found.reverse()
}

export function plannedGhosts(stage: Pick<StageFrame, 'panelIndex'>, panelCount: number, ghosts: GhostReach): GhostPlan[] {
  const plans: GhostPlan[] = []
  const { before: b, after: a, strength: s } = reach(ghosts)
  // The farthest first, so that the nearest lies on top.
  for (let n = Math.max(b, a); n >= 1; n--) {
    const fainter = s * FALLING ** (n - 1)
    if (n <= b && stage.panelIndex - n >= 0) plans.push({ panelIndex: stage.panelIndex - n, side: 'before', strength: fainter })
    if (n <= a && stage.panelIndex + n < panelCount) plans.push({ panelIndex: stage.panelIndex + n, side: 'after', strength: fainter })
  }
  return plans
}
