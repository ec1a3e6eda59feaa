import { open, readFile } from 'node:fs/promises'
import { createReadStream } from 'node:fs'
import type { H3Error } from 'h3'
import { parseStream } from 'music-metadata'
import sharp from 'sharp'
import { PICTURE_SIDES_PX, type AssetKind, type SoundType, type StoredAsset } from '#shared/assets'
import { refuse } from '../services/refusals'
import { pictureEnd } from './pictureEnd'
import { pictureHeader } from './pictureHeader'
import { soundKind } from './soundKind'
import { readSvg } from './svgFile'

export interface FileLimits {
  readonly picturePx: number
  readonly svgBytes: number
  readonly soundSeconds: number
}

/** What a file is. `keepBytes`: of the file that much is the picture; what follows is a camera's, and harmless. */
export interface FoundKind extends Omit<StoredAsset, 'hash' | 'bytes' | 'touchedAt' | 'fresh'> {
  readonly keepBytes: number
}

/** What a file is, by its bytes alone; throws the reason why it is not taken. Pictures are decoded once, at their smallest size. */
export async function inspectFile(path: string, bytes: number, wanted: AssetKind, limits: FileLimits): Promise<FoundKind> {
  if (bytes === 0) throw refuse(415, 'empty', 'The file is empty.')
  return wanted === 'sound' ? inspectSound(path, bytes, limits) : inspectPicture(await readFile(path), limits)
}

const looksLikeSvg = (head: Buffer) => /<svg[\s>/]/i.test(head.toString('latin1', 0, 4096))

async function inspectPicture(file: Buffer, limits: FileLimits): Promise<FoundKind> {
  const header = pictureHeader(file)
  if (header === null) {
    if (!looksLikeSvg(file)) throw refuse(415, 'not-a-picture', 'The file is not a PNG, JPEG, WebP or SVG picture.')
    if (file.length > limits.svgBytes) throw refuse(413, 'picture-too-large', `The SVG is larger than ${limits.svgBytes / 1024 ** 2} MB. Save it as PNG and try again.`)
    const { widthPx, heightPx, at } = readSvg(utf8(file))
    await decoded(sharp(Buffer.from(at(PICTURE_SIDES_PX[0]))).png().toBuffer())
    return { kind: 'picture', type: 'image/svg+xml', widthPx, heightPx, seconds: null, keepBytes: file.length }
  }
  const pixels = header.widthPx * header.heightPx
  if (!(pixels >= 1)) throw refuse(415, 'not-a-picture', 'The picture has no pixels.')
  if (pixels > limits.picturePx) throw refuse(413, 'too-many-pixels', `The picture is ${header.widthPx} × ${header.heightPx}; at most ${limits.picturePx / 1e6} million pixels are taken.`)
  const end = pictureEnd(file, header.type)
  if (end === 'truncated') throw refuse(415, 'truncated', 'The picture ends before it is whole. Copy or save it again, then try again.')
  if (end === 'hides') throw refuse(415, 'polyglot', 'Something else is hidden behind the picture in this file. Save the picture anew, then try again.')
  const [side] = PICTURE_SIDES_PX
  const picture = sharp(file.subarray(0, end), { limitInputPixels: limits.picturePx, failOn: 'error' })
  await decoded(picture.autoOrient().resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true }).png().toBuffer())
  return { kind: 'picture', ...header, seconds: null, keepBytes: end }
}

const unreadable = (why: string) => refuse(415, 'not-a-picture', `The picture can’t be decoded (${why}). Save it again, then try again.`)

/** Whatever the decoder says, the file is refused and not the request failed. */
async function decoded<T>(work: Promise<T>): Promise<T> {
  try {
    return await work
  } catch (error) {
    throw unreadable((error as Error).message.split('\n')[0]!.slice(0, 120))
  }
}

function utf8(bytes: Buffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw refuse(415, 'not-a-picture', 'The SVG is not written in UTF-8. Save it again as UTF-8 and try again.')
  }
}

const SOUND_CONTAINERS: Readonly<Record<string, SoundType>> = { wave: 'audio/wav', flac: 'audio/flac', ogg: 'audio/ogg', mpeg: 'audio/mpeg' }
const notASound = (): H3Error => refuse(415, 'not-a-sound', 'The file is not a WAV, FLAC, Ogg, Opus or MP3 sound, or it is damaged.')

async function inspectSound(path: string, bytes: number, limits: FileLimits): Promise<FoundKind> {
  const file = await open(path)
  const kind = await soundKind((length, at) => readAt(file, length, at), bytes).finally(() => file.close())
  if (kind === null) throw notASound()
  const stream = createReadStream(path, { highWaterMark: 512 * 1024 })
  const parsed = await parseStream(stream, { size: bytes }, { duration: true, skipCovers: true }).catch(() => null)
  stream.destroy()
  const type = SOUND_CONTAINERS[`${parsed?.format.container ?? ''}`.toLowerCase()]
  if (parsed === null || type === undefined) throw notASound()
  const seconds = parsed.format.duration ?? 0
  if (!(seconds > 0)) throw refuse(415, 'empty', 'The sound is empty.')
  if (seconds > limits.soundSeconds) throw refuse(413, 'too-long', `The sound lasts ${Math.round(seconds / 60)} minutes; at most ${limits.soundSeconds / 60} are taken.`)
  return { kind: 'sound', type, widthPx: 0, heightPx: 0, seconds, keepBytes: bytes }
}

async function readAt(file: Awaited<ReturnType<typeof open>>, length: number, at: number): Promise<Buffer> {
  const found = Buffer.alloc(length)
  const { bytesRead } = await file.read(found, 0, length, at)
  return found.subarray(0, bytesRead)
}
