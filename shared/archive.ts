import { bodyKinds, FORMAT_VERSION, idSchema, storedOutlineSchema, textSchema, UNIT_KINDS, type BodyKind } from '@rubato/core/document'
import { z } from 'zod'

/** The version of the archive's own layout; docs/archive.md describes it. */
export const ARCHIVE_VERSION = 2
export const ARCHIVE_TYPE = 'application/zip'

/** What the database's whole numbers hold. */
const whole = z.int().min(0).max(2 ** 31 - 1)
const hashSchema = z.string().regex(/^[0-9a-f]{64}$/)

/** `rubato.json`, the first entry. */
export const archiveManifestSchema = z.object({
  format: z.literal('rubato'),
  version: z.int().min(1),
  documentVersion: z.int().min(1),
  title: textSchema(200),
  madeAt: z.string().max(40),
})

export const archiveVersionSchema = z.object({
  name: textSchema(200).min(1),
  reason: z.enum(['hand', 'before']),
  author: textSchema(60),
  createdAt: z.iso.datetime(),
  outline: storedOutlineSchema,
  outlineRevision: whole,
  shotCount: whole,
  lengthFrames: whole,
  units: z.array(z.object({ kind: z.custom<BodyKind>((kind) => (bodyKinds() as readonly unknown[]).includes(kind), { message: 'no such kind of unit' }), id: idSchema, revision: z.int().min(-1).max(2 ** 31 - 1), lengthFrames: whole, hash: hashSchema })).max(2_000_000),
})

/** The folder that has the units of a kind. */
export const archiveFolder = (kind: BodyKind) => UNIT_KINDS[kind].home!

const OTHER_ENTRY = /^(rubato\.json|outline\.json|versions\/\d{4}\.json|bodies\/[0-9a-f]{64}\.json|pictures\/[0-9a-f]{64}\.(png|jpg|webp|svg)|sounds\/[0-9a-f]{64}\.(wav|flac|ogg|mp3))$/i
/** Whether an archive may hold it; anything else in it is refused. */
export function isArchiveEntry(name: string): boolean {
  const [, folder] = /^([a-z]+)\/[a-z0-9][a-z0-9_-]{0,63}\.json$/i.exec(name) ?? []
  return OTHER_ENTRY.test(name) || bodyKinds().some((kind) => archiveFolder(kind) === folder)
}

export const ARCHIVE_LIMITS = Object.freeze({
  /** The file itself. */
  bytes: 8 * 1024 ** 3,
  /** All that is in it, unpacked. */
  unpackedBytes: 16 * 1024 ** 3,
  entries: 500_000,
  jsonBytes: 64 * 1024 ** 2,
})

export const isNewer = (version: number, documentVersion: number) => version > ARCHIVE_VERSION || documentVersion > FORMAT_VERSION
