import { createHash, randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { open, readdir, rm, stat, truncate } from 'node:fs/promises'
import { hostname } from 'node:os'
import { join } from 'node:path'
import type { Readable } from 'node:stream'
import { BlobTooLarge, type KeptFile } from './blobStore'
import { makeFolder } from './makeFolder'

export interface Staged<T> extends KeptFile<T> {
  readonly path: string
}

/** Nothing that is still coming in is as old as this. */
const LEFT_BEHIND_MS = 24 * 3600 * 1000
const HOST = createHash('sha256').update(hostname()).digest('hex').slice(0, 8)

/** A name that tells which server is writing, so that another can tell whether it still is. */
export const stagedName = (kind: string) => `${HOST}-${process.pid}-${randomUUID()}.${kind}`

/** Writes a stream to a file beside the blobs, hashes it on the way, has it inspected, then hands it to `use`. The file is gone afterwards. */
export async function staged<T, R>(folder: string, source: Readable, limitBytes: number, inspect: (path: string, bytes: number) => Promise<T & { readonly keepBytes?: number }>, use: (file: Staged<T>) => Promise<R>): Promise<R> {
  await makeFolder(folder)
  const path = join(folder, stagedName('partial'))
  const digest = createHash('sha256')
  let bytes = 0
  try {
    const file = await open(path, 'wx+')
    try {
      for await (const chunk of source.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
        bytes += chunk.length
        if (bytes > limitBytes) throw new BlobTooLarge(`more than ${limitBytes} bytes`)
        digest.update(chunk)
        await file.write(chunk)
      }
      await file.sync()
    } finally {
      await file.close()
    }
    const found = await inspect(path, bytes)
    const { keepBytes = bytes } = found
    if (keepBytes >= bytes) return await use({ path, hash: digest.digest('hex'), bytes, found })
    await truncate(path, keepBytes)
    await syncPath(path)
    return await use({ path, hash: await hashOf(path), bytes: keepBytes, found })
  } finally {
    await rm(path, { force: true })
  }
}

async function hashOf(path: string): Promise<string> {
  const digest = createHash('sha256')
  for await (const chunk of createReadStream(path)) digest.update(chunk as Buffer)
  return digest.digest('hex')
}

/** What was renamed into a folder is there after a power cut only when the folder has been written too. */
export async function syncPath(path: string): Promise<void> {
  const file = await open(path, 'r')
  try {
    await file.sync()
  } finally {
    await file.close()
  }
}

/** Lets go of what servers that were killed had begun to write; how many files. Called before this one writes anything. */
export async function sweepStaging(folder: string, kind: string): Promise<number> {
  let gone = 0
  for (const name of await readdir(folder).catch(() => [] as string[])) {
    if (!name.endsWith(`.${kind}`)) continue
    const path = join(folder, name)
    const there = await stat(path).catch(() => null)
    if (there === null || !there.isFile()) continue
    const [, host, pid] = /^([0-9a-f]{8})-(\d+)-/.exec(name) ?? []
    const writes = host === HOST ? Number(pid) !== process.pid && lives(Number(pid)) : Date.now() - there.mtimeMs < LEFT_BEHIND_MS
    if (writes) continue
    await rm(path, { force: true })
    gone++
  }
  return gone
}

function lives(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}
