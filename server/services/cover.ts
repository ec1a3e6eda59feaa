import { inOrder, isDrawing, setsIn, shownCell, unfolded, type BodyKind, type Drawing, type SetBody, type TakeBody, type Unit } from '@rubato/core/document'
import type { ProjectCover } from '#shared/projects'

/** Gives units by their ids; those that are not there are left out. */
type Load = (kind: BodyKind, ids: readonly string[]) => Promise<readonly { readonly id: string; readonly revision: number; readonly unit: Unit }[]>

/** What the first panel of a take needs to be drawn. */
export async function coverOf(takeId: string | undefined, load: Load): Promise<ProjectCover> {
  const [found] = takeId === undefined ? [] : await load('take', [takeId])
  if (found === undefined) return { take: null, drawings: [] }
  const take = found.unit as TakeBody
  const sets = new Map((await load('set', [...new Set(setsIn(take).map(({ setId }) => setId))])).map(({ id, unit }) => [id, unit as SetBody]))
  const body = unfolded(take, (id) => sets.get(id) ?? null)
  const shown = inOrder(body.levels).flatMap((level) => ((cell) => (cell !== null && isDrawing(cell.drawingId) ? [cell.drawingId] : []))(shownCell(body, level, 0)))
  return { take: { id: found.id, revision: found.revision, body }, drawings: (await load('drawing', shown)).map(({ id, revision, unit }) => ({ id, revision, drawing: unit as Drawing })) }
}
