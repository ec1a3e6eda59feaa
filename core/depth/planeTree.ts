import type { Lens } from '../camera/projection'
import { cross, dot, scale, subtract, type Point3 } from '../geometry/point'
import { cornersOf, type Rectangle } from '../geometry/rectangle'
import { pointOnPlane, type LevelPlane } from './levelPlane'

/** Art in the set: its plane, and the part of it that has any art (fw of the art). */
export interface FlatArt {
  readonly plane: LevelPlane
  readonly bounds: Rectangle
  /** Of what lies in one plane, the lower is nearer. */
  readonly rackIndex: number
}

/** All of a piece of art, or a part of it that others' planes cut off. */
export interface ArtPart {
  /** Its place in the list that the tree was made of. */
  readonly of: number
  /** Around it, in the set; convex. */
  readonly corners: readonly Point3[]
  /** Where it ends: at the planes of others, on the side that their normal (axis x × axis y) points to, or on the other. */
  readonly cuts: readonly { readonly by: number; readonly before: boolean }[]
}

/** What lies before what from any eye, for as long as nothing moves: a binary space partition by the planes of the art. */
export interface PlaneTree {
  readonly parts: number
  /** Each part after all that lie behind it. */
  farToNear(eye: Point3): readonly ArtPart[]
}

/** Art that goes less than this through another's plane only touches it, fw. */
const TOUCHES_FW = 1e-7
/** So many planes are tried as the next to part the rest by. */
const TRIED = 3
/** One more part costs as much as so much less evenness. */
const COST_OF_PART = 8

interface Piece {
  /** Of length 1: its x, y, depth. */
  readonly n: readonly [number, number, number]
  readonly offset: number
  readonly rackIndex: number
}
/** Corners as x, y, depth one after the other. */
interface Part {
  readonly of: number
  readonly points: readonly number[]
  readonly cut: Cut | null
}
interface Cut {
  readonly by: number
  readonly before: boolean
  readonly last: Cut | null
}
interface Node {
  readonly piece: Piece
  readonly within: Part[]
  readonly before: Node | null
  readonly behind: Node | null
}

/** The tree for a list of art; what has no extent is left out. */
export function planeTree(list: readonly FlatArt[]): PlaneTree {
  const pieces: Piece[] = []
  const whole: Part[] = []
  for (const [of, { plane, bounds, rackIndex }] of list.entries()) {
    const across = cross(plane.axisX, plane.axisY)
    const size = Math.sqrt(dot(across, across))
    const { x, y, depth } = scale(across, size > 0 ? 1 / size : 0)
    pieces.push({ n: [x, y, depth], offset: x * plane.origin.x + y * plane.origin.y + depth * plane.origin.depth, rackIndex })
    if (size > 0) whole.push({ of, points: cornersOf(bounds).flatMap((corner) => Object.values(pointOnPlane(plane, corner)) as number[]), cut: null })
  }
  let count = 0

  function nodeOf(parts: readonly Part[]): Node | null {
    if (parts.length === 0) return null
    const by = parts.length === 1 ? parts[0]!.of : best(parts)
    const piece = pieces[by]!
    const within: Part[] = []
    const before: Part[] = []
    const behind: Part[] = []
    for (const part of parts) {
      const side = part.of === by ? WITHIN : sideOf(part.points, piece)
      if (side === WITHIN) within.push(part)
      if ((side & BEFORE) !== 0) before.push(side === BOTH ? cutOff(part, piece, by, true) : part)
      if ((side & BEHIND) !== 0) behind.push(side === BOTH ? cutOff(part, piece, by, false) : part)
    }
    count += within.length
    if (within.length > 1) within.sort((a, b) => pieces[b.of]!.rackIndex - pieces[a.of]!.rackIndex)
    return { piece, within, before: nodeOf(before), behind: nodeOf(behind) }
  }

  /** The plane that cuts fewest of the rest, and parts them evenly. */
  function best(parts: readonly Part[]): number {
    const step = Math.max(1, Math.floor(parts.length / TRIED))
    let [chosen, least] = [parts[0]!.of, Infinity]
    for (let i = step >> 1; i < parts.length; i += step) {
      const by = parts[i]!.of
      const piece = pieces[by]!
      let [cut, uneven] = [0, 0]
      for (let j = 0; j < parts.length && cut * COST_OF_PART < least; j++) {
        const side = sideOf(parts[j]!.points, piece)
        if (side === BOTH) cut++
        else if (side === BEFORE) uneven++
        else if (side === BEHIND) uneven--
      }
      const cost = cut * COST_OF_PART + Math.abs(uneven)
      if (cost < least) [chosen, least] = [by, cost]
      if (cost <= 1) break
    }
    return chosen
  }

  const root = nodeOf(whole)
  return {
    parts: count,
    farToNear(eye) {
      const found: ArtPart[] = []
      const visit = (node: Node | null) => {
        if (node === null) return
        const { n, offset } = node.piece
        const isBefore = n[0] * eye.x + n[1] * eye.y + n[2] * eye.depth > offset
        visit(isBefore ? node.behind : node.before)
        for (const part of node.within) found.push(partOf(part))
        visit(isBefore ? node.before : node.behind)
      }
      visit(root)
      return found
    },
  }
}

