import type { Drawing, TakeBody } from '../document/units'
import { isForPrint, markBounds } from '../ink/bounds'
import type { ArtReach } from './pictureShift'

/** How far the art of each level reaches from its middle; a level whose drawings are not all loaded is left out. */
export function artReaches(take: Pick<TakeBody, 'levels' | 'cells'>, drawingOf: (id: string) => Drawing | null): Map<string, ArtReach> {
  const reaches = new Map<string, ArtReach>(Object.keys(take.levels).map((id) => [id, { x: 0, y: 0 }]))
  for (const { levelId, drawingId } of Object.values(take.cells)) {
    const known = reaches.get(levelId)
    if (drawingId === null || known === undefined) continue
    const drawing = drawingOf(drawingId)
    if (drawing === null) {
      reaches.delete(levelId)
      continue
    }
    let { x, y } = known
    for (const mark of drawing.marks) {
      if (isForPrint(mark)) continue
      const { left, right, bottom, top } = markBounds(mark)
      x = Math.max(x, -left, right)
      y = Math.max(y, -bottom, top)
    }
    reaches.set(levelId, { x, y })
  }
  return reaches
}
