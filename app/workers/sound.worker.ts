import { createLevels, MIX_RATE_HZ, type PlacedSound } from '@rubato/core/sound'
import type { SoundAnswer, SoundAsk } from './messages'
import { createRecordings, type Recordings } from './recordings'
import { createSoundLine, HOP_SAMPLES } from './soundLine'
import { mixOf, placedSoundOf } from './soundPlan'

const DECODED_BUDGET_BYTES = 48 * 1024 * 1024
/** Of a place that may be played from next. */
const WARM_SECONDS = 0.6

const say = (answer: SoundAnswer, transfer: Transferable[] = []) => postMessage(answer, { transfer })

let recordings: Recordings | null = null
let sound: PlacedSound | null = null
let line: { readonly generation: number; readonly of: ReturnType<typeof createSoundLine>; readonly measure: ReturnType<typeof createLevels> } | null = null

const mix = (first: number, count: number) => mixOf(sound!, recordings!, first, count)

async function answer(ask: SoundAsk): Promise<void> {
  if (ask.kind === 'begin') {
    recordings?.dispose()
    recordings = createRecordings((hash) => ask.soundBase + hash, DECODED_BUDGET_BYTES, (assetHash, what) => say({ kind: 'trouble', assetHash, what }))
    sound = null
  } else if (ask.kind === 'sound') sound = placedSoundOf(ask.plan)
  else if (sound === null) return
  else if (ask.kind === 'play') line = { generation: ask.generation, of: createSoundLine(ask.line, mix), measure: createLevels() }
  else if (ask.kind === 'next') {
    if (line?.generation !== ask.generation) return
    const { of, measure } = line
    const [left, right] = await of.next(ask.hops)
    const levels = new Float32Array(ask.hops * 2)
    for (let hop = 0; hop < ask.hops; hop++) {
      const { peak, power } = measure(left, right, hop * HOP_SAMPLES, HOP_SAMPLES)
      levels.set([peak, power], hop * 2)
    }
    say({ kind: 'block', generation: ask.generation, left, right, levels }, [left.buffer as ArrayBuffer, right.buffer as ArrayBuffer])
  } else if (ask.kind === 'warm') await mix(ask.sample, Math.round(WARM_SECONDS * MIX_RATE_HZ))
  else {
    const [left, right] = await mix(ask.sample, ask.count)
    say({ kind: 'grain', left, right, number: ask.number }, [left.buffer as ArrayBuffer, right.buffer as ArrayBuffer])
  }
}

// One after the other: decoders go on from where they were.
let queue = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<SoundAsk>) => {
  queue = queue.then(() => answer(data)).catch((error: Error) => say({ kind: 'failed', what: error.message }))
}
