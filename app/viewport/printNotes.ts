import { seenRings, type SeenRings } from '@rubato/core/checks'
import type { Drawing, Fill } from '@rubato/core/document'
import { applyAffine, isForPrint } from '@rubato/core/ink'
import type { StageFrame } from '@rubato/core/stage'
import { pxOfFrame, type ViewBox } from './viewBox'

/** Words or an arrow for print alone, as a frame's lens sees them. */
export interface PrintNote {
  readonly levelId: string
  readonly markId: string
  readonly rings: SeenRings
  readonly colour: string
  readonly opacity: number
}

const notesIn = new WeakMap<Drawing['marks'], readonly Fill[]>()
/** Found once for each pile of marks: views ask with every frame, and a step that is undone leads to the pile that was there. */
function notesOf({ marks }: Drawing): readonly Fill[] {
  const known = notesIn.get(marks) ?? marks.filter(isForPrint)
  notesIn.set(marks, known)
  return known
}

/** What a frame's levels have for print alone, far to near. */
export function printNotes({ lens, levels }: Pick<StageFrame, 'lens' | 'levels'>, drawingOf: (id: string) => Drawing | null): readonly PrintNote[] {
  return levels.flatMap(({ copy, drawingId, plane, level }) => {
    const drawing = copy === 0 && drawingId !== null ? drawingOf(drawingId) : null
    return (drawing === null ? [] : notesOf(drawing)).map(({ id, outlines, colour, opacity }) => ({ levelId: level.id, markId: id, rings: seenRings(lens, plane, { rings: outlines }), colour, opacity }))
  })
}

/** Rings in a view as the data of a path, to be filled even-odd. */
export function ringsPath(rings: SeenRings, toPane: (u: number, v: number) => { readonly x: number; readonly y: number }): string {
  let path = ''
  for (const ring of rings) {
    for (let i = 0; i < ring.length; i += 2) {
      const { x, y } = toPane(ring[i]!, ring[i + 1]!)
      path += `${i === 0 ? 'M' : 'L'}${x.toFixed(2)} ${y.toFixed(2)}`
    }
    path += 'Z'
  }
  return path
}

/** A picture of a frame with what is for print alone over everything else; the picture itself where there is nothing. */
export function withNotes(picture: OffscreenCanvas, frame: Pick<StageFrame, 'lens' | 'levels'>, view: ViewBox, drawingOf: (id: string) => Drawing | null): OffscreenCanvas {
  const notes = printNotes(frame, drawingOf)
  if (notes.length === 0) return picture
  const canvas = new OffscreenCanvas(picture.width, picture.height)
  const context = canvas.getContext('2d')!
  context.drawImage(picture, 0, 0)
  const toPx = pxOfFrame(view, frame.lens.halfHeight)
  for (const { rings, colour, opacity } of notes) {
    context.globalAlpha = opacity
    context.fillStyle = colour
    context.fill(new Path2D(ringsPath(rings, (u, v) => applyAffine(toPx, { x: u, y: v }))), 'evenodd')
  }
  return canvas
}
