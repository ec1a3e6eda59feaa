import { NEAREST_Z, type Lens } from '@rubato/core/camera'
import { cutLine, planeTree, type ArtPart, type FlatArt, type PlaneTree } from '@rubato/core/depth'
import { between, dot, subtract, type Point3 } from '@rubato/core/geometry'
import { applyAffine } from '@rubato/core/ink'
import { around, clipped, type PixelBox } from './pixelBox'
import { inverseOf, pxOfFrame, type ViewBox } from './viewBox'

/**
 * A line over the canvas in whole numbers: of the px in column x and row y it keeps those where
 * a·(2x + 1) + b·(2y + 1) + c is 0 or more, or with `before` false the others. Whole numbers give the same answer everywhere,
 * so that two parts of a level which end at one line leave nothing out between them and share nothing.
 */
export interface PixelCut {
  readonly a: number
  readonly b: number
  readonly c: number
  readonly before: boolean
}

/** What of a level is drawn where others cut through it. */
export interface LevelPart {
  readonly cuts: readonly PixelCut[]
  /** All of it is in here. */
  readonly box: PixelBox
}

const keeps = ({ a, b, c, before }: PixelCut, x: number, y: number): boolean => a * (2 * x + 1) + b * (2 * y + 1) + c >= 0 === before

export function keptBy(cuts: readonly PixelCut[], x: number, y: number): boolean {
  for (const cut of cuts) if (!keeps(cut, x, y)) return false
  return true
}

/** How far the numbers of a line go, so that what is worked out of them stays within 31 bits. */
const LARGEST = 2 ** 28
const FINEST = 2 ** 16

/** A line in (u, v) of the frame as one over the canvas; true or false where all of the canvas is on one side of it. */
export function pixelLine({ a, b, c }: { readonly a: number; readonly b: number; readonly c: number }, view: ViewBox, halfHeight: number): Omit<PixelCut, 'before'> | boolean {
  const back = inverseOf(pxOfFrame(view, halfHeight))
  const [ax, ay, at] = back === null ? [0, 0, c] : [a * back.a + b * back.b, a * back.c + b * back.d, a * back.e + b * back.f + c]
  const steep = Math.hypot(ax, ay)
  const [mx, my] = [view.widthPx / 2, view.heightPx / 2]
  const middle = ax * mx + ay * my + at
  if (!(Math.abs(middle) <= steep * (Math.hypot(mx, my) + 1))) return middle >= 0
  // Through the point of the line that is nearest to the middle, where turning it by what rounding takes moves it least.
  const [x, y] = [mx - (ax * middle) / steep ** 2, my - (ay * middle) / steep ** 2]
  const fineness = Math.min(FINEST, LARGEST / (2 * Math.max(view.widthPx, view.heightPx)))
  const [wholeA, wholeB] = [Math.round((ax / steep) * fineness), Math.round((ay / steep) * fineness)]
  return { a: wholeA, b: wholeB, c: Math.round(-2 * (wholeA * x + wholeB * y)) }
}

/** Art goes a little past where its corners say, by soft edges. */
const SOFT_PX = 2

/** A part of a level as the canvas shows it: null where nothing of it is there, 'whole' where nothing of it is cut off. Its soft edges go `beyondPx` past its art. */
export function partInView(lens: Lens, view: ViewBox, list: readonly FlatArt[], { of, corners, cuts }: ArtPart, beyondPx = 0): LevelPart | 'whole' | null {
  if (cuts.length === 0) return 'whole'
  const soft = SOFT_PX + beyondPx
  const toPx = pxOfFrame(view, lens.halfHeight)
  const px = beforeLens(lens, corners).map((point) => {
    const q = subtract(point, lens.position)
    const z = dot(q, lens.forward)
    return applyAffine(toPx, { x: (lens.k * dot(q, lens.right)) / z, y: (lens.k * dot(q, lens.up)) / z })
  })
  const whole = around(px.map(({ x, y }) => ({ left: Math.floor(x) - soft, top: Math.floor(y) - soft, right: Math.ceil(x) + soft, bottom: Math.ceil(y) + soft })))
  const box = whole === null ? null : clipped(whole, view)
  if (box === null) return null
  const kept: PixelCut[] = []
  for (const { by, before } of cuts) {
    const line = pixelLine(cutLine(lens, list[of]!.plane, list[by]!.plane), view, lens.halfHeight)
    if (typeof line === 'boolean') {
      if (line !== before) return null
      continue
    }
    const cut = { ...line, before }
    const within = [[box.left, box.top], [box.right - 1, box.top], [box.left, box.bottom - 1], [box.right - 1, box.bottom - 1]].filter(([x, y]) => keeps(cut, x!, y!)).length
    if (within === 0) return null
    if (within < 4) kept.push(cut)
  }
  return { cuts: kept, box }
}

/** The part of a convex outline that the lens can see. */
function beforeLens(lens: Lens, corners: readonly Point3[]): Point3[] {
  const seen: Point3[] = []
  const z = (point: Point3) => dot(subtract(point, lens.position), lens.forward) - NEAREST_Z
  for (const [i, to] of corners.entries()) {
    const from = corners[(i + corners.length - 1) % corners.length]!
    const [a, b] = [z(from), z(to)]
    if (a > 0 !== b > 0) seen.push(between(from, to, a / (a - b)))
    if (b > 0) seen.push(to)
  }
  return seen
}

/** The tree of some art, kept while none of it moves. */
export function createPlaneOrder() {
  let last: readonly FlatArt[] = []
  let tree: PlaneTree = planeTree(last)
  return {
    of(list: readonly FlatArt[]): PlaneTree {
      const same = list.length === last.length && list.every(({ plane, bounds, rackIndex }, i) => plane === last[i]!.plane && bounds === last[i]!.bounds && rackIndex === last[i]!.rackIndex)
      if (!same) tree = planeTree(list)
      last = list
      return tree
    },
  }
}
export type PlaneOrder = ReturnType<typeof createPlaneOrder>
