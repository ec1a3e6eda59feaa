import { Op } from 'sequelize'
import { CATCHUP_LIMIT, type Catchup, type JournalEntry } from '#shared/live'
import type { Change } from '@rubato/core/edits'
import { useDatabase } from '../models/database'
import type { JournalRow, Models } from '../models/models'
import { PANEL_COUNT } from './outlineRows'

/** The journal of a project after a place in it, oldest first. */
export async function journalAfter(projectId: string, after: number): Promise<Catchup> {
  const { models } = await useDatabase()
  const rows = await models.JournalRow.findAll({
    where: { projectId, seq: { [Op.gt]: String(after) } },
    order: [['seq', 'ASC']],
    limit: CATCHUP_LIMIT + 1,
  })
  const entries = await withLengths(models, projectId, rows.slice(0, CATCHUP_LIMIT))
  return { entries, more: rows.length > CATCHUP_LIMIT }
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
