import type { Need, ReadSamples, RecordingShape } from '@rubato/core/sound'
import { ALL_FORMATS, AudioSampleSink, BlobSource, Input, UrlSource, type AudioSample, type InputAudioTrack } from 'mediabunny'

/** Seconds that are decoded and kept together. */
const CHUNK_SECONDS = 1
/** Coders that look back need this before a place that is jumped to. */
const PREROLL_SECONDS = 0.1
const URL_CACHE_BYTES = 4 * 1024 * 1024
const TRIES = 4

/** Recordings by their hash, decoded where they are needed and let go within a budget: a long one is never held whole. */
export interface Recordings {
  /** Fetches and decodes what is needed. Recordings that can't be had are told by `trouble`, and stay silent. */
  load(needs: readonly Need[]): Promise<void>
  /** Null until the recording has been opened. */
  shapeOf(assetHash: string): RecordingShape | null
  open(assetHashes: readonly string[]): Promise<void>
  /** What `load` has fetched. */
  read(need: Need): ReadSamples | null
  dispose(): void
}

export interface OpenedRecording {
  readonly input: Input
  readonly track: InputAudioTrack
  readonly sampleRateHz: number
  readonly channels: number
}

/** Opens a file or an address; throws, with the reason, what is no sound or can't be decoded here. */
export async function openRecording(source: Blob | string): Promise<OpenedRecording> {
  const input = new Input({
    formats: ALL_FORMATS,
    source: typeof source === 'string' ? new UrlSource(source, { maxCacheSize: URL_CACHE_BYTES, getRetryDelay: (before) => (before >= TRIES ? null : 0.3 * 2 ** before) }) : new BlobSource(source),
  })
  const bad = (what: string) => {
    input.dispose()
    return new Error(what)
  }
  const track = await input.getPrimaryAudioTrack().catch(() => null)
  if (track === null) throw bad('It is not a WAV, FLAC, Ogg, Opus or MP3 sound, or it is damaged.')
  if (!(await track.canDecode().catch(() => false))) throw bad(`This browser can’t decode its sound (${(await track.getCodecParameterString().catch(() => null)) ?? 'unknown'}). Save it as WAV or FLAC and try again.`)
  const sampleRateHz = await track.getSampleRate()
  const channels = await track.getNumberOfChannels()
  if (!(sampleRateHz > 0) || !(channels > 0)) throw bad('The sound is empty.')
  // How long it lasts is not asked for here: of some kinds that takes reading all of it.
  return { input, track, sampleRateHz, channels }
}

/** Hands out a decoded sample's channels, in room that the next one takes again. */
export function createChannelReader() {
  let room: Float32Array[] = []
  return (sample: AudioSample): Float32Array[] => {
    if (room.length !== sample.numberOfChannels || room[0]!.length < sample.numberOfFrames) room = Array.from({ length: sample.numberOfChannels }, () => new Float32Array(sample.numberOfFrames))
    return room.map((plane, planeIndex) => {
      const part = plane.subarray(0, sample.numberOfFrames)
      sample.copyTo(part, { planeIndex, format: 'f32-planar' })
      return part
    })
  }
}

interface Known extends RecordingShape {
  readonly opened: OpenedRecording
  /** A decoder that goes on from a chunk: playing on does not begin anew. */
  running: { chunk: number; samples: AsyncGenerator<AudioSample, void, unknown>; left: AudioSample | null } | null
}

