import { createTakeStage, opticsOf, type StageFrame } from '@rubato/core/stage'
import { framesPerSecond } from '@rubato/core/time'
import { Zip, ZipPassThrough } from 'fflate'
import { Output, StreamTarget, VideoSample, VideoSampleSource, WebMOutputFormat, type StreamTargetChunk } from 'mediabunny'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import { compose, wholeFrame } from '../viewport/composition'
import { createGlCompositor } from '../viewport/glCompositor'
import { createPictureCache } from '../viewport/pictureCache'
import { createFileSink, type FileSink } from './fileSink'
import { i420OfRgba } from './i420'
import type { MovieAnswer, MovieRequest, WorkerMessages } from './messages'
import { chooseVideoCodec, type ChosenCodec } from './videoCodec'

class Cancelled extends Error {}

let cancelled = false
const say = (answer: MovieAnswer) => postMessage(answer)

self.onmessage = ({ data }: MessageEvent<WorkerMessages['movie']['ask']>) => {
  if (data.kind === 'cancel') cancelled = true
  else void make(data)
}

async function make(request: MovieRequest) {
  let sink: FileSink | null = null
  try {
    sink = await createFileSink(request.fileName)
    const begun = performance.now()
    const painter = await createPainter(request)
    const total = painter.totalFrames
    if (total === 0) throw new Error('There are no frames to make: the range is empty.')
    const codec = request.format === 'webm' ? await writeMovie(request, painter, sink) : await writePictures(request, painter, sink)
    say({ kind: 'progress', phase: 'closing', done: total, total })
    const file = await sink.finish(request.format === 'webm' ? 'video/webm' : 'application/zip')
    say({ kind: 'done', file, frames: total, codec: codec?.name ?? null, timings: { totalMs: performance.now() - begun, drawMs: painter.drawMs() } })
  } catch (error) {
    await sink?.abandon()
    if (error instanceof Cancelled) return say({ kind: 'cancelled' })
    const { name, message } = error as Error
    say({ kind: 'failed', what: name === 'QuotaExceededError' ? 'The disk is full. Free some space, or choose a smaller size, and try again.' : message })
  }
}

interface Painter {
  readonly totalFrames: number
  readonly widthPx: number
  readonly heightPx: number
  /** Draws a frame; `changed` is false where it is the one before. */
  paint(index: number): { readonly changed: boolean }
  pixels(): Uint8ClampedArray
  png(): Promise<Uint8Array>
  drawMs(): number
}

const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)

async function createPainter(request: MovieRequest): Promise<Painter> {
  const { project, shots, drawings, size } = request
  const widthPx = even(project.widthPx * size)
  const heightPx = even(project.heightPx * size)
  const pictures = createPictureCache((hash) => request.pictureBase + hash, () => undefined)
  await loadPictures(request, pictures)
  const library = new ArtLibrary(project.widthPx, pictures.lookup)
  const optics = opticsOf(project)
  const stages = shots.map((shot) => createTakeStage(shot.body, optics))
  const totalFrames = stages.reduce((sum, stage) => sum + stage.lengthFrames, 0)
  const canvas = new OffscreenCanvas(widthPx, heightPx)
  // One backend for the whole of an export: a change of backend must not show as a change of picture.
  const turned = stages.some((stage) => anyTurned(stage.lengthFrames, (frame) => stage.at(frame)))
  const compositor = turned ? createGlCompositor(canvas) : createCanvasCompositor(canvas)
  const reader = turned ? new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })! : null
  let drawMs = 0

  const stageFrame = (index: number): StageFrame => {
    let rest = index
    for (const stage of stages) {
      if (rest < stage.lengthFrames) return stage.at(rest)
      rest -= stage.lengthFrames
    }
    throw new Error(`createPainter: there is no frame ${index}`)
  }
  return {
    totalFrames,
    widthPx,
    heightPx,
    paint(index) {
      const begun = performance.now()
      const composition = compose(stageFrame(index), wholeFrame(widthPx, heightPx), library, (id) => drawings[id] ?? null, false)
      if (composition.missing.length > 0) throw new Error(`A drawing is missing (${composition.missing[0]}). Open its shot once, then try again.`)
      const changed = compositor.draw(composition, { frame: '#ffffff', surround: null }, 'exact')
      if (changed && reader !== null) reader.drawImage(canvas, 0, 0)
      drawMs += performance.now() - begun
      return { changed }
    },
    pixels() {
      const context = reader ?? (canvas.getContext('2d') as OffscreenCanvasRenderingContext2D)
      return context.getImageData(0, 0, widthPx, heightPx).data
    },
    async png() {
      const blob = await (reader?.canvas ?? canvas).convertToBlob({ type: 'image/png' })
      return new Uint8Array(await blob.arrayBuffer())
    },
    drawMs: () => drawMs,
  }
}

