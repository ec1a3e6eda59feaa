import type { Readable } from 'node:stream'
import { PICTURE_LIMIT_BYTES, PICTURE_LIMIT_PX, type StoredPicture } from '#shared/assets'
import { useDatabase } from '../models/database'
import { BlobTooLarge, useBlobs } from '../storage/blobs'
import { pictureHeader } from './pictureHeader'
import { notFound, refuse } from './refusals'

const megabytes = (bytes: number) => `${Math.round(bytes / 1024 / 1024)} MB`

/** Takes a picture in: PNG, JPEG or WebP by its bytes, within the limits. The same bytes twice are kept once. */
export async function storePicture(source: Readable): Promise<StoredPicture> {
  const blobs = useBlobs()
  const stored = await blobs.put(source, PICTURE_LIMIT_BYTES).catch((error: unknown) => {
    if (error instanceof BlobTooLarge) {
      throw refuse(413, 'picture-too-large', `The file is larger than ${megabytes(PICTURE_LIMIT_BYTES)}. Save it smaller and try again.`, { allowedBytes: PICTURE_LIMIT_BYTES })
    }
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC') throw refuse(507, 'disk-full', "The disk is full, so the picture was not kept. Free some space and try again.")
    throw error
  })
  const header = pictureHeader(stored.head)
  const { models } = await useDatabase()
  const known = await models.AssetRow.findByPk(stored.hash)
  if (header === null || header.widthPx < 1 || header.heightPx < 1 || header.widthPx * header.heightPx > PICTURE_LIMIT_PX) {
    if (known === null) await blobs.remove(stored.hash)
    if (header === null) throw refuse(415, 'not-a-picture', 'The file is not a PNG, JPEG or WebP picture.')
    throw refuse(413, 'too-many-pixels', `The picture is ${header.widthPx} × ${header.heightPx}; at most ${PICTURE_LIMIT_PX / 1e6} million pixels are taken.`)
  }
  const picture = { hash: stored.hash, bytes: stored.bytes, ...header }
  await models.AssetRow.upsert(picture)
  return picture
}

export async function readPicture(hash: string) {
  const { models } = await useDatabase()
  const row = await models.AssetRow.findByPk(hash)
  const blob = row === null ? null : await useBlobs().read(hash)
  if (row === null || blob === null) throw notFound('picture', hash)
  return { type: row.type, ...blob }
}
