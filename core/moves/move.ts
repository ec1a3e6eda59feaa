import { lensRatio, type Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { angleAt } from './angles'
import { createPath, type Path } from './path'
import { createProgress, type Timing, type Way } from './timing'

/**
 * What stays even along the way: `set`, equal steps through the set; `screen`, equal growth of what lies at
 * `subjectDepth` (fw), so that a push-in closes on its subject without sliding.
 */
export type Evenness = { readonly kind: 'set' } | { readonly kind: 'screen'; readonly subjectDepth: number }

export type TurnField = 'panDegrees' | 'tiltDegrees' | 'rollDegrees'
export const TURN_FIELDS: readonly TurnField[] = Object.freeze(['panDegrees', 'tiltDegrees', 'rollDegrees'])

/** The way from one framing to the next. */
export interface MoveSpec {
  readonly timing: Timing
  readonly path: Path
  readonly evenness: Evenness
  /** Turns that are taken as they are written, not the short way: parts of a turn of 360° or more. Absent: none. */
  readonly unwound?: TurnField[] | undefined
}

export const CUSHIONED_MOVE: MoveSpec = Object.freeze({
  timing: Object.freeze({ kind: 'cushioned', leaveFrames: 6, arriveFrames: 6 }),
  path: Object.freeze({ kind: 'straight' }),
  evenness: Object.freeze({ kind: 'set' }),
})

/**
 * Solves the move between two framings `lengthFrames` apart. The result maps frames since the first framing to a
 * pose: at or before 0 the first exactly, at or after the length, and the settle where there is one, the second
 * exactly. A length of 0 is a jump.
 */
export function createMove(
  from: CameraPose,
  to: CameraPose,
  spec: MoveSpec,
  lengthFrames: number,
  optics: Optics,
  mostSettleFrames = Infinity,
): Way<CameraPose> {
  const progress = createProgress(spec.timing, lengthFrames, mostSettleFrames)
  const along = isEvenOnScreen(from, to, spec)
    ? createScreenEven(from, to, spec.evenness.subjectDepth, optics)
    : createSetEven(from, to, spec.path)
  return (frame, goesOn) => {
    const p = progress(frame, goesOn)
    if (p === 0) return from
    if (p === 1) return to
    const angle = (field: TurnField) => (spec.unwound?.includes(field) === true ? from[field] + (to[field] - from[field]) * p : angleAt(from[field], to[field], p))
    const { x, y, depth, focalLengthMm } = along(p)
    return { x, y, depth, focalLengthMm, panDegrees: angle('panDegrees'), tiltDegrees: angle('tiltDegrees'), rollDegrees: angle('rollDegrees') }
  }
}

/** Even on screen needs a straight path and a subject plane in front of the lens at both ends; else the set's. */
export function isEvenOnScreen(
  from: CameraPose,
  to: CameraPose,
  spec: MoveSpec,
): spec is MoveSpec & { readonly evenness: { readonly kind: 'screen'; readonly subjectDepth: number } } {
  if (spec.evenness.kind !== 'screen' || spec.path.kind !== 'straight') return false
  const { subjectDepth } = spec.evenness
  return subjectDepth > from.depth && subjectDepth > to.depth
}

type Placed = Pick<CameraPose, 'x' | 'y' | 'depth' | 'focalLengthMm'>

function createSetEven(from: CameraPose, to: CameraPose, path: Path): (p: number) => Placed {
  const solved = createPath(
    { x: from.x, y: from.y, depth: from.depth },
    { x: to.x, y: to.y, depth: to.depth },
    path,
  )
  return (p) => {
    const place = solved.at(p)
    return { x: place.x, y: place.y, depth: place.depth, focalLengthMm: geometric(from.focalLengthMm, to.focalLengthMm, p) }
  }
}

function createScreenEven(from: CameraPose, to: CameraPose, subjectDepth: number, optics: Optics): (p: number) => Placed {
  const widthFrom = (subjectDepth - from.depth) / lensRatio(from.focalLengthMm, optics.filmBackMm)
  const widthTo = (subjectDepth - to.depth) / lensRatio(to.focalLengthMm, optics.filmBackMm)
  return (p) => {
    const focalLengthMm = geometric(from.focalLengthMm, to.focalLengthMm, p)
    const width = geometric(widthFrom, widthTo, p)
    // Beside their own size the widths are as good as equal: their difference would be all rounding.
    const g = Math.abs(widthTo - widthFrom) < 1e-7 * widthTo ? p : (width - widthFrom) / (widthTo - widthFrom)
    return {
      x: from.x + (to.x - from.x) * g,
      y: from.y + (to.y - from.y) * g,
      depth: subjectDepth - width * lensRatio(focalLengthMm, optics.filmBackMm),
      focalLengthMm,
    }
  }
}

function geometric(from: number, to: number, p: number): number {
  return from === to ? from : from ** (1 - p) * to ** p
}
