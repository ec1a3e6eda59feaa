import type { Readable } from 'node:stream'
import { QueryTypes } from 'sequelize'
import { ASSET_LIMITS, SVG_SIDE_PX, type AssetKind, type StoredAsset, type UploadKind } from '#shared/assets'
import { useDatabase } from '../models/database'
import { BlobTooLarge, type ByteRange } from '../storage/blobStore'
import { useBlobs } from '../storage/blobs'
import { inspectFile } from './fileKinds'
import { notFound, refuse } from './refusals'
import { sizedPicture } from './sizedPictures'

const fromSetting = (name: string, value: number) => {
  const set = Number(process.env[name] ?? value)
  return Number.isFinite(set) && set > 0 ? set : value
}
/** Limits that whoever runs the server may set: RUBATO_PICTURE_BYTES, _PICTURE_PX, _SOUND_BYTES, _SOUND_SECONDS. */
Object.assign(ASSET_LIMITS, {
  pictureBytes: fromSetting('RUBATO_PICTURE_BYTES', ASSET_LIMITS.pictureBytes),
  picturePx: fromSetting('RUBATO_PICTURE_PX', ASSET_LIMITS.picturePx),
  soundBytes: fromSetting('RUBATO_SOUND_BYTES', ASSET_LIMITS.soundBytes),
  soundSeconds: fromSetting('RUBATO_SOUND_SECONDS', ASSET_LIMITS.soundSeconds),
})

const megabytes = (bytes: number) => `${Math.round(bytes / 1024 / 1024)} MB`
export const limitOf = (kind: UploadKind) => ({ picture: ASSET_LIMITS.pictureBytes, sound: ASSET_LIMITS.soundBytes, batch: ASSET_LIMITS.batchBytes })[kind]

export function tooLarge(kind: UploadKind) {
  if (kind === 'batch') return refuse(413, 'too-large', `These changes come to more than ${megabytes(limitOf(kind))}, which is the most that is taken at once.`, { allowedBytes: limitOf(kind) })
  return refuse(413, `${kind}-too-large`, `The file is larger than ${megabytes(limitOf(kind))}. Save it smaller and try again.`, { allowedBytes: limitOf(kind) })
}

export function diskFull(error: unknown): never {
  if ((error as NodeJS.ErrnoException).code === 'ENOSPC') throw refuse(507, 'disk-full', 'The disk is full, so the file was not kept. Free some space and try again.')
  throw error
}

/** Takes a file in: what it is, its bytes say. The same bytes twice are kept once. */
export async function storeAsset(source: Readable, kind: AssetKind): Promise<StoredAsset> {
  const { models } = await useDatabase()
  const stored = await useBlobs()
    .put(source, limitOf(kind), (file, bytes) => inspectFile(file, bytes, kind))
    .catch((error: unknown) => {
      if (error instanceof BlobTooLarge) throw tooLarge(kind)
      return diskFull(error)
    })
  const asset = { hash: stored.hash, bytes: stored.bytes, ...stored.found }
  const touchedAt = new Date()
  const fresh = (await models.AssetRow.count({ where: { hash: asset.hash } })) === 0
  await models.AssetRow.upsert({ ...asset, touchedAt })
  return { ...asset, touchedAt: touchedAt.toISOString(), fresh }
}

/** Lets go of files that were taken in and are not used after all. What anyone uses, or has taken in since, stays. */
export async function forgetUnused(files: readonly { readonly hash: string; readonly touchedAt: string }[]): Promise<number> {
  const { sequelize } = await useDatabase()
  let gone = 0
  for (const { hash, touchedAt } of files) {
    const rows = await sequelize.query('DELETE FROM assets a WHERE a.hash = $1 AND a.touched_at = $2 AND NOT EXISTS (SELECT 1 FROM project_assets p WHERE p.hash = a.hash) RETURNING a.hash', { bind: [hash, touchedAt], type: QueryTypes.SELECT })
    if (rows.length === 0) continue
    await useBlobs().remove(hash)
    gone++
  }
  return gone
}

/** A recording, or some of its bytes; null for a range past its end. */
export async function readSound(hash: string, wanted: string | undefined) {
  const { models } = await useDatabase()
  const row = await models.AssetRow.findByPk(hash)
  if (row === null || row.kind !== 'sound') throw notFound('sound', hash)
  const range = byteRange(wanted, row.bytes)
  if (range === 'past-end') return { type: row.type, bytes: row.bytes, range, stream: null }
  const blob = await useBlobs().read(hash, range ?? undefined)
  if (blob === null) throw notFound('sound', hash)
  return { type: row.type, bytes: row.bytes, range, stream: blob.stream }
}

/** One range of an HTTP Range header; what is not one is ignored, as HTTP wants it (RFC 9110, 14.2). */
export function byteRange(header: string | undefined, bytes: number): ByteRange | null | 'past-end' {
  const [, from = '', to = ''] = /^bytes=(\d*)-(\d*)$/.exec(header ?? '') ?? []
  if (from === '' && to === '') return null
  const first = from === '' ? Math.max(0, bytes - Number(to)) : Number(from)
  const last = from === '' || to === '' ? bytes - 1 : Math.min(bytes - 1, Number(to))
  return first >= bytes || last < first ? 'past-end' : { first, last }
}

/** A picture or sound; a picture at `side` px along its longest side where that is asked for. */
export async function readAsset(hash: string, side: number | null = null) {
  const { models } = await useDatabase()
  const row = await models.AssetRow.findByPk(hash)
  const read = async () => (row === null ? null : useBlobs().read(hash))
  const lines = row?.type === 'image/svg+xml'
  if (row?.kind === 'picture' && (lines || side !== null)) {
    const sized = await sizedPicture(hash, row, lines ? (side ?? SVG_SIDE_PX) : side!, read)
    if (sized !== null) return sized
  }
  const blob = await read()
  if (row === null || blob === null) throw notFound('picture or sound', hash)
  return { type: row.type, ...blob }
}
