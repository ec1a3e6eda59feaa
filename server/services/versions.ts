import { randomUUID } from 'node:crypto'
import { drawingRef, EMPTY_DRAWING, EMPTY_TAKE, outlineRef, setDrawings, shorten, storedOutlineSchema, takeRef, UNIT_KINDS, type BodyKind, type Outline, type SetBody, type Unit } from '@rubato/core/document'
import { differencesOf, diffUnits, type Change, type Edit } from '@rubato/core/edits'
import { createFilmStage } from '@rubato/core/stage'
import { QueryTypes, type Transaction } from 'sequelize'
import type { OpenedProject, ProjectCover } from '#shared/projects'
import type { Compared, Version } from '#shared/versions'
import { useDatabase } from '../models/database'
import type { ProjectRow } from '../models/models'
import { breathe } from './breathe'
import { applyInTransaction, lockProject } from './editBatches'
import { coverOf } from './cover'
import { opened } from './opened'
import { readOutline } from './outlineRows'
import { liveProject } from './projects'
import { notFound, refuse } from './refusals'
import { inFilmTurn } from './turns'
import { liveRows, UNIT_TABLES, unitTables } from './unitTables'
import type { StoredUnit } from './unitText'

const MOST_VERSIONS = 500
/** Those made by themselves before a step; the oldest gives way. */
const MOST_BEFORE = 60
/** Those that something was handed over of. */
const MOST_OUT = 30
/** What is still being made needs the film that it is made of. */
const NOT_BEING_MADE = "id NOT IN (SELECT version_id FROM renders WHERE project_id = $1 AND state = 'running')"
const TAKES_AT_ONCE = 16
/** Kinds that are brought back take by take. */
const WITH_TAKES: ReadonlySet<BodyKind> = new Set(['take', 'drawing'])

async function rows<T extends object>(sql: string, bind: readonly unknown[], transaction?: Transaction): Promise<T[]> {
  const { sequelize } = await useDatabase()
  return sequelize.query<T>(sql, { bind: [...bind], type: QueryTypes.SELECT, transaction: transaction ?? null })
}

async function run(sql: string, bind: readonly unknown[], transaction: Transaction): Promise<void> {
  const { sequelize } = await useDatabase()
  await sequelize.query(sql, { bind: [...bind], transaction })
}

/** Keeps the film as it is under a name. A body that an older version has is not kept again. */
export async function makeVersion(projectId: string, name: string, author: string, reason: Version['reason'] = 'hand'): Promise<string> {
  const { sequelize } = await useDatabase()
  return inFilmTurn(projectId, () => sequelize.transaction(async (transaction) => keepVersion(await lockProject(projectId, transaction), name, author, reason, transaction)))
}

/** A version of the film as it stands, for whoever holds its lock; those kept `before` a step make room for one another. */
export async function keepVersion(project: ProjectRow, name: string, author: string, reason: Version['reason'], transaction: Transaction): Promise<string> {
  const { models } = await useDatabase()
  const [{ count }] = (await rows<{ count: number }>('SELECT count(*)::int AS count FROM versions WHERE project_id = $1', [project.id], transaction)) as [{ count: number }]
  if (count >= MOST_VERSIONS) throw refuse(422, 'too-many-versions', `The film has ${count} versions, which is the most there can be. Delete some that are no longer needed.`)
  if (reason === 'before') {
    await run(
      `DELETE FROM versions WHERE project_id = $1 AND id IN (SELECT id FROM versions WHERE project_id = $1 AND reason = 'before' AND ${NOT_BEING_MADE} ORDER BY created_at DESC OFFSET $2)`,
      [project.id, MOST_BEFORE - 1],
      transaction,
    )
  }
  if (reason === 'out') {
    await run(
      `DELETE FROM versions WHERE project_id = $1 AND id IN (
         SELECT id FROM versions WHERE project_id = $1 AND reason = 'out' AND ${NOT_BEING_MADE} ORDER BY created_at DESC OFFSET $2)`,
      [project.id, MOST_OUT - 1],
      transaction,
    )
  }
  const id = randomUUID()
  const { outline, takeLengths } = await readOutline(models, project, transaction)
  const film = createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0)
  await run(
    `INSERT INTO versions (project_id, id, name, reason, author, outline, outline_revision, shot_count, length_frames, created_at)
     VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, clock_timestamp())`,
    [project.id, id, name, reason, author, JSON.stringify(outline), project.revision, film.shots.length, film.lengthFrames],
    transaction,
  )
  // Only what has a revision that no version has yet is hashed and, where it is new, kept.
  await run(
    `CREATE TEMPORARY TABLE keeping ON COMMIT DROP AS
       WITH units AS (
         ${unitTables().map(([kind, table]) => `SELECT '${kind}' AS kind, id AS unit_id, revision, ${table.byOutline ? 'length_frames' : '0 AS length_frames'}, format, ${table.content} AS content FROM ${table.table} WHERE project_id = $1 AND ${liveRows(table)}`).join('\n         UNION ALL ')}
       )
       SELECT u.kind, u.unit_id, u.revision, u.length_frames, u.format,
              CASE WHEN known.body_hash IS NULL THEN u.content END AS content,
              coalesce(known.body_hash, encode(sha256(convert_to(u.content::text, 'UTF8')), 'hex')) AS body_hash
       FROM units u LEFT JOIN LATERAL (
         SELECT body_hash FROM version_units v WHERE v.project_id = $1 AND v.kind = u.kind AND v.unit_id = u.unit_id AND v.revision = u.revision LIMIT 1
       ) known ON true`,
    [project.id],
    transaction,
  )
  await run(
    `INSERT INTO bodies (hash, content, format, bytes)
       SELECT DISTINCT ON (body_hash) body_hash, content, format, octet_length(content::text) FROM keeping WHERE content IS NOT NULL
       ON CONFLICT DO NOTHING`,
    [],
    transaction,
  )
  await run(
    `INSERT INTO version_units (project_id, version_id, kind, unit_id, revision, length_frames, body_hash)
       SELECT $1, $2, kind, unit_id, revision, length_frames, body_hash FROM keeping`,
    [project.id, id],
    transaction,
  )
  return id
}

