import { createReadStream, createWriteStream } from 'node:fs'
import { readdir, rename, rm, stat, utimes } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { ASSET_LIMITS, PICTURE_SIDES_PX } from '#shared/assets'
import { runJob } from '../jobs/jobs'
import { cannotBeKept, storageFull } from '../storage/full'
import { makeFolder } from '../storage/makeFolder'

interface Blob {
  readonly stream: Readable
  readonly bytes: number
}

/** Made sizes are only a convenience: each server keeps its own, and what was used longest ago goes. */
const FOLDER = () => join(process.env.RUBATO_CACHE_DIR ?? join(tmpdir(), 'rubato-cache'), 'pictures')
const CACHE_BYTES = 1024 ** 3
const TRIM_AFTER = 200
const MOST_SECONDS = 30

interface Making {
  readonly work: Promise<string>
  readonly stop: AbortController
  waiting: number
}
const making = new Map<string, Making>()
/** Sizes that took too long or too much: a smaller one stands in. */
const tooMuch = new Set<string>()
const MOST_REMEMBERED = 1000
let madeSinceTrim = TRIM_AFTER

/** A picture `sidePx` along its longest side; null where it is not there or smaller than that already. With `signal`, it is given up when nobody waits for it any more. */
export async function sizedPicture(hash: string, row: { readonly type: string; readonly widthPx: number; readonly heightPx: number }, sidePx: number, read: () => Promise<Blob | null>, signal?: AbortSignal): Promise<(Blob & { readonly type: string }) | null> {
  const lines = row.type === 'image/svg+xml'
  if (!lines && Math.max(row.widthPx, row.heightPx) <= sidePx) return null
  const type = row.type === 'image/jpeg' ? 'image/jpeg' : 'image/png'
  const name = `${hash}-${sidePx}`
  const next = PICTURE_SIDES_PX.findLast((side) => side < sidePx)
  if (tooMuch.has(name) && next !== undefined) return sizedPicture(hash, row, next, read, signal)
  const path = join(FOLDER(), name)
  const there = await stat(path).catch(() => null)
  if (there !== null) {
    void utimes(path, new Date(), there.mtime).catch(() => undefined)
    return { type, bytes: there.size, stream: createReadStream(path) }
  }
  let job = making.get(name)
  if (job === undefined) {
    const source = await read()
    if (source === null) return null
    // Somebody else may have begun meanwhile.
    job = making.get(name)
    if (job === undefined) {
      const stop = new AbortController()
      const work = make(source.stream, path, sidePx, type, lines, stop.signal).finally(() => making.delete(name))
      job = { work, stop, waiting: 0 }
      making.set(name, job)
    } else source.stream.destroy()
  }
  const mine = job
  mine.waiting++
  let gone = false
  const leave = () => {
    if (gone) return
    gone = true
    if (--mine.waiting === 0) mine.stop.abort()
  }
  if (signal?.aborted === true) leave()
  else signal?.addEventListener('abort', leave, { once: true })
  try {
    const { size } = await stat(await mine.work)
    return { type, bytes: size, stream: createReadStream(path) }
  } catch (error) {
    if (cannotBeKept(error)) {
      // The picture as it is, where that may be sent.
      if (!lines) return null
      throw storageFull()
    }
    const { code } = (error as { data?: { code?: string } }).data ?? {}
    if (!lines || next === undefined || (code !== 'too-slow' && code !== 'too-heavy')) throw error
    tooMuch.add(name)
    if (tooMuch.size > MOST_REMEMBERED) tooMuch.delete(tooMuch.values().next().value!)
    return sizedPicture(hash, row, next, read, signal)
  } finally {
    signal?.removeEventListener('abort', leave)
  }
}

async function make(source: Readable, path: string, sidePx: number, type: string, lines: boolean, signal: AbortSignal): Promise<string> {
  await makeFolder(FOLDER())
  const half = `${path}.${randomUUID()}.new`
  const whole = `${half}.in`
  try {
    await pipeline(source, createWriteStream(whole))
    await runJob<null>({ kind: 'size', path: whole, out: half, sidePx, type, lines, picturePx: ASSET_LIMITS.picturePx }, MOST_SECONDS, signal)
    await rename(half, path)
  } finally {
    await Promise.all([half, whole].map((file) => rm(file, { force: true })))
  }
  if (++madeSinceTrim > TRIM_AFTER) {
    madeSinceTrim = 0
    void trim().catch(() => undefined)
  }
  return path
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
