import { randomUUID } from 'node:crypto'
import { EMPTY_TAKE, inOrder, openDrawing, openTakeBody, shownCell, type Film, type Project } from '@rubato/core/document'
import { addShot, applyChange, newOutline } from '@rubato/core/edits'
import { createFilmStage } from '@rubato/core/stage'
import { Op } from 'sequelize'
import type { LoadedDrawing, LoadedTake, NewProject, OpenedProject, ProjectCard, ProjectCover } from '#shared/projects'
import { useDatabase } from '../models/database'
import type { ProjectRow } from '../models/models'
import { insertFilm } from './films'
import { lastSeq } from './journal'
import { projectOfRow, readOutline } from './outlineRows'
import { notFound, refuse } from './refusals'

export async function liveProject(id: string): Promise<ProjectRow> {
  const { models } = await useDatabase()
  const row = await models.ProjectRow.findByPk(id)
  if (row === null || row.trashedAt !== null) throw notFound('project', id)
  return row
}

/** Projects not in the trash, the last changed first. */
export async function listProjects(): Promise<readonly ProjectCard[]> {
  const { models } = await useDatabase()
  const rows = await models.ProjectRow.findAll({ where: { trashedAt: null }, order: [['updatedAt', 'DESC'], ['id', 'ASC']], limit: 500 })
  return Promise.all(rows.map(cardOf))
}

async function cardOf(row: ProjectRow): Promise<ProjectCard> {
  const { models } = await useDatabase()
  const { outline, takeLengths } = await readOutline(models, row)
  return {
    project: projectOfRow(row),
    shotCount: Object.keys(outline.shots).length,
    lengthFrames: createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0).lengthFrames,
    updatedAt: row.updatedAt.toISOString(),
    trashedAt: row.trashedAt?.toISOString() ?? null,
  }
}

/** A film with one sequence, one shot, one panel, one empty level: ready to draw on. */
export function newFilm(settings: NewProject, newId: () => string): Film {
  const project: Project = { id: newId(), ...settings }
  const sequence = { id: newId(), order: 1, label: '01', title: '', targetFrames: null }
  const film: Film = { outline: newOutline(project, sequence), takes: {}, drawings: {} }
  const takeId = newId()
  const shot = addShot(film, project.id, sequence.id, null, { shot: newId(), take: takeId, panel: newId(), camera: newId() }, settings.defaultPanelFrames)
  if (!shot.ok) throw new Error(`newFilm: ${shot.refusal.code}`)
  const applied = applyChange(film, shot)
  if (!applied.ok) throw new Error(`newFilm: ${applied.refusal.code}`)
  const level = { id: newId(), order: 1, name: 'Level 1', kind: 'drawn' as const, x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
  const body = applied.value.takes[takeId] ?? EMPTY_TAKE
  return { ...applied.value, takes: { [takeId]: { ...body, levels: { [level.id]: level } } } }
}

export async function createProject(settings: NewProject): Promise<ProjectCard> {
  const { sequelize, models } = await useDatabase()
  const film = newFilm(settings, randomUUID)
  await sequelize.transaction((transaction) => insertFilm(models, film, transaction))
  return cardOf(await liveProject(Object.keys(film.outline.project)[0]!))
}

export async function openProject(id: string): Promise<OpenedProject> {
  const { models } = await useDatabase()
  // Read first: an entry that is in the outline already does no harm, one that is in neither would.
  const journalSeq = await lastSeq(models, id)
  const row = await liveProject(id)
  const { outline, takeLengths } = await readOutline(models, row)
  return { outline, outlineRevision: row.revision, journalSeq, takeLengths }
}

/** Puts a project in the trash. It can be brought back. */
export async function trashProject(id: string): Promise<void> {
  const row = await liveProject(id)
  await row.update({ trashedAt: new Date() }, { silent: true })
}

export async function restoreProject(id: string): Promise<ProjectCard> {
  const { models } = await useDatabase()
  const row = await models.ProjectRow.findByPk(id)
  if (row === null) throw notFound('project', id)
  await row.update({ trashedAt: null }, { silent: true })
  return cardOf(row)
}

/** The takes asked for, in no order; ids the project does not have are left out. */
export async function loadTakes(projectId: string, ids: readonly string[]): Promise<readonly LoadedTake[]> {
  const { models } = await useDatabase()
  await liveProject(projectId)
  const rows = await models.TakeRow.findAll({ where: { projectId, id: { [Op.in]: [...ids] } } })
  return rows.map((row) => {
    const opened = openTakeBody(row.body, row.format)
    if (!opened.ok) throw refuse(500, opened.code, `Take ${row.id} can't be read: ${opened.issues[0]?.message ?? `format ${opened.version}`}.`)
    return { id: row.id, revision: row.revision, body: opened.value }
  })
}

/** The drawings asked for, in no order; ids the project does not have are left out. */
export async function loadDrawings(projectId: string, ids: readonly string[]): Promise<readonly LoadedDrawing[]> {
  const { models } = await useDatabase()
  await liveProject(projectId)
  const rows = await models.DrawingRow.findAll({ where: { projectId, id: { [Op.in]: [...ids] } } })
  return rows.map((row) => {
    const opened = openDrawing(row.content, row.format)
    if (!opened.ok) throw refuse(500, opened.code, `Drawing ${row.id} can't be read: ${opened.issues[0]?.message ?? `format ${opened.version}`}.`)
    return { id: row.id, revision: row.revision, drawing: opened.value }
  })
}

/** What the first panel of the film needs to be drawn. */
export async function loadCover(projectId: string): Promise<ProjectCover> {
  const { models } = await useDatabase()
  const { outline, takeLengths } = await readOutline(models, await liveProject(projectId))
  const first = createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0).shots[0]
  if (first === undefined) return { take: null, drawings: [] }
  const [take] = await loadTakes(projectId, [first.shot.circledTakeId])
  if (take === undefined) return { take: null, drawings: [] }
  const shown = inOrder(take.body.levels).map((level) => shownCell(take.body, level, 0)?.drawingId)
  return { take, drawings: await loadDrawings(projectId, shown.filter((id) => id !== undefined)) }
}
