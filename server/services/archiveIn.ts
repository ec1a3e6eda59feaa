import { randomUUID } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { FORMAT_VERSION, outlineProblems, storedOutlineSchema, TAKE_FRAMES_MAX, type BodyKind, type Outline } from '@rubato/core/document'
import yauzl from 'yauzl'
import type { z } from 'zod'
import { isArchiveEntry, archiveFolder, ARCHIVE_LIMITS, archiveManifestSchema, archiveVersionSchema, isNewer } from '#shared/archive'
import { ASSET_LIMITS } from '#shared/assets'
import type { ProjectCard } from '#shared/projects'
import { useDatabase } from '../models/database'
import { runJob } from '../jobs/jobs'
import { readUnit, type FoundUnit } from '../jobs/units'
import { lockAssets, storeAsset } from './assets'
import { breathe } from './breathe'
import { databaseCode } from './databaseTrouble'
import { insertOutline } from './films'
import { cannotBeKept, storageFull } from '../storage/full'
import { stagedName, sweepStaging } from '../storage/staging'
import { projectCard } from './projects'
import { refuse } from './refusals'
import { UNIT_TABLES, unitTables, type UnitTable } from './unitTables'
import { makeFolder } from '../storage/makeFolder'

const bad = (why: string) => refuse(422, 'bad-archive', `This file can't be taken in: ${why} Nothing was changed.`)

const incoming = () => join(tmpdir(), 'rubato-incoming')

/** Archives that servers which were killed were being sent. */
export const sweepArchives = async () => (await sweepStaging(incoming(), 'zip')) + (await sweepStaging(incoming(), 'json'))

/** Takes a film in from its file, as a new project. All of it or nothing. */
export async function takeInArchive(source: Readable, { incomplete = false }: { readonly incomplete?: boolean } = {}): Promise<ProjectCard> {
  const folder = incoming()
  await makeFolder(folder)
  const path = join(folder, stagedName('zip'))
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
      if (cannotBeKept(error)) throw storageFull(error)
      if (error.code === 'ERR_STREAM_PREMATURE_CLOSE' || error.code === 'ECONNRESET') throw refuse(400, 'cut-short', 'The connection ended before the file was whole. Send it again.')
      throw error
    })
    return await readArchive(path, incomplete)
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
      if (!isArchiveEntry(name)) return reject(bad(`it holds “${name.slice(0, 80)}”, which does not belong into a film.`))
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
  /** The size that the entry claims is enforced as it is unpacked. */
  const reading = async <T>(name: string, work: (stream: Readable) => Promise<T>): Promise<T> => {
    const stream = await streamOf(name)
    return work(stream).catch((error: { statusCode?: number; message: string }) => {
      throw error.statusCode === undefined && databaseCode(error) === null ? bad(`${name} can't be read (${error.message}).`) : (error as Error)
    })
  }
  const text = (name: string) =>
    reading(name, async (stream) => {
      const chunks: Buffer[] = []
      for await (const chunk of stream) chunks.push(chunk as Buffer)
      return Buffer.concat(chunks).toString('utf8')
    })
  const json = async (name: string): Promise<unknown> => {
    const found = await text(name)
    try {
      return JSON.parse(found)
    } catch (error) {
      throw bad(`${name} can't be read (${(error as Error).message}).`)
    }
  }
  const asFile = async <T>(name: string, work: (path: string) => Promise<T>): Promise<T> => {
    const unpacked = join(incoming(), stagedName('json'))
    try {
      await reading(name, (stream) => pipeline(stream, createWriteStream(unpacked)))
      return await work(unpacked)
    } finally {
      await rm(unpacked, { force: true })
    }
  }
  return { names: [...entries.keys()], bytesOf: (name: string) => entries.get(name)?.uncompressedSize ?? 0, streamOf, text, json, asFile, close: () => zip.close() }
}

/** JSON that is larger is opened by a process of its own: it would hold everyone up here. */
const SMALL_BYTES = 64 * 1024
const UNIT_SECONDS = 60
/** Rows are written some at a time. */
const ROWS_BYTES = 4 * 1024 * 1024
const MOST_NAMED = 12

type Zip = Awaited<ReturnType<typeof openZip>>

async function unitIn(zip: Zip, name: string, wanted: BodyKind | 'any', format: number): Promise<FoundUnit> {
  const found = zip.bytesOf(name) <= SMALL_BYTES ? readUnit(await zip.text(name), wanted, format) : await zip.asFile(name, (path) => runJob<FoundUnit | string>({ kind: 'unit', path, wanted, format }, UNIT_SECONDS))
  await breathe()
  if (typeof found === 'string') throw bad(`${name}${/^can't|^is /.test(found) ? ' ' : ': '}${found}`)
  return found
}

/** What a film's file says is there and is not. Shown a few of each sort. */
function incompleteArchive(missing: readonly string[]) {
  const named = missing.slice(0, MOST_NAMED).join(', ')
  return refuse(422, 'incomplete-archive', `This film’s file misses ${missing.length === 1 ? 'something that it shows' : `${missing.length} things that it shows`}: ${named}${missing.length > MOST_NAMED ? ` and ${missing.length - MOST_NAMED} more` : ''}. What shows them stays empty. Nothing has been taken in yet.`, { missing: missing.slice(0, 1000) })
}

