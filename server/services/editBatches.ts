import { EMPTY_TAKE, outlineRef, takeRef, UNIT_KINDS, type BodyKind, type Drawing, type TakeBody, type Unit, type UnitRef } from '@rubato/core/document'
import { applyToUnit, sameContent, showsDrawing, type Change } from '@rubato/core/edits'
import { literal, Op, QueryTypes, type Transaction } from 'sequelize'
import { unitKey, type Batch, type BatchAccepted } from '#shared/edits'
import { useDatabase } from '../models/database'
import type { Models, ProjectRow } from '../models/models'
import { opened } from './opened'
import { readOutline, writeOutlineChanges } from './outlineRows'
import { lockAssets } from './assets'
import { breathe } from './breathe'
import { checkAndApply } from './largeEdits'
import { isUnholdable } from './databaseTrouble'
import { notFound, refuse } from './refusals'
import { keepRecent, recent } from './recentUnits'
import { inFilmTurn } from './turns'
import { unitTables } from './unitTables'
import { writeUnits, type Entry, type HeldUnit } from './writeUnits'

/**
 * Applies a batch in one transaction: all of it, with its journal rows, or none. Changes already in the journal are
 * skipped, so a batch may be sent again. Refused when a touched unit is not at the revision the batch was made on.
 */
export async function applyBatch(projectId: string, batch: Batch): Promise<BatchAccepted> {
  return inFilmTurn(projectId, async () => {
    try {
      const quick = await applyInOneStatement(projectId, batch)
      if (quick !== null) return quick
      const { sequelize } = await useDatabase()
      return await sequelize.transaction(async (transaction) => applyInTransaction(await lockProject(projectId, transaction), batch, transaction))
    } catch (error) {
      const bad = isUnholdable(error) ? await unholdable(batch.changes) : null
      throw bad === null ? error : invalid(bad, ['edits'], 'it holds something that the database can’t keep')
    }
  })
}

/** The first of the changes that the database can't hold. */
async function unholdable(changes: readonly Change[]): Promise<Change | null> {
  if (changes.length === 1) return changes[0]!
  const { sequelize } = await useDatabase()
  for (const change of changes) {
    const held = await sequelize.query('SELECT $1::jsonb IS NOT NULL', { bind: [JSON.stringify(change)], type: QueryTypes.SELECT }).catch((error: unknown) => isUnholdable(error) ? null : Promise.reject(error as Error))
    if (held === null) return change
  }
  return null
}

/**
 * The common batch, of takes and drawings that no one else has touched: read without a lock, if at all, and written in a statement
 * that does nothing at all where anything is not as it was read. Null where the batch has to go the longer way, which
 * also finds the words for a refusal.
 */
async function applyInOneStatement(projectId: string, batch: Batch): Promise<BatchAccepted | null> {
  const name = namesOf.get(projectId)
  const simple = batch.changes.every((change) => change.edits.every((edit) => edit.unit.kind !== 'outline') && assetsIn(change).length === 0 && (change.reads ?? []).every((read) => read.kind === 'shown'))
  if (name === undefined || !simple) return null
  const found = fromRecent(name, batch) ?? (await readTouched(projectId, name, batch.changes)).units
  const touches = new Set(batch.changes.flatMap((change) => change.edits.map((edit) => unitKey(edit.unit))))
  const units = new Map([...found].filter(([key]) => touches.has(key)))
  const before = new Map([...units].map(([key, { revision }]) => [key, revision]))
  const entries: Entry[] = []
  const seen = new Map<string, number>()
  for (const change of batch.changes) {
    const touched: Record<string, number> = {}
    for (const edit of change.edits) {
      const key = unitKey(edit.unit)
      const unit = units.get(key)
      if (unit === undefined || before.get(key) !== (batch.base[key] ?? 0)) return null
      const applied = await checkAndApply(unit.unit, edit)
      if (!applied.ok) return null
      unit.unit = applied.value
      if (touched[key] === undefined) unit.revision += 1
      touched[key] = unit.revision
    }
    for (const { drawingId, takeId } of shownReads([change])) {
      const take = units.get(`take:${takeId}`) ?? found.get(`take:${takeId}`)
      if (take === undefined || !showsDrawing(take.unit as TakeBody, drawingId)) return null
      if (!touches.has(`take:${takeId}`)) seen.set(takeId, take.revision)
    }
    entries.push({ change, touched })
  }
  if (brokenUnit(units) !== null) return null
  try {
    const journalSeq = await writeUnits(projectId, units, entries, batch.author ?? '', null, { before, seen, createdAt: name.createdAt })
    keepRecent(name.key, units)
    return { revisions: Object.assign({}, ...entries.map(({ touched }) => touched)) as Record<string, number>, journalSeq }
  } catch (error) {
    const code = (error as { original?: { code?: string } }).original?.code
    if (code !== undefined && NOT_AS_READ.has(code)) return null
    throw error
  }
}

