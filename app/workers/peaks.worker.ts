import { PeakBuilder } from '@rubato/core/sound'
import { AudioSampleSink } from 'mediabunny'
import { answerJobs, type Job } from './answerJobs'
import type { MadePeaks, PeaksAsk } from './messages'
import { createChannelReader, openRecording } from './recordings'

/** Decodes a recording from its start to its end and keeps nothing of it but its peaks. */
async function make({ source, bare }: PeaksAsk, { signal, tell }: Job<number>): Promise<MadePeaks> {
  const begun = performance.now()
  const opened = await openRecording(source)
  try {
    const seconds = await opened.track.computeDuration().catch(() => 0)
    const builder = new PeakBuilder()
    const channelsOf = createChannelReader()
    let decoded = 0
    for await (const sample of new AudioSampleSink(opened.track).samples()) {
      if (bare === true) decoded += channelsOf(sample)[0]!.length
      else builder.add(channelsOf(sample))
      tell(Math.min(1, sample.timestamp / Math.max(seconds, 1e-3)))
      sample.close()
      signal.throwIfAborted()
    }
    if (builder.samples + decoded === 0) throw new Error('The sound is empty.')
    const peaks = builder.finish(opened.sampleRateHz)
    return { peaks, channels: opened.channels, tookMs: performance.now() - begun }
  } finally {
    opened.input.dispose()
  }
}

answerJobs<PeaksAsk, MadePeaks, number>(make, ({ peaks }) => peaks.levels.map((level) => level.buffer as ArrayBuffer))
