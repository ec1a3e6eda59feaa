import type { Point2 } from '@rubato/core/geometry'
import type { BoardMove } from '@rubato/core/stage'
import { rgb, type PDFPage, type RGB } from 'pdf-lib'
import type { Box } from '../boards/printLayout'
import type { ViewBox } from '../viewport/viewBox'

export const MOVE = rgb(0.761, 0.271, 0.176)
const LEVEL_WAY = rgb(0.18, 0.478, 0.408)
const HEAD = 6

/** A canvas of a width that shows just what of the view is wanted. */
export function viewOf({ window }: BoardMove, widthPx: number, aspect: number): ViewBox {
  const { left, right, bottom, top } = window
  const frameWidthPx = widthPx / (right - left)
  return { widthPx, heightPx: Math.max(1, Math.round((top - bottom) * frameWidthPx)), frameLeftPx: (-0.5 - left) * frameWidthPx, frameTopPx: (top - 1 / (2 * aspect)) * frameWidthPx, frameWidthPx }
}

/** Frames of a move with their numbers, the camera's way and those of levels, each ending in an arrow, over the picture of its view. */
export function drawMove(sheet: PDFPage, pageHeight: number, picture: Box, { window, framings, way, ways }: BoardMove, number: (text: string, x: number, y: number) => void): void {
  const per = picture.width / (window.right - window.left)
  // From the page's bottom left, as a PDF has it.
  const at = ({ x, y }: Point2) => ({ x: picture.x + (x - window.left) * per, y: pageHeight - picture.y - (window.top - y) * per })
  const inside = ({ x, y }: { readonly x: number; readonly y: number }) => ({ x: Math.max(picture.x, Math.min(picture.x + picture.width, x)), y: Math.max(pageHeight - picture.y - picture.height, Math.min(pageHeight - picture.y, y)) })
  framings.forEach(({ corners }, i) => {
    const points = corners.map(at)
    points.forEach((start, k) => sheet.drawLine({ start: inside(start), end: inside(points[(k + 1) % points.length]!), thickness: i === 0 || i === framings.length - 1 ? 1.1 : 0.7, color: MOVE, ...(i === 0 ? {} : { dashArray: [4, 2.5] }) }))
    const corner = inside(points[3]!)
    number(String(i + 1), corner.x + 3 + i * 9, pageHeight - corner.y + 2)
  })
  arrow(sheet, way.map(at), MOVE)
  for (const { points } of ways) arrow(sheet, points.map(at), LEVEL_WAY)
}

function arrow(sheet: PDFPage, points: readonly { readonly x: number; readonly y: number }[], color: RGB): void {
  const last = points.at(-1)
  const before = points.findLast((point) => last !== undefined && Math.hypot(point.x - last.x, point.y - last.y) > HEAD / 2)
  // A zoom has a way of no length.
  if (last === undefined || before === undefined) return
  points.slice(1).forEach((end, i) => sheet.drawLine({ start: points[i]!, end, thickness: 1.2, color }))
  const angle = Math.atan2(last.y - before.y, last.x - before.x)
  for (const turn of [2.6, -2.6]) sheet.drawLine({ start: last, end: { x: last.x + HEAD * Math.cos(angle + turn), y: last.y + HEAD * Math.sin(angle + turn) }, thickness: 1.2, color })
}
