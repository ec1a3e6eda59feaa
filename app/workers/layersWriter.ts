import { createLayerFiles } from '@rubato/core/interchange'
import { Zip, ZipPassThrough } from 'fflate'
import { createFileSink } from './fileSink'
import type { FrameTaker } from './making'
import type { MovieRequest } from './messages'
import { moviePixels } from './moviePlan'

/** Each level of a shot as numbered PNG files in a folder of its own, with a table of what lies where, in a zip. */
export async function createLayersWriter(request: MovieRequest, totalFrames: number): Promise<FrameTaker> {
  const { project, span, shots, alone, fileName } = request
  const { widthPx, heightPx } = moviePixels(request)
  const shot = shots.find(({ placed }) => placed.shot.id === alone)?.placed.shot.label ?? ''
  const files = createLayerFiles({ film: project.title, shot, rate: project.rate, widthPx, heightPx, firstFrame: span.start }, totalFrames)
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
  const add = (name: string, bytes: Uint8Array) => {
    const entry = new ZipPassThrough(name)
    zip.add(entry)
    entry.push(bytes, true)
    if (failure !== null) throw failure
  }
  return {
    async take(_, data) {
      for (const { name, bytes } of files.next(data === null ? null : new Uint8Array(data))) add(name, bytes)
    },
    async finish() {
      add('levels.json', new TextEncoder().encode(files.table()))
      zip.end()
      if (failure !== null) throw failure
      return { file: await sink.finish('application/zip'), codec: null }
    },
    abandon: () => sink.abandon(),
  }
}
