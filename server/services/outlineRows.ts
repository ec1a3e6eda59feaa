import { EMPTY_TAKE, FORMAT_VERSION, type Outline, type Project, type Sequence, type Shot, type Take } from '@rubato/core/document'
import type { ChangeSet } from '@rubato/core/edits'
import type { Transaction } from 'sequelize'
import type { Models, ProjectRow, SequenceRow, ShotRow, TakeRow } from '../models/models'

export function projectOfRow(row: ProjectRow): Project {
  return {
    id: row.id,
    title: row.title,
    rate: { numerator: row.rateNumerator, denominator: row.rateDenominator },
    widthPx: row.widthPx,
    heightPx: row.heightPx,
    filmBackMm: row.filmBackMm,
    baseLensMm: row.baseLensMm,
    defaultPanelFrames: row.defaultPanelFrames,
  }
}

export function rowOfProject(project: Project) {
  const { rate, ...rest } = project
  return { ...rest, rateNumerator: rate.numerator, rateDenominator: rate.denominator }
}

const sequenceOfRow = (row: SequenceRow): Sequence => ({
  id: row.id,
  order: row.position,
  label: row.label,
  title: row.title,
  targetFrames: row.targetFrames,
})

const shotOfRow = (row: ShotRow): Shot => ({
  id: row.id,
  sequenceId: row.sequenceId,
  order: row.position,
  label: row.label,
  title: row.title,
  circledTakeId: row.circledTakeId,
})

const takeOfRow = (row: TakeRow): Take => ({ id: row.id, shotId: row.shotId, order: row.position, letter: row.letter })

const byId = <T extends { readonly id: string }>(records: readonly T[]) => Object.fromEntries(records.map((record) => [record.id, record]))

/** Reads a project's outline and its takes' lengths; no bodies. */
export async function readOutline(models: Models, project: ProjectRow, transaction?: Transaction) {
  const where = { projectId: project.id }
  const options = { where, transaction: transaction ?? null }
  // One after the other inside a transaction: it has one connection.
  const sequences = await models.SequenceRow.findAll(options)
  const shots = await models.ShotRow.findAll(options)
  const takes = await models.TakeRow.findAll({
    ...options,
    where: { ...where, removedAt: null },
    attributes: ['projectId', 'id', 'shotId', 'position', 'letter', 'lengthFrames'],
  })
  const outline: Outline = {
    project: { [project.id]: projectOfRow(project) },
    sequences: byId(sequences.map(sequenceOfRow)),
    shots: byId(shots.map(shotOfRow)),
    takes: byId(takes.map(takeOfRow)),
  }
  return { outline, takeLengths: Object.fromEntries(takes.map((row) => [row.id, row.lengthFrames])) }
}

function columnsOf(record: object): Record<string, unknown> {
  const { order, ...rest } = record as { readonly order: number }
  return { ...rest, position: order }
}

/** Writes the rows that a change of the outline touches, and no others. */
export async function writeOutlineChanges(models: Models, project: ProjectRow, changes: ChangeSet, transaction: Transaction) {
  const projectId = project.id
  for (const [collection, records] of Object.entries(changes)) {
    for (const [id, { after }] of Object.entries(records)) {
      const where = { projectId, id }
      if (collection === 'project') {
        if (after !== null) project.set(rowOfProject(after as Project))
      } else if (collection === 'takes') {
        if (after === null) {
          await models.TakeRow.update({ removedAt: new Date() }, { where, transaction })
          continue
        }
        const [count] = await models.TakeRow.update({ ...columnsOf(after), removedAt: null }, { where, transaction })
        if (count === 0) {
          await models.TakeRow.create(
            { ...columnsOf(after), projectId, lengthFrames: 0, format: FORMAT_VERSION, body: EMPTY_TAKE, revision: 0, removedAt: null } as never,
            { transaction },
          )
        }
      } else {
        const model = (collection === 'sequences' ? models.SequenceRow : models.ShotRow) as typeof models.ShotRow
        if (after === null) await model.destroy({ where, transaction })
        else await model.upsert({ ...columnsOf(after), projectId } as never, { transaction })
      }
    }
  }
}
