import type { Mark } from '../document/records'
import { cornersOf, type Rectangle } from '../geometry/rectangle'
import type { Point2 } from '../geometry/point'
import { about, applyAffine } from './affine'

/** True inside a closed polygon (even-odd). */
export function isInside(polygon: readonly Point2[], x: number, y: number): boolean {
  let inside = false
  for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++) {
    const [a, b] = [polygon[i]!, polygon[j]!]
    if (a.y > y !== b.y > y && x < ((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x) inside = !inside
  }
  return inside
}

/** The marks that a closed line catches: those with at least half of their points inside. Erasing strokes count as well. */
export function marksInside(marks: readonly Mark[], polygon: readonly Point2[]): Mark[] {
  return marks.filter((mark) => {
    let [inside, count] = [0, 0]
    eachPoint(mark, (x, y) => {
      count++
      if (isInside(polygon, x, y)) inside++
    })
    return count > 0 && inside * 2 >= count
  })
}

/** The topmost mark at a point, no farther than `reachFw` from a line; null for none. Erasing strokes can't be pointed at. */
export function markAt(marks: readonly Mark[], at: Point2, reachFw: number): Mark | null {
  for (let i = marks.length - 1; i >= 0; i--) {
    const mark = marks[i]!
    if (mark.kind === 'picture') {
      if (isInside(pictureCorners(mark), at.x, at.y)) return mark
    } else if (mark.mode === 'erase') continue
    else if (mark.kind === 'fill') {
      let inside = false
      for (const outline of mark.outlines) if (isInside(pairs(outline), at.x, at.y)) inside = !inside
      if (inside) return mark
    } else if (nearStroke(mark.points, at, mark.widthFw / 2 + reachFw)) return mark
  }
  return null
}

/** A placed picture's corners, counter-clockwise from its own bottom left. */
export function pictureCorners(mark: Extract<Mark, { kind: 'picture' }>): readonly Point2[] {
  const halfHeight = (mark.widthFw * mark.heightPx) / mark.widthPx / 2
  const box: Rectangle = { left: mark.x - mark.widthFw / 2, right: mark.x + mark.widthFw / 2, bottom: mark.y - halfHeight, top: mark.y + halfHeight }
  const turn = mark.turnDegrees ?? 0
  return turn === 0 ? cornersOf(box) : cornersOf(box).map((corner) => applyAffine(about(mark, 1, 1, turn), corner))
}

/** Calls with each point of a mark; for a picture, its corners. */
export function eachPoint(mark: Mark, call: (x: number, y: number) => void): void {
  if (mark.kind === 'picture') for (const { x, y } of pictureCorners(mark)) call(x, y)
  else if (mark.kind === 'stroke') for (let i = 0; i + 2 < mark.points.length; i += 3) call(mark.points[i]!, mark.points[i + 1]!)
  else for (const outline of mark.outlines) for (let i = 0; i + 1 < outline.length; i += 2) call(outline[i]!, outline[i + 1]!)
}

function pairs(outline: readonly number[]): Point2[] {
  const out: Point2[] = []
  for (let i = 0; i + 1 < outline.length; i += 2) out.push({ x: outline[i]!, y: outline[i + 1]! })
  return out
}

function nearStroke(points: readonly number[], at: Point2, reach: number): boolean {
  for (let i = 0; i + 2 < points.length; i += 3) {
    const [ax, ay] = [points[i]!, points[i + 1]!]
    const [bx, by] = i + 5 < points.length ? [points[i + 3]!, points[i + 4]!] : [ax, ay]
    const [dx, dy] = [bx - ax, by - ay]
    const square = dx * dx + dy * dy
    const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((at.x - ax) * dx + (at.y - ay) * dy) / square))
    if (Math.hypot(at.x - ax - dx * t, at.y - ay - dy * t) <= reach) return true
  }
  return false
}
