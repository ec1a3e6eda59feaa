import { randomUUID } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { drawingProblems, openDrawing, openTakeBody, outlineProblems, storedOutlineSchema, takeLengthFrames, takeProblems, FORMAT_VERSION, type Drawing, type Outline, type TakeBody } from '@rubato/core/document'
import yauzl from 'yauzl'
import type { z } from 'zod'
import { ARCHIVE_ENTRY, ARCHIVE_LIMITS, archiveManifestSchema, archiveVersionSchema, isNewer } from '#shared/archive'
import { ASSET_LIMITS } from '#shared/assets'
import type { ProjectCard } from '#shared/projects'
import { useDatabase } from '../models/database'
import { insertFilm } from './films'
import { storeAsset } from './assets'
import { projectCard } from './projects'
import { refuse } from './refusals'

const bad = (why: string) => refuse(422, 'bad-archive', `This file can't be taken in: ${why} Nothing was changed.`)

/** Takes a film in from its file, as a new project. All of it or nothing. */
export async function takeInArchive(source: Readable): Promise<ProjectCard> {
  const folder = join(tmpdir(), 'rubato-incoming')
  await mkdir(folder, { recursive: true })
  const path = join(folder, `${randomUUID()}.zip`)
  try {
    let received = 0
    const counted = new Transform({
      transform(chunk: Buffer, _, done) {
        received += chunk.length
        if (received > ARCHIVE_LIMITS.bytes) done(refuse(413, 'too-large', `The file is larger than ${ARCHIVE_LIMITS.bytes / 1024 ** 3} GB.`))
        else done(null, chunk)
      },
    })
    await pipeline(source, counted, createWriteStream(path)).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOSPC') throw refuse(507, 'disk-full', 'The disk is full, so the file could not be taken in. Free some space and try again.')
      if (error.code === 'ERR_STREAM_PREMATURE_CLOSE' || error.code === 'ECONNRESET') throw refuse(400, 'cut-short', 'The connection ended before the file was whole. Send it again.')
      throw error
    })
    return await readArchive(path)
  } finally {
    await rm(path, { force: true })
  }
}

/** The zip's entries by name; refuses names that are not of the format, so none can lead anywhere else. */
async function openZip(path: string) {
  const zip = await new Promise<yauzl.ZipFile>((resolve, reject) => {
    yauzl.open(path, { lazyEntries: true, autoClose: false, validateEntrySizes: true, strictFileNames: true }, (error, opened) => (error ? reject(bad('it is not a whole zip file.')) : resolve(opened!)))
  })
  const entries = new Map<string, yauzl.Entry>()
  let unpacked = 0
  await new Promise<void>((resolve, reject) => {
    zip.on('error', (error: Error) => reject(bad(`it is damaged or made to mislead (${error.message}).`)))
    zip.on('end', resolve)
    zip.on('entry', (entry: yauzl.Entry) => {
      const name = entry.fileName
      unpacked += entry.uncompressedSize
      const json = name.endsWith('.json')
      if (!ARCHIVE_ENTRY.test(name)) return reject(bad(`it holds “${name.slice(0, 80)}”, which does not belong into a film.`))
      if (entries.has(name)) return reject(bad(`it holds ${name} twice.`))
      if (entry.isEncrypted()) return reject(bad('it is encrypted.'))
      if (entries.size >= ARCHIVE_LIMITS.entries) return reject(bad(`it holds more than ${ARCHIVE_LIMITS.entries} files.`))
      if (json && entry.uncompressedSize > ARCHIVE_LIMITS.jsonBytes) return reject(bad(`${name} is larger than ${ARCHIVE_LIMITS.jsonBytes / 1024 ** 2} MB.`))
      const limit = name.startsWith('sounds/') ? ASSET_LIMITS.soundBytes : ASSET_LIMITS.pictureBytes
      if (!json && entry.uncompressedSize > limit) return reject(bad(`${name} is larger than ${limit / 1024 ** 2} MB.`))
      if (unpacked > ARCHIVE_LIMITS.unpackedBytes) return reject(bad(`it unpacks to more than ${ARCHIVE_LIMITS.unpackedBytes / 1024 ** 3} GB.`))
      entries.set(name, entry)
      zip.readEntry()
    })
    zip.readEntry()
  })
  const streamOf = (name: string) =>
    new Promise<Readable>((resolve, reject) => {
      const entry = entries.get(name)
      if (entry === undefined) return reject(bad(`${name} is missing.`))
      zip.openReadStream(entry, (error, stream) => (error ? reject(bad(`${name} can't be read (${error.message}).`)) : resolve(stream!)))
    })
  const json = async (name: string): Promise<unknown> => {
    const chunks: Buffer[] = []
    try {
      // The size that the entry claims is enforced as it is unpacked.
      for await (const chunk of await streamOf(name)) chunks.push(chunk as Buffer)
      return JSON.parse(Buffer.concat(chunks).toString('utf8'))
    } catch (error) {
      throw (error as { statusCode?: number }).statusCode === undefined ? bad(`${name} can't be read (${(error as Error).message}).`) : error
    }
  }
  return { names: [...entries.keys()], streamOf, json, close: () => zip.close() }
}

