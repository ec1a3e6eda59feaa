import { QueryTypes } from 'sequelize'
import { MOST_FOUND, type FoundCaption } from '#shared/captions'
import { useDatabase } from '../models/database'
import { liveProject } from './projects'

/** Captions of the circled takes that hold some words, in no order. Signs mean themselves. */
export async function findCaptions(projectId: string, words: string, exactCase: boolean): Promise<readonly FoundCaption[]> {
  const { sequelize } = await useDatabase()
  await liveProject(projectId)
  const fold = exactCase ? '' : 'lower'
  return sequelize.query<FoundCaption>(
    `SELECT t.id AS "takeId", p.key AS "panelId", f.field
     FROM shots s JOIN takes t ON t.project_id = s.project_id AND t.id = s.circled_take_id,
          LATERAL jsonb_each(t.body->'panels') p, LATERAL (VALUES ('action'), ('dialogue')) f(field)
     WHERE s.project_id = $1 AND s.in_tray IS NOT TRUE AND t.removed_at IS NULL AND strpos(${fold}(p.value->>f.field), ${fold}($2)) > 0
     LIMIT ${MOST_FOUND}`,
    { bind: [projectId, words], type: QueryTypes.SELECT },
  )
}
