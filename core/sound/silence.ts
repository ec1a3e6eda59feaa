import { factorOfDb } from './decibels'
import { PEAK_SAMPLES, type Peaks } from './peaks'

/** Seconds of a recording. */
export interface Pause {
  readonly fromSeconds: number
  readonly toSeconds: number
}

export interface PauseWishes {
  /** What is no louder than this is silence. Peaks are kept in steps of 1/127, so below −42 dB nothing is told apart. */
  readonly thresholdDb: number
  readonly leastSeconds: number
}

export const PAUSE_WISHES: PauseWishes = Object.freeze({ thresholdDb: -34, leastSeconds: 0.35 })

/** Pauses within a span of a recording, at least `leastSeconds` long, first to last. */
export function findPauses(peaks: Peaks, fromSeconds: number, toSeconds: number, { thresholdDb, leastSeconds }: PauseWishes = PAUSE_WISHES): Pause[] {
  const bytes = peaks.levels[0]!
  const perSecond = peaks.sampleRateHz / PEAK_SAMPLES
  const limit = Math.max(1, Math.round(factorOfDb(thresholdDb) * 127))
  const first = Math.max(0, Math.ceil(fromSeconds * perSecond))
  const last = Math.min(bytes.length / 2, Math.floor(toSeconds * perSecond))
  const pauses: Pause[] = []
  let begun = -1
  for (let i = first; i <= last; i++) {
    const silent = i < last && -bytes[i * 2]! <= limit && bytes[i * 2 + 1]! <= limit
    if (silent && begun < 0) begun = i
    if (silent || begun < 0) continue
    if ((i - begun) / perSecond >= leastSeconds) pauses.push({ fromSeconds: begun / perSecond, toSeconds: i / perSecond })
    begun = -1
  }
  return pauses
}

/** Where a span of a recording might be split: in the middle of each pause that has something heard on both sides. */
export function proposeSplits(peaks: Peaks, fromSeconds: number, toSeconds: number, wishes: PauseWishes = PAUSE_WISHES): number[] {
  const each = PEAK_SAMPLES / peaks.sampleRateHz
  return findPauses(peaks, fromSeconds, toSeconds, wishes)
    .filter((pause) => pause.fromSeconds > fromSeconds + each && pause.toSeconds < toSeconds - 2 * each)
    .map((pause) => (pause.fromSeconds + pause.toSeconds) / 2)
}
