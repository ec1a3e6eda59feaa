import { PeakBuilder } from '@rubato/core/sound'
import { AudioSampleSink } from 'mediabunny'
import type { PeaksAnswer, PeaksAsk } from './messages'
import { createChannelReader, openRecording } from './recordings'

const TELL_EVERY_MS = 100
const say = (answer: PeaksAnswer, transfer: Transferable[] = []) => postMessage(answer, { transfer })

/** Decodes a recording from its start to its end and keeps nothing of it but its peaks. */
async function make({ number, source, bare }: PeaksAsk) {
  const begun = performance.now()
  const opened = await openRecording(source)
  try {
    const seconds = await opened.track.computeDuration().catch(() => 0)
    const builder = new PeakBuilder()
    const channelsOf = createChannelReader()
    let told = 0
    let decoded = 0
    for await (const sample of new AudioSampleSink(opened.track).samples()) {
      if (bare === true) decoded += channelsOf(sample)[0]!.length
      else builder.add(channelsOf(sample))
      const now = performance.now()
      if (now - told > TELL_EVERY_MS) {
        told = now
        say({ kind: 'progress', number, share: Math.min(1, sample.timestamp / Math.max(seconds, 1e-3)) })
      }
      sample.close()
    }
    if (builder.samples + decoded === 0) throw new Error('The sound is empty.')
    const peaks = builder.finish(opened.sampleRateHz)
    say({ kind: 'peaks', number, peaks, channels: opened.channels, tookMs: performance.now() - begun }, peaks.levels.map((level) => level.buffer as ArrayBuffer))
  } finally {
    opened.input.dispose()
  }
}

let queue = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<PeaksAsk>) => {
  queue = queue.then(() => make(data)).catch((error: Error) => say({ kind: 'failed', number: data.number, what: error.message }))
}