async function readArchive(path: string, incomplete: boolean): Promise<ProjectCard> {
  const zip = await openZip(path)
  try {
    const checked = async <T>(name: string, schema: z.ZodType<T>): Promise<T> => {
      const parsed = schema.safeParse(await zip.json(name))
      await breathe()
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
    const takes = new Map<string, FoundUnit>()
    for (const id of Object.keys(outline.takes)) {
      const take = await unitIn(zip, `takes/${id}.json`, 'take', manifest.documentVersion)
      if (take.lengthFrames > TAKE_FRAMES_MAX) throw bad(`takes/${id}.json lasts ${take.lengthFrames} frames; at most ${TAKE_FRAMES_MAX} are kept.`)
      takes.set(id, take)
    }
    const versions: z.infer<typeof archiveVersionSchema>[] = []
    for (const { name } of idsIn('versions')) {
      const version = await checked(name, archiveVersionSchema)
      const units = new Set(version.units.map((unit) => `${unit.kind} ${unit.id}`))
      if (units.size < version.units.length) throw bad(`${name} names a unit twice.`)
      versions.push(version)
    }

    const missing: string[] = []
    const hashes = new Set<string>()
    for (const kind of ['picture', 'sound'] as const) {
      for (const { name, id } of idsIn(`${kind}s`)) {
        if (hashes.has(id.toLowerCase())) throw bad(`it holds the ${kind} ${id.slice(0, 12)}… twice.`)
        const kept = await storeAsset(await zip.streamOf(name), kind, { asItIs: true })
        if (kept.hash !== id.toLowerCase()) {
          if (!incomplete) throw bad(`${name} is not what its name says.`)
          missing.push(name)
        } else hashes.add(kept.hash)
      }
    }
    for (const clip of Object.values(outline.clips)) if (!hashes.has(clip.assetHash)) missing.push(`the recording “${clip.name}”`)
    const drawn = new Set(idsIn('drawings').map(({ id }) => id))
    // Before version 2 drawings that nobody had drawn in yet were left out.
    if (manifest.version >= 2) for (const take of takes.values()) for (const id of take.drawings) if (!drawn.has(id)) missing.push(`the drawing ${id}`)

    const projectId = randomUUID()
    const project = Object.values(outline.project)[0]!
    const renamed = (each: Outline): Outline => ({ ...each, project: { [projectId]: { ...Object.values(each.project)[0]!, id: projectId } } })
    const { sequelize, models } = await useDatabase()
    await sequelize.transaction(async (transaction) => {
      const run = (sql: string, bind: readonly unknown[]) => sequelize.query(sql, { bind: [...bind], transaction })
      await insertOutline(models, renamed({ ...outline, project: { [project.id]: project } }), (id) => takes.get(id)!.lengthFrames, transaction)
      const putIn = async ({ table, content, byOutline }: UnitTable, units: readonly (readonly [id: string, text: string])[]) => {
        const [ids, texts] = [units.map(([id]) => id), units.map(([, text]) => text)]
        if (byOutline) await run(`UPDATE ${table} t SET ${content} = w.body::jsonb FROM unnest($2::text[], $3::text[]) AS w(id, body) WHERE t.project_id = $1 AND t.id = w.id`, [projectId, ids, texts])
        else await run(`INSERT INTO ${table} (project_id, id, ${content}, format, revision) SELECT $1, w.id, w.body::jsonb, $4, 1 FROM unnest($2::text[], $3::text[]) AS w(id, body)`, [projectId, ids, texts, FORMAT_VERSION])
      }
      await inPortions([...takes].map(([id, take]) => async () => [id, take.text] as const), (some) => putIn(UNIT_TABLES.take, some))
      for (const [kind, table] of unitTables()) {
        if (kind === 'take') continue
        await inPortions(
          idsIn(archiveFolder(kind)).map(({ name, id }) => async () => {
            const unit = await unitIn(zip, name, kind, manifest.documentVersion)
            for (const each of unit.drawings) if (!drawn.has(each)) missing.push(`the drawing ${each}`)
            for (const hash of unit.pictures) if (!hashes.has(hash)) missing.push(`the picture ${hash.slice(0, 12)}… of the ${kind} ${id}`)
            return [id, unit.text] as const
          }),
          (some) => putIn(table, some),
        )
      }
      // All of it is seen by now; with the artist's word for it what is missing stays so.
      if (missing.length > 0 && !incomplete) throw incompleteArchive(missing)
      if (hashes.size > 0) {
        await lockAssets([...hashes], 'shared', transaction)
        await run('INSERT INTO project_assets (project_id, hash) SELECT $1, unnest($2::text[])', [projectId, [...hashes]])
      }
      // A body goes by the hash that this database gives it, whatever the file calls it.
      const kept = new Map<string, string>()
      for (const { name, id } of idsIn('bodies')) {
        const body = await unitIn(zip, name, 'any', manifest.documentVersion)
        const [rows] = await sequelize.query(
          `WITH made AS (SELECT $1::jsonb AS content)
           INSERT INTO bodies (hash, content, format, bytes)
             SELECT encode(sha256(convert_to(content::text, 'UTF8')), 'hex'), content, $2, octet_length(content::text) FROM made
             ON CONFLICT (hash) DO UPDATE SET format = bodies.format RETURNING hash`,
          { bind: [body.text, FORMAT_VERSION], transaction },
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
        const lost = units.find((unit) => unit.hash === undefined)
        if (lost !== undefined) throw bad(`the version “${version.name}” misses ${lost.kind} ${lost.id}.`)
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

/** Makes units one at a time and writes them some at a time, so that a long film needs no more memory than a short one. */
async function inPortions(all: readonly (() => Promise<readonly [string, string]>)[], write: (some: readonly (readonly [string, string])[]) => Promise<unknown>) {
  let some: (readonly [string, string])[] = []
  let bytes = 0
  for (const make of all) {
    const unit = await make()
    some.push(unit)
    bytes += unit[1].length
    if (bytes < ROWS_BYTES) continue
    await write(some)
    some = []
    bytes = 0
  }
  if (some.length > 0) await write(some)
}
