import { Zip, ZipPassThrough } from 'fflate'

/** Several files in one zip, read a bit at a time. What is in them is packed already. */
export async function zipped(files: readonly { readonly name: string; readonly file: Blob }[], signal: AbortSignal): Promise<Blob> {
  const parts: Uint8Array<ArrayBuffer>[] = []
  let failure: Error | null = null
  const zip = new Zip((error, chunk) => {
    if (error !== null) failure = error
    else parts.push(chunk as Uint8Array<ArrayBuffer>)
  })
  for (const { name, file } of files) {
    const entry = new ZipPassThrough(name)
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