/** Newest first. */
export async function listVersions(projectId: string): Promise<readonly Version[]> {
  await liveProject(projectId)
  const found = await rows<Omit<Version, 'createdAt'> & { createdAt: Date }>(
    `SELECT v.id, v.name, v.reason, v.author, v.created_at AS "createdAt", v.shot_count AS "shotCount", v.length_frames AS "lengthFrames",
            coalesce(sum(b.bytes), 0)::float8 AS bytes, coalesce(sum(b.bytes) FILTER (WHERE b.first), 0)::float8 AS "ownBytes"
     FROM versions v LEFT JOIN (
       SELECT u.version_id, b.hash, min(b.bytes) AS bytes,
              NOT EXISTS (SELECT 1 FROM version_units o JOIN versions ov ON ov.project_id = o.project_id AND ov.id = o.version_id
                          WHERE o.project_id = $1 AND o.body_hash = b.hash AND ov.created_at < min(uv.created_at)) AS first
       FROM version_units u JOIN bodies b ON b.hash = u.body_hash JOIN versions uv ON uv.project_id = u.project_id AND uv.id = u.version_id
       WHERE u.project_id = $1 GROUP BY u.version_id, b.hash
     ) b ON b.version_id = v.id
     WHERE v.project_id = $1 GROUP BY v.project_id, v.id ORDER BY v.created_at DESC`,
    [projectId],
  )
  return found.map((row) => ({ ...row, createdAt: row.createdAt.toISOString() }))
}

async function outlineOf(projectId: string, versionId: string, transaction?: Transaction): Promise<{ name: string; outline: Outline; revision: number }> {
  const [row] = await rows<{ name: string; outline: unknown; revision: number }>('SELECT name, outline, outline_revision AS revision FROM versions WHERE project_id = $1 AND id = $2', [projectId, versionId], transaction)
  if (row === undefined) throw notFound('version', versionId)
  return { ...row, outline: storedOutlineSchema.parse(row.outline) }
}

/** A version as an editor opens it, to look at. */
export async function openVersion(projectId: string, versionId: string): Promise<OpenedProject & { readonly name: string }> {
  await liveProject(projectId)
  const { name, outline, revision } = await outlineOf(projectId, versionId)
  const takes = await rows<{ id: string; frames: number; panels: number }>(
    `SELECT u.unit_id AS id, u.length_frames AS frames, jsonb_array_length(jsonb_path_query_array(b.content, '$.panels.*')) AS panels
     FROM version_units u JOIN bodies b ON b.hash = u.body_hash WHERE u.project_id = $1 AND u.version_id = $2 AND u.kind = 'take'`,
    [projectId, versionId],
  )
  const of = (what: 'frames' | 'panels') => Object.fromEntries(takes.map((take) => [take.id, take[what]]))
  return { name, outline, outlineRevision: revision, journalSeq: 0, takeLengths: of('frames'), takePanels: of('panels') }
}

