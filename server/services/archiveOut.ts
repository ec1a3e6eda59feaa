import { Readable } from 'node:stream'
import { EMPTY_DRAWING, FORMAT_VERSION, SET_SHOWN } from '@rubato/core/document'
import { QueryTypes, Transaction, type TransactionOptions } from 'sequelize'
import yazl from 'yazl'
import { ARCHIVE_VERSION, archiveFolder } from '#shared/archive'
import { useDatabase } from '../models/database'
import { useBlobs } from '../storage/blobs'
import type { ProjectRow } from '../models/models'
import { readOutline } from './outlineRows'
import { liveProject, loadUnits } from './projects'
import { refuse } from './refusals'
import { liveRows, unitTables } from './unitTables'

const EXTENSIONS: Readonly<Record<string, string>> = { 'image/png': 'png', 'image/jpeg': 'jpg', 'image/webp': 'webp', 'image/svg+xml': 'svg', 'audio/wav': 'wav', 'audio/flac': 'flac', 'audio/ogg': 'ogg', 'audio/mpeg': 'mp3' }

/** Each holds a connection for as long as its reader takes. */
const MOST_AT_ONCE = 3
const RETRY_SECONDS = 20
let writing = 0

/**
 * A film as one file: JSON and pictures in a zip. Bodies are read one at a time as the zip is written, so a long film
 * needs no more memory than a short one. All of it is of the present format, whatever format the rows are of.
 */
export async function archiveProject(projectId: string): Promise<{ readonly title: string; readonly stream: Readable }> {
  const { sequelize } = await useDatabase()
  const project = await liveProject(projectId)
  if (writing >= MOST_AT_ONCE) throw refuse(503, 'busy', `${MOST_AT_ONCE} films are being saved as files already. Try again in ${RETRY_SECONDS} seconds.`, { retryAfter: RETRY_SECONDS })
  writing++
  // All of it as it was at one moment, whatever is drawn while it is written.
  const transaction = await sequelize.transaction({ isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ, readOnly: true } as TransactionOptions).catch((error: unknown) => {
    writing--
    throw error
  })
  let ended = false
  const end = () => {
    if (ended) return
    ended = true
    writing--
    void transaction.rollback().catch(() => undefined)
  }
  try {
    return await writeArchive(projectId, project, transaction, end)
  } catch (error) {
    end()
    throw error
  }
}

async function writeArchive(projectId: string, project: ProjectRow, transaction: Transaction, end: () => void): Promise<{ readonly title: string; readonly stream: Readable }> {
  const { sequelize, models } = await useDatabase()
  const ask = <T extends object>(sql: string, ...more: readonly unknown[]) => sequelize.query<T>(sql, { bind: [projectId, ...more], type: QueryTypes.SELECT, transaction })
  const assets = await ask<{ hash: string; type: string; kind: string }>('SELECT a.hash, a.type, a.kind FROM assets a JOIN project_assets p ON p.hash = a.hash WHERE p.project_id = $1 ORDER BY a.hash')
  for (const { hash, kind } of assets) {
    const there = await useBlobs().has(hash)
    if (!there) throw refuse(409, 'missing-file', `The film can’t be saved whole: the ${kind} ${hash.slice(0, 12)}… is missing from the server’s storage. Put it back from a backup, or take out the level or clip that shows it and delete the versions that have it.`, { hash, kind })
  }
  const zip = new yazl.ZipFile()
  const addJson = (path: string, value: unknown) => zip.addBuffer(Buffer.from(JSON.stringify(value)), path)
  const addLazily = (path: string, load: () => Promise<Readable>, compress = true) =>
    zip.addReadStreamLazy(path, { compress }, (give) => load().then((stream) => give(null, stream), (error: Error) => give(error, Readable.from([]))))
  const text = (load: () => Promise<unknown>) => async () => Readable.from([JSON.stringify((await load()) ?? null)], { objectMode: false })
  const one = (sql: string, ...more: readonly unknown[]) => text(async () => (await ask<{ content: unknown }>(sql, ...more))[0]?.content)

  addJson('rubato.json', { format: 'rubato', version: ARCHIVE_VERSION, documentVersion: FORMAT_VERSION, title: project.title, madeAt: new Date().toISOString() })
  addJson('outline.json', (await readOutline(models, project, transaction)).outline)
  for (const [kind, table] of unitTables()) {
    for (const { id } of await ask<{ id: string }>(`SELECT id FROM ${table.table} WHERE project_id = $1 AND ${liveRows(table)} ORDER BY id`)) {
      addLazily(`${archiveFolder(kind)}/${id}.json`, text(async () => (await loadUnits(kind, projectId, [id], transaction))[0]?.unit))
    }
  }
  // One that nobody has drawn in yet has no row; the file says that it is empty, not missing.
  const undrawn = await ask<{ id: string }>(
    `SELECT DISTINCT n.id FROM (
       SELECT c.value->>'drawingId' AS id FROM takes t, LATERAL (SELECT * FROM jsonb_each(t.body->'cells') UNION ALL SELECT * FROM jsonb_each(coalesce(t.body->'grounds', '{}'))) AS c WHERE t.project_id = $1 AND t.removed_at IS NULL
       UNION ALL SELECT c.value->>'drawingId' FROM sets s, jsonb_each(s.content->'art') AS c WHERE s.project_id = $1
     ) n WHERE n.id IS NOT NULL AND n.id <> '${SET_SHOWN}' AND NOT EXISTS (SELECT 1 FROM drawings d WHERE d.project_id = $1 AND d.id = n.id)`,
  )
  for (const { id } of undrawn) addJson(`drawings/${id}.json`, EMPTY_DRAWING)
  const versions = await ask<{ id: string }>('SELECT id FROM versions WHERE project_id = $1 ORDER BY created_at')
  for (const [i, { id }] of versions.entries()) addLazily(`versions/${String(i + 1).padStart(4, '0')}.json`, one(VERSION_SQL, id))
  for (const { hash } of await ask<{ hash: string }>('SELECT DISTINCT body_hash AS hash FROM version_units WHERE project_id = $1')) {
    addLazily(`bodies/${hash}.json`, one(`SELECT jsonb_build_object('format', format, 'content', content) AS content FROM bodies WHERE $1 <> '' AND hash = $2`, hash))
  }
  for (const { hash, type, kind } of assets) {
    addLazily(
      `${kind}s/${hash}.${EXTENSIONS[type]}`,
      async () => {
        const blob = await useBlobs().read(hash)
        if (blob === null) throw new Error(`the ${kind} ${hash} is missing from the storage`)
        return blob.stream
      },
      false,
    )
  }
  zip.end()
  const stream = zip.outputStream as Readable
  zip.on('error', (error: Error) => stream.destroy(error))
  stream.once('close', end)
  stream.once('end', end)
  return { title: project.title, stream }
}

const VERSION_SQL = `
  SELECT jsonb_build_object('name', v.name, 'reason', v.reason, 'author', v.author, 'createdAt', to_char(v.created_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"'),
           'outline', v.outline, 'outlineRevision', v.outline_revision, 'shotCount', v.shot_count, 'lengthFrames', v.length_frames,
           'units', (SELECT coalesce(jsonb_agg(jsonb_build_object('kind', u.kind, 'id', u.unit_id, 'revision', greatest(u.revision, 0), 'lengthFrames', u.length_frames, 'hash', u.body_hash)), '[]')
                     FROM version_units u WHERE u.project_id = v.project_id AND u.version_id = v.id)) AS content
  FROM versions v WHERE v.project_id = $1 AND v.id = $2`
