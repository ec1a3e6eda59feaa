import { randomUUID } from 'node:crypto'
import { newLevel, EMPTY_TAKE, outlineRef, shorten, type BodyKind, type Film, type Project, type Unit } from '@rubato/core/document'
import { addShot, applyChange, newOutline, type Edit } from '@rubato/core/edits'
import { createFilmStage } from '@rubato/core/stage'
import { Op, QueryTypes, type Transaction } from 'sequelize'
import { TRASH_DAYS, type NewProject, type OpenedProject, type ProjectCard, type ProjectCover, type ProjectPatch, type Shelf } from '#shared/projects'
import { useDatabase } from '../models/database'
import type { ProjectRow } from '../models/models'
import { applyInTransaction, lockProject } from './editBatches'
import { coverOf } from './cover'
import { insertFilm } from './films'
import { lastSeq } from './journal'
import { opened } from './opened'
import { projectOfRow, readOutline } from './outlineRows'
import { notFound } from './refusals'
import { inFilmTurn } from './turns'
import { UNIT_TABLES, unitTables } from './unitTables'
import type { StoredUnit } from './unitText'

export async function liveProject(id: string): Promise<ProjectRow> {
  const { models } = await useDatabase()
  const row = await models.ProjectRow.findByPk(id)
  if (row === null || row.trashedAt !== null) throw notFound('project', id)
  return row
}

const MOST_LISTED = 1000

/** The projects of a shelf, the last changed first. */
export async function listProjects(shelf: Shelf): Promise<readonly ProjectCard[]> {
  const { models } = await useDatabase()
  const where = shelf === 'trash' ? { trashedAt: { [Op.ne]: null } } : { trashedAt: null, archivedAt: shelf === 'archive' ? { [Op.ne]: null } : null }
  const rows = await models.ProjectRow.findAll({ where, order: [['updatedAt', 'DESC'], ['id', 'ASC']], limit: MOST_LISTED })
  return cardsOf(rows)
}

export async function projectCard(id: string): Promise<ProjectCard> {
  return (await cardsOf([await liveProject(id)]))[0]!
}

async function cardsOf(rows: readonly ProjectRow[]): Promise<ProjectCard[]> {
  const figures = await projectFigures(rows.map((row) => row.id))
  return rows.map((row) => ({
    project: projectOfRow(row),
    ...figures.get(row.id)!,
    updatedAt: row.updatedAt.toISOString(),
    trashedAt: row.trashedAt?.toISOString() ?? null,
    archivedAt: row.archivedAt?.toISOString() ?? null,
  }))
}

/** Counts and sizes for many projects in one question; no body is read. */
async function projectFigures(ids: readonly string[]): Promise<ReadonlyMap<string, { readonly shotCount: number; readonly lengthFrames: number; readonly bytes: number }>> {
  const { sequelize } = await useDatabase()
  const rows = await sequelize.query<{ id: string; shotCount: number; lengthFrames: number; bytes: string }>(
    `SELECT p.id,
            (SELECT count(*)::int FROM shots s WHERE s.project_id = p.id AND s.in_tray IS NOT TRUE) AS "shotCount",
            (SELECT coalesce(sum(t.length_frames), 0)::float8 FROM shots s JOIN takes t ON t.project_id = s.project_id AND t.id = s.circled_take_id WHERE s.project_id = p.id AND s.in_tray IS NOT TRUE) AS "lengthFrames",
            (SELECT coalesce(sum(pg_column_size(body)), 0) FROM takes t WHERE t.project_id = p.id)
              + (SELECT coalesce(sum(pg_column_size(content)), 0) FROM drawings d WHERE d.project_id = p.id)
              + (SELECT coalesce(sum(pg_column_size(content)), 0) FROM tries y WHERE y.project_id = p.id)
              + (SELECT coalesce(sum(pg_column_size(content)), 0) FROM sets e WHERE e.project_id = p.id)
              + (SELECT coalesce(sum(pg_column_size(b.content)), 0) FROM bodies b WHERE b.hash IN (SELECT body_hash FROM version_units u WHERE u.project_id = p.id))
              + (SELECT coalesce(sum(a.bytes), 0) FROM assets a WHERE a.hash IN (SELECT hash FROM project_assets x WHERE x.project_id = p.id)) AS bytes
     FROM projects p WHERE p.id = ANY($1)`,
    { bind: [[...ids]], type: QueryTypes.SELECT },
  )
  return new Map(rows.map(({ id, bytes, ...rest }) => [id, { ...rest, bytes: Number(bytes) }]))
}