interface UnitRow {
  readonly id: string
  readonly revision: number
  readonly format: number
  readonly content: unknown
}

function unitRows(projectId: string, versionId: string, kind: BodyKind, ids: readonly string[] | null, transaction?: Transaction): Promise<UnitRow[]> {
  return rows<UnitRow>(
    `SELECT u.unit_id AS id, u.revision, b.format, b.content FROM version_units u JOIN bodies b ON b.hash = u.body_hash
     WHERE u.project_id = $1 AND u.version_id = $2 AND u.kind = $3 AND ($4::text[] IS NULL OR u.unit_id = ANY($4))`,
    [projectId, versionId, kind, ids === null ? null : [...ids]],
    transaction,
  )
}

/** As they are stored: JSON. */
export function storedVersionUnits(kind: BodyKind, projectId: string, versionId: string, ids: readonly string[]): Promise<StoredUnit[]> {
  return rows<StoredUnit>(
    `SELECT u.unit_id AS id, u.revision, b.format, b.content::text AS content FROM version_units u JOIN bodies b ON b.hash = u.body_hash
     WHERE u.project_id = $1 AND u.version_id = $2 AND u.kind = $3 AND u.unit_id = ANY($4)`,
    [projectId, versionId, kind, [...ids]],
  )
}

/** One after the other, letting others in between. */
async function inTurn<T, R>(list: readonly T[], make: (each: T) => R): Promise<R[]> {
  const made: R[] = []
  for (const each of list) {
    made.push(make(each))
    await breathe()
  }
  return made
}

async function versionUnits(kind: BodyKind, projectId: string, versionId: string, ids: readonly string[], transaction?: Transaction) {
  return inTurn(await unitRows(projectId, versionId, kind, ids, transaction), ({ id, revision, format, content }) => ({ id, revision, unit: opened(kind, id, content, format) }))
}

/** The film's own as they are; one that can't be read counts as empty. */
async function liveUnits(kind: BodyKind, projectId: string, ids: readonly string[], transaction: Transaction): Promise<ReadonlyMap<string, Unit>> {
  const { table, content } = UNIT_TABLES[kind]
  const found = await rows<UnitRow>(`SELECT id, revision, format, ${content} AS content FROM ${table} WHERE project_id = $1 AND id = ANY($2)`, [projectId, [...ids]], transaction)
  return new Map(await inTurn(found, ({ id, format, content: stored }) => [id, withoutFail(kind, stored, format)] as const))
}

function withoutFail(kind: BodyKind, stored: unknown, format: number): Unit {
  const read = UNIT_KINDS[kind].open!(stored, format)
  return read.ok ? read.value : UNIT_KINDS[kind].empty
}

export async function versionCover(projectId: string, versionId: string): Promise<ProjectCover> {
  const { outline, takeLengths } = await openVersion(projectId, versionId)
  const first = createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0).shots[0]
  return coverOf(first?.shot.circledTakeId, (kind, ids) => versionUnits(kind, projectId, versionId, ids))
}

export async function deleteVersion(projectId: string, versionId: string): Promise<void> {
  const { sequelize } = await useDatabase()
  await liveProject(projectId)
  await outlineOf(projectId, versionId)
  const [needed] = await rows<{ about: string }>("SELECT about FROM renders WHERE project_id = $1 AND version_id = $2 AND state = 'running' LIMIT 1", [projectId, versionId])
  if (needed !== undefined) throw refuse(409, 'in-use', `The server is still making something of this version (${needed.about}). Wait for it, or cancel it in Hand over, then delete the version.`)
  await sequelize.transaction(async (transaction) => {
    await run('DELETE FROM versions WHERE project_id = $1 AND id = $2', [projectId, versionId], transaction)
    await run('DELETE FROM bodies b WHERE NOT EXISTS (SELECT 1 FROM version_units u WHERE u.body_hash = b.hash)', [], transaction)
  })
}

/** The edits of the outline, or of a take with its drawings. */
interface Part {
  readonly takeId: string | null
  readonly edits: readonly Edit[]
}

