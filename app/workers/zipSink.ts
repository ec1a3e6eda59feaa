import { Zip, ZipPassThrough } from 'fflate'
import { createFileSink } from './fileSink'

/** A zip of files that are packed already, written as they come. */
export interface ZipSink {
  add(name: string, bytes: Uint8Array): void
  finish(): Promise<Blob>
  abandon(): Promise<void>
}

export async function createZipSink(fileName: string): Promise<ZipSink> {
  const sink = await createFileSink(fileName)
  let position = 0
  let failure: Error | null = null
  const zip = new Zip((error, chunk) => {
    if (error !== null) failure = error
    else {
      sink.write(chunk, position)
      position += chunk.length
    }
  })
  const check = () => {
    if (failure !== null) throw failure
  }
  return {
    add(name, bytes) {
      const entry = new ZipPassThrough(name)
      zip.add(entry)
      entry.push(bytes, true)
      check()
    },
    async finish() {
      zip.end()
      check()
      return sink.finish('application/zip')
    },
    abandon: () => sink.abandon(),
  }
}
