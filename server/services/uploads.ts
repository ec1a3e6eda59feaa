import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { Op } from 'sequelize'
import { PART_BYTES, type AssetKind, type StoredAsset, type UploadKind, type UploadState } from '#shared/assets'
import { useDatabase } from '../models/database'
import type { UploadRow } from '../models/models'
import { BlobTooLarge, PartCutShort } from '../storage/blobStore'
import { useBlobs } from '../storage/blobs'
import { diskFull, limitOf, storeAsset, tooLarge } from './assets'
import { notFound, refuse } from './refusals'

const KEPT_MS = 48 * 3600 * 1000

async function rowOf(id: string): Promise<UploadRow> {
  const { models } = await useDatabase()
  const row = await models.UploadRow.findByPk(id)
  if (row === null) throw notFound('upload', id)
  return row
}

/** Begins a file that comes in parts, in any order, over as many connections as it takes. */
export async function beginUpload(kind: UploadKind, bytes: number): Promise<UploadState> {
  if (bytes > limitOf(kind)) throw tooLarge(kind)
  const { models } = await useDatabase()
  const row = await models.UploadRow.create({ id: randomUUID(), kind, bytes: String(bytes) })
  return { id: row.id, bytes, partBytes: PART_BYTES, parts: [] }
}

export async function uploadState(id: string): Promise<UploadState> {
  const row = await rowOf(id)
  return { id, bytes: Number(row.bytes), partBytes: PART_BYTES, parts: await useBlobs().partsOf(id) }
}

const partCount = (bytes: number) => Math.max(1, Math.ceil(bytes / PART_BYTES))

/** Keeps a part whole or not at all; the same part may be sent again. */
export async function takePart(id: string, part: number, source: Readable): Promise<void> {
  const bytes = Number((await rowOf(id)).bytes)
  const count = partCount(bytes)
  if (!Number.isInteger(part) || part < 0 || part >= count) throw refuse(422, 'no-such-part', `The upload has parts 0 to ${count - 1}.`)
  const wanted = part === count - 1 ? bytes - part * PART_BYTES : PART_BYTES
  try {
    await useBlobs().putPart(id, part, source, wanted)
  } catch (error) {
    if (error instanceof BlobTooLarge) throw refuse(422, 'wrong-part', `Part ${part} must have ${wanted} bytes; more came.`)
    const code = (error as NodeJS.ErrnoException).code
    if (error instanceof PartCutShort || code === 'ECONNRESET' || code === 'ERR_STREAM_PREMATURE_CLOSE') throw refuse(400, 'cut-short', `Part ${part} ended early. Send it again.`)
    diskFull(error)
  }
}

/** Puts the parts together, looks at what they are, and keeps the file. The parts go when it is kept or refused; where it can't be kept now, they stay. */
export async function finishUpload(id: string, signal?: AbortSignal): Promise<StoredAsset> {
  const { row, whole } = await wholeUpload(id)
  if (row.kind === 'batch' || row.kind === 'archive') throw refuse(422, 'not-a-file', row.kind === 'batch' ? 'These are changes to a film, not a file. Send them to the film.' : 'This is a film as one file. Send it to /api/archives.')
  const source = Readable.from(whole(), { objectMode: false })
  const stored = await storeAsset(source, row.kind as AssetKind, signal === undefined ? {} : { signal })
    .catch(async (error: { statusCode?: number }) => {
      // What the file is at fault for won't be better the next time; what the server is at fault for may be.
      const { statusCode = 500 } = error
      if (statusCode >= 400 && statusCode < 499) await dropUpload(id)
      throw error
    })
    // A part that was not read to its end is open until then.
    .finally(() => source.destroy())
  await dropUpload(id)
  return stored
}

/** Changes that came in parts, as text. They stay until `dropUpload`, so that they can be made again after a failure. */
export async function readBatchUpload(id: string): Promise<AsyncIterable<Uint8Array>> {
  const { row, whole } = await wholeUpload(id)
  if (row.kind !== 'batch') throw refuse(422, 'not-changes', 'This is a file, not changes to a film.')
  return whole() as AsyncIterable<Uint8Array>
}

/** A film as one file that came in parts. They stay until `dropUpload`. */
export async function readArchiveUpload(id: string): Promise<Readable> {
  const { row, whole } = await wholeUpload(id)
  if (row.kind !== 'archive') throw refuse(422, 'not-an-archive', 'This is not a film as one file.')
  return Readable.from(whole(), { objectMode: false })
}

async function wholeUpload(id: string) {
  const row = await rowOf(id)
  const blobs = useBlobs()
  const count = partCount(Number(row.bytes))
  const parts = new Set(await blobs.partsOf(id))
  const missing = Array.from({ length: count }, (_, i) => i).filter((i) => !parts.has(i))
  if (missing.length > 0) throw refuse(409, 'parts-missing', `${missing.length === 1 ? 'A part is' : `${missing.length} parts are`} still missing.`, { missing: missing.slice(0, 1000) })
  const whole = async function* () {
    for (let part = 0; part < count; part++) yield* await blobs.readPart(id, part)
  }
  return { row, whole }
}

export async function dropUpload(id: string): Promise<void> {
  const row = await rowOf(id)
  await useBlobs().removeParts(id)
  await row.destroy()
}

/** Uploads that no one went on with. */
export async function dropOldUploads(): Promise<number> {
  const { models } = await useDatabase()
  const old = await models.UploadRow.findAll({ where: { createdAt: { [Op.lt]: new Date(Date.now() - KEPT_MS) } } })
  for (const { id } of old) await dropUpload(id)
  return old.length
}
