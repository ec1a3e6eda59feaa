import { EMPTY_SET, freeze, newLevel, orderOfNumber, type Drawing, type Piece, type SetBody, type SetName } from '@rubato/core/document'
import type { Point3 } from '@rubato/core/geometry'
import { Pen, type Place } from './pen'
import { drawBoardwalk, drawMarsh, drawReeds } from './places'

/** The walk's near edge, where the set stands in a shot that it is put into. */
const STANDS: Point3 = { x: 0, y: -0.2, depth: 0.05 }
export const BOARDWALK: SetName = { id: 'boardwalk', order: 'a1', name: 'The boardwalk', stands: STANDS }

/** How far the pieces reach to each side, fw. */
const PIECES: readonly { readonly id: string; readonly name: string; readonly depth: number; readonly draw: (pen: Pen) => void }[] = [
  { id: 'planks', name: 'Planks', depth: 0.05, draw: (pen) => drawBoardwalk(pen, -1.75, 1.65, STANDS.y, 0.045) },
  { id: 'marsh-reeds', name: 'Marsh reeds', depth: 0.9, draw: (pen) => drawReeds(pen, -1.3, 1.3, -0.19, 0.13, 110, { width: 0.0034, colour: '#8d877a' }) },
  { id: 'marsh', name: 'Marsh', depth: 0.92, draw: (pen) => drawMarsh(pen, -1.3, 1.3, -0.175, -0.42) },
]

/** The boardwalk with the marsh behind it, drawn as the untouched camera of a shot sees it and set back along the rays. */
export function buildBoardwalk(cameraDepth: number, drawings: Record<string, Drawing>): SetBody {
  const pieces: Record<string, Piece> = {}
  const art: Record<string, SetBody['art'][string]> = {}
  PIECES.forEach(({ id, name, depth, draw }, i) => {
    pieces[id] = { ...newLevel({ id, name, order: orderOfNumber(i + 1) }), x: -STANDS.x, y: -STANDS.y, depth: depth - STANDS.depth, scale: (depth - cameraDepth) / -cameraDepth }
    const pen = new Pen(7000 + i * 50)
    draw(pen)
    art[id] = { id, drawingId: `dset-${id}` }
    drawings[`dset-${id}`] = pen.drawing()
  })
  return freeze({ ...EMPTY_SET, pieces, art })
}

/** A kite on its line; x, y is the hand that has it. */
export function drawKite(pen: Pen, x: number, y: number): void {
  const [top, left, bottom, right] = [[x + 0.3, y + 0.27], [x + 0.25, y + 0.21], [x + 0.28, y + 0.13], [x + 0.34, y + 0.2]] as const satisfies readonly Place[]
  pen.line([[x, y], [x + 0.13, y + 0.06], [x + 0.29, y + 0.2]], { width: 0.0014, colour: '#5a5447' })
  pen.wash([top, left, bottom, right], '#c9b48a')
  pen.line([top, left, bottom, right, top], { width: 0.0028, colour: '#3b362d' })
  pen.line([top, bottom], { width: 0.0016, colour: '#3b362d' })
  pen.line([left, right], { width: 0.0016, colour: '#3b362d' })
  pen.line([bottom, [x + 0.26, y + 0.1], [x + 0.29, y + 0.065], [x + 0.26, y + 0.03]], { width: 0.0018, colour: '#6b6455' })
}
