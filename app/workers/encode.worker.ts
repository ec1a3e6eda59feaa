import { MIX_RATE_HZ } from '@rubato/core/sound'
import { framesPerSecond, type Rate } from '@rubato/core/time'
import { AudioSample, AudioSampleSource, Mp4OutputFormat, Output, StreamTarget, VideoSample, VideoSampleSource, WebMOutputFormat, type OutputFormat, type StreamTargetChunk } from 'mediabunny'
import { createFileSink, type FileSink } from './fileSink'
import { i420OfRgba } from './i420'
import type { WorkerMessages } from './messages'
import { createSoundSource } from './soundWriter'
import { chooseVideoCodec, type Container } from './videoCodec'

type Ask = WorkerMessages['encode']['ask']
type Begin = Extract<Ask, { kind: 'begin' }>

/** Small writes to the browser's private files cost more than the encoding. */
const WRITE_AT_ONCE_BYTES = 1 << 20

const AUDIO_BITRATE = 160_000
const AUDIO_BLOCK = MIX_RATE_HZ / 2
const SOUND_AHEAD_SECONDS = 0.5

const CONTAINERS: Readonly<Record<Container, { format(): OutputFormat; readonly audio: 'aac' | 'opus'; readonly audioName: string; readonly type: string }>> = {
  webm: { format: () => new WebMOutputFormat(), audio: 'opus', audioName: 'Opus', type: 'video/webm' },
  mp4: { format: () => new Mp4OutputFormat(), audio: 'aac', audioName: 'AAC', type: 'video/mp4' },
}

const say = (answer: WorkerMessages['encode']['answer']) => postMessage(answer)

interface Movie {
  add(index: number, pixels: ArrayBuffer | null): Promise<void>
  finish(): Promise<{ file: Blob; codec: string }>
  abandon(): Promise<void>
}

async function beginMovie({ fileName, rate, widthPx, heightPx, container, sound }: Begin): Promise<Movie> {
  const fps = framesPerSecond(rate)
  const codec = await chooseVideoCodec(widthPx, heightPx, fps, container)
  const sink: FileSink = await createFileSink(fileName)
  const target = new StreamTarget(new WritableStream<StreamTargetChunk>({ write: (chunk) => sink.write(chunk.data, chunk.position) }), {
    chunked: true,
    chunkSize: WRITE_AT_ONCE_BYTES,
  })
  const output = new Output({ format: CONTAINERS[container].format(), target })
  const source = new VideoSampleSource({ codec: codec.name, fullCodecString: codec.codecString, bitrate: codec.bitrate, keyFrameInterval: 2, latencyMode: 'quality' })
  output.addVideoTrack(source, { frameRate: fps })
  const voice = sound === null ? null : createSoundSource(sound)
  const audio = sound === null ? null : new AudioSampleSource({ codec: CONTAINERS[container].audio, bitrate: AUDIO_BITRATE })
  if (audio !== null) output.addAudioTrack(audio)
  await output.start()
  /** The sound goes a little ahead of the picture, so that the two lie beside each other in the file. */
  async function soundUpTo(seconds: number) {
    while (voice !== null && voice.seconds < seconds) {
      const at = voice.seconds
      const sides = await voice.next(AUDIO_BLOCK)
      if (sides === null) return
      const data = new Float32Array(sides[0].length * 2)
      data.set(sides[0])
      data.set(sides[1], sides[0].length)
      const sample = new AudioSample({ data, format: 'f32-planar', numberOfChannels: 2, sampleRate: MIX_RATE_HZ, timestamp: at })
      try {
        await audio!.add(sample)
      } finally {
        sample.close()
      }
    }
  }
  const yuv = new Uint8Array((widthPx * heightPx * 3) / 2)
  return {
    async add(index, pixels) {
      if (pixels !== null) i420OfRgba(new Uint8ClampedArray(pixels), widthPx, heightPx, yuv)
      const timestamp = startMicroseconds(index, rate)
      await soundUpTo(timestamp / 1e6 + SOUND_AHEAD_SECONDS)
      const frame = new VideoFrame(yuv, {
        format: 'I420',
        codedWidth: widthPx,
        codedHeight: heightPx,
        timestamp,
        duration: startMicroseconds(index + 1, rate) - timestamp,
        colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange: false },
      })
      const sample = new VideoSample(frame)
      try {
        await source.add(sample)
      } finally {
        sample.close()
      }
    },
    async finish() {
      await soundUpTo(Infinity)
      voice?.dispose()
      await output.finalize()
      return { file: await sink.finish(CONTAINERS[container].type), codec: `${codec.label}${sound === null ? '' : ` and ${CONTAINERS[container].audioName}`}` }
    },
    async abandon() {
      voice?.dispose()
      await output.cancel().catch(() => undefined)
      await sink.abandon()
    },
  }
}

/** Rounded from the exact time, so no error builds up over a long film. */
function startMicroseconds(frame: number, rate: Rate): number {
  return Math.round((frame * rate.denominator * 1e6) / rate.numerator)
}

let movie: Movie | null = null
let over = false

async function answer(ask: Ask): Promise<void> {
  if (over) return
  if (ask.kind === 'begin') movie = await beginMovie(ask)
  else if (movie === null) throw new Error(`encode: "${ask.kind}" before "begin"`)
  else if (ask.kind === 'frame') {
    await movie.add(ask.index, ask.pixels)
    say({ kind: 'taken', frames: ask.index + 1 })
  } else if (ask.kind === 'end') say({ kind: 'made', ...(await movie.finish()) })
  else throw new DOMException('The export was cancelled.', 'AbortError')
}

// One after the other: a frame must not overtake the one before it while that one waits for the encoder.
let queue = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<Ask>) => {
  queue = queue.then(() => answer(data)).catch(async (error: Error) => {
    if (over) return
    over = true
    await movie?.abandon().catch(() => undefined)
    say({ kind: 'failed', name: error.name, what: error.message })
  })
}
