import type { Fill, Mark } from '../document/records'
import type { Drawing } from '../document/units'
import { grown, rectangleAround, union, type Rectangle } from '../geometry/rectangle'
import { OUTLINE_UNITS_PER_FW } from './outline'
import { eachPoint, pictureCorners } from './select'

const bounds = new WeakMap<Mark, Rectangle>()

/** What a mark can touch, in fw. */
export function markBounds(mark: Mark): Rectangle {
  const known = bounds.get(mark)
  if (known !== undefined) return known
  const found = computeBounds(mark)
  bounds.set(mark, found)
  return found
}

function computeBounds(mark: Mark): Rectangle {
  if (mark.kind === 'picture') return rectangleAround(pictureCorners(mark))!
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity]
  eachPoint(mark, (x, y) => {
    if (x < left) left = x
    if (x > right) right = x
    if (y < bottom) bottom = y
    if (y > top) top = y
  })
  const around = { left, bottom, right, top }
  if (mark.kind !== 'stroke') return around
  // A dot is drawn as a line of one unit.
  return grown(around, mark.widthFw + (mark.points.length <= 3 ? 1 / OUTLINE_UNITS_PER_FW : 0))
}

interface Extent {
  readonly marks: readonly Mark[]
  readonly rectangle: Rectangle | null
}

const extents = new WeakMap<Drawing, Extent>()
/** The last extent found for a pile that ended with a mark: a drawing that only grew starts from there. */
const extentsByTop = new WeakMap<Mark, Extent>()

/** In no picture: words and arrows for printed boards alone. */
export const isForPrint = (mark: Mark): mark is Fill => mark.kind === 'fill' && mark.forPrint === true

/** What a drawing can touch in a picture; erasing never adds, nor does what is for print alone. Null for an empty one. */
export function drawingBounds(drawing: Drawing): Rectangle | null {
  const known = extents.get(drawing)
  if (known !== undefined) return known.rectangle
  const { marks } = drawing
  const top = marks.at(-1)
  const extent = { marks, rectangle: extentOf(marks) }
  extents.set(drawing, extent)
  if (top !== undefined) extentsByTop.set(top, extent)
  return extent.rectangle
}

function extentOf(marks: readonly Mark[]): Rectangle | null {
  const last = marks.length - 1
  const same = last >= 0 ? extentsByTop.get(marks[last]!) : undefined
  if (same !== undefined && same.marks.length === marks.length && startsWith(marks, same.marks)) return same.rectangle
  const before = last > 0 ? extentsByTop.get(marks[last - 1]!) : undefined
  if (before !== undefined && before.marks.length === last && startsWith(marks, before.marks)) return withMark(before.rectangle, marks[last]!)
  let rectangle: Rectangle | null = null
  for (const mark of marks) rectangle = withMark(rectangle, mark)
  return rectangle
}

function withMark(rectangle: Rectangle | null, mark: Mark): Rectangle | null {
  return (mark.kind !== 'picture' && mark.mode === 'erase') || isForPrint(mark) ? rectangle : union(rectangle, markBounds(mark))
}

/** True when the first marks of a pile are those of another, to the very object. */
export function startsWith(marks: readonly Mark[], start: readonly Mark[]): boolean {
  if (marks === start) return true
  if (marks.length < start.length) return false
  for (let i = start.length - 1; i >= 0; i--) if (marks[i] !== start[i]) return false
  return true
}
