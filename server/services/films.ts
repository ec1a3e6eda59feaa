import { FORMAT_VERSION, takeLengthFrames, type Film } from '@rubato/core/document'
import type { Transaction } from 'sequelize'
import type { Models } from '../models/models'
import { rowOfProject } from './outlineRows'

/** Writes a whole film as new rows. */
export async function insertFilm(models: Models, film: Film, transaction: Transaction): Promise<void> {
  const project = Object.values(film.outline.project)[0]!
  const projectId = project.id
  await models.ProjectRow.create({ ...rowOfProject(project), revision: 1, trashedAt: null }, { transaction })
  const positioned = <T extends { readonly order: string }>({ order, ...rest }: T) => ({ ...rest, projectId, position: order })
  await models.SequenceRow.bulkCreate(Object.values(film.outline.sequences).map(positioned), { transaction })
  await models.ShotRow.bulkCreate(Object.values(film.outline.shots).map(positioned), { transaction })
  await models.PassageRow.bulkCreate(Object.values(film.outline.passages).map(positioned), { transaction })
  await models.LinkRow.bulkCreate(Object.values(film.outline.links).map((link) => ({ ...link, projectId })), { transaction })
  await models.RulerMarkRow.bulkCreate(Object.values(film.outline.rulerMarks).map((mark) => ({ ...mark, projectId })), { transaction })
  await models.LaneRow.bulkCreate(Object.values(film.outline.lanes).map(positioned), { transaction })
  await models.ClipRow.bulkCreate(Object.values(film.outline.clips).map((clip) => ({ ...clip, projectId })), { transaction })
  await models.TransitionRow.bulkCreate(Object.values(film.outline.transitions).map((transition) => ({ ...transition, projectId })), { transaction })
  await models.TakeRow.bulkCreate(
    Object.values(film.outline.takes).map((take) => {
      const body = film.takes[take.id]!
      return { ...positioned(take), body, lengthFrames: takeLengthFrames(body), format: FORMAT_VERSION, revision: 1, removedAt: null }
    }),
    { transaction },
  )
  await models.DrawingRow.bulkCreate(
    Object.entries(film.drawings).map(([id, content]) => ({ projectId, id, content, format: FORMAT_VERSION, revision: 1 })),
    { transaction },
  )
}
