import { FORMAT_VERSION, type Breakdown, type Outline, type SetBody, type TakeBody } from '../document/units'
import { MARK_MEANINGS, type MarkMeaning } from '../document/records'
import { firstCamera } from '../document/panels'
import { liveSpans } from '../document/liveCamera'
import { placedPanels } from '../document/panels'
import { inOrder } from '../document/order'
import { createFilmStage, type FilmStage } from '../stage/filmStage'
import { cutListOf, startsOf, type CutList, type CutSound, type CutTransition } from '../stage/cutList'
import { takeLengthFrames } from '../document/panels'
import { framesPerSecond, type Rate } from '../time/rate'

/** What of a film a timeline carries: all but its art, its recordings and the samples of tries. */
export interface TimelineFilm {
  readonly outline: Outline
  readonly takes: Readonly<Record<string, TakeBody>>
  readonly sets?: Readonly<Record<string, SetBody>>
  readonly breakdowns?: Readonly<Record<string, Breakdown>>
}

export interface TimelineOptions {
  /** Each shot as a stack with a clip a panel and its cameras; else as one clip. */
  readonly nested: boolean
  /** The movie of the whole film that was made beside it, as its readers find it; null: none was. */
  readonly movie: string | null
}

/** Under this key stands what the schema has no place for. */
export const OWN = 'rubato'
/** Sound is placed to a sample. */
const SOUND_RATE = 48_000
export const TIMELINE_EXTENSION = 'otio'
const MARK_COLOURS: Readonly<Record<MarkMeaning, string>> = Object.freeze({ note: 'YELLOW', voice: 'GREEN', sound: 'CYAN', change: 'ORANGE', mend: 'RED' })
export const meaningOf = (colour: unknown): MarkMeaning => MARK_MEANINGS.find((meaning) => MARK_COLOURS[meaning] === colour) ?? 'note'

type Json = Readonly<Record<string, unknown>>
const time = (value: number, rate: number): Json => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value })
const range = (start: number, duration: number, rate: number): Json => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, rate), duration: time(duration, rate) })
const own = (fields: Json): Json => ({ [OWN]: fields })
const item = (schema: string, name: string, sourceRange: Json | null, metadata: Json, more: Json = {}): Json => ({ OTIO_SCHEMA: schema, name, source_range: sourceRange, effects: [], markers: [], enabled: true, metadata, ...more })
const track = (name: string, kind: string, children: readonly Json[], metadata: Json = {}, enabled = true): Json => item('Track.1', name, null, metadata, { kind, children, enabled })
const gap = (duration: number, rate: number): Json => item('Gap.1', '', range(0, duration, rate), {})

/**
 * A film as an OpenTimelineIO timeline (`Timeline.1`, clips as `Clip.1`, which every version reads): a track of pictures with its
 * transitions, a track a lane of sound, marks on the shots that they stand in. Times of pictures are whole frames at the film's exact
 * rate, times of sound samples at 48 kHz.
 */
export function writeTimeline(film: TimelineFilm, options: TimelineOptions): string {
  const { outline, takes } = film
  const stage = createFilmStage(outline, (takeId) => ((body) => (body === undefined ? 0 : takeLengthFrames(body)))(takes[takeId]))
  const list = cutListOf(outline, stage)
  const rate = framesPerSecond(list.rate)
  return JSON.stringify({
    OTIO_SCHEMA: 'Timeline.1',
    name: list.title,
    global_start_time: time(list.startFrame, rate),
    metadata: own({ format: FORMAT_VERSION, dropFrame: list.drop, film: { outline, takes, sets: film.sets ?? {}, breakdowns: film.breakdowns ?? {} } }),
    tracks: item('Stack.1', 'tracks', null, {}, { children: [track('Pictures', 'Video', pictures(film, stage, list, options)), ...soundTracks(outline, list)] }),
  })
}

function pictures({ takes, outline }: TimelineFilm, stage: FilmStage, list: CutList, { nested, movie }: TimelineOptions): readonly Json[] {
  const rate = framesPerSecond(list.rate)
  const starts = startsOf(list.pictures)
  const whole = starts.at(-1)!
  const into = new Map(list.transitions.map((each) => [each.into, each]))
  const marksOf = new Map<string, Json[]>()
  const media = movie === null ? { OTIO_SCHEMA: 'MissingReference.1', name: '', available_range: null, metadata: {} } : { OTIO_SCHEMA: 'ExternalReference.1', name: movie, target_url: movie, available_range: range(list.startFrame, whole, rate), metadata: {} }
  const firstOf = (index: number) => (movie === null ? list.pictures[index]!.sourceFrame! : list.startFrame + starts[index]!)
  for (const mark of list.marks) {
    const placed = stage.shotAt(mark.frame)!
    const start = (nested ? 0 : firstOf(placed.index)) + mark.frame - placed.startFrame
    const entry = { OTIO_SCHEMA: 'Marker.2', name: mark.name, color: MARK_COLOURS[mark.meaning], comment: '', marked_range: range(start, 1, rate), metadata: own({ id: mark.markId, meaning: mark.meaning }) }
    marksOf.set(placed.shot.id, [...(marksOf.get(placed.shot.id) ?? []), entry])
  }
  const clip = (name: string, start: number, frames: number, metadata: Json, more: Json = {}) => item('Clip.1', name, range(start, frames, rate), metadata, { media_reference: media, ...more })
  const children = list.pictures.flatMap(({ label, title, lengthFrames, shotId }, index) => {
    const shot = outline.shots[shotId!]!
    const take = takes[shot.circledTakeId]
    const sequence = outline.sequences[shot.sequenceId]
    const first = firstOf(index)
    const told = own({ shot: shotId, zero: (nested ? 0 : first) - (shot.startsAt ?? 0), title, sequence: `${sequence?.label ?? ''} ${sequence?.title ?? ''}`.trim(), take: outline.takes[shot.circledTakeId]?.letter ?? '' })
    const markers = marksOf.get(shotId!) ?? []
    const picture = nested && take !== undefined ? item('Stack.1', label, range(0, lengthFrames, rate), told, { markers, children: shotTracks(label, take, first, clip, rate) }) : clip(label, first, lengthFrames, told, { markers })
    return [...asTransition(into.get(index), rate), picture]
  })
  return [...children, ...asTransition(into.get(list.pictures.length), rate)]
}