const told = new WeakMap<Part, ArtPart>()
function partOf(part: Part): ArtPart {
  const known = told.get(part)
  if (known !== undefined) return known
  const corners: Point3[] = []
  for (let i = 0; i < part.points.length; i += 3) corners.push({ x: part.points[i]!, y: part.points[i + 1]!, depth: part.points[i + 2]! })
  const cuts: ArtPart['cuts'][number][] = []
  for (let cut = part.cut; cut !== null; cut = cut.last) cuts.push(cut)
  const made = { of: part.of, corners, cuts }
  told.set(part, made)
  return made
}

const [WITHIN, BEFORE, BEHIND, BOTH] = [0, 1, 2, 3] as const

function sideOf(points: readonly number[], { n, offset }: Piece): 0 | 1 | 2 | 3 {
  const [x, y, depth] = n
  let side = 0
  for (let i = 0; i < points.length; i += 3) {
    const off = x * points[i]! + y * points[i + 1]! + depth * points[i + 2]! - offset
    if (off > TOUCHES_FW) side |= BEFORE
    else if (off < -TOUCHES_FW) side |= BEHIND
  }
  return side as 0 | 1 | 2 | 3
}

function cutOff({ of, points, cut }: Part, { n: [nx, ny, nd], offset }: Piece, by: number, before: boolean): Part {
  const kept: number[] = []
  const sign = before ? 1 : -1
  const off = (i: number) => (nx * points[i]! + ny * points[i + 1]! + nd * points[i + 2]! - offset) * sign
  let from = points.length - 3
  let fromOff = off(from)
  for (let to = 0; to < points.length; to += 3) {
    const toOff = off(to)
    if (fromOff > 0 !== toOff > 0) {
      const p = fromOff / (fromOff - toOff)
      for (let axis = 0; axis < 3; axis++) kept.push(points[from + axis]! + (points[to + axis]! - points[from + axis]!) * p)
    }
    if (toOff > 0) kept.push(points[to]!, points[to + 1]!, points[to + 2]!)
    from = to
    fromOff = toOff
  }
  return { of, points: kept, cut: { by, before, last: cut } }
}

/**
 * Where a plane is cut by another, as the lens sees it: a·u + b·v + c, in fw of the frame, is above 0 just where what is seen
 * of the first lies before the second, on the side that the second's normal points to.
 */
export function cutLine(lens: Lens, plane: LevelPlane, by: LevelPlane): { readonly a: number; readonly b: number; readonly c: number } {
  const own = cross(plane.axisX, plane.axisY)
  const other = cross(by.axisX, by.axisY)
  // A ray r meets the plane at t = d / (own·r); there it is other·r·t − e off the other's plane. Times |own·r|, that is linear in r.
  const d = dot(own, subtract(plane.origin, lens.position))
  const e = dot(other, subtract(by.origin, lens.position))
  const sign = d < 0 ? -1 : 1
  const along = (direction: Point3) => sign * (d * dot(other, direction) - e * dot(own, direction))
  return { a: along(lens.right) / lens.k, b: along(lens.up) / lens.k, c: along(lens.forward) }
}
