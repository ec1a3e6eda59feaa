import { add, scale, type Point2, type Point3 } from '../geometry/point'
import { scattered } from '../moves/sway'
import { pointOnPlane, type LevelPlane } from './levelPlane'

/** A level shown many times; places in its own axes and its art's fw. See the record. */
export interface Repeat {
  readonly count: number
  readonly seed: number
  readonly about: Point2
  readonly lay: { readonly kind: 'step'; readonly x: number; readonly y: number } | { readonly kind: 'line' | 'region'; readonly points: readonly number[] }
  readonly depth: number
  readonly rollDegrees: number
  readonly size: number
  readonly scatter: { readonly x: number; readonly y: number; readonly depth: number; readonly rollDegrees: number; readonly size: number; readonly mirrored: number }
  readonly stagger: number
}

/** Where one copy of a repeated level lies on the level's own plane: art (x, y) of it is origin + x·axisX + y·axisY there, in the art's fw. */
export interface Copy {
  readonly origin: Point2
  readonly axisX: Point2
  readonly axisY: Point2
  /** Where what it turns and grows about stands. */
  readonly foot: Point2
  /** Off the plane, along the level's forward, in the art's fw. */
  readonly depth: number
  /** Times as large. */
  readonly size: number
}

/** The first of steps. */
const itself = (foot: Point2): Copy => ({ origin: { x: 0, y: 0 }, axisX: { x: 1, y: 0 }, axisY: { x: 0, y: 1 }, foot, depth: 0, size: 1 })
/** No copy is smaller or larger than this, however many steps it is away. */
const SIZES = Object.freeze({ least: 1e-3, most: 1e3 })

const known = new WeakMap<Repeat, readonly Copy[]>()

/**
 * The copies of a repeat, the level itself among them. The same for the same seed; one more moves none of the others, except
 * along a line, which all of them share out. By steps the first is the level as it lies, untouched by chance.
 */
export function copiesOf(repeat: Repeat): readonly Copy[] {
  const made = known.get(repeat)
  if (made !== undefined) return made
  const places = placesOf(repeat)
  const { about, scatter, seed } = repeat
  const copies = places.map((place, i): Copy => {
    const isItself = i === 0 && repeat.lay.kind === 'step'
    if (isItself) return itself(about)
    const chance = (channel: number) => 2 * scattered(seed, i * CHANNELS + channel) - 1
    const roll = ((i * repeat.rollDegrees + chance(0) * scatter.rollDegrees) * Math.PI) / 180
    const size = Math.min(SIZES.most, Math.max(SIZES.least, repeat.size ** i * (1 + chance(1) * scatter.size)))
    const mirror = scattered(seed, i * CHANNELS + 2) < scatter.mirrored ? -1 : 1
    const [sin, cos] = [Math.sin(roll) * size, Math.cos(roll) * size]
    const axisX = { x: cos * mirror, y: -sin * mirror }
    const axisY = { x: sin, y: cos }
    const foot = { x: about.x + place.x + chance(3) * scatter.x, y: about.y + place.y + chance(4) * scatter.y }
    const origin = { x: foot.x - axisX.x * about.x - axisY.x * about.y, y: foot.y - axisX.y * about.x - axisY.y * about.y }
    return { origin, axisX, axisY, foot, depth: i * repeat.depth + chance(5) * scatter.depth, size }
  })
  known.set(repeat, copies)
  return copies
}
/** Numbers of chance that each copy has of its own. */
const CHANNELS = 8

/** Where each stands, from where the level does. */
function placesOf({ lay, count, seed, about }: Repeat): readonly Point2[] {
  if (lay.kind === 'step') return Array.from({ length: count }, (_, i) => ({ x: i * lay.x, y: i * lay.y }))
  const points = Array.from({ length: lay.points.length / 2 }, (_, i) => ({ x: lay.points[2 * i]! - about.x, y: lay.points[2 * i + 1]! - about.y }))
  return lay.kind === 'line' ? alongLine(points, count) : insideOf(points, count, seed)
}