/** What the batch touches, where this server was the last to write all of it as far as it knows; the statement finds out. */
function fromRecent(name: FilmName, batch: Batch): Map<string, HeldUnit> | null {
  const units = new Map<string, HeldUnit>()
  for (const change of batch.changes) {
    for (const { unit: ref } of change.edits) {
      const key = unitKey(ref)
      const revision = recent.revisionOf(name.key, key)
      if (revision !== batch.base[key]) return null
      units.set(key, { ref, unit: recent.unitOf(name.key, key)!, revision })
    }
  }
  for (const { takeId } of shownReads(batch.changes)) {
    const key = `take:${takeId}`
    const unit = recent.unitOf(name.key, key)
    if (unit === undefined) return null
    if (!units.has(key)) units.set(key, { ref: takeRef(takeId), unit, revision: recent.revisionOf(name.key, key) })
  }
  return units
}

const shownReads = (changes: readonly Change[]) => changes.flatMap((change) => (change.reads ?? []).flatMap((read) => (read.kind === 'shown' ? [read] : [])))

/** Division by zero, which is how the statement gives itself up; a change or drawing that is there by now; a deadlock. */
const NOT_AS_READ: ReadonlySet<string> = new Set(['22012', '23505', '40P01'])

/** A film that was put back under its old id is another. */
interface FilmName {
  readonly key: string
  readonly createdAt: Date
}
const namesOf = new Map<string, FilmName>()
const MOST_NAMES = 1000

function nameOf(project: ProjectRow): FilmName {
  const name = { key: `${project.id} ${project.createdAt.getTime()}`, createdAt: project.createdAt }
  namesOf.set(project.id, name)
  if (namesOf.size > MOST_NAMES) namesOf.delete(namesOf.keys().next().value!)
  return name
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
  const { models } = await useDatabase()
  const projectId = project.id
  const name = nameOf(project)
  const { known, units } = await readTouched(projectId, name, batch.changes, transaction)
  const fresh = batch.changes.filter((change) => !known.has(change.id))
  const revisions: Record<string, number> = {}
  for (const row of known.values()) Object.assign(revisions, row.revisions)
  let journalSeq = Math.max(0, ...[...known.values()].map((row) => row.seq))
  if (fresh.length === 0) return { revisions, journalSeq }
  const held = new Map<string, HeldUnit>()
  const starts = new Map<string, Unit>()
  const entries: Entry[] = []
  const brought = new Set(fresh.flatMap((change) => change.edits.flatMap((edit) => (edit.unit.kind === 'outline' ? Object.entries(edit.changes.takes ?? {}).flatMap(([id, { after }]) => (after === null ? [] : [id])) : []))))
  for (const change of fresh) {
    const touched: Record<string, number> = {}
    for (const read of change.reads ?? []) {
      if (read.kind !== 'content') continue
      const key = unitKey(read.unit)
      const unit = held.get(key) ?? units.get(key)
      if (unit !== undefined && !sameContent(unit.unit as TakeBody | Drawing, read)) throw notAsRead(key, unit.revision)
    }
    for (const edit of change.edits) {
      await breathe()
      const key = unitKey(edit.unit)
      let unit = held.get(key)
      if (unit === undefined) {
        if (units.get(key)?.gone === true && !brought.has(edit.unit.id)) throw notAsRead(unitKey(outlineRef(projectId)), project.revision)
        unit = edit.unit.kind === 'outline' ? await holdOutline(models, project, edit.unit, transaction) : units.get(key)
        if (unit === undefined) throw notFound(edit.unit.kind, edit.unit.id)
        held.set(key, unit)
        starts.set(key, unit.unit)
        const base = batch.base === null ? unit.revision : known.size > 0 ? (revisions[key] ?? batch.base[key] ?? 0) : (batch.base[key] ?? 0)
        if (unit.revision !== base) throw await stale(models, projectId, key, base, unit.revision, transaction)
      }
      const applied = await checkAndApply(unit.unit, edit)
      if (!applied.ok) throw invalid(change, applied.refusal.path, applied.refusal.code === 'stale' ? 'the record is not what the edit saw' : applied.refusal.message)
      unit.unit = applied.value
      if (touched[key] === undefined) unit.revision += 1
      touched[key] = unit.revision
      if (edit.unit.kind === 'outline') {
        await writeOutlineChanges(models, project, edit.changes, transaction)
        // A take that the outline now has may be filled by the next edit.
        for (const [id, { after }] of Object.entries(edit.changes.takes ?? {})) if (after !== null && !units.has(`take:${id}`)) units.set(`take:${id}`, { ref: takeRef(id), unit: EMPTY_TAKE, revision: 0 })
      }
    }
    for (const { drawingId, takeId } of shownReads([change])) {
      const key = `take:${takeId}`
      const take = held.get(key) ?? units.get(key)
      if (take === undefined || (take.gone === true && !brought.has(takeId)) || !showsDrawing(take.unit as TakeBody, drawingId)) throw notAsRead(key, take?.revision ?? 0)
    }
    entries.push({ change, touched })
    Object.assign(revisions, touched)
  }
  await noteAssets(projectId, fresh, transaction)
  const broken = await brokenOf(held)
  if (broken !== null) throw invalid(breaking(fresh, starts.get(broken.unit)!, broken.unit), broken.path, broken.code)
  const outline = [...held.values()].find((unit) => unit.ref.kind === 'outline')
  if (outline !== undefined) {
    project.revision = outline.revision
    await project.save({ transaction })
  }
  journalSeq = await writeUnits(projectId, held, entries, batch.author ?? '', transaction)
  transaction.afterCommit(() => keepRecent(name.key, held))
  return { revisions, journalSeq }
}

