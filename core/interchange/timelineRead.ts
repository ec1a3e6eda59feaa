import { openBreakdown, openSet, openTakeBody, storedOutlineSchema, type Opened } from '../document/migrate'
import { MARK_MEANINGS, type MarkMeaning } from '../document/records'
import { holdable, shorten } from '../document/text'
import { freeze, type Outline } from '../document/units'
import type { CutList, CutMark, CutPanel, CutPicture, CutSound, CutTransition } from '../stage/cutList'
import { framesPerSecond, RATES, rateName, type Rate } from '../time/rate'
import { meaningOf, OWN, type TimelineFilm } from './timelineFile'

export type CutRead =
  | { readonly ok: true; readonly list: CutList; /** All that a Rubato of before wrote; null for a list made elsewhere. */ readonly film: TimelineFilm | null; /** What could not be taken, in words. */ readonly notes: readonly string[] }
  | { readonly ok: false; readonly why: string }

/** The largest list that is read, letters: a film of 1,000 shots and 10,000 panels is a tenth of it. */
const CUT_LETTERS = 256 * 1024 * 1024
const DEPTH_MOST = 24
const ITEMS_MOST = 200_000
const FRAMES_MOST = 1e8

type Json = Readonly<Record<string, unknown>>
/** What can't be read as anything: said as it is. */
class Unreadable extends Error {}
const isJson = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value)
const listIn = (value: unknown): readonly unknown[] => (Array.isArray(value) ? value : [])
const textIn = (value: unknown, letters: number): string => (typeof value === 'string' ? shorten(holdable(value), letters) : '')
const schemaOf = (value: unknown): string => (isJson(value) && typeof value.OTIO_SCHEMA === 'string' ? value.OTIO_SCHEMA.split('.')[0]! : '')
const ownOf = (value: Json): Json => (isJson(value.metadata) && isJson(value.metadata[OWN]) ? value.metadata[OWN] : {})
const idIn = (value: unknown): string | null => (typeof value === 'string' && /^[a-z0-9][a-z0-9_-]{0,63}$/i.test(value) ? value : null)
const numberIn = (value: unknown): number | undefined => (typeof value === 'number' && Number.isFinite(value) ? value : undefined)

interface Seconds {
  readonly seconds: number
  readonly rate: number
}
function timeIn(value: unknown): Seconds | null {
  if (!isJson(value)) return null
  const [count, rate] = [numberIn(value.value), numberIn(value.rate)]
  if (count === undefined || rate === undefined) return null
  if (!(rate > 0 && rate <= 1e6)) throw new Unreadable(`A time in it is counted at ${rate} a second, which no time can be.`)
  const seconds = count / rate
  if (Math.abs(seconds) > 1e7) throw new Unreadable('A time in it is longer than any film: it is damaged, or of something else.')
  return { seconds, rate }
}
const rangeIn = (value: unknown) => (isJson(value) ? { start: timeIn(value.start_time), duration: timeIn(value.duration) } : { start: null, duration: null })

/** Reads an OpenTimelineIO timeline, made here or elsewhere. Whatever it is, what comes is a list or a refusal in words. */
export function readTimeline(text: string): CutRead {
  if (text.length > CUT_LETTERS) return { ok: false, why: `It is larger than ${CUT_LETTERS / 1024 / 1024} MB, which no cut of a film is.` }
  let file: unknown
  try {
    file = JSON.parse(text)
  } catch {
    return { ok: false, why: 'It is not a timeline: it is cut short, or not JSON.' }
  }
  try {
    const timeline = timelineIn(file)
    if (typeof timeline === 'string') return { ok: false, why: timeline }
    return new Reader(timeline).read()
  } catch (error) {
    if (error instanceof Unreadable) return { ok: false, why: error.message }
    if (error instanceof RangeError) return { ok: false, why: 'It is nested deeper than any cut of a film.' }
    throw error
  }
}

function timelineIn(file: unknown): Json | string {
  if (schemaOf(file) === 'Timeline') return file as Json
  if (schemaOf(file) !== 'SerializableCollection') return 'It is JSON, but no OpenTimelineIO timeline.'
  const found = listIn((file as Json).children).filter((each) => schemaOf(each) === 'Timeline')
  if (found.length === 1) return found[0] as Json
  return found.length === 0 ? 'It is a collection without a timeline.' : `It holds ${found.length} timelines. Save the one that is meant by itself.`
}

class Reader {
  readonly #timeline: Json
  readonly #tracks: readonly Json[]
  readonly #rate: Rate
  readonly #fps: number
  readonly #counts = new Map<string, number>()
  #items = 0

