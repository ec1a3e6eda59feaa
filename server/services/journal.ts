import { Op, QueryTypes } from 'sequelize'
import { CATCHUP_LIMIT, type Catchup, type JournalEntry } from '#shared/live'
import type { Change } from '@rubato/core/edits'
import { useDatabase } from '../models/database'
import type { JournalRow, Models } from '../models/models'
import { PANEL_COUNT } from './outlineRows'

/** The history that places in the journal are of. */
export async function epoch(): Promise<string> {
  const { sequelize } = await useDatabase()
  const [row] = await sequelize.query<{ id: string }>('SELECT id FROM epoch', { type: QueryTypes.SELECT })
  return row?.id ?? ''
}

/** As the database packs them, which is some five times smaller than what they are in memory. */
const CATCHUP_BYTES = 2 * 1024 * 1024

/** The journal of a project after a place in it, oldest first. */
export async function journalAfter(projectId: string, after: number): Promise<Catchup> {
  const { sequelize, models } = await useDatabase()
  // As many as fit into the budget, and one at least: large changes are not read by the hundred at once.
  const next = await sequelize.query<{ seq: string; before: string }>(
    `SELECT seq, sum(bytes) OVER (ORDER BY seq) - bytes AS before
     FROM (SELECT seq, pg_column_size(edits)::bigint AS bytes FROM journal WHERE project_id = $1 AND seq > $2 ORDER BY seq LIMIT $3) AS next ORDER BY seq`,
    { bind: [projectId, String(after), CATCHUP_LIMIT + 1], type: QueryTypes.SELECT },
  )
  const fit = next.slice(0, CATCHUP_LIMIT).filter(({ before }, i) => i === 0 || Number(before) < CATCHUP_BYTES)
  const last = fit.at(-1)
  if (last === undefined) return { entries: [], more: false }
  const rows = await models.JournalRow.findAll({ where: { projectId, seq: { [Op.gt]: String(after), [Op.lte]: last.seq } }, order: [['seq', 'ASC']] })
  return { entries: await withLengths(models, projectId, rows), more: next.length > fit.length }
}

async function withLengths(models: Models, projectId: string, rows: readonly JournalRow[]): Promise<JournalEntry[]> {
  const takesOf = (row: JournalRow) => Object.keys(row.revisions).filter((unit) => unit.startsWith('take:')).map((unit) => unit.slice(5))
  const ids = [...new Set(rows.flatMap(takesOf))]
  const takes = ids.length === 0 ? [] : await models.TakeRow.findAll({ where: { projectId, id: { [Op.in]: ids } }, attributes: ['projectId', 'id', 'lengthFrames', PANEL_COUNT] })
  const known = new Map(takes.map((take) => [take.id, take]))
  return rows.map((row) => ({
    seq: Number(row.seq),
    change: { id: row.changeId, label: row.label, edits: row.edits as Change['edits'] },
    author: row.author,
    revisions: row.revisions as Record<string, number>,
    takeLengths: Object.fromEntries(takesOf(row).flatMap((id) => (known.has(id) ? [[id, known.get(id)!.lengthFrames]] : []))),
    takePanels: Object.fromEntries(takesOf(row).flatMap((id) => (known.has(id) ? [[id, known.get(id)!.get('panelCount') as number]] : []))),
  }))
}

export async function lastSeq(models: Models, projectId: string): Promise<number> {
  return Number((await models.JournalRow.max('seq', { where: { projectId } })) ?? 0)
}

/** Which of these changes the journal has. */
export async function knownChanges(projectId: string, ids: readonly string[]): Promise<readonly string[]> {
  const { models } = await useDatabase()
  if (ids.length === 0) return []
  const rows = await models.JournalRow.findAll({ where: { projectId, changeId: { [Op.in]: [...ids] } }, attributes: ['seq', 'changeId'] })
  return rows.map((row) => row.changeId)
}
