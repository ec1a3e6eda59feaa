import type { Peaks } from '@rubato/core/sound'
import { defineStore } from 'pinia'
import { shallowReactive } from 'vue'
import { api } from '~/api/client'
import { WorkerStopped } from '~/clients/jobs'
import { peaksJobs } from '~/clients/peaksJobs'
import { keepPeaks, keptPeaks } from './keptPeaks'
import { useSoundStore } from './sound'

const MOST_KEPT = 600

/** The peaks of recordings, from this browser's store or worked out in a worker: what waves are drawn from. */
export const usePeaksStore = defineStore('peaks', () => {
  const known = shallowReactive(new Map<string, Peaks>())
  const asked = new Set<string>()

  const sound = useSoundStore()

  /** Decodes a file, or what is kept under an address, and tells how far it is. */
  const make = (source: Blob | string, progress?: (share: number) => void, signal?: AbortSignal) => peaksJobs.run({ source }, { progress, signal })

  function keep(hash: string, peaks: Peaks) {
    asked.add(hash)
    known.set(hash, peaks)
    for (const first of known.keys()) {
      if (known.size <= MOST_KEPT) break
      known.delete(first)
      asked.delete(first)
    }
    void keepPeaks(hash, peaks)
  }

  /** Null until they are there; asking for them fetches them. */
  function of(hash: string): Peaks | null {
    const there = known.get(hash)
    if (there !== undefined) return there
    if (!asked.has(hash)) {
      asked.add(hash)
      void fetch(hash)
    }
    return null
  }
  async function fetch(hash: string) {
    const kept = await keptPeaks(hash)
    if (kept !== null) return void known.set(hash, kept)
    try {
      keep(hash, (await make(api.soundUrl(hash))).peaks)
    } catch (error) {
      sound.trouble(hash, error instanceof WorkerStopped ? `its reader stopped: ${error.message}` : (error as Error).message)
    }
  }

  return { make, keep, of }
})