/** Everything that a batch touches, in one question: changes that are known already, takes and drawings. */
async function readTouched(projectId: string, name: FilmName, changes: readonly Change[], transaction: Transaction | null = null) {
  const { sequelize } = await useDatabase()
  const refs = new Map<string, UnitRef>()
  for (const change of changes) {
    for (const { unit } of change.edits) refs.set(unitKey(unit), unit)
    for (const read of change.reads ?? []) {
      const unit: UnitRef = read.kind === 'content' ? read.unit : takeRef(read.takeId)
      refs.set(unitKey(unit), unit)
    }
  }
  // Held before the question is asked: while it is, others may push a unit out of what is kept.
  const kept = new Map<string, { readonly unit: Unit; readonly revision: number }>()
  for (const key of refs.keys()) {
    const unit = recent.unitOf(name.key, key)
    if (unit !== undefined) kept.set(key, { unit, revision: recent.revisionOf(name.key, key) })
  }
  const bind: unknown[] = [projectId, changes.map((change) => change.id)]
  const parts = [`SELECT 'journal' AS what, change_id AS id, seq, 0 AS revision, 0 AS format, false AS gone, revisions AS content FROM journal WHERE project_id = $1 AND change_id = ANY($2)`]
  const units = new Map<string, HeldUnit>()
  // A body whose revision this server has seen is not read again.
  for (const [kind, { table, content, byOutline }] of unitTables()) {
    const ids = [...refs.values()].filter((ref) => ref.kind === kind).map((ref) => ref.id)
    if (!byOutline) for (const id of ids) units.set(`${kind}:${id}`, { ref: { kind, id }, unit: UNIT_KINDS[kind].empty, revision: 0 })
    if (ids.length === 0) continue
    bind.push(ids, ids.map((id) => kept.get(`${kind}:${id}`)?.revision ?? -1))
    parts.push(`SELECT '${kind}', u.id, 0, u.revision, u.format, ${byOutline ? 'u.removed_at IS NOT NULL' : 'false'}, CASE WHEN u.revision = w.revision THEN NULL ELSE u.${content} END
       FROM ${table} u JOIN unnest($${bind.length - 1}::text[], $${bind.length}::int[]) AS w(id, revision) ON w.id = u.id WHERE u.project_id = $1`)
  }
  const rows = await sequelize.query<{ what: string; id: string; seq: string; revision: number; format: number; gone: boolean; content: unknown }>(parts.join('\n     UNION ALL '), { bind, type: QueryTypes.SELECT, transaction })
  const known = new Map<string, { readonly seq: number; readonly revisions: Record<string, number> }>()
  for (const { what, id, seq, revision, format, gone, content } of rows) {
    if (what === 'journal') {
      known.set(id, { seq: Number(seq), revisions: content as Record<string, number> })
      continue
    }
    const [kind, key] = [what as BodyKind, `${what}:${id}`]
    units.set(key, { ref: { kind, id }, unit: content === null ? kept.get(key)!.unit : opened(kind, id, content, format), revision, gone })
  }
  return { known, units }
}

