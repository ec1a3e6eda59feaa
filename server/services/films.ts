import { EMPTY_TAKE, FORMAT_VERSION, takeLengthFrames, unitsOf, type Film, type Outline, type TakeBody } from '@rubato/core/document'
import type { Transaction } from 'sequelize'
import type { Models } from '../models/models'
import { rowOfProject } from './outlineRows'
import { unitTables } from './unitTables'

/** Writes a whole film as new rows. */
export async function insertFilm(models: Models, film: Film, transaction: Transaction): Promise<void> {
  const projectId = Object.keys(film.outline.project)[0]!
  await insertOutline(models, film.outline, (id) => takeLengthFrames(film.takes[id]!), transaction, (id) => film.takes[id]!)
  for (const [kind, { table, content, byOutline }] of unitTables()) {
    if (byOutline) continue
    await models.ProjectRow.sequelize!.query(`INSERT INTO ${table} (project_id, id, format, ${content}, revision) SELECT $1, key, $2, value, 1 FROM jsonb_each($3::jsonb)`, { bind: [projectId, FORMAT_VERSION, JSON.stringify(unitsOf(film, kind))], transaction })
  }
}

/** Writes a film's outline as new rows; bodies of takes that are not given are empty, to be put in by whoever has them. */
export async function insertOutline(models: Models, outline: Outline, lengthOf: (takeId: string) => number, transaction: Transaction, bodyOf: (takeId: string) => TakeBody = () => EMPTY_TAKE): Promise<void> {
  const film = { outline }
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
  await models.SetNameRow.bulkCreate(Object.values(film.outline.sets).map(positioned), { transaction })
  await models.TakeRow.bulkCreate(
    Object.values(film.outline.takes).map((take) => ({ ...positioned(take), body: bodyOf(take.id), lengthFrames: lengthOf(take.id), format: FORMAT_VERSION, revision: 1, removedAt: null })),
    { transaction },
  )
}
