import type { Clip, Lane } from '@rubato/core/document'
import { MIX_RATE_HZ, mixBlock, needsOf, placeSound, type PlacedSound, type SoundCrossing } from '@rubato/core/sound'
import type { Rate } from '@rubato/core/time'
import type { Recordings } from './recordings'

/** The film's sound as it is sent to a worker: plain records, and where their shots begin. */
export interface SoundPlan {
  readonly rate: Rate
  readonly lanes: readonly Lane[]
  readonly clips: readonly Clip[]
  /** First frames, of the shots that clips are tied to. */
  readonly starts: Readonly<Record<string, number>>
  readonly crossings: readonly SoundCrossing[]
}

const byId = <T extends { readonly id: string }>(records: readonly T[]) => Object.fromEntries(records.map((record) => [record.id, record]))

export function placedSoundOf({ rate, lanes, clips, starts, crossings }: SoundPlan): PlacedSound {
  return placeSound({ lanes: byId(lanes), clips: byId(clips) }, rate, (shotId) => starts[shotId] ?? null, crossings)
}

/** Mixes samples of the film, from any on, once what it needs is here. Before the film's start there is silence. */
export async function mixOf(sound: PlacedSound, recordings: Recordings, first: number, count: number): Promise<readonly [Float32Array, Float32Array]> {
  const near = sound.between(first / MIX_RATE_HZ - 1, (first + count) / MIX_RATE_HZ + 1)
  await recordings.open([...new Set(near.filter((placed) => placed.factor > 0).map((placed) => placed.clip.assetHash))])
  await recordings.load(needsOf(sound, first, count, recordings.shapeOf))
  return mixBlock(sound, first, count, recordings.read, recordings.shapeOf)
}
