import { createHash } from 'node:crypto'
import { wavFile } from '@rubato/core/interchange'
import { DEMO_RATE_HZ, DEMO_WAVES, type DemoRecording } from './sound'

let made: readonly (DemoRecording & { readonly wav: Uint8Array })[] | null = null

/** The demo's recordings as files, made by itself; every call gives the same. */
export function demoRecordings(): readonly (DemoRecording & { readonly wav: Uint8Array })[] {
  return (made ??= DEMO_WAVES.map(({ key, name, make }) => {
    const wave = make()
    const wav = wavFile([wave], DEMO_RATE_HZ)
    return { key, name, hash: createHash('sha256').update(wav).digest('hex'), seconds: wave.length / DEMO_RATE_HZ, wav }
  }))
}
