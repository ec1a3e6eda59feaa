import { inOrder, shownCell, type BodyKind, type Drawing, type TakeBody, type Unit } from '@rubato/core/document'
import type { ProjectCover } from '#shared/projects'

/** Gives units by their ids; those that are not there are left out. */
type Load = (kind: BodyKind, ids: readonly string[]) => Promise<readonly { readonly id: string; readonly revision: number; readonly unit: Unit }[]>

/** What the first panel of a take needs to be drawn. */
export async function coverOf(takeId: string | undefined, load: Load): Promise<ProjectCover> {
  const [found] = takeId === undefined ? [] : await load('take', [takeId])
  if (found === undefined) return { take: null, drawings: [] }
  const body = found.unit as TakeBody
  const shown = inOrder(body.levels).flatMap((level) => shownCell(body, level, 0)?.drawingId ?? [])
  return { take: { id: found.id, revision: found.revision, body }, drawings: (await load('drawing', shown)).map(({ id, revision, unit }) => ({ id, revision, drawing: unit as Drawing })) }
}
