/** Samples a second of the made-up voice. */
export const BABBLE_RATE_HZ = 24_000

export interface BabbleVoice {
  /** The voice's own pitch. */
  readonly pitchHz: number
  /** Of the throat: below 1 a large one, above 1 a small one. */
  readonly throat: number
}

/** A whole number from text; the same text gives the same (FNV-1a). */
function hashOf(text: string): number {
  let hash = 0x811c9dc5
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  return hash >>> 0
}

/** 0…1, each call the next of a series that the seed decides (mulberry32). */
function seriesOf(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32
  }
}

/** The voice that a name has. */
export function voiceOf(name: string): BabbleVoice {
  const next = seriesOf(hashOf(name.trim().toLowerCase()))
  const pitchHz = 95 * 2 ** (next() * 1.4)
  return { pitchHz, throat: 0.86 + 0.3 * ((pitchHz - 95) / 156) + (next() - 0.5) * 0.1 }
}

/** The first two resonances of vowels, Hz, near those of a grown voice (Peterson and Barney, 1952). */
const VOWELS: Readonly<Record<string, readonly [number, number]>> = { a: [730, 1090], e: [530, 1840], i: [300, 2250], o: [570, 840], u: [320, 880], y: [390, 1990] }
const HISSES = new Set('csxzfjt')
const STOPS = new Set('pbkgdqt')

interface Syllable {
  readonly onset: 'hiss' | 'stop' | 'soft'
  readonly vowel: readonly [number, number]
  readonly stressed: boolean
  /** Seconds of silence after it. */
  readonly pauseSeconds: number
  /** It ends what was asked, exclaimed or said. */
  readonly ending: '?' | '!' | '.' | ''
}

function syllablesOf(text: string): Syllable[] {
  const syllables: Syllable[] = []
  for (const word of text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().split(/\s+/)) {
    const letters = word.replace(/[^\p{L}\p{N}]/gu, '')
    if (letters === '') continue
    const groups = [...letters.matchAll(/([^aeiouy]*)([aeiouy]+)/g)]
    // What has no vowel, in any script, is one sound for every two signs.
    const parts = groups.length > 0 ? groups.map((group) => ({ before: group[1]!, vowel: group[2]![0]! })) : Array.from({ length: Math.max(1, Math.ceil(letters.length / 2)) }, (_, i) => ({ before: letters[i * 2] ?? '', vowel: 'aeiou'[hashOf(letters.slice(i * 2, i * 2 + 2)) % 5]! }))
    const mark = /[.!?…,;:—–-]+["'”’)]*$/.exec(word)?.[0] ?? ''
    parts.forEach(({ before, vowel }, i) => {
      const last = i === parts.length - 1
      const initial = before[0] ?? ''
      const onset = HISSES.has(initial) ? 'hiss' : STOPS.has(initial) ? 'stop' : 'soft'
      const full = /[.!?…]/.test(mark)
      syllables.push({ onset, vowel: VOWELS[vowel] ?? VOWELS.a!, stressed: i === 0 && letters.length > 3, pauseSeconds: !last ? 0 : full ? 0.34 : mark !== '' ? 0.18 : 0.035, ending: last && full ? (mark.includes('?') ? '?' : mark.includes('!') ? '!' : '.') : '' })
    })
  }
  return syllables
}

/** A resonance: a filter of second order that rings at `hz`, unity at its peak (Klatt, 1980). */
function resonator(hz: number, bandwidthHz: number) {
  const r = Math.exp((-Math.PI * bandwidthHz) / BABBLE_RATE_HZ)
  const b = 2 * r * Math.cos((2 * Math.PI * hz) / BABBLE_RATE_HZ)
  const c = -r * r
  const a = 1 - b - c
  let y1 = 0
  let y2 = 0
  return (x: number) => {
    const y = a * x + b * y1 + c * y2
    y2 = y1
    y1 = y
    return y
  }
}

/**
 * Words spoken in a made-up voice: no language, but with as many syllables as the words have, their stresses, and pauses
 * where they have marks. The same words and voice give the same samples. Empty for words that have no letter.
 *
 * `pace` is how much faster than its usual 5½ syllables a second it speaks.
 */
export function babble(text: string, voice: BabbleVoice, pace = 1): Float32Array {
  const syllables = syllablesOf(text)
  const next = seriesOf(hashOf(`${text}${voice.pitchHz}`))
  const lengths = syllables.map((syllable) => Math.round((BABBLE_RATE_HZ * ((syllable.stressed ? 0.2 : 0.155) + next() * 0.03)) / pace))
  const pauses = syllables.map((syllable) => Math.round((BABBLE_RATE_HZ * syllable.pauseSeconds) / pace))
  const out = new Float32Array(lengths.reduce((sum, length, i) => sum + length + pauses[i]!, 0))
  let at = 0
  let phase = 0
  let sinceEnd = 0
  syllables.forEach((syllable, s) => {
    const length = lengths[s]!
    const [f1, f2] = syllable.vowel
    const filters = [resonator(f1 * voice.throat, 80), resonator(f2 * voice.throat, 120), resonator(2700 * voice.throat, 190)]
    const hiss = resonator(syllable.onset === 'hiss' ? 4600 : 1800, 1500)
    const onset = Math.round(BABBLE_RATE_HZ * (syllable.onset === 'hiss' ? 0.055 : syllable.onset === 'stop' ? 0.035 : 0.02))
    // Pitch falls through a sentence; a question rises at its end.
    const fall = Math.max(0.78, 1 - sinceEnd * 0.012)
    const lift = syllable.stressed ? 1.1 : 1
    for (let i = 0; i < length; i++) {
      const share = i / length
      const bend = syllable.ending === '?' ? 1 + 0.45 * share : syllable.ending === '!' ? 1.2 - 0.25 * share : syllable.ending === '.' ? 1 - 0.18 * share : 1
      phase += (voice.pitchHz * fall * lift * bend) / BABBLE_RATE_HZ
      phase -= Math.floor(phase)
      // A glottis: opens slowly, shuts fast.
      const source = phase < 0.6 ? phase / 0.6 : (1 - phase) / 0.4 - (phase > 0.95 ? 1 : 0)
      const voiced = i < onset ? (syllable.onset === 'soft' ? i / onset : 0) : 1
      const breath = next() * 2 - 1
      const noise = i < onset ? hiss(breath) * (syllable.onset === 'hiss' ? 0.5 : i < onset * 0.6 ? 0 : 0.7) : 0
      const rise = Math.min(1, Math.max(0, i - (syllable.onset === 'soft' ? 0 : onset)) / 240)
      const shape = rise * Math.min(1, (length - i) / 700)
      const body = (source - 0.4 + breath * 0.02) * voiced
      const vowel = filters.reduce((sum, filter, k) => sum + filter(body) * [1, 0.7, 0.25][k]!, 0)
      out[at + i] = Math.tanh((vowel * shape * (syllable.stressed ? 1.15 : 0.9) + noise * 0.5) * 1.1) * 0.8
    }
    at += length + pauses[s]!
    sinceEnd = syllable.ending === '' ? sinceEnd + 1 : 0
  })
  return out
}