/** A film with one sequence, one shot, one panel, one empty level: ready to draw on. */
function newFilm(settings: NewProject, newId: () => string): Film {
  const project: Project = { id: newId(), ...settings }
  const sequence = { id: newId(), order: 'a1', label: '01', title: '', targetFrames: null }
  const film: Film = { outline: newOutline(project, sequence), takes: {}, drawings: {} }
  const takeId = newId()
  const shot = addShot(film, project.id, sequence.id, null, { shot: newId(), take: takeId, panel: newId(), camera: newId() }, settings.defaultPanelFrames)
  if (!shot.ok) throw new Error(`newFilm: ${shot.refusal.code}`)
  const applied = applyChange(film, shot)
  if (!applied.ok) throw new Error(`newFilm: ${applied.refusal.code}`)
  const level = newLevel({ id: newId(), order: 'a1', name: 'Level 1', figure: true })
  const body = applied.value.takes[takeId] ?? EMPTY_TAKE
  return { ...applied.value, takes: { [takeId]: { ...body, levels: { [level.id]: level } } } }
}

export async function createProject(settings: NewProject): Promise<ProjectCard> {
  const { sequelize, models } = await useDatabase()
  const film = newFilm(settings, randomUUID)
  await sequelize.transaction((transaction) => insertFilm(models, film, transaction))
  return projectCard(Object.keys(film.outline.project)[0]!)
}

export async function openProject(id: string): Promise<OpenedProject> {
  const { models } = await useDatabase()
  // Read first: an entry that is in the outline already does no harm, one that is in neither would.
  const journalSeq = await lastSeq(models, id)
  const row = await liveProject(id)
  const { outline, takeLengths, takePanels } = await readOutline(models, row)
  return { outline, outlineRevision: row.revision, journalSeq, takeLengths, takePanels }
}

/** Renames a project, as a change like any other; puts it away, or back on the desk. */
export async function patchProject(id: string, { title, archived, author = '' }: ProjectPatch): Promise<ProjectCard> {
  const { sequelize } = await useDatabase()
  await inFilmTurn(id, () => sequelize.transaction(async (transaction) => {
    const row = await lockProject(id, transaction)
    if (archived !== undefined) await row.update({ archivedAt: archived ? new Date() : null }, { silent: true, transaction })
    const before = projectOfRow(row)
    if (title === undefined || title === before.title) return
    const edit: Edit = { kind: 'rename', unit: outlineRef(id), changes: { project: { [id]: { before, after: { ...before, title } } } } }
    await applyInTransaction(row, { changes: [{ id: randomUUID(), label: 'name of the film', edits: [edit] }], base: null, author }, transaction)
  }))
  return projectCard(id)
}

/** A film of its own that begins as this one is; the journal and the versions stay with the first. */
export async function duplicateProject(id: string): Promise<ProjectCard> {
  const { sequelize } = await useDatabase()
  const copy = randomUUID()
  await inFilmTurn(id, () => sequelize.transaction(async (transaction) => {
    const row = await lockProject(id, transaction)
    const run = (sql: string, bind: readonly unknown[]) => sequelize.query(sql, { bind: [...bind], transaction })
    await run(
      `INSERT INTO projects (id, title, rate_numerator, rate_denominator, width_px, height_px, film_back_mm, base_lens_mm, default_panel_frames, target_frames, start_timecode_frames, drop_frame, metres_per_fw, revision, created_at, updated_at)
       SELECT $2, $3, rate_numerator, rate_denominator, width_px, height_px, film_back_mm, base_lens_mm, default_panel_frames, target_frames, start_timecode_frames, drop_frame, metres_per_fw, 1, now(), now() FROM projects WHERE id = $1`,
      [id, copy, copyTitle(row.title)],
    )
    const tables = {
      sequences: 'id, position, label, title, target_frames',
      shots: 'id, sequence_id, position, label, title, circled_take_id, target_frames, in_tray, starts_at, again_of',
      takes: 'id, shot_id, position, letter, name, length_frames, format, body, revision, removed_at',
      ...Object.fromEntries(unitTables().flatMap(([, { table, content, byOutline }]) => (byOutline ? [] : [[table, `id, format, ${content}, revision`]]))),
      passages: 'id, position, kind, speaker, manner, text, sequence_id',
      links: 'id, passage_id, take_id, panel_id, words',
      ruler_marks: 'id, shot_id, offset_frames, name, meaning',
      sound_lanes: 'id, position, name, kind, gain_db, muted, soloed',
      sound_clips: 'id, lane_id, shot_id, offset_frames, asset_hash, name, source_seconds, from_seconds, length_seconds, gain_db, fade_in_seconds, fade_out_seconds, speaker, line, passage_id, panel_id',
      transitions: 'id, at, kind, length_frames, place, angle_degrees, softness, colour, sound_too',
      set_names: 'id, position, name, stands',
      project_assets: 'hash',
    }
    for (const [table, columns] of Object.entries(tables)) await run(`INSERT INTO ${table} (project_id, ${columns}) SELECT $2, ${columns} FROM ${table} WHERE project_id = $1`, [id, copy])
  }))
  return projectCard(copy)
}

