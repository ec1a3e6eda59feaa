import { FACTS_VERSION, factSteps } from '@rubato/core/checks'
import { drawingsOf, opticsOf, setsIn, unfolded, type Drawing, type SetBody, type TakeBody, type Work } from '@rubato/core/document'
import { drawingBounds } from '@rubato/core/ink'
import { createTakeStage } from '@rubato/core/stage'
import { QueryTypes } from 'sequelize'
import { unitKey } from '#shared/edits'
import { FACTS_AT_ONCE, type WorkChange } from '#shared/projects'
import { useDatabase } from '../models/database'
import { breathe } from './breathe'
import { projectOfRow } from './outlineRows'
import { liveProject, loadUnits } from './projects'
import { refuse } from './refusals'

/** Changes of one thing that are told at most. */
const HISTORY_MOST = 200

/**
 * What is known of the film's circled takes, as JSON of `KnownFacts`: handed on as the database has it. Of those that are named what is missing
 * is worked out first.
 */
export async function knownFacts(projectId: string, takeIds: readonly string[]): Promise<string> {
  if (takeIds.length > FACTS_AT_ONCE) throw refuse(422, 'too-many-ids', `${takeIds.length} shots were asked for; at most ${FACTS_AT_ONCE} are worked out at once.`)
  const { sequelize } = await useDatabase()
  const optics = opticsOf(projectOfRow(await liveProject(projectId)))
  const madeBy = JSON.stringify([FACTS_VERSION, optics])
  const read = () =>
    sequelize.query<{ id: string; facts: string | null }>(
      `SELECT t.id, f.facts::text AS facts FROM ${takeIds.length > 0 ? 'takes t' : 'shots s JOIN takes t ON t.project_id = s.project_id AND t.id = s.circled_take_id'}
       LEFT JOIN take_facts f ON f.project_id = t.project_id AND f.take_id = t.id AND f.made_by = $2
       WHERE t.project_id = $1 AND t.removed_at IS NULL${takeIds.length > 0 ? '' : ' AND s.in_tray IS NOT TRUE'}${takeIds.length > 0 ? ' AND t.id = ANY($3)' : ''}`,
      { bind: takeIds.length > 0 ? [projectId, madeBy, [...takeIds]] : [projectId, madeBy], type: QueryTypes.SELECT },
    )
  let rows = await read()
  if (takeIds.length > 0) {
    const made = new Map<string, string>()
    for (const { id, facts } of rows) if (facts === null) made.set(id, await workedOut(projectId, id, optics, madeBy))
    rows = rows.map(({ id, facts }) => ({ id, facts: facts ?? made.get(id)! }))
  }
  const known = rows.flatMap(({ id, facts }) => (facts === null ? [] : [`${JSON.stringify(id)}:${facts}`]))
  return `{"facts":{${known.join(',')}},"missing":${JSON.stringify(rows.flatMap(({ id, facts }) => (facts === null ? [id] : [])))}}`
}

async function workedOut(projectId: string, takeId: string, optics: ReturnType<typeof opticsOf>, madeBy: string): Promise<string> {
  const { sequelize } = await useDatabase()
  // What is written after this is not in what is worked out.
  const [before] = await sequelize.query<{ seq: string }>('SELECT COALESCE(max(seq), 0)::text AS seq FROM journal WHERE project_id = $1', { bind: [projectId], type: QueryTypes.SELECT })
  const [found] = await loadUnits('take', projectId, [takeId])
  if (found === undefined) throw refuse(404, 'missing', `There is no take ${takeId} any more.`)
  const take = found.unit as TakeBody
  const setIds = [...new Set(setsIn(take).map(({ setId }) => setId))]
  const sets = new Map((await loadUnits('set', projectId, setIds)).map(({ id, unit }) => [id, unit as SetBody]))
  const body = unfolded(take, (id) => sets.get(id) ?? null)
  const drawingIds = drawingsOf(body)
  const bounds = new Map((await loadUnits('drawing', projectId, drawingIds)).map(({ id, unit }) => [id, drawingBounds(unit as Drawing)]))
  const steps = factSteps(createTakeStage(body, optics), takeId, (id) => bounds.get(id) ?? null)
  let step = steps.next()
  for (; step.done !== true; step = steps.next()) await breathe()
  const text = JSON.stringify(step.value)
  const uses = [unitKey({ kind: 'take', id: takeId }), ...setIds.map((id) => unitKey({ kind: 'set', id })), ...drawingIds.map((id) => unitKey({ kind: 'drawing', id }))]
  await sequelize.transaction(async (transaction) => {
    // Whoever writes holds the film's row: after this nobody is in between.
    await sequelize.query('SELECT 1 FROM projects WHERE id = $1 FOR SHARE', { bind: [projectId], transaction })
    await sequelize.query(
      `INSERT INTO take_facts (project_id, take_id, made_by, uses, facts)
       SELECT $1, $2, $3, $4::text[], $5::jsonb WHERE NOT EXISTS (SELECT 1 FROM journal WHERE project_id = $1 AND seq > $6 AND revisions ?| $4::text[])
       ON CONFLICT (project_id, take_id) DO UPDATE SET made_by = excluded.made_by, uses = excluded.uses, facts = excluded.facts`,
      { bind: [projectId, takeId, madeBy, uses, text, before!.seq], transaction },
    )
  })
  return text
}

/** Who said what of one thing in the breakdown, newest first. */
export async function workHistory(projectId: string, workId: string): Promise<readonly WorkChange[]> {
  const { sequelize } = await useDatabase()
  await liveProject(projectId)
  const rows = await sequelize.query<{ author: string; at: Date; change: { before: Work | null; after: Work | null } }>(
    `SELECT j.author, j.created_at AS at, e.edit #> ARRAY['changes', 'work', $2] AS change
     FROM journal j, jsonb_array_elements(j.edits) AS e(edit)
     WHERE j.project_id = $1 AND j.revisions ? 'breakdown:film' AND e.edit #> ARRAY['changes', 'work', $2] IS NOT NULL ORDER BY j.seq DESC LIMIT ${HISTORY_MOST}`,
    { bind: [projectId, workId], type: QueryTypes.SELECT },
  )
  return rows.map(({ author, at, change: { before, after } }) => ({ author, at: at.toISOString(), before, after }))
}