function alongLine(points: readonly Point2[], count: number): readonly Point2[] {
  const ends = [0]
  for (const [i, { x, y }] of points.slice(1).entries()) ends.push(ends[i]! + Math.hypot(x - points[i]!.x, y - points[i]!.y))
  const total = ends.at(-1)!
  let at = 0
  return Array.from({ length: count }, (_, i) => {
    const wanted = (total * i) / (count - 1)
    while (at < points.length - 2 && ends[at + 1]! < wanted) at++
    const [from, to, span] = [points[at]!, points[at + 1]!, ends[at + 1]! - ends[at]!]
    const t = span === 0 ? 0 : Math.min(1, (wanted - ends[at]!) / span)
    return { x: from.x + (to.x - from.x) * t, y: from.y + (to.y - from.y) * t }
  })
}

const CANDIDATES = 8
const TRIES = 24

/** Spread over what an outline encloses: each is the one of a few chances that is farthest from all before it (Mitchell's best candidate). */
function insideOf(outline: readonly Point2[], count: number, seed: number): readonly Point2[] {
  const [xs, ys] = [outline.map(({ x }) => x), outline.map(({ y }) => y)]
  const [left, right, bottom, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const chosen: Point2[] = []
  for (let i = 0; i < count; i++) {
    let best: Point2 = outline[i % outline.length]!
    let farthest = -1
    let found = 0
    for (let n = 0; n < TRIES && found < CANDIDATES; n++) {
      const index = 2 * (i * TRIES + n)
      const point = { x: left + (right - left) * scattered(seed ^ 0x5bd1e995, index), y: bottom + (top - bottom) * scattered(seed ^ 0x5bd1e995, index + 1) }
      if (!encloses(outline, point)) continue
      found++
      const off = chosen.reduce((least, { x, y }) => Math.min(least, (x - point.x) ** 2 + (y - point.y) ** 2), Infinity)
      if (off > farthest) [best, farthest] = [point, off]
    }
    chosen.push(best)
  }
  return chosen
}

/** Whether a point lies inside an outline, by how many of its edges are to the right. */
export function encloses(outline: readonly Point2[], { x, y }: Point2): boolean {
  let inside = false
  for (const [i, a] of outline.entries()) {
    const b = outline[(i + 1) % outline.length]!
    if (a.y > y !== b.y > y && x < a.x + ((b.x - a.x) * (y - a.y)) / (b.y - a.y)) inside = !inside
  }
  return inside
}

/** The plane of a copy, from the level's own; `forward` is as long as one fw of the art. */
export function planeOfCopy(plane: LevelPlane, forward: Point3, copy: Copy): LevelPlane {
  const across = (way: Point2): Point3 => add(scale(plane.axisX, way.x), scale(plane.axisY, way.y))
  return { origin: add(pointOnPlane(plane, copy.origin), scale(forward, copy.depth)), axisX: across(copy.axisX), axisY: across(copy.axisY) }
}

/** A plane turned about a point of its art, clockwise as seen from the front where it is not mirrored. */
export function turnedInPlane(plane: LevelPlane, about: Point2, degrees: number): LevelPlane {
  if (degrees === 0) return plane
  const angle = (degrees * Math.PI) / 180
  const [sin, cos] = [Math.sin(angle), Math.cos(angle)]
  const axisX = add(scale(plane.axisX, cos), scale(plane.axisY, -sin))
  const axisY = add(scale(plane.axisX, sin), scale(plane.axisY, cos))
  const stays = pointOnPlane(plane, about)
  return { origin: add(stays, scale(add(scale(axisX, about.x), scale(axisY, about.y)), -1)), axisX, axisY }
}

/** Of copies at one depth, which comes how near: by steps the first is nearest; else what stands lowest. */
export function ranksOf(copies: readonly Copy[], kind: Repeat['lay']['kind']): readonly number[] {
  const order = copies.map((_, i) => i)
  if (kind !== 'step') order.sort((a, b) => copies[a]!.foot.y - copies[b]!.foot.y || a - b)
  const ranks: number[] = []
  for (const [rank, i] of order.entries()) ranks[i] = rank
  return ranks
}
