import { createHash, randomUUID } from 'node:crypto'
import { mkdir, open, rm, type FileHandle } from 'node:fs/promises'
import { join } from 'node:path'
import type { Readable } from 'node:stream'
import { BlobTooLarge } from './blobStore'

export interface Staged<T> {
  readonly path: string
  readonly hash: string
  readonly bytes: number
  readonly found: T
}

/** Writes a stream to a file beside the blobs, hashes it on the way, has it inspected, then hands it to `use`. The file is gone afterwards. */
export async function staged<T, R>(
  folder: string,
  source: Readable,
  limitBytes: number,
  inspect: (file: FileHandle, bytes: number) => Promise<T>,
  use: (file: Staged<T>) => Promise<R>,
): Promise<R> {
  await mkdir(folder, { recursive: true })
  const path = join(folder, `${randomUUID()}.partial`)
  const digest = createHash('sha256')
  let bytes = 0
  try {
    const file = await open(path, 'wx+')
    let found: T
    try {
      for await (const chunk of source.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
        bytes += chunk.length
        if (bytes > limitBytes) throw new BlobTooLarge(`more than ${limitBytes} bytes`)
        digest.update(chunk)
        await file.write(chunk)
      }
      found = await inspect(file, bytes)
      await file.sync()
    } finally {
      await file.close()
    }
    return await use({ path, hash: digest.digest('hex'), bytes, found })
  } finally {
    await rm(path, { force: true })
  }
}
