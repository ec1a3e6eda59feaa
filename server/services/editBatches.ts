import {
  drawingProblems,
  EMPTY_DRAWING,
  FORMAT_VERSION,
  openDrawing,
  openTakeBody,
  outlineProblems,
  takeLengthFrames,
  takeProblems,
  type Drawing,
  type Outline,
  type TakeBody,
  type Unit,
  type UnitRef,
} from '@rubato/core/document'
import { applyToUnit, checkEdit, type Change } from '@rubato/core/edits'
import { literal, Op, type Transaction } from 'sequelize'
import { unitKey, type Batch, type BatchAccepted } from '#shared/edits'
import { useDatabase } from '../models/database'
import type { DrawingRow, Models, ProjectRow, TakeRow } from '../models/models'
import { readOutline, writeOutlineChanges } from './outlineRows'
import { notify } from './notices'
import { notFound, refuse } from './refusals'

type HeldUnit =
  | { readonly kind: 'outline'; unit: Outline; revision: number }
  | { readonly kind: 'take'; unit: TakeBody; revision: number; readonly row: TakeRow | null }
  | { readonly kind: 'drawing'; unit: Drawing; revision: number; readonly row: DrawingRow | null }

/**
 * Applies a batch in one transaction: all of it, with its journal rows, or none. Changes already in the journal are
 * skipped, so a batch may be sent again. Refused when a touched unit is not at the revision the batch was made on.
 */
export async function applyBatch(projectId: string, batch: Batch): Promise<BatchAccepted> {
  const { sequelize } = await useDatabase()
  return sequelize.transaction(async (transaction) => applyInTransaction(await lockProject(projectId, transaction), batch, transaction))
}

/** The project's row is the lock: a film's journal has one order. */
export async function lockProject(projectId: string, transaction: Transaction): Promise<ProjectRow> {
  const { models } = await useDatabase()
  const project = await models.ProjectRow.findByPk(projectId, { transaction, lock: transaction.LOCK.UPDATE })
  if (project === null || project.trashedAt !== null) throw notFound('project', projectId)
  return project
}

/** As `applyBatch`, for whoever holds the lock. Without a `base` the changes are made on what is there now. */
export async function applyInTransaction(project: ProjectRow, batch: Omit<Batch, 'base'> & { readonly base: Batch['base'] | null }, transaction: Transaction): Promise<BatchAccepted> {
  const { sequelize, models } = await useDatabase()
  const projectId = project.id
  const known = await models.JournalRow.findAll({
    where: { projectId, changeId: batch.changes.map((change) => change.id) },
    transaction,
  })
  const knownIds = new Set(known.map((row) => row.changeId))
  const fresh = batch.changes.filter((change) => !knownIds.has(change.id))
  const revisions: Record<string, number> = {}
  for (const row of known) Object.assign(revisions, row.revisions)
  let journalSeq = Math.max(0, ...known.map((row) => Number(row.seq)))
  const held = new Map<string, HeldUnit>()
  for (const change of fresh) {
    const touched: Record<string, number> = {}
    for (const edit of change.edits) {
      const key = unitKey(edit.unit)
      let unit = held.get(key)
      if (unit === undefined) {
        unit = await hold(models, project, edit.unit, transaction)
        held.set(key, unit)
        const base = batch.base === null ? unit.revision : knownIds.size > 0 ? (revisions[key] ?? batch.base[key] ?? 0) : (batch.base[key] ?? 0)
        if (unit.revision !== base) throw await stale(models, projectId, key, base, unit.revision, transaction)
      }
      const malformed = checkEdit(edit)
      if (malformed !== null) throw invalid(change, malformed.path, malformed.code === 'malformed' ? malformed.message : malformed.code)
      const applied = applyToUnit(unit.unit as Unit, edit)
      if (!applied.ok) throw invalid(change, applied.refusal.path, applied.refusal.code === 'stale' ? 'the record is not what the edit saw' : applied.refusal.message)
      unit.unit = applied.value as never
      if (touched[key] === undefined) unit.revision += 1
      touched[key] = unit.revision
      if (edit.unit.kind === 'outline') await writeOutlineChanges(models, project, edit.changes, transaction)
    }
    const row = await models.JournalRow.create(
      { projectId, changeId: change.id, label: change.label, author: batch.author ?? '', edits: change.edits as object, revisions: touched },
      { transaction },
    )
    journalSeq = Number(row.seq)
    await noteAssets(project.id, change, transaction)
    Object.assign(revisions, touched)
  }
  const last = fresh.at(-1)
  for (const [key, unit] of held) await keep(models, project, key, unit, last!, transaction)
  project.changed('updatedAt', true)
  if (last !== undefined) {
    await project.save({ transaction })
    await notify(sequelize, { project: projectId, of: 'changes' }, transaction)
  }
  return { revisions, journalSeq }
}

