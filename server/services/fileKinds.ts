import type { FileHandle } from 'node:fs/promises'
import { Readable } from 'node:stream'
import type { H3Error } from 'h3'
import { parseStream } from 'music-metadata'
import { ASSET_LIMITS, type AssetKind, type SoundType, type StoredAsset } from '#shared/assets'
import { pictureHeader } from './pictureHeader'
import { refuse } from './refusals'
import { inspectSvg } from './svgFile'

const HEAD_BYTES = 512 * 1024

export type FoundKind = Omit<StoredAsset, 'hash' | 'bytes' | 'touchedAt' | 'fresh'>

/** What a file is, by its bytes alone; throws the reason why it is not taken. */
export async function inspectFile(file: FileHandle, bytes: number, wanted: AssetKind): Promise<FoundKind> {
  const head = Buffer.alloc(Math.min(bytes, HEAD_BYTES))
  await file.read(head, 0, head.length, 0)
  if (bytes === 0) throw refuse(415, 'empty', 'The file is empty.')
  if (wanted === 'sound') return inspectSound(file, bytes)
  const header = pictureHeader(head)
  if (header === null) {
    if (!looksLikeSvg(head)) throw refuse(415, 'not-a-picture', 'The file is not a PNG, JPEG, WebP or SVG picture.')
    if (bytes > ASSET_LIMITS.svgBytes) throw refuse(413, 'picture-too-large', `The SVG is larger than ${ASSET_LIMITS.svgBytes / 1024 ** 2} MB. Save it as PNG and try again.`)
    return { kind: 'picture', type: 'image/svg+xml', ...inspectSvg(utf8(await bytesAt(file, 0, bytes))), seconds: null }
  }
  const pixels = header.widthPx * header.heightPx
  if (!(pixels >= 1)) throw refuse(415, 'not-a-picture', 'The picture has no pixels.')
  if (pixels > ASSET_LIMITS.picturePx) throw refuse(413, 'too-many-pixels', `The picture is ${header.widthPx} × ${header.heightPx}; at most ${ASSET_LIMITS.picturePx / 1e6} million pixels are taken.`)
  const trouble = await { 'image/png': pngTrouble, 'image/jpeg': jpegTrouble, 'image/webp': webpTrouble }[header.type](file, bytes)
  if (trouble !== null) throw trouble
  return { kind: 'picture', ...header, seconds: null }
}

const looksLikeSvg = (head: Buffer) => /<svg[\s>]/i.test(head.toString('latin1', 0, 4096))

function utf8(bytes: Buffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw refuse(415, 'not-a-picture', 'The SVG is not written in UTF-8. Save it again as UTF-8 and try again.')
  }
}

const truncated = () => refuse(415, 'truncated', 'The picture ends before it is whole. Copy or save it again, then try again.')
const trailing = () => refuse(415, 'polyglot', 'Something else is hidden behind the picture in this file. Save the picture anew, then try again.')

async function bytesAt(file: FileHandle, at: number, length: number): Promise<Buffer> {
  const found = Buffer.alloc(length)
  const { bytesRead } = await file.read(found, 0, length, at)
  return found.subarray(0, bytesRead)
}

/** Walks the chunks: the last is IEND, and ends with the file. */
async function pngTrouble(file: FileHandle, bytes: number): Promise<H3Error | null> {
  for (let at = 8; ; ) {
    const header = await bytesAt(file, at, 8)
    if (header.length < 8) return truncated()
    const end = at + 12 + header.readUInt32BE(0)
    if (end > bytes) return truncated()
    if (header.toString('latin1', 4) === 'IEND') return end === bytes ? null : trailing()
    at = end
  }
}

/** The segments up to the scan, then the end mark; after it only other pictures that cameras put there, or padding. */
async function jpegTrouble(file: FileHandle, bytes: number): Promise<H3Error | null> {
  const all = await bytesAt(file, 0, bytes)
  const end = all.lastIndexOf(Buffer.from([0xff, 0xd9]))
  if (end < 0) return truncated()
  const rest = all.subarray(end + 2)
  if (rest.some((byte) => byte !== 0 && byte !== 0xff)) return all.indexOf(Buffer.from([0xff, 0xda])) < end ? trailing() : truncated()
  return null
}

async function webpTrouble(file: FileHandle, bytes: number): Promise<H3Error | null> {
  const declared = (await bytesAt(file, 4, 4)).readUInt32LE(0) + 8
  if (declared > bytes) return truncated()
  return bytes - declared > 1 ? trailing() : null
}

const SOUND_CONTAINERS: Readonly<Record<string, SoundType>> = { wave: 'audio/wav', flac: 'audio/flac', ogg: 'audio/ogg', mpeg: 'audio/mpeg' }

/** A stream of a file's own would close it. */
async function* chunksOf(file: FileHandle, bytes: number) {
  for (let at = 0; at < bytes; at += HEAD_BYTES) yield await bytesAt(file, at, Math.min(HEAD_BYTES, bytes - at))
}

async function inspectSound(file: FileHandle, bytes: number): Promise<FoundKind> {
  const stream = Readable.from(chunksOf(file, bytes), { objectMode: false })
  const parsed = await parseStream(stream, { size: bytes }, { duration: true, skipCovers: true }).catch(() => null)
  stream.destroy()
  const type = SOUND_CONTAINERS[`${parsed?.format.container ?? ''}`.toLowerCase()]
  if (parsed === null || type === undefined) throw refuse(415, 'not-a-sound', 'The file is not a WAV, FLAC, Ogg, Opus or MP3 sound, or it is damaged.')
  const seconds = parsed.format.duration ?? 0
  if (!(seconds > 0)) throw refuse(415, 'empty', 'The sound is empty.')
  if (seconds > ASSET_LIMITS.soundSeconds) throw refuse(413, 'too-long', `The sound lasts ${Math.round(seconds / 60)} minutes; at most ${ASSET_LIMITS.soundSeconds / 60} are taken.`)
  return { kind: 'sound', type, widthPx: 0, heightPx: 0, seconds }
}
