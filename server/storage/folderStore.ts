import { constants, createReadStream } from 'node:fs'
import { access, opendir, readdir, rename, rm, stat, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { isHash, PartCutShort, type BlobStore } from './blobStore'
import { staged, sweepStaging, syncPath } from './staging'
import { makeFolder } from './makeFolder'

const LEAST_FREE_BYTES = 64 * 1024 * 1024

/** Blobs in a folder, by the first two digits of their hash. A half-written file never has a blob's name. */
export function createFolderStore(folder: string): BlobStore {
  const pathOf = (hash: string) => join(folder, hash.slice(0, 2), hash)
  const uploads = join(folder, 'uploads')
  return {
    put: (source, limitBytes, inspect, keep) =>
      staged(folder, source, limitBytes, inspect, (file) =>
        keep(file, async () => {
          const group = join(folder, file.hash.slice(0, 2))
          await makeFolder(group)
          await rename(file.path, pathOf(file.hash))
          await syncPath(group)
          await syncPath(folder)
        }),
      ),
    async read(hash, range) {
      if (!isHash(hash)) return null
      const there = await stat(pathOf(hash)).catch(() => null)
      return there === null ? null : { stream: createReadStream(pathOf(hash), range === undefined ? {} : { start: range.first, end: range.last }), bytes: there.size }
    },
    has: async (hash) => isHash(hash) && (await stat(pathOf(hash)).catch(() => null)) !== null,
    async remove(hash) {
      await rm(pathOf(hash), { force: true })
    },
    async *list() {
      for (const group of await readdir(folder).catch(() => [])) {
        if (!/^[0-9a-f]{2}$/.test(group)) continue
        for await (const entry of await opendir(join(folder, group))) {
          if (!isHash(entry.name)) continue
          const there = await stat(join(folder, group, entry.name)).catch(() => null)
          if (there !== null) yield { hash: entry.name, bytes: there.size, changedAt: there.mtime }
        }
      }
    },
    async putPart(upload, part, source, bytes) {
      await makeFolder(join(uploads, upload))
      await staged(uploads, source, bytes, async () => ({}), async (file) => {
        if (file.bytes !== bytes) throw new PartCutShort(`${file.bytes} of ${bytes} bytes`)
        await rename(file.path, join(uploads, upload, String(part)))
        await syncPath(join(uploads, upload))
      })
    },
    async partsOf(upload) {
      const names = await readdir(join(uploads, upload)).catch(() => [])
      return names.map(Number).filter(Number.isInteger).sort((a, b) => a - b)
    },
    readPart: async (upload, part) => createReadStream(join(uploads, upload, String(part))),
    async removeParts(upload) {
      await rm(join(uploads, upload), { recursive: true, force: true })
    },
    async sweep() {
      return (await sweepStaging(folder, 'partial')) + (await sweepStaging(uploads, 'partial'))
    },
    async check() {
      await makeFolder(folder)
      await access(folder, constants.W_OK)
      const { bavail, bsize } = await statfs(folder)
      if (bavail * bsize < LEAST_FREE_BYTES) throw new Error(`less than ${LEAST_FREE_BYTES / 1024 / 1024} MB are free on the disk`)
    },
  }
}