  constructor(timeline: Json) {
    this.#timeline = timeline
    const stack = timeline.tracks
    if (schemaOf(stack) !== 'Stack') throw new Unreadable('Its timeline has no tracks.')
    this.#tracks = listIn((stack as Json).children).filter((each): each is Json => schemaOf(each) === 'Track')
    this.#rate = this.#rateOf()
    this.#fps = framesPerSecond(this.#rate)
  }

  read(): CutRead {
    const start = timeIn(this.#timeline.global_start_time)
    const videos = this.#tracks.filter((each) => each.kind === 'Video' || each.kind === undefined)
    const main = [...videos].sort((a, b) => listIn(b.children).length - listIn(a.children).length)[0]
    if (main === undefined || listIn(main.children).length === 0) throw new Unreadable('There are no pictures in it.')
    if (videos.length > 1) this.#note('more', videos.length - 1)
    const { pictures, transitions, marks } = this.#pictures(main)
    if (!pictures.some(({ kind }) => kind === 'shot')) throw new Unreadable('There are no pictures in it.')
    const told = ownOf(this.#timeline)
    const list: CutList = {
      title: textIn(this.#timeline.name, 200),
      rate: this.#rate,
      startFrame: start === null ? 0 : Math.max(0, Math.round(start.seconds * this.#fps)),
      drop: told.dropFrame === true,
      pictures,
      transitions,
      sounds: this.#tracks.filter((each) => each.kind === 'Audio').flatMap((each) => this.#sounds(each)),
      marks: [...marks, ...this.#marks(this.#timeline.tracks as Json, 0, 0)].sort((a, b) => a.frame - b.frame),
      soundWithin: 0.02,
    }
    const film = this.#film(told)
    return { ok: true, list, film, notes: [...this.#counts].map(([what, count]) => NOTES[what]!(count)) }
  }

  #note(what: string, by = 1) {
    this.#counts.set(what, (this.#counts.get(what) ?? 0) + by)
  }

  /** That of the pictures: as the first of them is counted, or the timeline. */
  #rateOf(): Rate {
    const rates: number[] = []
    const look = (value: unknown, depth: number): void => {
      if (rates.length > 0 || depth > DEPTH_MOST || !isJson(value)) return
      const { duration } = rangeIn(value.source_range)
      if (duration !== null) rates.push(duration.rate)
      for (const child of listIn(value.children)) look(child, depth + 1)
    }
    for (const each of this.#tracks) if (each.kind !== 'Audio') look(each, 0)
    const found = rates[0] ?? timeIn(this.#timeline.global_start_time)?.rate
    if (found === undefined) throw new Unreadable('Nothing in it has a length.')
    const known = RATES.find((rate) => Math.abs(framesPerSecond(rate) - found) < 0.006)
    if (known === undefined) throw new Unreadable(`It is made for ${found} frames a second; a film has ${RATES.map(rateName).join(', ')}.`)
    return known
  }

  #frames({ seconds }: Seconds): number {
    const exact = seconds * this.#fps
    const whole = Math.round(exact)
    if (Math.abs(exact - whole) > 0.02) this.#note('between')
    if (Math.abs(whole) > FRAMES_MOST) throw new Unreadable('A time in it is longer than any film: it is damaged, or of something else.')
    return whole
  }

  #pictures(main: Json): { readonly pictures: readonly CutPicture[]; readonly transitions: readonly CutTransition[]; readonly marks: readonly CutMark[] } {
    const pictures: CutPicture[] = []
    const transitions: CutTransition[] = []
    const marks: CutMark[] = []
    let at = 0
    for (const child of listIn(main.children)) {
      this.#count()
      const schema = schemaOf(child)
      if (schema === 'Transition') {
        transitions.push(this.#transition(child as Json, pictures.length))
        continue
      }
      const lengthFrames = this.#length(child, 0)
      if (!isJson(child) || lengthFrames <= 0) continue
      const { start } = rangeIn(child.source_range)
      const available = rangeIn(this.#media(child).available_range).start
      const told = ownOf(child)
      const zero = numberIn(told.zero)
      const sourceFrame = start === null ? null : this.#frames(start)
      const speeds = listIn(child.effects).filter((effect) => isJson(effect) && ((schemaOf(effect) === 'LinearTimeWarp' && effect.time_scalar !== 1) || schemaOf(effect) === 'FreezeFrame'))
      if (speeds.length > 0) this.#note('speed')
      if (schema !== 'Gap' && child.enabled === false) this.#note('off')
      const isGap = schema === 'Gap' || child.enabled === false
      pictures.push({
        kind: isGap ? 'gap' : 'shot',
        shotId: isGap ? null : idIn(told.shot),
        label: textIn(child.name, 200),
        title: textIn(told.title, 300),
        lengthFrames,
        sourceFrame: isGap ? null : sourceFrame,
        sourceZero: zero ?? (available === null || sourceFrame === null || this.#isWhole(child) ? null : this.#frames(available)),
        panels: schema === 'Stack' || schema === 'Track' ? this.#panels(child) : [],
      })
      marks.push(...this.#marks(child, at, sourceFrame ?? 0))
      at += lengthFrames
    }
    return { pictures, transitions, marks }
  }

  /** Whether its medium is much longer than what is seen of it: then its beginning is not the shot's. */
  #isWhole(child: Json): boolean {
    const [seen, media] = [rangeIn(child.source_range).duration, rangeIn(this.#media(child).available_range).duration]
    return seen !== null && media !== null && media.seconds > 4 * seen.seconds + 20
  }

  #media(child: Json): Json {
    const key = typeof child.active_media_reference_key === 'string' ? child.active_media_reference_key : 'DEFAULT_MEDIA'
    const many = isJson(child.media_references) && Object.hasOwn(child.media_references, key) ? child.media_references[key] : null
    return isJson(many) ? many : isJson(child.media_reference) ? child.media_reference : {}
  }

  #count() {
    if (++this.#items > ITEMS_MOST) throw new Unreadable(`There are more than ${ITEMS_MOST.toLocaleString('en')} pieces in it.`)
  }

  #length(value: unknown, depth: number): number {
    if (depth > DEPTH_MOST) throw new Unreadable('It is nested deeper than any cut of a film.')
    if (!isJson(value)) return 0
    const { duration } = rangeIn(value.source_range)
    if (duration !== null) return Math.max(0, this.#frames(duration))
    const children = listIn(value.children)
    if (schemaOf(value) === 'Stack') return Math.max(0, ...children.map((child) => (this.#count(), this.#length(child, depth + 1))))
    if (schemaOf(value) === 'Track') return children.reduce<number>((sum, child) => (this.#count(), sum + (schemaOf(child) === 'Transition' ? 0 : this.#length(child, depth + 1))), 0)
    const available = rangeIn(this.#media(value).available_range).duration
    return available === null ? 0 : Math.max(0, this.#frames(available))
  }

  #panels(shot: Json): readonly CutPanel[] {
    const first = schemaOf(shot) === 'Track' ? shot : listIn(shot.children).find((each): each is Json => isJson(each) && schemaOf(each) === 'Track' && each.kind !== 'Audio')
    return listIn(first?.children).flatMap((panel): CutPanel[] => {
      this.#count()
      const lengthFrames = schemaOf(panel) === 'Transition' ? 0 : this.#length(panel, 1)
      if (!isJson(panel) || lengthFrames <= 0) return []
      const told = ownOf(panel)
      return [{ lengthFrames, action: textIn(told.action, 10_000), dialogue: textIn(told.dialogue, 10_000) }]
    })
  }

  #transition(value: Json, into: number): CutTransition {
    const told = ownOf(value)
    const [before, after] = [value.in_offset, value.out_offset].map((each) => ((at) => (at === null ? 0 : Math.max(0, this.#frames(at))))(timeIn(each))) as [number, number]
    const kind = told.kind === 'wipe' || told.kind === 'colour' || told.kind === 'dissolve' ? told.kind : 'dissolve'
    if (told.kind === undefined && value.transition_type !== 'SMPTE_Dissolve') this.#note('custom')
    const { angleDegrees, softness, colour, soundToo } = told
    const whole = typeof angleDegrees === 'number' && Math.abs(angleDegrees) <= 36_000 && typeof softness === 'number' && softness >= 0 && softness <= 1 && typeof colour === 'string' && /^#[0-9a-f]{6}$/i.test(colour) && typeof soundToo === 'boolean'
    return { into, kind, before, after, ...(whole ? { look: { angleDegrees, softness, colour, soundToo } } : {}) }
  }

  #marks(value: Json, at: number, from: number): readonly CutMark[] {
    return listIn(value.markers).flatMap((marker): CutMark[] => {
      this.#count()
      if (!isJson(marker)) return []
      const { start } = rangeIn(marker.marked_range ?? marker.range)
      const told = ownOf(marker)
      const meaning = MARK_MEANINGS.find((each) => each === told.meaning) ?? meaningOf(marker.color)
      return [{ markId: idIn(told.id), frame: Math.max(0, at + (start === null ? 0 : this.#frames(start) - from)), name: textIn(marker.name, 120), meaning: meaning satisfies MarkMeaning }]
    })
  }

  #sounds(track: Json): readonly CutSound[] {
    const sounds: CutSound[] = []
    const told = ownOf(track)
    let at = 0
    let fadeIn = 0
    for (const child of listIn(track.children)) {
      this.#count()
      if (!isJson(child)) continue
      if (schemaOf(child) === 'Transition') {
        const [inward, outward] = [timeIn(child.in_offset)?.seconds ?? 0, timeIn(child.out_offset)?.seconds ?? 0]
        fadeIn = Math.max(0, outward)
        const last = sounds.at(-1)
        if (last !== undefined && inward > 0) sounds[sounds.length - 1] = { ...last, fadeOutSeconds: inward }
        continue
      }
      const { start, duration } = rangeIn(child.source_range)
      const media = this.#media(child)
      const available = rangeIn(media.available_range)
      const seconds = Math.max(0, (duration ?? available.duration)?.seconds ?? 0)
      if (schemaOf(child) === 'Clip' && seconds > 0 && child.enabled !== false) {
        const mine = ownOf(child)
        const before = (numberIn(mine.beforeFilm) ?? 0) / 48_000
        const gain = listIn(child.effects).flatMap((effect) => (isJson(effect) ? (numberIn(ownOf(effect).gainDb) ?? []) : []))[0]
        sounds.push({
          clipId: idIn(mine.clip),
          name: textIn(child.name, 200),
          laneId: idIn(told.lane),
          laneName: textIn(track.name, 80),
          atFrame: (at - Math.max(0, Math.min(3600, before))) * this.#fps,
          fromSeconds: Math.max(0, (start?.seconds ?? 0) - (available.start?.seconds ?? 0) - before),
          lengthSeconds: seconds + before,
          ...(mine.clip === undefined && gain === undefined ? {} : { gainDb: Math.min(24, Math.max(-60, gain ?? 0)), fadeInSeconds: fadeIn, fadeOutSeconds: 0 }),
          assetHash: ((hash) => (typeof hash === 'string' && /^[0-9a-f]{64}$/.test(hash) ? hash : null))(ownOf(media).sha256),
        })
      }
      fadeIn = 0
      at += seconds
      if (at > 1e7) throw new Unreadable('Its sound is longer than any film.')
    }
    return sounds
  }

  /** The film as it was when the list was written here, where all of it is there and whole. */
  #film(told: Json): TimelineFilm | null {
    if (!isJson(told.film)) return null
    const format = numberIn(told.format) ?? 0
    const outline = storedOutlineSchema.safeParse(told.film.outline)
    if (!outline.success || !Number.isInteger(format)) return this.#noFilm()
    const open = <T>(units: unknown, one: (stored: unknown, version: number) => Opened<T>): Record<string, T> | null => {
      const found: Record<string, T> = {}
      for (const [id, stored] of Object.entries(isJson(units) ? units : {})) {
        const opened = one(stored, format)
        if (!opened.ok || idIn(id) === null) return null
        found[id] = opened.value
      }
      return found
    }
    const takes = open(told.film.takes, openTakeBody)
    const sets = open(told.film.sets, openSet)
    const breakdowns = open(told.film.breakdowns, openBreakdown)
    if (takes === null || sets === null || breakdowns === null) return this.#noFilm()
    return { outline: freeze(outline.data as Outline), takes, sets, breakdowns }
  }
  #noFilm(): null {
    this.#note('film')
    return null
  }
}

const many = (count: number, one: string, several: string) => (count === 1 ? one : `${count} ${several}`)
const NOTES: Readonly<Record<string, (count: number) => string>> = {
  more: (n) => `${many(n, 'One more track of pictures is', 'more tracks of pictures are')} left out: only the one with most in it is taken.`,
  between: (n) => `${many(n, 'One time lies', 'times lie')} between frames, and ${n === 1 ? 'is' : 'are'} taken as the nearest.`,
  speed: (n) => `${many(n, 'One picture runs', 'pictures run')} at another speed: ${n === 1 ? 'its length is' : 'their lengths are'} taken, the speed is not.`,
  off: (n) => `${many(n, 'One picture is', 'pictures are')} turned off, and ${n === 1 ? 'counts' : 'count'} as nothing for as long.`,
  custom: (n) => `${many(n, 'One transition is', 'transitions are')} of a kind that is not known here, and ${n === 1 ? 'becomes a dissolve' : 'become dissolves'}.`,
  film: () => 'What Rubato wrote beside the cut is damaged: only the cut itself is taken.',
}
