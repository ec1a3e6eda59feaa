import { inOrder } from '../document/order'
import type { Clip, Lane } from '../document/records'
import type { Outline } from '../document/units'
import { secondsOfFrames, type Rate } from '../time/rate'
import { factorOfDb } from './decibels'
import type { Ramp } from './envelope'

/** A clip at its time in the film. Times are seconds of the film. */
export interface PlacedClip {
  readonly clip: Clip
  readonly startSeconds: number
  readonly endSeconds: number
  /** Clip's and lane's gain together; 0 where the lane is not heard. */
  readonly factor: number
  /** Its fades, crossings with its neighbours, and those of transitions. */
  readonly ramps: readonly Ramp[]
  /** Of the fade at either end as it is heard: its own, or a longer crossing. */
  readonly fadeInSeconds: number
  readonly fadeOutSeconds: number
}

/** Where the sound of two shots crosses over, or all sound comes and goes with the film. */
export interface SoundCrossing {
  /** Null at the film's start and end: every clip. */
  readonly outShotId: string | null
  readonly inShotId: string | null
  readonly kind: 'cut' | 'start' | 'end'
  readonly fromSeconds: number
  readonly toSeconds: number
}

export interface PlacedSound {
  /** By start. */
  readonly clips: readonly PlacedClip[]
  readonly lanes: readonly Lane[]
  /** Clips whose shot is not in the film. */
  readonly tray: readonly Clip[]
  /** Clips of which anything lies in a span of the film, by start. */
  between(fromSeconds: number, toSeconds: number): readonly PlacedClip[]
  placeOf(clipId: string): PlacedClip | null
}

/** Whether a lane is heard: not muted, and soloed where any is. */
export function isHeard(lane: Lane, lanes: readonly Lane[]): boolean {
  return !lane.muted && (lane.soloed || !lanes.some((each) => each.soloed))
}

/** The film's sound. `startOf` gives the first frame of a shot in the film; null where it is not in it. */
export function placeSound(outline: Pick<Outline, 'lanes' | 'clips'>, rate: Rate, startOf: (shotId: string) => number | null, crossings: readonly SoundCrossing[] = []): PlacedSound {
  const lanes = inOrder(outline.lanes)
  const factors = new Map(lanes.map((lane) => [lane.id, isHeard(lane, lanes) ? factorOfDb(lane.gainDb) : 0]))
  const tray: Clip[] = []
  const inLane = new Map<string, Spanned[]>()
  for (const clip of Object.values(outline.clips)) {
    const shotStart = clip.shotId === null ? 0 : startOf(clip.shotId)
    if (shotStart === null || !factors.has(clip.laneId)) {
      tray.push(clip)
      continue
    }
    const startSeconds = secondsOfFrames(shotStart + clip.offsetFrames, rate)
    const spanned = { clip, startSeconds, endSeconds: startSeconds + clip.lengthSeconds }
    const known = inLane.get(clip.laneId)
    if (known === undefined) inLane.set(clip.laneId, [spanned])
    else known.push(spanned)
  }
  const clips: PlacedClip[] = []
  for (const [laneId, spans] of inLane) {
    spans.sort(byStart)
    const fades = crossedFades(spans)
    spans.forEach(({ clip, startSeconds, endSeconds }, i) => {
      const { fadeInSeconds, fadeOutSeconds } = fades[i]!
      const ramps: Ramp[] = []
      if (fadeInSeconds > 0) ramps.push({ kind: 'in', fromSeconds: startSeconds, toSeconds: startSeconds + fadeInSeconds })
      if (fadeOutSeconds > 0) ramps.push({ kind: 'out', fromSeconds: endSeconds - fadeOutSeconds, toSeconds: endSeconds })
      ramps.push(...crossingRamps(clip, startSeconds, endSeconds, crossings))
      clips.push({ clip, startSeconds, endSeconds, factor: factors.get(laneId)! * factorOfDb(clip.gainDb), ramps, fadeInSeconds, fadeOutSeconds })
    })
  }
  clips.sort(byStart)
  tray.sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : a.id < b.id ? -1 : 1))
  // For each clip the latest end of any before it: from the first that reaches a moment on, all are looked at.
  const reach = new Float64Array(clips.length)
  clips.forEach(({ endSeconds }, i) => (reach[i] = Math.max(endSeconds, i === 0 ? -Infinity : reach[i - 1]!)))
  const byId = new Map(clips.map((placed) => [placed.clip.id, placed]))
  return {
    clips,
    lanes,
    tray,
    placeOf: (id) => byId.get(id) ?? null,
    between(fromSeconds, toSeconds) {
      let low = 0
      let high = clips.length
      while (low < high) {
        const mid = (low + high) >> 1
        if (reach[mid]! <= fromSeconds) low = mid + 1
        else high = mid
      }
      const found: PlacedClip[] = []
      for (let i = low; i < clips.length && clips[i]!.startSeconds < toSeconds; i++) if (clips[i]!.endSeconds > fromSeconds) found.push(clips[i]!)
      return found
    },
  }
}