/** The edits that make the film as it is now into what it was, outline first, then each take with its drawings. */
async function editsTo(project: ProjectRow, versionId: string, shotIds: readonly string[] | null, transaction: Transaction): Promise<{ readonly name: string; readonly now: Outline; readonly then: Outline; readonly parts: readonly Part[] }> {
  const { models } = await useDatabase()
  const { name, outline: then } = await outlineOf(project.id, versionId, transaction)
  const { outline: now } = await readOutline(models, project, transaction)
  const wanted = shotIds === null ? null : new Set(shotIds)
  const ofShot = (shotId: string | undefined) => wanted === null || (shotId !== undefined && wanted.has(shotId))
  const missing = shotIds?.find((id) => then.shots[id] === undefined)
  if (missing !== undefined) throw notFound('shot', missing)
  const sequences = new Set([...(wanted ?? [])].map((id) => then.shots[id]?.sequenceId))
  const only = (collection: string, id: string) => {
    if (wanted === null) return true
    if (collection === 'shots') return wanted.has(id)
    if (collection === 'takes') return ofShot((then.takes[id] ?? now.takes[id])?.shotId)
    if (collection === 'rulerMarks') return ofShot((then.rulerMarks[id] ?? now.rulerMarks[id])?.shotId)
    if (collection === 'clips') {
      const clip = then.clips[id] ?? now.clips[id]
      return clip !== undefined && now.lanes[clip.laneId] !== undefined && clip.shotId !== null && ofShot(clip.shotId)
    }
    if (collection === 'transitions') return wanted.has(id) && (then.transitions[id] ?? now.transitions[id])?.at === 'cut'
    if (collection === 'links') {
      const link = then.links[id] ?? now.links[id]
      return link !== undefined && now.passages[link.passageId] !== undefined && ofShot((then.takes[link.takeId] ?? now.takes[link.takeId])?.shotId)
    }
    if (collection === 'sets') return setsOfShots.has(id) && now.sets[id] === undefined
    return collection === 'sequences' && sequences.has(id) && now.sequences[id] === undefined
  }
  const takeIds = Object.values(then.takes).filter((take) => ofShot(take.shotId)).map((take) => take.id)
  // A shot comes back with the name of what it stands in; the set is what it is now.
  const setsOfShots =
    wanted === null
      ? new Set<string>()
      : new Set(
          (
            await rows<{ id: string }>(
              `SELECT DISTINCT s.id #>> '{}' AS id FROM version_units u JOIN bodies b ON b.hash = u.body_hash, jsonb_path_query(b.content, '$.levels.*.setId') AS s(id)
               WHERE u.project_id = $1 AND u.version_id = $2 AND u.kind = 'take' AND u.unit_id = ANY($3)`,
              [project.id, versionId, takeIds],
              transaction,
            )
          ).map(({ id }) => id),
        )
  const parts: Part[] = []
  const outlineEdit = diffUnits(outlineRef(project.id), now, then, 'version', only)
  if (outlineEdit !== null) parts.push({ takeId: null, edits: [outlineEdit] })
  // A body of the revision the version has needs no reading: it is the same. One taken in from a file has none.
  const changedSince = async (kind: BodyKind) =>
    new Set(
      (
        await rows<{ id: string }>(
          `SELECT u.unit_id AS id FROM version_units u LEFT JOIN ${UNIT_TABLES[kind].table} l ON l.project_id = u.project_id AND l.id = u.unit_id
           WHERE u.project_id = $1 AND u.version_id = $2 AND u.kind = $3 AND l.revision IS DISTINCT FROM u.revision`,
          [project.id, versionId, kind],
          transaction,
        )
      ).map(({ id }) => id),
    )
  const [changedTakes, changedDrawings] = [await changedSince('take'), await changedSince('drawing')]
  const shows = new Map(
    (
      await rows<{ id: string; drawings: string[] | null }>(
        `SELECT u.unit_id AS id, (SELECT array_agg(DISTINCT cell.value->>'drawingId') FROM (SELECT * FROM jsonb_each(b.content->'cells') UNION ALL SELECT * FROM jsonb_each(coalesce(b.content->'grounds', '{}'))) cell WHERE cell.value->>'drawingId' IS NOT NULL) AS drawings
         FROM version_units u JOIN bodies b ON b.hash = u.body_hash WHERE u.project_id = $1 AND u.version_id = $2 AND u.kind = 'take'`,
        [project.id, versionId],
        transaction,
      )
    ).map(({ id, drawings }) => [id, drawings ?? []]),
  )
  const touched = takeIds.filter((id) => changedTakes.has(id) || (shows.get(id)?.some((drawing) => changedDrawings.has(drawing)) ?? false))
  // Some at a time: not a question for each, and not all of a long film in memory at once.
  for (let at = 0; at < touched.length; at += TAKES_AT_ONCE) {
    const some = touched.slice(at, at + TAKES_AT_ONCE)
    const olds = new Map((await versionUnits('take', project.id, versionId, some, transaction)).map((each) => [each.id, each.unit]))
    const lives = await liveUnits('take', project.id, some, transaction)
    const drawingIds = [...new Set(some.flatMap((id) => (shows.get(id) ?? []).filter((drawing) => changedDrawings.has(drawing))))]
    const oldDrawings = new Map((await versionUnits('drawing', project.id, versionId, drawingIds, transaction)).map((each) => [each.id, each.unit]))
    const liveDrawings = await liveUnits('drawing', project.id, drawingIds, transaction)
    for (const takeId of some) {
      await breathe()
      const old = olds.get(takeId)
      if (old === undefined) continue
      const edits: Edit[] = []
      const takeEdit = diffUnits(takeRef(takeId), lives.get(takeId) ?? EMPTY_TAKE, old, 'version')
      if (takeEdit !== null) edits.push(takeEdit)
      for (const id of (shows.get(takeId) ?? []).filter((drawing) => changedDrawings.has(drawing))) {
        const edit = diffUnits(drawingRef(id), liveDrawings.get(id) ?? EMPTY_DRAWING, oldDrawings.get(id) ?? EMPTY_DRAWING, 'version')
        if (edit !== null) edits.push(edit)
      }
      if (edits.length > 0) parts.push({ takeId, edits })
    }
  }
  // What no take shows stands by itself, and comes back with the whole film.
  for (const [kind] of shotIds === null ? unitTables() : []) {
    if (WITH_TAKES.has(kind)) continue
    const ids = [...(await changedSince(kind))]
    const lives = await liveUnits(kind, project.id, ids, transaction)
    for (const { id, unit } of await versionUnits(kind, project.id, versionId, ids, transaction)) {
      const edit = diffUnits({ kind, id }, lives.get(id) ?? UNIT_KINDS[kind].empty, unit, 'version')
      if (edit !== null) parts.push({ takeId: null, edits: [edit] })
    }
  }
  if (shotIds === null) {
    // What sets show is shown by no take.
    const withTakes = new Set(touched.flatMap((id) => shows.get(id) ?? []))
    const inSets = new Set((await unitRows(project.id, versionId, 'set', null, transaction)).flatMap(({ format, content }) => setDrawings(withoutFail('set', content, format) as SetBody)))
    const ids = [...inSets].filter((id) => changedDrawings.has(id) && !withTakes.has(id))
    const lives = await liveUnits('drawing', project.id, ids, transaction)
    for (const { id, unit } of await versionUnits('drawing', project.id, versionId, ids, transaction)) {
      const edit = diffUnits(drawingRef(id), lives.get(id) ?? EMPTY_DRAWING, unit, 'version')
      if (edit !== null) parts.push({ takeId: null, edits: [edit] })
    }
  }
  return { name, now, then, parts }
}