/** A clip a panel, and beside them a clip for as long as each camera is live. */
function shotTracks(label: string, take: TakeBody, first: number, clip: (name: string, start: number, frames: number, metadata: Json) => Json, rate: number): readonly Json[] {
  const panels = placedPanels(take).map(({ panel, startFrame, index }) => clip(`${label} ${index + 1}`, first + startFrame, panel.lengthFrames, own({ panel: panel.id, action: panel.action, dialogue: panel.dialogue, notes: panel.notes })))
  const spans = liveSpans(take)
  const length = takeLengthFrames(take)
  const cameras = spans.map(({ from, cameraId, dissolveFrames }, i) => item('Clip.1', `Camera ${(take.cameras[cameraId] ?? firstCamera(take))?.letter ?? ''}`, range(0, (spans[i + 1]?.from ?? length) - from, rate), own({ camera: cameraId, dissolve: dissolveFrames }), { media_reference: null }))
  return [track('Panels', 'Video', panels), ...(cameras.length === 0 ? [] : [track('Cameras', 'Cameras', cameras)])]
}

function asTransition(transition: CutTransition | undefined, rate: number): readonly Json[] {
  if (transition === undefined) return []
  const { kind, before, after, look } = transition
  return [{ OTIO_SCHEMA: 'Transition.1', name: kind, transition_type: kind === 'dissolve' ? 'SMPTE_Dissolve' : 'Custom_Transition', in_offset: time(before, rate), out_offset: time(after, rate), metadata: own({ kind, ...look }) }]
}

/** A track a lane; of clips that lie over each other the later goes on one more. */
function soundTracks(outline: Outline, list: CutList): readonly Json[] {
  const samples = (seconds: number) => Math.round(seconds * SOUND_RATE)
  const secondsOf = (frames: number, { numerator, denominator }: Rate) => (frames * denominator) / numerator
  return inOrder(outline.lanes).flatMap((lane) => {
    const rows: { readonly children: Json[]; end: number }[] = []
    for (const sound of list.sounds.filter(({ laneId }) => laneId === lane.id)) {
      // What begins before the film begins with it.
      const start = samples(secondsOf(sound.atFrame, list.rate))
      const cut = Math.max(0, -start)
      const length = samples(sound.lengthSeconds) - cut
      if (length <= 0) continue
      let row = rows.find(({ end }) => end <= start + cut)
      if (row === undefined) rows.push((row = { children: [], end: 0 }))
      if (start + cut > row.end) row.children.push(gap(start + cut - row.end, SOUND_RATE))
      row.children.push(...soundClip(sound, samples(sound.fromSeconds) + cut, length, cut, outline))
      row.end = start + cut + length
    }
    return rows.map(({ children }, i) => track(i === 0 ? lane.name : `${lane.name} ${i + 1}`, 'Audio', children, own({ lane: lane.id, kind: lane.kind, gainDb: lane.gainDb, soloed: lane.soloed }), !lane.muted))
  })
}

function soundClip(sound: CutSound, from: number, length: number, cut: number, outline: Outline): readonly Json[] {
  const clip = outline.clips[sound.clipId!]!
  const fade = (inward: number, outward: number): Json => ({ OTIO_SCHEMA: 'Transition.1', name: 'fade', transition_type: 'SMPTE_Dissolve', in_offset: time(inward, SOUND_RATE), out_offset: time(outward, SOUND_RATE), metadata: {} })
  const [fadeIn, fadeOut] = [clip.fadeInSeconds, clip.fadeOutSeconds].map((seconds) => Math.round(seconds * SOUND_RATE)) as [number, number]
  const media = { OTIO_SCHEMA: 'MissingReference.1', name: sound.name, available_range: range(0, Math.round(clip.sourceSeconds * SOUND_RATE), SOUND_RATE), metadata: own({ sha256: clip.assetHash }) }
  const gain: readonly Json[] = clip.gainDb === 0 ? [] : [{ OTIO_SCHEMA: 'Effect.1', name: 'Gain', effect_name: 'Gain', metadata: own({ gainDb: clip.gainDb }) }]
  return [
    ...(fadeIn > 0 ? [fade(0, fadeIn)] : []),
    item('Clip.1', sound.name, range(from, length, SOUND_RATE), own({ clip: clip.id, beforeFilm: cut, shot: clip.shotId, speaker: clip.speaker, line: clip.line }), { media_reference: media, effects: gain }),
    ...(fadeOut > 0 ? [fade(fadeOut, 0)] : []),
  ]
}
