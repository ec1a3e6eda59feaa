import type { Clip, Lane } from '@rubato/core/document'
import { babble, BABBLE_RATE_HZ, voiceOf } from '@rubato/core/sound'

/** Samples a second of the demo's recordings. */
export const DEMO_RATE_HZ = BABBLE_RATE_HZ
const HZ = DEMO_RATE_HZ

/** A recording that has been kept. */
export interface DemoRecording {
  readonly key: string
  readonly name: string
  readonly hash: string
  readonly seconds: number
}

/** −1…1, the same series every time. */
function noise(seed: number): () => number {
  let state = seed
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return state / 2 ** 31
  }
}

const samples = (seconds: number) => new Float32Array(Math.round(seconds * HZ))

/** Wind over the marsh: noise through a low filter that swells and sinks. */
function wind(seconds: number): Float32Array {
  const out = samples(seconds)
  const next = noise(11)
  let low = 0
  let band = 0
  for (let i = 0; i < out.length; i++) {
    const t = i / HZ
    const swell = 0.5 + 0.3 * Math.sin(t * 0.8) + 0.2 * Math.sin(t * 2.1 + 1)
    low += (next() - low) * (0.02 + 0.05 * swell)
    band += (low - band) * 0.012
    out[i] = (low - band) * swell * 1.6
  }
  return out
}

/** A plucked string (Karplus and Strong, 1983). */
function pluck(into: Float32Array, at: number, hz: number, level: number, seed: number) {
  const next = noise(seed)
  const string = Float32Array.from({ length: Math.max(2, Math.round(HZ / hz)) }, () => next())
  for (let i = 0, k = 0; i < HZ * 1.6 && at + i < into.length; i++, k = (k + 1) % string.length) {
    into[at + i] = into[at + i]! + string[k]! * level * Math.min(1, (HZ * 1.6 - i) / 4000)
    string[k] = (string[k]! + string[(k + 1) % string.length]!) * 0.498
  }
}

/** A slow tune in three, over the whole film. */
function tune(seconds: number): Float32Array {
  const out = samples(seconds)
  const notes = [0, 7, 12, 3, 10, 15, 5, 12, 17, 7, 14, 10]
  for (let i = 0; i * 0.5 < seconds - 1; i++) pluck(out, Math.round(i * 0.5 * HZ), 196 * 2 ** (notes[i % notes.length]! / 12), i % 3 === 0 ? 0.26 : 0.16, 100 + i)
  return out
}

/** Two boards knocking under running feet. */
function steps(seconds: number): Float32Array {
  const out = samples(seconds)
  const next = noise(5)
  for (let step = 0; step * 0.29 < seconds; step++) {
    const at = Math.round(step * 0.29 * HZ)
    const hz = step % 2 === 0 ? 130 : 162
    for (let i = 0; i < HZ * 0.12 && at + i < out.length; i++) {
      const fall = Math.exp(-i / (HZ * 0.025))
      out[at + i] = out[at + i]! + (Math.sin((2 * Math.PI * hz * i) / HZ) * 0.5 + next() * 0.12) * fall
    }
  }
  return out
}

/** What a goose has to say. */
function honk(): Float32Array {
  const out = samples(0.9)
  let phase = 0
  for (let i = 0; i < out.length; i++) {
    const t = i / HZ
    const local = t < 0.38 ? t / 0.38 : (t - 0.45) / 0.42
    if (local < 0 || local > 1) continue
    phase += (t < 0.38 ? 330 + 150 * local : 470 - 190 * local) / HZ
    phase -= Math.floor(phase)
    out[i] = Math.tanh(((phase < 0.3 ? 1 : -0.5) + Math.sin(phase * 18)) * 0.9) * 0.4 * Math.sin(Math.PI * local) ** 0.6
  }
  return out
}

const say = (speaker: string, words: string) => babble(words, voiceOf(speaker), 0.9)

/** What the recordings are made by; each always makes the same. */
export const DEMO_WAVES: readonly { readonly key: string; readonly name: string; readonly make: () => Float32Array }[] = [
  { key: 'mind', name: 'Oskar, mind the lamp', make: () => say('Oskar', 'Mind the lamp.') },
  { key: 'out', name: 'Tilda, going out', make: () => say('Tilda', 'It’s going out!') },
  { key: 'oil', name: 'Tilda, the oil', make: () => say('Tilda', 'Brisket, the oil!') },
  { key: 'longer', name: 'Oskar, a little longer', make: () => say('Oskar', 'A little longer.') },
  { key: 'here', name: 'Tilda, here', make: () => say('Tilda', 'Here! It’s here!') },
  { key: 'steps', name: 'Running on boards', make: () => steps(7.5) },
  { key: 'honk', name: 'Goose', make: honk },
  { key: 'wind', name: 'Marsh wind', make: () => wind(20) },
  { key: 'tune', name: 'Salt Lantern tune', make: () => tune(20) },
]

/** The demo's lanes and clips of these recordings; nothing where there are none. */
export function demoSound(recordings: readonly DemoRecording[]): { readonly lanes: Readonly<Record<string, Lane>>; readonly clips: Readonly<Record<string, Clip>> } {
  if (recordings.length === 0) return { lanes: {}, clips: {} }
  const lanes: Lane[] = [
    { id: 'voices', order: 'a1', name: 'Voices', kind: 'voices', gainDb: 0, muted: false, soloed: false },
    { id: 'effects', order: 'a2', name: 'Effects', kind: 'effects', gainDb: -4, muted: false, soloed: false },
    { id: 'music', order: 'a3', name: 'Wind and tune', kind: 'music', gainDb: -6, muted: false, soloed: false },
  ]
  const clip = (key: string, laneId: string, shotId: string | null, offsetFrames: number, fields: Partial<Clip> = {}): Clip => {
    const { hash, name, seconds } = recordings.find((each) => each.key === key)!
    return { id: `clip-${key}`, laneId, shotId, offsetFrames, assetHash: hash, name, sourceSeconds: seconds, fromSeconds: 0, lengthSeconds: seconds, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null, ...fields }
  }
  const clips = [
    clip('mind', 'voices', 'shot-030', 50, { speaker: 'OSKAR', line: 'Mind the lamp.', panelId: 'p2' }),
    clip('out', 'voices', 'shot-040', 100, { speaker: 'TILDA', line: 'It’s going out!', panelId: 'p3' }),
    clip('oil', 'voices', 'shot-050', 74, { speaker: 'TILDA', line: 'Brisket, the oil!', panelId: 'p2' }),
    clip('longer', 'voices', 'shot-060', 22, { speaker: 'OSKAR', line: 'A little longer.', panelId: 'p1' }),
    clip('here', 'voices', 'shot-060', 70, { speaker: 'TILDA', line: 'Here! It’s here!', panelId: 'p2' }),
    clip('steps', 'effects', 'shot-040', 10, { lengthSeconds: 6.5, fadeOutSeconds: 0.6 }),
    clip('honk', 'effects', 'shot-050', 30),
    clip('wind', 'music', 'shot-030', 0, { lengthSeconds: 9, fadeInSeconds: 1 }),
    clip('tune', 'music', null, 190, { lengthSeconds: 10, fadeOutSeconds: 1.5 }),
  ]
  return { lanes: Object.fromEntries(lanes.map((lane) => [lane.id, lane])), clips: Object.fromEntries(clips.map((each) => [each.id, each])) }
}