export function createRecordings(urlOf: (assetHash: string) => string, budgetBytes: number, trouble: (assetHash: string, what: string) => void): Recordings {
  const known = new Map<string, Known | null>()
  const opening = new Map<string, Promise<void>>()
  /** By hash and number, in the order of their last use. */
  const chunks = new Map<string, readonly Float32Array[]>()
  let bytes = 0
  const channelsOf = createChannelReader()

  async function open(hash: string): Promise<void> {
    if (known.has(hash)) return
    const begun =
      opening.get(hash) ??
      openRecording(urlOf(hash))
        .then((opened) => void known.set(hash, { opened, sampleRateHz: opened.sampleRateHz, channels: opened.channels, running: null }))
        .catch((error: Error) => {
          known.set(hash, null)
          trouble(hash, error.message)
        })
        .finally(() => opening.delete(hash))
    opening.set(hash, begun)
    return begun
  }

  async function decode(hash: string, of: Known, chunk: number): Promise<void> {
    const length = Math.round(of.sampleRateHz * CHUNK_SECONDS)
    const begin = chunk * length
    if (of.running?.chunk !== chunk) {
      await stop(of)
      of.running = { chunk, samples: new AudioSampleSink(of.opened.track).samples(Math.max(0, (begin / of.sampleRateHz) - PREROLL_SECONDS)), left: null }
    }
    const { running } = of
    const planes = Array.from({ length: of.channels }, () => new Float32Array(length))
    for (;;) {
      const sample = running!.left ?? (await running!.samples.next()).value ?? null
      running!.left = null
      if (sample === null) break
      const first = Math.round(sample.timestamp * of.sampleRateHz)
      if (first >= begin + length) {
        running!.left = sample
        break
      }
      if (first + sample.numberOfFrames > begin) {
        channelsOf(sample).forEach((plane, c) => {
          const from = Math.max(0, begin - first)
          const to = Math.min(plane.length, begin + length - first)
          planes[c]?.set(plane.subarray(from, to), first + from - begin)
        })
      }
      if (first + sample.numberOfFrames > begin + length) {
        running!.left = sample
        break
      }
      sample.close()
    }
    running!.chunk = chunk + 1
    keep(`${hash}:${chunk}`, planes)
  }

  async function stop(of: Known) {
    of.running?.left?.close()
    await of.running?.samples.return()
    of.running = null
  }

  /** What was decoded ahead is closed first: it is not the page's memory, and nobody else ever frees it. */
  const letGo = (of: Known) =>
    stop(of)
      .catch(() => undefined)
      .then(() => of.opened.input.dispose())

  const sizeOf = (planes: readonly Float32Array[]) => planes.reduce((sum, plane) => sum + plane.byteLength, 0)
  function keep(key: string, planes: readonly Float32Array[]) {
    chunks.set(key, planes)
    bytes += sizeOf(planes)
  }
  function trim(wanted: ReadonlySet<string>) {
    for (const [key, planes] of chunks) {
      if (bytes <= budgetBytes) return
      if (wanted.has(key)) continue
      chunks.delete(key)
      bytes -= sizeOf(planes)
    }
  }

  const chunksOf = ({ first, end }: Need, of: Known) => {
    const length = Math.round(of.sampleRateHz * CHUNK_SECONDS)
    return { length, from: Math.floor(first / length), to: Math.floor(Math.max(0, end - 1) / length) }
  }

  return {
    async open(hashes) {
      await Promise.all(hashes.map(open))
    },
    shapeOf: (hash) => known.get(hash) ?? null,
    async load(needs) {
      const wanted = new Set<string>()
      for (const need of needs) {
        await open(need.assetHash)
        const of = known.get(need.assetHash) ?? null
        if (of === null) continue
        const { from, to } = chunksOf(need, of)
        for (let chunk = from; chunk <= to; chunk++) {
          const key = `${need.assetHash}:${chunk}`
          wanted.add(key)
          const there = chunks.get(key)
          if (there !== undefined) {
            chunks.delete(key)
            chunks.set(key, there)
            continue
          }
          try {
            await decode(need.assetHash, of, chunk)
          } catch (error) {
            known.set(need.assetHash, null)
            await letGo(of)
            trouble(need.assetHash, (error as Error).message)
            break
          }
        }
      }
      trim(wanted)
    },
    read(need) {
      const of = known.get(need.assetHash) ?? null
      if (of === null) return null
      const { length, from, to } = chunksOf(need, of)
      const one = chunks.get(`${need.assetHash}:${from}`)
      // Most blocks lie in one chunk, which is lent as it is.
      if (from === to) return one === undefined ? null : { first: from * length, channels: one }
      const channels = Array.from({ length: of.channels }, () => new Float32Array(Math.max(0, (to - from + 1) * length)))
      for (let chunk = from; chunk <= to; chunk++) chunks.get(`${need.assetHash}:${chunk}`)?.forEach((plane, c) => channels[c]!.set(plane, (chunk - from) * length))
      return { first: from * length, channels }
    },
    dispose() {
      for (const of of known.values()) if (of !== null) void letGo(of)
      known.clear()
      chunks.clear()
      bytes = 0
    },
  }
}
