/** A file that grows as it is made: in the browser's private files where there are any, else in memory. */
export interface FileSink {
  write(data: Uint8Array, position: number): void
  finish(type: string): Promise<Blob>
  abandon(): Promise<void>
}

const FOLDER = 'rubato-exports'

export async function createFileSink(name: string): Promise<FileSink> {
  try {
    return await createPrivateFileSink(name)
  } catch {
    return createMemorySink()
  }
}

async function createPrivateFileSink(name: string): Promise<FileSink> {
  const root = await navigator.storage.getDirectory()
  // What an earlier export left behind has been handed over by now.
  await root.removeEntry(FOLDER, { recursive: true }).catch(() => undefined)
  const folder = await root.getDirectoryHandle(FOLDER, { create: true })
  const handle = await folder.getFileHandle(`${Date.now()}-${name.replace(/[^\w.-]+/g, '_')}`, { create: true })
  const access = await handle.createSyncAccessHandle()
  return {
    write(data, position) {
      const written = access.write(data as Uint8Array<ArrayBuffer>, { at: position })
      if (written !== data.length) throw new DOMException('The disk is full.', 'QuotaExceededError')
    },
    async finish(type) {
      access.flush()
      access.close()
      const file = await handle.getFile()
      return new Blob([file], { type })
    },
    async abandon() {
      access.close()
      await folder.removeEntry(handle.name).catch(() => undefined)
    },
  }
}

function createMemorySink(): FileSink {
  const pieces: { readonly data: Uint8Array; readonly position: number }[] = []
  return {
    write: (data, position) => void pieces.push({ data: data.slice(), position }),
    async finish(type) {
      const size = pieces.reduce((most, { data, position }) => Math.max(most, position + data.length), 0)
      const bytes = new Uint8Array(size)
      for (const { data, position } of pieces) bytes.set(data, position)
      return new Blob([bytes], { type })
    },
    async abandon() {
      pieces.length = 0
    },
  }
}
