import { createReadStream } from 'node:fs'
import { mkdir, readdir, rename, rm, stat, utimes } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'
import type { Readable } from 'node:stream'
import sharp from 'sharp'
import { ASSET_LIMITS } from '#shared/assets'

interface Blob {
  readonly stream: Readable
  readonly bytes: number
}

/** Made sizes are only a convenience: each server keeps its own, and what was used longest ago goes. */
const FOLDER = () => join(process.env.RUBATO_CACHE_DIR ?? join(tmpdir(), 'rubato-cache'), 'pictures')
const CACHE_BYTES = 1024 ** 3
const TRIM_AFTER = 200
const AT_ONCE = 2
sharp.cache(false)
sharp.concurrency(1)

const making = new Map<string, Promise<string>>()
let running = 0
const queue: (() => void)[] = []
let madeSinceTrim = TRIM_AFTER

async function inTurn<T>(work: () => Promise<T>): Promise<T> {
  if (running >= AT_ONCE) await new Promise<void>((go) => queue.push(go))
  else running++
  try {
    return await work()
  } finally {
    const next = queue.shift()
    if (next === undefined) running--
    else next()
  }
}

/** A picture `sidePx` along its longest side; null where it is not there or smaller than that already. */
export async function sizedPicture(hash: string, row: { readonly type: string; readonly widthPx: number; readonly heightPx: number }, sidePx: number, read: () => Promise<Blob | null>): Promise<(Blob & { readonly type: string }) | null> {
  const lines = row.type === 'image/svg+xml'
  if (!lines && Math.max(row.widthPx, row.heightPx) <= sidePx) return null
  const type = row.type === 'image/jpeg' ? 'image/jpeg' : 'image/png'
  const name = `${hash}-${sidePx}`
  const path = join(FOLDER(), name)
  let there = await stat(path).catch(() => null)
  if (there === null) {
    const source = await read()
    if (source === null) return null
    let work = making.get(name)
    if (work === undefined) {
      work = inTurn(() => make(source.stream, path, sidePx, type, lines)).finally(() => making.delete(name))
      making.set(name, work)
    } else source.stream.destroy()
    await work
    there = await stat(path)
  } else void utimes(path, new Date(), there.mtime).catch(() => undefined)
  return { type, bytes: there.size, stream: createReadStream(path) }
}

async function make(source: Readable, path: string, sidePx: number, type: string, lines: boolean): Promise<string> {
  await mkdir(FOLDER(), { recursive: true })
  const half = `${path}.${randomUUID()}.new`
  try {
    const chunks: Buffer[] = []
    for await (const chunk of source) chunks.push(chunk as Buffer)
    const bytes = Buffer.concat(chunks)
    const image = sharp(bytes, { limitInputPixels: ASSET_LIMITS.picturePx, ...(lines ? { density: await densityFor(bytes, sidePx) } : {}) })
    // Numbers as they stand in the file, as everywhere in the product: an embedded profile goes along unused.
    const sized = image.autoOrient().resize({ width: sidePx, height: sidePx, fit: 'inside', withoutEnlargement: !lines }).keepIccProfile()
    await (type === 'image/jpeg' ? sized.jpeg({ quality: 94, chromaSubsampling: '4:4:4' }) : sized.png({ compressionLevel: 4 })).toFile(half)
    await rename(half, path)
  } finally {
    await rm(half, { force: true })
  }
  if (++madeSinceTrim > TRIM_AFTER) {
    madeSinceTrim = 0
    void trim().catch(() => undefined)
  }
  return path
}

/** Lines are drawn at the size wanted, not drawn small and enlarged. */
async function densityFor(bytes: Buffer, sidePx: number): Promise<number> {
  const { width = 1, height = 1, density = 72 } = await sharp(bytes, { limitInputPixels: false }).metadata()
  return Math.min(100_000, Math.max(1, (density * sidePx) / Math.max(width, height)))
}

async function trim() {
  const files = await Promise.all((await readdir(FOLDER())).map(async (name) => ({ name, at: await stat(join(FOLDER(), name)).catch(() => null) })))
  let bytes = files.reduce((sum, { at }) => sum + (at?.size ?? 0), 0)
  for (const { name, at } of files.sort((a, b) => (a.at?.atimeMs ?? 0) - (b.at?.atimeMs ?? 0))) {
    if (bytes <= CACHE_BYTES) return
    await rm(join(FOLDER(), name), { force: true })
    bytes -= at?.size ?? 0
  }
}