async function holdOutline(models: Models, project: ProjectRow, ref: UnitRef, transaction: Transaction): Promise<HeldUnit> {
  if (ref.id !== project.id) throw notFound('outline', ref.id)
  const { outline } = await readOutline(models, project, transaction)
  return { ref, unit: outline, revision: project.revision }
}

/** The change after which a unit was never whole again. */
function breaking(changes: readonly Change[], start: Unit, key: string): Change {
  let unit = start
  let found: Change | null = null
  for (const change of changes) {
    const edits = change.edits.filter((edit) => unitKey(edit.unit) === key)
    if (edits.length === 0) continue
    for (const edit of edits) {
      const applied = applyToUnit(unit, edit)
      if (applied.ok) unit = applied.value
    }
    if (brokenUnit(new Map([[key, { ref: edits[0]!.unit, unit, revision: 0 }]])) === null) found = null
    else found ??= change
  }
  return found ?? changes.at(-1)!
}

/** As `brokenUnit`, letting others in between the units of a large batch. */
async function brokenOf(held: ReadonlyMap<string, HeldUnit>) {
  for (const entry of held) {
    const broken = brokenUnit(new Map([entry]))
    if (broken !== null) return broken
    await breathe()
  }
  return null
}

/** What edits can't tell one by one: that records fit each other when all is done. */
function brokenUnit(held: ReadonlyMap<string, HeldUnit>) {
  for (const [key, { ref, unit }] of held) {
    const [problem] = UNIT_KINDS[ref.kind].problems(unit)
    if (problem !== undefined) return { ...problem, unit: key }
  }
  return null
}

/** The pictures and recordings that a change puts into the film. */
function assetsIn(change: Change): string[] {
  const hashes = new Set<string>()
  for (const edit of change.edits) {
    for (const { after } of Object.values(edit.unit.kind === 'outline' ? (edit.changes.clips ?? {}) : {})) {
      const clip = after as { readonly assetHash?: string } | null
      if (clip?.assetHash !== undefined) hashes.add(clip.assetHash)
    }
    if (edit.unit.kind !== 'drawing') continue
    for (const { after } of Object.values(edit.changes.marks ?? {})) {
      const mark = after as { readonly kind?: string; readonly assetHash?: string } | null
      if (mark?.kind === 'picture' && mark.assetHash !== undefined) hashes.add(mark.assetHash)
    }
  }
  return [...hashes]
}

/** A picture that was shown belongs to the project from then on: undo and versions may want it again. */
async function noteAssets(projectId: string, changes: readonly Change[], transaction: Transaction) {
  const hashes = [...new Set(changes.flatMap(assetsIn))]
  if (hashes.length === 0) return
  const { sequelize } = await useDatabase()
  // Nobody takes these away as unused while this is being kept.
  await lockAssets(hashes, 'shared', transaction)
  await sequelize.query('INSERT INTO project_assets (project_id, hash) SELECT $1, unnest($2::text[]) ON CONFLICT DO NOTHING', { bind: [projectId, hashes], transaction })
}

function invalid(change: Change, path: readonly string[], message: string) {
  return refuse(422, 'invalid-edit', `"${change.label}" can't be kept: ${path.join('.')}: ${message}.`, { changeId: change.id, path })
}

/** Something that a change looked at is not there any more, or has been changed: the window takes it in and decides anew. */
function notAsRead(unit: string, revision: number) {
  return refuse(409, 'stale-revision', `${unit} is not what the change was made on.`, { unit, revision, since: [] })
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
