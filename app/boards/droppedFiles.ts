/** Files beyond this are left out, and that is said. */
export const MOST_FILES = 1000

/** All files of a drop, those in folders too, in name order: `2` before `10`. */
export async function droppedFiles(transfer: DataTransfer): Promise<readonly File[]> {
  // Entries must be taken before anything is waited for.
  const entries = [...transfer.items].flatMap((item) => (item.kind === 'file' ? (item.webkitGetAsEntry() ?? []) : []))
  if (entries.length === 0) return inNameOrder([...transfer.files])
  const found: { readonly path: string; readonly file: File }[] = []
  for (const entry of entries) await walk(entry, found)
  return found.sort((a, b) => byName(a.path, b.path)).map(({ file }) => file)
}

async function walk(entry: FileSystemEntry, found: { readonly path: string; readonly file: File }[]): Promise<void> {
  if (found.length > MOST_FILES || entry.name.startsWith('.')) return
  if (entry.isFile) {
    found.push({ path: entry.fullPath, file: await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)) })
    return
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (part.length === 0) return
    for (const each of part) await walk(each, found)
  }
}

const collator = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' })
const byName = (a: string, b: string) => collator.compare(a, b)
export const inNameOrder = (files: readonly File[]): readonly File[] => [...files].sort((a, b) => byName(a.webkitRelativePath || a.name, b.webkitRelativePath || b.name))

/** Lists of a cut. */
export const CUT_FILES = ['.otio', '.edl'] as const

export type FileSort = 'picture' | 'lines' | 'layered' | 'script' | 'cut' | 'scene' | 'other'

/** What a file seems to be, by its name; its bytes decide later. */
export function sortOf(file: File): FileSort {
  const extension = file.name.toLowerCase().split('.').at(-1) ?? ''
  if (['png', 'jpg', 'jpeg', 'webp'].includes(extension)) return 'picture'
  if (extension === 'svg') return 'lines'
  if (extension === 'ora') return 'layered'
  if (['fountain', 'spmd', 'txt'].includes(extension)) return 'script'
  if (CUT_FILES.some((each) => each === `.${extension}`)) return 'cut'
  if (extension === 'glb') return 'scene'
  return 'other'
}
