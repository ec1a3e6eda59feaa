import { wavHeader, wavSamples } from '@rubato/core/interchange'
import { MIX_RATE_HZ, mixSample } from '@rubato/core/sound'
import { createFileSink } from './fileSink'
import { createRecordings } from './recordings'
import { mixOf, placedSoundOf, type SoundPlan } from './soundPlan'

const DECODED_BUDGET_BYTES = 48 * 1024 * 1024

/** A span of the film's sound, in blocks that follow each other. */
export interface MovieSound {
  readonly plan: SoundPlan
  readonly soundBase: string
  readonly fromSeconds: number
  readonly toSeconds: number
  /** Silence before it. */
  readonly leadSeconds?: number
}

export function createSoundSource({ plan, soundBase, fromSeconds, toSeconds, leadSeconds = 0 }: MovieSound) {
  const silent = new Map<string, string>()
  const recordings = createRecordings((hash) => soundBase + hash, DECODED_BUDGET_BYTES, (hash, what) => silent.set(hash, what))
  const sound = placedSoundOf(plan)
  const [first, end] = [mixSample(fromSeconds), mixSample(toSeconds)]
  const lead = mixSample(leadSeconds)
  let at = first - lead
  return {
    totalSamples: end - first + lead,
    /** Seconds of the span that have been given out. */
    get seconds() {
      return (at - first + lead) / MIX_RATE_HZ
    },
    /** The next samples, at most `most`; null after the last. A recording that can't be had fails the whole, by name. */
    async next(most: number): Promise<readonly [Float32Array, Float32Array] | null> {
      const count = Math.min(most, (at < first ? first : end) - at)
      if (count <= 0) return null
      if (at < first) {
        at += count
        return [new Float32Array(count), new Float32Array(count)]
      }
      const sides = await mixOf(sound, recordings, at, count)
      const [hash, what] = [...silent][0] ?? []
      if (hash !== undefined) {
        const clip = plan.clips.find((each) => each.assetHash === hash)
        throw new Error(`The recording “${clip?.name ?? hash.slice(0, 8)}” can’t be read: ${what} Take it out or mute its lane, or hand over without sound.`)
      }
      at += count
      return sides
    },
    dispose: () => recordings.dispose(),
  }
}

const WAV_BLOCK = MIX_RATE_HZ * 2

/** The sound alone, as a WAV file of 24 bits. */
export async function writeWav(sound: MovieSound, fileName: string, tell: (done: number, total: number) => void, cancelled: () => boolean): Promise<Blob | null> {
  const source = createSoundSource(sound)
  const header = wavHeader({ sampleRateHz: MIX_RATE_HZ, channels: 2, bits: 24 }, source.totalSamples)
  const sink = await createFileSink(fileName)
  try {
    sink.write(header, 0)
    let position = header.length
    for (let done = 0; ; ) {
      const sides = await source.next(WAV_BLOCK)
      if (cancelled()) {
        await sink.abandon()
        return null
      }
      if (sides === null) return await sink.finish('audio/wav')
      const bytes = wavSamples(sides, 24)
      sink.write(bytes, position)
      position += bytes.length
      done += sides[0].length
      tell(done, source.totalSamples)
    }
  } catch (error) {
    await sink.abandon().catch(() => undefined)
    throw error
  } finally {
    source.dispose()
  }
}