/** What was done to the film since the version, shot by shot: `added` is what the film has and the version has not. */
export async function compareVersion(projectId: string, versionId: string): Promise<readonly Compared[]> {
  const { sequelize } = await useDatabase()
  return sequelize.transaction(async (transaction) => {
    const { models } = await useDatabase()
    const project = await models.ProjectRow.findByPk(projectId, { transaction })
    if (project === null || project.trashedAt !== null) throw notFound('project', projectId)
    const { now, then, parts } = await editsTo(project, versionId, null, transaction)
    const turned = { added: 'removed', removed: 'added', changed: 'changed' } as const
    return parts.map(({ takeId, edits }): Compared => {
      const shotId = takeId === null ? null : ((then.takes[takeId] ?? now.takes[takeId])?.shotId ?? null)
      return {
        shotId,
        shotLabel: shotId === null ? null : ((now.shots[shotId] ?? then.shots[shotId])?.label ?? null),
        differences: edits.flatMap(differencesOf).map((each) => ({ ...each, how: turned[each.how] })),
      }
    })
  })
}

/** Brings a version back, or some of its shots, as changes of the film like any other. The film before is kept as a version. */
export async function bringBack(projectId: string, versionId: string, shotIds: readonly string[] | null, author: string): Promise<{ readonly keptAs: string; readonly changes: number }> {
  const { sequelize } = await useDatabase()
  return inFilmTurn(projectId, () => sequelize.transaction(async (transaction) => {
    const project = await lockProject(projectId, transaction)
    const { name, parts } = await editsTo(project, versionId, shotIds, transaction)
    const keptAs = await keepVersion(project, `Before “${name}” was brought back`, author, 'before', transaction)
    const changes = parts.map(({ edits }): Change => ({ id: randomUUID(), label: shorten(`bringing back “${name}”`, 200), edits }))
    if (changes.length > 0) await applyInTransaction(project, { changes, base: null, author }, transaction)
    return { keptAs, changes: changes.length }
  }))
}
