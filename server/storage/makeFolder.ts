import { mkdir } from 'node:fs/promises'
import { dirname } from 'node:path'

/** A folder with all above it. Node's own `recursive` says "not found" where a disk may only be read. */
export async function makeFolder(path: string): Promise<void> {
  try {
    await mkdir(path)
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    if (code === 'EEXIST') return
    if (code !== 'ENOENT' || dirname(path) === path) throw error
    await makeFolder(dirname(path))
    await makeFolder(path)
  }
}
