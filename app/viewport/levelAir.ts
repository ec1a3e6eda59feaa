import { channelsOf } from '@rubato/core/moves'
import { depthGrey, deviationOf, hazeAt, SOFTEST_FW, softnessAt, type Air, type DepthRange } from '@rubato/core/depth'
import { NEAREST_Z } from '@rubato/core/camera'
import type { StageFrame } from '@rubato/core/stage'
import type { ArtRaster } from './artRaster'
import { softPlace, softPyramidOf, type SoftPlace, type SoftPyramid } from './softPyramid'
import type { ViewBox } from './viewBox'

/** What a view shows of the air: what the frame has; nothing; or, in the place of colours, distances. */
export type Through = { readonly kind: 'air' } | { readonly kind: 'clear' } | { readonly kind: 'depth'; readonly range: DepthRange }
export const AIR: Through = Object.freeze({ kind: 'air' })
export const CLEAR: Through = Object.freeze({ kind: 'clear' })

/** A colour that a level's goes towards, 0…1 by distance. */
export interface Veil {
  /** 0…1 each. */
  readonly rgb: readonly [number, number, number]
  /** CSS, the same. */
  readonly colour: string
  /** Of all of a square level. */
  readonly share: number
  /** Of a turned one, by the pixel: haze past `b` by density `a`; or (1/z − b) · a of white. */
  readonly by: 'haze' | 'depth'
  readonly a: number
  readonly b: number
}

/** How soft a level is. */
export interface Softened {
  readonly pyramid: SoftPyramid
  /** Of all of a square level. */
  readonly place: SoftPlace
  /** Of a turned one, by the pixel: |1/z − 1/sharp| times this, a deviation in px of the canvas, at most `mostPx`. */
  readonly inverseSharp: number
  readonly strengthPx: number
  readonly mostPx: number
}

export interface LevelAir {
  readonly veil: Veil | null
  readonly soft: Softened | null
}

/** The air as a frame shows it, and how: what is right over or under everything is in none. */
export function airThrough(through: Through, { air }: Pick<StageFrame, 'air'>, layer: number): { readonly air: Air | null; readonly range: DepthRange | null } {
  if (through.kind === 'depth') return { air: null, range: through.range }
  return { air: through.kind === 'air' && layer === 0 && (air.haze !== null || air.focus !== null) ? air : null, range: null }
}

/** The share of a veil at a distance. */
export function veilAt({ by, a, b }: Pick<Veil, 'by' | 'a' | 'b'>, z: number): number {
  return by === 'haze' ? hazeAt({ density: a, start: b }, z) : Math.min(1, Math.max(0, (1 / z - b) * a))
}

/** A canvas mixes in steps of 1/255: what is mixed is told in them, so that both backends mix the same. */
const inStep = (share: number) => Math.round(share * 255) / 255
const inSteps = ({ level, share }: SoftPlace): SoftPlace => ({ level: Math.floor(level) + inStep(level - Math.floor(level)), share: inStep(share) })

const WHITE = '#ffffff'
function parts(colour: string): Veil['rgb'] {
  const [r, g, b] = channelsOf(colour)
  return [r / 255, g / 255, b / 255]
}

/** What haze, or a picture of depth, makes of a level at distance z; of a turned one, at its nearest and farthest. Null where nobody would see it. */
export function veilOf(air: Air | null, range: DepthRange | null, nearest: number, farthest: number): Veil | null {
  if (range !== null) {
    const near = 1 / range.nearest
    const far = 1 / range.farthest
    return { rgb: parts(WHITE), colour: WHITE, share: inStep(depthGrey(range, nearest)), by: 'depth', a: near > far ? 1 / (near - far) : 1e9, b: far }
  }
  const haze = air?.haze ?? null
  if (haze === null || hazeAt(haze, Math.max(nearest, farthest)) < LEAST_SHARE) return null
  return { rgb: parts(haze.colour), colour: haze.colour, share: inStep(hazeAt(haze, nearest)), by: 'haze', a: haze.density, b: haze.start }
}
/** Less of a colour changes no pixel. */
const LEAST_SHARE = 1 / 1024

/** Blurs of less than half a pixel are left out. */
const LEAST_SOFT_PX = 0.5

/** How soft a level is between two distances, and the variance that it comes to at most in px of its raster; null where nobody would see it. `perPx`: px of the raster to one of the canvas, at a distance. */
export function softOf(air: Air | null, view: ViewBox, raster: ArtRaster, nearest: number, farthest: number, perPx: (z: number) => number): Softened | null {
  const focus = air?.focus ?? null
  if (focus === null) return null
  const W = view.frameWidthPx
  const [near, far] = [Math.max(NEAREST_Z, nearest), Math.max(NEAREST_Z, farthest)]
  const most = Math.max(softnessAt(focus, near), softnessAt(focus, far))
  if (most * W < LEAST_SOFT_PX) return null
  const variance = (z: number) => (deviationOf(softnessAt(focus, z)) * W * perPx(z)) ** 2
  return {
    pyramid: softPyramidOf(raster, Math.max(variance(near), variance(far))),
    place: inSteps(softPlace(variance(near))),
    inverseSharp: 1 / focus.sharp,
    strengthPx: deviationOf(focus.strength) * W,
    mostPx: deviationOf(SOFTEST_FW) * W,
  }
}

/** What a picture of it hangs on. */
export function putAirNumbers({ veil, soft }: LevelAir, to: number[]): void {
  if (veil === null) to.push(-1)
  else to.push(...veil.rgb, veil.share, veil.by === 'haze' ? 1 : 2, veil.a, veil.b)
  if (soft === null) to.push(-1)
  else to.push(soft.place.level, soft.place.share, soft.inverseSharp, soft.strengthPx)
}

export function sameAir(a: LevelAir | null, b: LevelAir | null): boolean {
  if (a === null || b === null) return a === b
  const [first, second]: number[][] = [[], []]
  putAirNumbers(a, first!)
  putAirNumbers(b, second!)
  return first!.length === second!.length && first!.every((value, i) => value === second![i]) && a.soft?.pyramid === b.soft?.pyramid
}
