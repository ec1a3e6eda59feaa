import { Zip, ZipPassThrough } from 'fflate'

/** Several files in one zip, read a bit at a time. What is in them is packed already. */
export async function zipped(files: readonly { readonly name: string; readonly file: Blob }[], signal: AbortSignal): Promise<Blob> {
  const parts: Uint8Array<ArrayBuffer>[] = []
  let failure: Error | null = null
  const zip = new Zip((error, chunk) => {
    if (error !== null) failure = error
    else parts.push(chunk as Uint8Array<ArrayBuffer>)
  })
  const taken = new Set<string>()
  for (const [i, { name, file }] of files.entries()) {
    // Labels that differ by a sign that no file's name has.
    const own = taken.has(name) ? name.replace(/(\.[^.]*)?$/, `-${i + 1}$1`) : name
    taken.add(own)
    const entry = new ZipPassThrough(own)
    zip.add(entry)
    const reader = file.stream().getReader()
    for (;;) {
      const { done, value } = await reader.read()
      signal.throwIfAborted()
      entry.push(value ?? new Uint8Array(), done)
      if (done) break
    }
    if (failure !== null) throw failure
  }
  zip.end()
  return new Blob(parts, { type: 'application/zip' })
}
