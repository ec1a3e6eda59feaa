import { createHash, randomUUID } from 'node:crypto'
import { constants, createReadStream } from 'node:fs'
import { access, mkdir, open, rename, rm, stat, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import type { Readable } from 'node:stream'

/** Bytes kept under the SHA-256 of what they are. */
export interface BlobStore {
  /** Takes a stream in; throws `BlobTooLarge` past the limit, keeps nothing then and leaves the rest unread. */
  put(source: Readable, limitBytes: number): Promise<{ readonly hash: string; readonly bytes: number; readonly head: Buffer }>
  /** Null where there is no such blob. */
  read(hash: string): Promise<{ readonly stream: Readable; readonly bytes: number } | null>
  remove(hash: string): Promise<void>
  /** Throws, with the reason, where nothing could be kept. */
  check(): Promise<void>
}

export class BlobTooLarge extends Error {}

const LEAST_FREE_BYTES = 64 * 1024 * 1024
const HEAD_BYTES = 256 * 1024

/** Blobs in a folder, by the first two digits of their hash. A half-written file never has a blob's name. */
export function createFolderStore(folder: string): BlobStore {
  const pathOf = (hash: string) => join(folder, hash.slice(0, 2), hash)
  return {
    async put(source, limitBytes) {
      await mkdir(folder, { recursive: true })
      const partial = join(folder, `${randomUUID()}.partial`)
      const digest = createHash('sha256')
      const head: Buffer[] = []
      let headBytes = 0
      let bytes = 0
      const file = await open(partial, 'wx')
      try {
        for await (const chunk of source.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
          bytes += chunk.length
          if (bytes > limitBytes) throw new BlobTooLarge(`more than ${limitBytes} bytes`)
          digest.update(chunk)
          if (headBytes < HEAD_BYTES) {
            head.push(chunk)
            headBytes += chunk.length
          }
          await file.write(chunk)
        }
        await file.sync()
        await file.close()
        const hash = digest.digest('hex')
        await mkdir(join(folder, hash.slice(0, 2)), { recursive: true })
        await rename(partial, pathOf(hash))
        return { hash, bytes, head: Buffer.concat(head) }
      } catch (error) {
        await file.close().catch(() => undefined)
        await rm(partial, { force: true })
        throw error
      }
    },
    async read(hash) {
      if (!/^[0-9a-f]{64}$/.test(hash)) return null
      const found = await stat(pathOf(hash)).catch(() => null)
      return found === null ? null : { stream: createReadStream(pathOf(hash)), bytes: found.size }
    },
    async remove(hash) {
      await rm(pathOf(hash), { force: true })
    },
    async check() {
      await mkdir(folder, { recursive: true })
      await access(folder, constants.W_OK)
      const { bavail, bsize } = await statfs(folder)
      if (bavail * bsize < LEAST_FREE_BYTES) throw new Error(`less than ${LEAST_FREE_BYTES / 1024 / 1024} MB are free on the disk`)
    },
  }
}

let store: BlobStore | null = null

export function useBlobs(): BlobStore {
  store ??= createFolderStore(process.env.RUBATO_STORAGE_DIR ?? join(process.cwd(), 'data', 'blobs'))
  return store
}