/** A picture that a change shows belongs to the project from then on: undo and versions may want it again. */
async function noteAssets(projectId: string, change: Change, transaction: Transaction) {
  const hashes = new Set<string>()
  for (const edit of change.edits) {
    if (edit.unit.kind !== 'drawing') continue
    for (const { after } of Object.values(edit.changes.marks ?? {})) {
      const mark = after as { readonly kind?: string; readonly assetHash?: string } | null
      if (mark?.kind === 'picture' && mark.assetHash !== undefined) hashes.add(mark.assetHash)
    }
  }
  if (hashes.size === 0) return
  const { sequelize } = await useDatabase()
  await sequelize.query('INSERT INTO project_assets (project_id, hash) SELECT $1, unnest($2::text[]) ON CONFLICT DO NOTHING', { bind: [projectId, [...hashes]], transaction })
}

async function hold(models: Models, project: ProjectRow, ref: UnitRef, transaction: Transaction): Promise<HeldUnit> {
  const where = { projectId: project.id, id: ref.id }
  if (ref.kind === 'outline') {
    if (ref.id !== project.id) throw notFound('outline', ref.id)
    const { outline } = await readOutline(models, project, transaction)
    return { kind: 'outline', unit: outline, revision: project.revision }
  }
  if (ref.kind === 'take') {
    const row = await models.TakeRow.findOne({ where, transaction })
    if (row === null) throw notFound('take', ref.id)
    const opened = openTakeBody(row.body, row.format)
    if (!opened.ok) throw refuse(500, opened.code, `Take ${ref.id} can't be read: ${opened.issues[0]?.message ?? `format ${opened.version}`}.`)
    return { kind: 'take', unit: opened.value, revision: row.revision, row }
  }
  const row = await models.DrawingRow.findOne({ where, transaction })
  if (row === null) return { kind: 'drawing', unit: EMPTY_DRAWING, revision: 0, row: null }
  const opened = openDrawing(row.content, row.format)
  if (!opened.ok) throw refuse(500, opened.code, `Drawing ${ref.id} can't be read: ${opened.issues[0]?.message ?? `format ${opened.version}`}.`)
  return { kind: 'drawing', unit: opened.value, revision: row.revision, row }
}

async function keep(models: Models, project: ProjectRow, key: string, held: HeldUnit, change: Change, transaction: Transaction) {
  const id = key.slice(key.indexOf(':') + 1)
  if (held.kind === 'outline') {
    const problem = outlineProblems(held.unit)[0]
    if (problem !== undefined) throw invalid(change, problem.path, problem.code)
    project.revision = held.revision
    return
  }
  if (held.kind === 'take') {
    const problem = takeProblems(held.unit)[0]
    if (problem !== undefined) throw invalid(change, problem.path, problem.code)
    await held.row!.update(
      { body: held.unit, format: FORMAT_VERSION, revision: held.revision, lengthFrames: takeLengthFrames(held.unit) },
      { transaction },
    )
    return
  }
  const problem = drawingProblems(held.unit)[0]
  if (problem !== undefined) throw invalid(change, problem.path, problem.code)
  const content = { content: held.unit, format: FORMAT_VERSION, revision: held.revision }
  if (held.row === null) await models.DrawingRow.create({ projectId: project.id, id, ...content }, { transaction })
  else await held.row.update(content, { transaction })
}

function invalid(change: Change, path: readonly string[], message: string) {
  return refuse(422, 'invalid-edit', `"${change.label}" can't be kept: ${path.join('.')}: ${message}.`, { changeId: change.id, path })
}

async function stale(models: Models, projectId: string, unit: string, base: number, revision: number, transaction: Transaction) {
  const rows = await models.JournalRow.findAll({
    where: { projectId, [Op.and]: literal(`(revisions ->> ${models.JournalRow.sequelize!.escape(unit)})::int > ${Number(base)}`) },
    order: [['seq', 'ASC']],
    limit: 200,
    transaction,
  })
  const since = rows.map((row) => ({ seq: Number(row.seq), change: { id: row.changeId, label: row.label, edits: row.edits } }))
  return refuse(409, 'stale-revision', `${unit} is at revision ${revision}; the change was made on ${base}.`, { unit, revision, since })
}
