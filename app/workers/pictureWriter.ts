import { Zip, ZipPassThrough } from 'fflate'
import { createFileSink } from './fileSink'
import type { FrameTaker } from './making'

/** Numbered PNG files in a zip. */
export async function createPictureWriter(fileName: string, totalFrames: number): Promise<FrameTaker> {
  const sink = await createFileSink(fileName)
  const digits = Math.max(4, String(totalFrames).length)
  const stem = fileName.replace(/\.zip$/, '')
  let position = 0
  let failure: Error | null = null
  let bytes = new Uint8Array()
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
    async take(index, data) {
      if (data !== null) bytes = new Uint8Array(data)
      const entry = new ZipPassThrough(`${stem}_${String(index).padStart(digits, '0')}.png`)
      zip.add(entry)
      entry.push(bytes, true)
      check()
    },
    async finish() {
      zip.end()
      check()
      return { file: await sink.finish('application/zip'), codec: null }
    },
    abandon: () => sink.abandon(),
  }
}