function anyTurned(frames: number, at: (frame: number) => StageFrame): boolean {
  for (let frame = 0; frame < frames; frame++) if (at(frame).levels.some((placed) => !placed.square)) return true
  return false
}

async function loadPictures(request: MovieRequest, pictures: ReturnType<typeof createPictureCache>) {
  const hashes = new Set<string>()
  for (const drawing of Object.values(request.drawings)) {
    for (const mark of Object.values(drawing.marks)) if (mark.kind === 'picture') hashes.add(mark.assetHash)
  }
  if (hashes.size === 0) return
  say({ kind: 'progress', phase: 'pictures', done: 0, total: hashes.size })
  for (const hash of hashes) pictures.lookup(hash)
  const failed = await pictures.settled()
  if (failed.length > 0) throw new Error(`${failed.length === 1 ? 'A placed picture' : `${failed.length} placed pictures`} could not be loaded. Is the server running? Try again.`)
}

/** Lets messages in, tells how far it is, and stops where that was asked. */
function createPace(total: number) {
  let told = 0
  return async (done: number) => {
    if (cancelled) throw new Cancelled()
    const now = performance.now()
    if (now - told < 100 && done < total) return
    told = now
    say({ kind: 'progress', phase: 'frames', done, total })
    await new Promise((resolve) => setTimeout(resolve))
    if (cancelled) throw new Cancelled()
  }
}

async function writeMovie(request: MovieRequest, painter: Painter, sink: FileSink): Promise<ChosenCodec> {
  const { rate } = request.project
  const { widthPx, heightPx, totalFrames } = painter
  const fps = framesPerSecond(rate)
  const codec = await chooseVideoCodec(widthPx, heightPx, fps)
  const target = new StreamTarget(
    new WritableStream<StreamTargetChunk>({ write: (chunk) => sink.write(chunk.data, chunk.position) }),
  )
  const output = new Output({ format: new WebMOutputFormat(), target })
  const source = new VideoSampleSource({
    codec: codec.name,
    fullCodecString: codec.codecString,
    bitrate: codec.bitrate,
    keyFrameInterval: 2,
    latencyMode: 'quality',
  })
  output.addVideoTrack(source, { frameRate: fps })
  await output.start()
  const pace = createPace(totalFrames)
  const yuv = new Uint8Array((widthPx * heightPx * 3) / 2)
  try {
    for (let index = 0; index < totalFrames; index++) {
      if (painter.paint(index).changed || index === 0) i420OfRgba(painter.pixels(), widthPx, heightPx, yuv)
      // Both ends are rounded from the exact time, so no error builds up over a long film.
      const timestamp = Math.round((index * rate.denominator * 1e6) / rate.numerator)
      const next = Math.round(((index + 1) * rate.denominator * 1e6) / rate.numerator)
      const frame = new VideoFrame(yuv, {
        format: 'I420',
        codedWidth: widthPx,
        codedHeight: heightPx,
        timestamp,
        duration: next - timestamp,
        colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange: false },
      })
      const sample = new VideoSample(frame)
      await source.add(sample)
      sample.close()
      await pace(index + 1)
    }
    await output.finalize()
  } catch (error) {
    await output.cancel().catch(() => undefined)
    throw error
  }
  return codec
}

async function writePictures(request: MovieRequest, painter: Painter, sink: FileSink): Promise<null> {
  let position = 0
  let failure: Error | null = null
  const zip = new Zip((error, chunk) => {
    if (error !== null) failure = error
    else {
      sink.write(chunk, position)
      position += chunk.length
    }
  })
  const digits = Math.max(4, String(painter.totalFrames).length)
  const stem = request.fileName.replace(/\.zip$/, '')
  const pace = createPace(painter.totalFrames)
  let bytes = new Uint8Array()
  for (let index = 0; index < painter.totalFrames; index++) {
    if (painter.paint(index).changed || index === 0) bytes = (await painter.png()) as Uint8Array<ArrayBuffer>
    const entry = new ZipPassThrough(`${stem}_${String(index).padStart(digits, '0')}.png`)
    zip.add(entry)
    entry.push(bytes, true)
    if (failure !== null) throw failure
    await pace(index + 1)
  }
  zip.end()
  return null
}
