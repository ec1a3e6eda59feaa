import { openDB, type DBSchema } from 'idb'
import { peaksOf, type Peaks } from '@rubato/core/sound'

interface Schema extends DBSchema {
  peaks: { key: string; value: { readonly hash: string; readonly finest: Int8Array; readonly sampleRateHz: number; readonly seconds: number } }
}

const open = () =>
  openDB<Schema>('rubato-peaks', 1, {
    upgrade: (made) => void made.createObjectStore('peaks', { keyPath: 'hash' }),
  })
let db: ReturnType<typeof open> | null = null

/** What this browser has worked out of recordings; they can always be worked out again. */
export async function keptPeaks(hash: string): Promise<Peaks | null> {
  try {
    const kept = await (await (db ??= open())).get('peaks', hash)
    return kept === undefined ? null : peaksOf(kept.finest, kept.sampleRateHz, kept.seconds)
  } catch {
    return null
  }
}

export async function keepPeaks(hash: string, { levels, sampleRateHz, seconds }: Peaks): Promise<void> {
  try {
    await (await (db ??= open())).put('peaks', { hash, finest: levels[0]!, sampleRateHz, seconds })
  } catch {
    // A full or forbidden store costs the time to work them out again, no more.
  }
}
