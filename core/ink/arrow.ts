import type { Arrow } from '../document/records'
import type { Point2 } from '../geometry/point'
import { joinedByDirection } from './flatten'

/** A head is so many widths long and wide, and no longer than its share of the whole. */
const HEAD_LONG = 3.4
const HEAD_WIDE = 3.4
const MOST_OF_WAY = 0.45
/** A tail that comes to a point still has this share of the width, so that it is seen. */
const LEAST_TAIL = 0.02
const STEPS = 24
const round = (value: number) => Math.round(value * 1e6) / 1e6

/** A smooth way through an arrow's points: Catmull-Rom, chords as they are long (Barry and Goldman 1988, α = ½). */
export function wayOfArrow({ points }: Pick<Arrow, 'points'>): Point2[] {
  const through: Point2[] = []
  for (let i = 0; i + 1 < points.length; i += 2) through.push({ x: points[i]!, y: points[i + 1]! })
  const apart = through.filter((point, i) => i === 0 || Math.hypot(point.x - through[i - 1]!.x, point.y - through[i - 1]!.y) > 1e-9)
  if (apart.length < 3) return apart
  const mirror = (end: Point2, next: Point2): Point2 => ({ x: 2 * end.x - next.x, y: 2 * end.y - next.y })
  const all = [mirror(apart[0]!, apart[1]!), ...apart, mirror(apart.at(-1)!, apart.at(-2)!)]
  const way: Point2[] = [apart[0]!]
  for (let i = 1; i + 2 < all.length; i++) {
    const [p0, p1, p2, p3] = [all[i - 1]!, all[i]!, all[i + 1]!, all[i + 2]!]
    const knot = (a: Point2, b: Point2) => Math.sqrt(Math.hypot(b.x - a.x, b.y - a.y))
    const [t1, t2, t3] = ((first, second, third) => [first, first + second, first + second + third] as const)(knot(p0, p1), knot(p1, p2), knot(p2, p3))
    const mix = (a: Point2, b: Point2, from: number, to: number, t: number): Point2 => ({ x: (a.x * (to - t) + b.x * (t - from)) / (to - from), y: (a.y * (to - t) + b.y * (t - from)) / (to - from) })
    for (let s = 1; s <= STEPS; s++) {
      const t = t1 + ((t2 - t1) * s) / STEPS
      const [a, b, c] = [mix(p0, p1, 0, t1, t), mix(p1, p2, t1, t2, t), mix(p2, p3, t2, t3, t)]
      way.push(s === STEPS ? p2 : mix(mix(a, b, 0, t2, t), mix(b, c, t1, t3, t), t1, t2, t))
    }
  }
  return way
}

/** An arrow's outline, to be filled even-odd; none where it has no length. */
export function outlinesOfArrow(arrow: Pick<Arrow, 'points' | 'widthFw' | 'taper' | 'heads'>): number[][] {
  const way = wayOfArrow(arrow)
  const far = [0]
  for (let i = 1; i < way.length; i++) far.push(far[i - 1]! + Math.hypot(way[i]!.x - way[i - 1]!.x, way[i]!.y - way[i - 1]!.y))
  const length = far.at(-1)!
  if (way.length < 2 || length < 1e-6) return []
  const head = Math.min(arrow.widthFw * HEAD_LONG, length * MOST_OF_WAY)
  const at = (distance: number): Point2 => {
    const after = far.findIndex((each) => each >= distance)
    const i = Math.max(1, after < 0 ? way.length - 1 : after)
    const t = far[i] === far[i - 1] ? 0 : (distance - far[i - 1]!) / (far[i]! - far[i - 1]!)
    return { x: way[i - 1]!.x + (way[i]!.x - way[i - 1]!.x) * t, y: way[i - 1]!.y + (way[i]!.y - way[i - 1]!.y) * t }
  }
  const [from, to] = [arrow.heads === 'both' ? head : 0, length - head]
  const spine = [at(from), ...way.filter((_, i) => far[i]! > from + 1e-9 && far[i]! < to - 1e-9), at(to)]
  const widths = [from, ...far.filter((each) => each > from + 1e-9 && each < to - 1e-9), to].map((distance) => {
    const share = to === from ? 1 : (distance - from) / (to - from)
    return (arrow.widthFw / 2) * Math.max(LEAST_TAIL, 1 - arrow.taper * (1 - share))
  })
  const normals = spine.map((_, i) => {
    const [a, b] = [spine[Math.max(0, i - 1)]!, spine[Math.min(spine.length - 1, i + 1)]!]
    const size = Math.hypot(b.x - a.x, b.y - a.y) || 1
    return { x: -(b.y - a.y) / size, y: (b.x - a.x) / size }
  })
  const side = (sign: 1 | -1) => spine.map(({ x, y }, i) => [x + normals[i]!.x * widths[i]! * sign, y + normals[i]!.y * widths[i]! * sign])
  // Each stretch by itself, so that a way that crosses itself has no hole there.
  const [left, right] = [side(1), side(-1)]
  const rings = spine.slice(1).map((_, i) => [...right[i]!, ...right[i + 1]!, ...left[i + 1]!, ...left[i]!])
  const put = (base: Point2, tip: Point2, share: number) => {
    const [dx, dy] = [tip.x - base.x, tip.y - base.y]
    const size = Math.hypot(dx, dy) || 1
    const half = (Math.min(arrow.widthFw * HEAD_WIDE, head) / 2) * share
    const [nx, ny] = [(-dy / size) * half, (dx / size) * half]
    rings.push([base.x - nx, base.y - ny, tip.x, tip.y, base.x + nx, base.y + ny])
  }
  put(at(to), way.at(-1)!, 1)
  if (arrow.heads === 'both') put(at(from), way[0]!, 1)
  return joinedByDirection(rings.map(counterClockwise)).map((ring) => ring.map(round))
}

/** Rings of one direction add up, whichever way a bend turned them. */
function counterClockwise(ring: readonly number[]): readonly number[] {
  let area = 0
  for (let i = 0; i < ring.length; i += 2) {
    const j = (i + 2) % ring.length
    area += ring[i]! * ring[j + 1]! - ring[j]! * ring[i + 1]!
  }
  if (area >= 0) return ring
  return Array.from({ length: ring.length / 2 }, (_, i) => [ring[ring.length - 2 - i * 2]!, ring[ring.length - 1 - i * 2]!]).flat()
}

/** Few points of a way that was drawn, from its first to its last, no more than an arrow keeps. */
export function fewPoints(way: readonly Point2[], toleranceFw: number): number[] {
  if (way.length < 2) return way.flatMap(({ x, y }) => [x, y])
  const keep = new Set([0, way.length - 1])
  const most = 8
  for (;;) {
    const kept = [...keep].sort((a, b) => a - b)
    let [farthest, off] = [-1, toleranceFw]
    for (let k = 1; k < kept.length; k++) {
      const [a, b] = [way[kept[k - 1]!]!, way[kept[k]!]!]
      const size = Math.hypot(b.x - a.x, b.y - a.y)
      for (let i = kept[k - 1]! + 1; i < kept[k]!; i++) {
        const { x, y } = way[i]!
        const distance = size < 1e-9 ? Math.hypot(x - a.x, y - a.y) : Math.abs((b.x - a.x) * (a.y - y) - (a.x - x) * (b.y - a.y)) / size
        if (distance > off) [farthest, off] = [i, distance]
      }
    }
    if (farthest < 0 || keep.size >= most) return kept.flatMap((i) => [round(way[i]!.x), round(way[i]!.y)])
    keep.add(farthest)
  }
}