const LONGEST_TITLE = 200
const copyTitle = (title: string) => `${shorten(title, LONGEST_TITLE - 5)} copy`

/** Puts a project in the trash. It can be brought back for `TRASH_DAYS` days. */
export async function trashProject(id: string): Promise<void> {
  const row = await liveProject(id)
  await row.update({ trashedAt: new Date() }, { silent: true })
}

/** Back from the trash, or from being put away. */
export async function restoreProject(id: string): Promise<ProjectCard> {
  const { models } = await useDatabase()
  const row = await models.ProjectRow.findByPk(id)
  if (row === null) throw notFound('project', id)
  await row.update({ trashedAt: null }, { silent: true })
  return projectCard(id)
}

/** Deletes for good what is in the trash: one project that the artist names, or all that have been there too long. */
export async function emptyTrash(id: string | null): Promise<number> {
  const { models } = await useDatabase()
  const old = new Date(Date.now() - TRASH_DAYS * 24 * 3600 * 1000)
  const gone = await models.ProjectRow.destroy({ where: id === null ? { trashedAt: { [Op.lt]: old } } : { id, trashedAt: { [Op.ne]: null } } })
  if (id !== null && gone === 0) throw notFound('project in the trash', id)
  return gone
}

/** The units asked for, in no order; ids the project does not have are left out. */
export async function loadUnits(kind: BodyKind, projectId: string, ids: readonly string[], transaction: Transaction | null = null): Promise<readonly { readonly id: string; readonly revision: number; readonly unit: Unit }[]> {
  const found = await storedUnits(kind, projectId, ids, transaction)
  return found.map(({ id, revision, format, content }) => ({ id, revision, unit: opened(kind, id, JSON.parse(content), format) }))
}

/** As they are stored: JSON. */
export async function storedUnits(
  kind: BodyKind,
  projectId: string,
  ids: readonly string[],
  transaction: Transaction | null = null,
): Promise<readonly StoredUnit[]> {
  const { sequelize } = await useDatabase()
  await liveProject(projectId)
  const { table, content } = UNIT_TABLES[kind]
  const statement = `SELECT id, revision, format, ${content}::text AS content FROM ${table} WHERE project_id = $1 AND id = ANY($2)`
  return sequelize.query<StoredUnit>(statement, { bind: [projectId, [...ids]], type: QueryTypes.SELECT, transaction })
}

/** The takes that stand in each set, by its id; takes that were taken out are not among them. No body is read. */
export async function setUsers(projectId: string): Promise<Readonly<Record<string, readonly string[]>>> {
  const { sequelize } = await useDatabase()
  await liveProject(projectId)
  const found = await sequelize.query<{ setId: string; takes: string[] }>(
    `SELECT s.id #>> '{}' AS "setId", array_agg(DISTINCT t.id ORDER BY t.id) AS takes
     FROM takes t, jsonb_array_elements(t.set_ids) AS s(id) WHERE t.project_id = $1 AND t.removed_at IS NULL AND t.set_ids <> '[]' GROUP BY 1`,
    { bind: [projectId], type: QueryTypes.SELECT },
  )
  return Object.fromEntries(found.map(({ setId, takes }) => [setId, takes]))
}

/** What the first panel of the film needs to be drawn. */
export async function loadCover(projectId: string): Promise<ProjectCover> {
  const { models } = await useDatabase()
  const { outline, takeLengths } = await readOutline(models, await liveProject(projectId))
  const first = createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0).shots[0]
  return coverOf(first?.shot.circledTakeId, (kind, ids) => loadUnits(kind, projectId, ids))
}
