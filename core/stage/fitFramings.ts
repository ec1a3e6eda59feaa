import type { Optics } from '../camera/lens'
import type { CameraPose } from '../camera/pose'
import { length, subtract, type Point3 } from '../geometry/point'
import { createMove, type MoveSpec } from '../moves/move'
import { fitOneBend } from '../moves/fitPath'
import type { Path } from '../moves/path'
import { createShiftGauge } from './pictureShift'

/** A framing that was found: the frame of the poses that it stands on, and the move that leaves it. */
export interface FittedFraming {
  readonly frame: number
  readonly pose: CameraPose
  readonly move: MoveSpec
}

export interface FittedFramings {
  readonly framings: readonly FittedFraming[]
  /** The farthest that the picture is off at any frame, fw: every one is looked at. */
  readonly most: number
}

export interface Fitting {
  readonly optics: Optics
  /** The depths at which there is art: see `artDepths`. */
  readonly depths: readonly number[]
  /** How far the picture may be off at any frame, fw. */
  readonly limit: number
  /** Frames on which a framing has to stand. */
  readonly standing?: ReadonlySet<number>
  /** How much of it is done, 0…1; true to give up. */
  readonly told?: (share: number) => boolean
}

const EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const placeOf = ({ x, y, depth }: CameraPose): Point3 => ({ x, y, depth })

/**
 * Few framings that go through a pose for each frame, with no picture off by more than the limit. Each goes as far as one move
 * can: straight or bent, at speeds that a cubic of the time tells (its handles are the least squares of the way gone so far,
 * over the path's length or over what is seen of it). Null where it was told to give up.
 */
export function fitFramings(poses: readonly CameraPose[], { optics, depths, limit, standing, told }: Fitting): FittedFramings | null {
  const off = createShiftGauge((frame) => poses[frame]!, optics, depths)
  const seen = sums(poses.map((pose, i) => (i === 0 ? 0 : Math.min(1e6, off(i - 1, pose)))))
  const gone = sums(poses.map((pose, i) => (i === 0 ? 0 : length(subtract(placeOf(pose), placeOf(poses[i - 1]!))))))
  const places = poses.map(placeOf)
  const errorOf = (from: number, to: number, move: MoveSpec, enough: number) => {
    const at = createMove(poses[from]!, poses[to]!, move, to - from, optics)
    let most = 0
    for (let frame = from + 1; frame < to && most <= enough; frame++) most = Math.max(most, off(frame, at(frame - from), enough))
    return most
  }
  const best = (from: number, to: number): { readonly move: MoveSpec; readonly error: number } => {
    let found: { readonly move: MoveSpec; readonly error: number } = { move: EVEN, error: to - from < 2 ? 0 : errorOf(from, to, EVEN, limit) }
    if (found.error <= limit) return found
    for (const path of pathsOf(places.slice(from, to + 1))) {
      for (const way of path.kind === 'straight' ? [seen, gone] : [gone, seen]) {
        const move: MoveSpec = { ...EVEN, timing: timingOf(way, from, to), path }
        const error = errorOf(from, to, move, Math.min(limit, found.error))
        if (error < found.error) found = { move, error }
        if (found.error <= limit) return found
      }
    }
    return found
  }
  const stops = [...(standing ?? [])].filter((frame) => frame > 0 && frame < poses.length - 1).sort((a, b) => a - b)
  const framings: FittedFraming[] = []
  let most = 0
  const last = poses.length - 1
  for (let from = 0; from < last; ) {
    if (told?.(from / Math.max(1, last)) === true) return null
    const end = stops.find((frame) => frame > from) ?? last
    let [good, bad, step] = [from + 1, end + 1, 8]
    let move = best(from, good)
    // As far as it goes: ever longer, until it does not, then between those two.
    for (let to = Math.min(end, from + step); to > good && to < bad; to = Math.min(end, from + (step *= 2))) {
      const tried = best(from, to)
      if (tried.error > limit) bad = to
      else [good, move] = [to, tried]
    }
    while (bad - good > 1) {
      const to = (good + bad) >> 1
      const tried = best(from, to)
      if (tried.error > limit) bad = to
      else [good, move] = [to, tried]
    }
    framings.push({ frame: from, pose: poses[from]!, move: move.move })
    most = Math.max(most, move.error)
    from = good
  }
  if (poses.length > 0) framings.push({ frame: last, pose: poses[last]!, move: EVEN })
  return { framings, most }
}

function sums(parts: readonly number[]): Float64Array {
  const out = new Float64Array(parts.length)
  for (let i = 1; i < parts.length; i++) out[i] = out[i - 1]! + parts[i]!
  return out
}

/** How near to a straight line a way has to lie for a bend to be of no use, fw. */
const STRAIGHT = 1e-6

function pathsOf(places: readonly Point3[]): readonly Path[] {
  const straight: Path = { kind: 'straight' }
  const distinct = places.filter((place, i) => i === 0 || length(subtract(place, places[i - 1]!)) > 1e-9)
  if (distinct.length < 3) return [straight]
  const { path, off } = fitOneBend(distinct)
  const chord = length(subtract(distinct.at(-1)!, distinct[0]!))
  const way = distinct.reduce((sum, place, i) => sum + (i === 0 ? 0 : length(subtract(place, distinct[i - 1]!))), 0)
  return way - chord < STRAIGHT || !Number.isFinite(off) ? [straight] : [straight, path]
}

/** The cubic of the time that comes nearest to the share of a way that is gone at each frame. */
function timingOf(way: Float64Array, from: number, to: number): MoveSpec['timing'] {
  const total = way[to]! - way[from]!
  if (total <= 0) return { kind: 'even' }
  let [c00, c01, c11, x0, x1] = [0, 0, 0, 0, 0]
  for (let frame = from + 1; frame < to; frame++) {
    const t = (frame - from) / (to - from)
    const [a, b] = [3 * t * (1 - t) * (1 - t), 3 * t * t * (1 - t)]
    const rest = (way[frame]! - way[from]!) / total - t * t * t
    c00 += a * a
    c01 += a * b
    c11 += b * b
    x0 += a * rest
    x1 += b * rest
  }
  const determinant = c00 * c11 - c01 * c01
  if (Math.abs(determinant) < 1e-12) return { kind: 'even' }
  const within = (y: number) => Math.min(10, Math.max(-10, y))
  return { kind: 'custom', x1: 1 / 3, y1: within((x0 * c11 - x1 * c01) / determinant), x2: 2 / 3, y2: within((c00 * x1 - c01 * x0) / determinant) }
}
