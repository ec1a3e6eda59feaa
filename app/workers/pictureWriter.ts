import type { FrameTaker } from './making'
import { createZipSink } from './zipSink'

/** Numbered PNG files in a zip. */
export async function createPictureWriter(fileName: string, totalFrames: number): Promise<FrameTaker> {
  const zip = await createZipSink(fileName)
  const digits = Math.max(4, String(totalFrames).length)
  const stem = fileName.replace(/\.zip$/, '')
  let bytes = new Uint8Array()
  return {
    async take(index, data) {
      if (data !== null) bytes = new Uint8Array(data)
      zip.add(`${stem}_${String(index).padStart(digits, '0')}.png`, bytes)
    },
    finish: async () => ({ file: await zip.finish(), codec: null }),
    abandon: () => zip.abandon(),
  }
}
