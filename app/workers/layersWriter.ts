import { createLayerFiles } from '@rubato/core/interchange'
import { picturePixels } from '#shared/renders'
import type { FrameTaker } from './making'
import type { MovieRequest } from './messages'
import { createZipSink } from './zipSink'

/** Each level of a shot as numbered PNG files in a folder of its own, with a table of what lies where, in a zip. */
export async function createLayersWriter(request: MovieRequest, totalFrames: number): Promise<FrameTaker> {
  const { project, span, shots, alone, fileName } = request
  const { widthPx, heightPx } = picturePixels(request)
  const shot = shots.find(({ placed }) => placed.shot.id === alone)?.placed.shot.label ?? ''
  const files = createLayerFiles({ film: project.title, shot, rate: project.rate, widthPx, heightPx, firstFrame: span.start }, totalFrames)
  const zip = await createZipSink(fileName)
  return {
    async take(_, data) {
      for (const { name, bytes } of files.next(data === null ? null : new Uint8Array(data))) zip.add(name, bytes)
    },
    async finish() {
      zip.add('levels.json', new TextEncoder().encode(files.table()))
      return { file: await zip.finish(), codec: null }
    },
    abandon: () => zip.abandon(),
  }
}
