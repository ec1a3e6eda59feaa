import type { Peaks } from '@rubato/core/sound'
import { shallowReactive } from 'vue'
import { api } from '~/api/client'
import { keepPeaks, keptPeaks } from '~/stores/keptPeaks'
import { useSoundStore } from '~/stores/sound'
import type { PeaksAnswer, PeaksAsk } from '~/workers/messages'

const MOST_KEPT = 600
const known = shallowReactive(new Map<string, Peaks>())
const asked = new Set<string>()
let worker: Worker | null = null
let number = 0
interface Waiting {
  readonly done: (made: { readonly peaks: Peaks; readonly channels: number; readonly tookMs: number }) => void
  readonly failed: (error: Error) => void
  readonly progress: (share: number) => void
}
const waiting = new Map<number, Waiting>()

function start(): Worker {
  const made = new Worker(new URL('../workers/peaks.worker.ts', import.meta.url), { type: 'module' })
  made.onmessage = ({ data }: MessageEvent<PeaksAnswer>) => {
    const of = waiting.get(data.number)
    if (data.kind === 'progress') return of?.progress(data.share)
    waiting.delete(data.number)
    if (data.kind === 'failed') of?.failed(new Error(data.what))
    else of?.done(data)
    // Decoders hold memory that only their end gives back.
    if (waiting.size === 0) setTimeout(letGo, IDLE_MS)
  }
  made.onerror = () => stop(new Error('The sound could not be read: its worker stopped. Reload the page and try again.'))
  return made
}
const IDLE_MS = 1500
class Interrupted extends Error {}
function letGo() {
  if (waiting.size > 0) return
  worker?.terminate()
  worker = null
}
function stop(why: Error) {
  worker?.terminate()
  worker = null
  for (const each of waiting.values()) each.failed(why)
  waiting.clear()
}

/** The peaks of recordings, from this browser's store or worked out in a worker: what waves are drawn from. */
export function usePeaks() {
  const sound = useSoundStore()

  /** Decodes a file, or what is kept under an address, and tells how far it is. */
  function make(source: Blob | string, progress: (share: number) => void = () => undefined, gate?: AbortSignal) {
    worker ??= start()
    const mine = ++number
    worker.postMessage({ number: mine, source } satisfies PeaksAsk)
    return new Promise<{ readonly peaks: Peaks; readonly channels: number; readonly tookMs: number }>((resolve, reject) => {
      waiting.set(mine, { done: resolve, failed: reject, progress })
      gate?.addEventListener('abort', () => stop(new Interrupted((gate.reason as Error).message)), { once: true })
    })
  }

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
      // Another's Cancel ended the worker: it is asked again when the wave is next wanted.
      if (error instanceof Interrupted) asked.delete(hash)
      else sound.trouble(hash, (error as Error).message)
    }
  }

  return { make, keep, of }
}
