import type { Readable } from 'node:stream'
import { QueryTypes, type Transaction } from 'sequelize'
import { ARCHIVE_LIMITS } from '#shared/archive'
import { ASSET_LIMITS, SVG_SIDE_PX, type AssetKind, type StoredAsset, type UploadKind } from '#shared/assets'
import { useDatabase } from '../models/database'
import type { FoundKind } from '../jobs/fileKinds'
import { runJob } from '../jobs/jobs'
import { BlobTooLarge, type ByteRange } from '../storage/blobStore'
import { useBlobs } from '../storage/blobs'
import { cannotBeKept, storageFull } from '../storage/full'
import { notFound, refuse } from './refusals'
import { sizedPicture } from './sizedPictures'

const fromSetting = (name: string, value: number) => {
  const set = Number(process.env[name] || value)
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
export const limitOf = (kind: UploadKind) => ({ picture: ASSET_LIMITS.pictureBytes, sound: ASSET_LIMITS.soundBytes, batch: ASSET_LIMITS.batchBytes, archive: ARCHIVE_LIMITS.bytes })[kind]

export function tooLarge(kind: UploadKind) {
  if (kind === 'batch') return refuse(413, 'too-large', `These changes come to more than ${megabytes(limitOf(kind))}, which is the most that is taken at once.`, { allowedBytes: limitOf(kind) })
  if (kind === 'archive') return refuse(413, 'too-large', `The file is larger than ${ARCHIVE_LIMITS.bytes / 1024 ** 3} GB.`)
  return refuse(413, `${kind}-too-large`, `The file is larger than ${megabytes(limitOf(kind))}. Save it smaller and try again.`, { allowedBytes: limitOf(kind) })
}

export function diskFull(error: unknown): never {
  throw cannotBeKept(error) ? storageFull(error) : error
}

/** A picture that is not decoded in this time is not shown in it either; sound is read through once, at some 20 MB a second at least. */
const PICTURE_SECONDS = 10
const soundSeconds = (bytes: number) => 10 + bytes / (20 * 1024 ** 2)

/** Takes a file in: what it is, its bytes say. The same bytes twice are kept once. `asItIs`: nothing is cut off behind a picture. */
export async function storeAsset(source: Readable, kind: AssetKind, { asItIs = false, signal }: { readonly asItIs?: boolean; readonly signal?: AbortSignal } = {}): Promise<StoredAsset> {
  const { models } = await useDatabase()
  const { picturePx, svgBytes, soundSeconds: most } = ASSET_LIMITS
  const inspect = async (path: string, bytes: number): Promise<FoundKind> => {
    const found = (await runJob<FoundKind>({ kind: 'inspect', path, bytes, wanted: kind, limits: { picturePx, svgBytes, soundSeconds: most } }, kind === 'sound' ? soundSeconds(bytes) : PICTURE_SECONDS, signal))
    return asItIs ? { ...found, keepBytes: bytes } : found
  }
  return useBlobs()
    .put(source, limitOf(kind), inspect, ({ hash, bytes, found: { keepBytes: _, ...found } }, place) =>
      withAsset([hash], 'alone', async (transaction) => {
        await place()
        const touchedAt = new Date()
        const fresh = (await models.AssetRow.count({ where: { hash }, transaction })) === 0
        await models.AssetRow.upsert({ hash, bytes, ...found, touchedAt }, { transaction })
        return { hash, bytes, ...found, touchedAt: touchedAt.toISOString(), fresh }
      }),
    )
    .catch((error: unknown) => {
      if (error instanceof BlobTooLarge) throw tooLarge(kind)
      return diskFull(error)
    })
}

/** Any number that no other lock begins with. */
const ASSET_LOCK = 7_242

/** While files are put or taken away nobody else does so with the same bytes, on any server; those who place them wait too. */
export async function lockAssets(hashes: readonly string[], how: 'alone' | 'shared', transaction: Transaction): Promise<void> {
  const { sequelize } = await useDatabase()
  // In one order, so that no two wait for each other.
  await sequelize.query(`SELECT pg_advisory_xact_lock${how === 'shared' ? '_shared' : ''}($1, hashtext(h)) FROM (SELECT h FROM unnest($2::text[]) AS h ORDER BY hashtext(h)) AS sorted`, { bind: [ASSET_LOCK, [...hashes]], transaction })
}

export async function withAsset<T>(hashes: readonly string[], how: 'alone' | 'shared', work: (transaction: Transaction) => Promise<T>): Promise<T> {
  const { sequelize } = await useDatabase()
  return sequelize.transaction(async (transaction) => {
    await lockAssets(hashes, how, transaction)
    return work(transaction)
  })
}

/** Whether a film has the file `$1`, or a render. */
export const NEEDED = '(EXISTS (SELECT 1 FROM project_assets WHERE hash = $1) OR EXISTS (SELECT 1 FROM render_pieces WHERE hash = $1) OR EXISTS (SELECT 1 FROM render_files WHERE hash = $1))'

/** Takes a file away if no film has it and `more` holds of its row; with `alsoUnknown` also where it has none. False where it stays. */
export async function dropAsset(hash: string, more: string, bind: readonly unknown[], alsoUnknown = false): Promise<boolean> {
  const { sequelize } = await useDatabase()
  return withAsset([hash], 'alone', async (transaction) => {
    const [row] = await sequelize.query<{ known: boolean; goes: boolean; needed: boolean }>(
      `SELECT EXISTS (SELECT 1 FROM assets a WHERE a.hash = $1) AS known, EXISTS (SELECT 1 FROM assets a WHERE a.hash = $1 ${more}) AS goes, ${NEEDED} AS needed`,
      { bind: [hash, ...bind], type: QueryTypes.SELECT, transaction },
    )
    if (row!.needed || !(row!.goes || (alsoUnknown && !row!.known))) return false
    await sequelize.query('DELETE FROM assets WHERE hash = $1', { bind: [hash], transaction })
    await useBlobs().remove(hash)
    return true
  })
}

/** Lets go of files that were taken in and are not used after all. What anyone uses, or has taken in since, stays. */
export async function forgetUnused(files: readonly { readonly hash: string; readonly touchedAt: string }[]): Promise<number> {
  let gone = 0
  for (const { hash, touchedAt } of files) if (await dropAsset(hash, 'AND a.touched_at = $2', [touchedAt])) gone++
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
function byteRange(header: string | undefined, bytes: number): ByteRange | null | 'past-end' {
  const [, from = '', to = ''] = /^bytes=(\d*)-(\d*)$/.exec(header ?? '') ?? []
  if (from === '' && to === '') return null
  const first = from === '' ? Math.max(0, bytes - Number(to)) : Number(from)
  const last = from === '' || to === '' ? bytes - 1 : Math.min(bytes - 1, Number(to))
  return first >= bytes || last < first ? 'past-end' : { first, last }
}

/** A picture or sound; a picture at `side` px along its longest side where that is asked for. */
export async function readAsset(hash: string, side: number | null = null, signal?: AbortSignal) {
  const { models } = await useDatabase()
  const row = await models.AssetRow.findByPk(hash)
  const read = async () => (row === null ? null : useBlobs().read(hash))
  const lines = row?.type === 'image/svg+xml'
  if (row?.kind === 'picture' && (lines || side !== null)) {
    const sized = await sizedPicture(hash, row, lines ? (side ?? SVG_SIDE_PX) : side!, read, signal)
    if (sized !== null) return sized
  }
  const blob = await read()
  if (row === null || blob === null) throw notFound('picture or sound', hash)
  return { type: row.type, ...blob }
}