async function readArchive(path: string): Promise<ProjectCard> {
  const zip = await openZip(path)
  try {
    const checked = async <T>(name: string, schema: z.ZodType<T>): Promise<T> => {
      const parsed = schema.safeParse(await zip.json(name))
      if (parsed.success) return parsed.data
      const issue = parsed.error.issues[0]!
      throw bad(`${name}: ${issue.path.join('.')} ${issue.message}.`)
    }
    const manifest = await checked('rubato.json', archiveManifestSchema)
    if (isNewer(manifest.version, manifest.documentVersion)) throw bad('it was made by a newer Rubato. Update this one, then try again.')
    const outline = (await checked('outline.json', storedOutlineSchema)) as Outline
    const problem = outlineProblems(outline)[0]
    if (problem !== undefined) throw bad(`outline.json: ${problem.path.join('.')}: ${problem.code}.`)

    const idsIn = (folder: string) => zip.names.filter((name) => name.startsWith(`${folder}/`)).map((name) => ({ name, id: name.slice(folder.length + 1).replace(/\.\w+$/, '') }))
    const takes: Record<string, TakeBody> = {}
    for (const id of Object.keys(outline.takes)) takes[id] = openedTake(`takes/${id}.json`, await zip.json(`takes/${id}.json`), manifest.documentVersion)
    const drawings: Record<string, Drawing> = {}
    for (const { name, id } of idsIn('drawings')) drawings[id] = openedDrawing(name, await zip.json(name), manifest.documentVersion)

    const hashes: string[] = []
    for (const kind of ['picture', 'sound'] as const) {
      for (const { name, id } of idsIn(`${kind}s`)) {
        const kept = await storeAsset(await zip.streamOf(name), kind)
        if (kept.hash !== id.toLowerCase()) throw bad(`${name} is not what its name says.`)
        hashes.push(kept.hash)
      }
    }
    const versions: z.infer<typeof archiveVersionSchema>[] = []
    for (const { name } of idsIn('versions')) versions.push(await checked(name, archiveVersionSchema))

    const projectId = randomUUID()
    const project = Object.values(outline.project)[0]!
    const renamed = (each: Outline): Outline => ({ ...each, project: { [projectId]: { ...Object.values(each.project)[0]!, id: projectId } } })
    const { sequelize, models } = await useDatabase()
    await sequelize.transaction(async (transaction) => {
      const run = (sql: string, bind: readonly unknown[]) => sequelize.query(sql, { bind: [...bind], transaction })
      await insertFilm(models, { outline: renamed({ ...outline, project: { [project.id]: project } }), takes, drawings }, transaction)
      await run('INSERT INTO project_assets (project_id, hash) SELECT $1, unnest($2::text[])', [projectId, hashes])
      // A body goes by the hash that this database gives it, whatever the file calls it.
      const kept = new Map<string, string>()
      for (const { name, id } of idsIn('bodies')) {
        const body = (await zip.json(name)) as { format?: unknown; content?: unknown } | null
        const format = typeof body?.format === 'number' ? body.format : FORMAT_VERSION
        if (!openTakeBody(body?.content, format).ok && !openDrawing(body?.content, format).ok) throw bad(`${name} is neither a take nor a drawing.`)
        const [rows] = await sequelize.query(
          `WITH made AS (SELECT $1::jsonb AS content)
           INSERT INTO bodies (hash, content, format, bytes)
             SELECT encode(sha256(convert_to(content::text, 'UTF8')), 'hex'), content, $2, octet_length(content::text) FROM made
             ON CONFLICT (hash) DO UPDATE SET format = bodies.format RETURNING hash`,
          { bind: [JSON.stringify(body!.content), format], transaction },
        )
        kept.set(id, (rows as { hash: string }[])[0]!.hash)
      }
      for (const version of versions) {
        const id = randomUUID()
        await run(
          `INSERT INTO versions (project_id, id, name, reason, author, outline, outline_revision, shot_count, length_frames, created_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
          [projectId, id, version.name, version.reason, version.author, JSON.stringify(renamed(version.outline as Outline)), version.outlineRevision, version.shotCount, version.lengthFrames, version.createdAt],
        )
        const units = version.units.map((unit) => ({ ...unit, hash: kept.get(unit.hash) }))
        const missing = units.find((unit) => unit.hash === undefined)
        if (missing !== undefined) throw bad(`the version “${version.name}” misses ${missing.kind} ${missing.id}.`)
        await run(
          `INSERT INTO version_units (project_id, version_id, kind, unit_id, revision, length_frames, body_hash)
             SELECT $1, $2, u.kind, u.id, -1, u."lengthFrames", u.hash FROM jsonb_to_recordset($3::jsonb) AS u(kind text, id text, "lengthFrames" integer, hash text)`,
          [projectId, id, JSON.stringify(units)],
        )
      }
    })
    return await projectCard(projectId)
  } finally {
    zip.close()
  }
}

function openedTake(name: string, json: unknown, format: number): TakeBody {
  const opened = openTakeBody(json, format)
  if (!opened.ok) throw bad(`${name}: ${opened.issues[0]?.message ?? 'it is of a newer format'}.`)
  const problem = takeProblems(opened.value)[0]
  if (problem !== undefined) throw bad(`${name}: ${problem.path.join('.')}: ${problem.code}.`)
  if (!Number.isSafeInteger(takeLengthFrames(opened.value))) throw bad(`${name} has no length.`)
  return opened.value
}

function openedDrawing(name: string, json: unknown, format: number): Drawing {
  const opened = openDrawing(json, format)
  if (!opened.ok) throw bad(`${name}: ${opened.issues[0]?.message ?? 'it is of a newer format'}.`)
  const problem = drawingProblems(opened.value)[0]
  if (problem !== undefined) throw bad(`${name}: ${problem.path.join('.')}: ${problem.code}.`)
  return opened.value
}