interface Spanned {
  readonly clip: Clip
  readonly startSeconds: number
  readonly endSeconds: number
}

const byStart = (a: Spanned, b: Spanned) => a.startSeconds - b.startSeconds || (a.clip.id < b.clip.id ? -1 : 1)

/**
 * Fades of clips in one lane, in the order of their starts. Where one begins before the one before it has ended, and
 * outlasts it, the two cross over for as long as they overlap: each fades at least that long. A clip that lies wholly in
 * another is heard beside it.
 */
export function crossedFades(spans: readonly Spanned[]): { readonly fadeInSeconds: number; readonly fadeOutSeconds: number }[] {
  const fades = spans.map(({ clip }) => ({ fadeInSeconds: clip.fadeInSeconds, fadeOutSeconds: clip.fadeOutSeconds }))
  let last = -1
  spans.forEach((span, i) => {
    const before = spans[last]
    if (before !== undefined) {
      const overlap = before.endSeconds - span.startSeconds
      if (overlap > 0 && span.endSeconds > before.endSeconds) {
        fades[last]!.fadeOutSeconds = Math.max(fades[last]!.fadeOutSeconds, overlap)
        fades[i]!.fadeInSeconds = Math.max(fades[i]!.fadeInSeconds, overlap)
      }
    }
    if (before === undefined || span.endSeconds > before.endSeconds) last = i
  })
  // Fades of a clip that is too short for both share it in their proportion.
  return fades.map(({ fadeInSeconds, fadeOutSeconds }, i) => {
    const { lengthSeconds } = spans[i]!.clip
    const scale = Math.min(1, lengthSeconds / Math.max(1e-9, fadeInSeconds + fadeOutSeconds))
    return { fadeInSeconds: fadeInSeconds * scale, fadeOutSeconds: fadeOutSeconds * scale }
  })
}

/** What transitions do to a clip: those of its own shot, and those of the film’s ends. */
function crossingRamps(clip: Clip, startSeconds: number, endSeconds: number, crossings: readonly SoundCrossing[]): Ramp[] {
  const ramps: Ramp[] = []
  for (const { kind, outShotId, inShotId, fromSeconds, toSeconds } of crossings) {
    if (kind === 'start' && startSeconds < toSeconds) ramps.push({ kind: 'in', fromSeconds, toSeconds })
    else if (kind === 'end' && endSeconds > fromSeconds) ramps.push({ kind: 'out', fromSeconds, toSeconds })
    else if (kind === 'cut' && clip.shotId !== null && clip.shotId === outShotId && endSeconds > fromSeconds) ramps.push({ kind: 'out', fromSeconds, toSeconds })
    else if (kind === 'cut' && clip.shotId !== null && clip.shotId === inShotId && startSeconds < toSeconds) ramps.push({ kind: 'in', fromSeconds, toSeconds })
  }
  return ramps
}
