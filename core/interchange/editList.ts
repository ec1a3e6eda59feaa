import { MARK_MEANINGS, type MarkMeaning } from '../document/records'
import { holdable, shorten } from '../document/text'
import { listTimecode, startsOf, type CutList, type CutMark, type CutPicture, type CutSound, type CutTransition } from '../stage/cutList'
import { framesPerSecond, timecodeBase, type Rate } from '../time/rate'
import { frameOfTimecode } from '../time/timecode'
import type { CutRead } from './timelineRead'

export const EDIT_LIST_EXTENSION = 'edl'
const REEL_LETTERS = 8
const COMMENT_LETTERS = 200
const NOTHING = 'BL'

/** Names of reels: letters, digits and _ only, at most eight, no two alike. The first to ask gets the plainest. */
export function reelNames(): (of: string, name: string) => string {
  const known = new Map<string, string>()
  const taken = new Set([NOTHING, 'AX'])
  return (of, name) => {
    const before = known.get(of)
    if (before !== undefined) return before
    const plain = name.normalize('NFKD').toUpperCase().replace(/[^A-Z0-9_]/g, '').slice(0, REEL_LETTERS) || 'REEL'
    let reel = plain
    for (let n = 2; taken.has(reel); n++) reel = plain.slice(0, REEL_LETTERS - String(n).length) + n
    taken.add(reel)
    known.set(of, reel)
    return reel
  }
}

const oneLine = (text: string) => shorten(text.replace(/\s+/g, ' ').trim(), COMMENT_LETTERS)
const number3 = (value: number) => String(value).padStart(3, '0')

/** Lines of a CMX 3600 list, as its columns stand. */
class Lines {
  readonly #lines: string[]
  #event = 0
  constructor(list: CutList, title: string) {
    this.#lines = [`TITLE: ${oneLine(title)}`, `FCM: ${list.drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '']
  }
  next() {
    this.#event++
  }
  event(reel: string, channel: string, how: string, times: readonly string[]) {
    this.#lines.push(`${number3(this.#event)}  ${reel.padEnd(REEL_LETTERS)} ${channel.padEnd(5)} ${how.padEnd(8)} ${times.join(' ')}`)
  }
  comment(text: string) {
    this.#lines.push(`* ${oneLine(text)}`)
  }
  text() {
    return `${this.#lines.join('\r\n')}\r\n`
  }
}

/**
 * The pictures as a CMX 3600 list. A shot is a reel of its own, whose time begins at 01:00:00:00; a dissolve or wipe is an event of two
 * lines that begins where it begins to be seen. What the format has no column for stands in comments that are read again.
 */
export function writeEditList(list: CutList): string {
  const lines = new Lines(list, list.title)
  const reel = reelNames()
  const starts = startsOf(list.pictures)
  const into = new Map(list.transitions.map((each) => [each.into, each]))
  const clock = (count: number) => listTimecode(list, count)
  const reelOf = (picture: CutPicture | undefined) => (picture === undefined || picture.kind === 'gap' ? NOTHING : reel(picture.shotId ?? picture.label, picture.label))
  const sourceAt = (index: number, frame: number) => ((picture) => (picture === undefined || picture.sourceFrame === null ? Math.max(0, frame) : picture.sourceFrame + frame - starts[index]!))(list.pictures[index])
  for (let index = 0; index <= list.pictures.length; index++) {
    const picture = list.pictures[index]
    const transition = into.get(index)
    if (picture === undefined && transition === undefined) continue
    lines.next()
    const from = starts[index]! - (transition?.before ?? 0)
    // What goes to nothing is nothing for as long as its transition.
    const to = picture === undefined ? from + transition!.before + transition!.after : starts[index + 1]! - (into.get(index + 1)?.before ?? 0)
    const record = [clock(list.startFrame + from), clock(list.startFrame + to)]
    const source = picture === undefined || picture.kind === 'gap' ? [clock(0), clock(to - from)] : [clock(sourceAt(index, from)), clock(sourceAt(index, to))]
    if (transition !== undefined) {
      const before = list.pictures[index - 1]
      const left = before === undefined || before.kind === 'gap' ? clock(0) : clock(sourceAt(index - 1, from))
      lines.event(reelOf(before), 'V', 'C', [left, left, record[0]!, record[0]!])
      const wipe = transition.kind === 'wipe'
      lines.event(reelOf(picture), 'V', `${wipe ? 'W001' : 'D'}    ${number3(transition.before + transition.after)}`, [...source, ...record])
      if (before !== undefined) lines.comment(`FROM CLIP NAME: ${before.label}`)
      if (picture !== undefined) lines.comment(`TO CLIP NAME: ${picture.label}`)
      const { angleDegrees = 0, softness = 0, colour = '#000000', soundToo = false } = transition.look ?? {}
      lines.comment(`RUBATO TRANSITION: ${transition.kind} ${transition.before} ${transition.after} ${angleDegrees} ${softness} ${colour} ${soundToo ? 1 : 0}`)
    } else {
      lines.event(reelOf(picture), 'V', 'C', [...source, ...record])
      if (picture!.kind === 'shot') lines.comment(`FROM CLIP NAME: ${picture!.label}`)
    }
    if (picture === undefined || picture.kind === 'gap') continue
    if (picture.shotId !== null) lines.comment(`RUBATO SHOT: ${picture.shotId} ${picture.sourceZero ?? ''}`)
    if (picture.title !== '') lines.comment(`TITLE: ${picture.title}`)
    for (const mark of list.marks) if (mark.frame >= starts[index]! && mark.frame < starts[index + 1]!) lines.comment(`MARK: ${clock(list.startFrame + mark.frame)} ${mark.meaning} ${mark.name}`)
  }
  return lines.text()
}

/** One lane of sound as a list, its times to the frame; exact ones stand in comments. */
export function writeSoundList(list: CutList, laneId: string): string {
  const own = list.sounds.filter((sound) => sound.laneId === laneId)
  const lines = new Lines(list, `${list.title} ${own[0]?.laneName ?? ''}`)
  const reel = reelNames()
  const fps = framesPerSecond(list.rate)
  for (const sound of own) {
    lines.next()
    const early = Math.max(0, -sound.atFrame)
    const at = Math.round(sound.atFrame + early)
    const length = Math.max(1, Math.round(sound.lengthSeconds * fps - early))
    const from = Math.round(sound.fromSeconds * fps + early)
    lines.event(reel(sound.assetHash ?? sound.name, sound.name), 'A', 'C', [listTimecode(list, from), listTimecode(list, from + length), listTimecode(list, list.startFrame + at), listTimecode(list, list.startFrame + at + length)])
    lines.comment(`FROM CLIP NAME: ${sound.name}`)
    if (sound.gainDb !== undefined && sound.gainDb !== 0) lines.comment(`GAIN: ${sound.gainDb} dB`)
    if (sound.clipId !== null) lines.comment(`RUBATO CLIP: ${sound.clipId} ${sound.atFrame} ${sound.fromSeconds} ${sound.lengthSeconds} ${at} ${from} ${length}`)
  }
  return lines.text()
}

/** The longest list that is read, letters. */
const LIST_LETTERS = 32 * 1024 * 1024
const EVENTS_MOST = 50_000
const TIME = '(-?\\d{1,3}[:.;,]\\d{2}[:.;,]\\d{2}[:.;,]\\d{2})'
const EVENT = new RegExp(`^(\\d{1,8}[A-Z]?)\\s+(\\S+)\\s+(\\S+)\\s+(C|D|W\\d{1,4}|K\\s?[BO]?)\\s*(\\d{1,4})?\\s+${TIME}\\s+${TIME}\\s+${TIME}\\s+${TIME}\\s*$`, 'i')

interface Event {
  readonly line: number
  readonly number: string
  readonly reel: string
  readonly channel: string
  readonly how: string
  readonly lengthFrames: number
  readonly times: readonly [number, number, number, number]
  readonly comments: string[]
}

/**
 * Reads a CMX 3600 list for a film of some rate, which such a list does not say. Its first picture is the film's first frame; a list of
 * sound alone counts from `startFrame`, the timecode of the film's first frame.
 */
export function readEditList(text: string, rate: Rate, startFrame = 0): CutRead {
  if (text.length > LIST_LETTERS) return { ok: false, why: `It is larger than ${LIST_LETTERS / 1024 / 1024} MB, which no edit list is.` }
  const counts = { speed: 0, unread: 0, over: 0 }
  const events: Event[] = []
  let title = ''
  let drop = false
  for (const [i, raw] of text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/).entries()) {
    const line = raw.trim()
    if (line === '') continue
    const header = /^(TITLE|FCM)\s*:\s*(.*)$/i.exec(line)
    if (header !== null && !line.startsWith('*')) {
      if (header[1]!.toUpperCase() === 'TITLE') title ||= shorten(holdable(header[2]!.trim()), 200)
      else drop = /^DROP/i.test(header[2]!.trim())
      continue
    }
    const found = EVENT.exec(line)
    if (found === null) {
      if (/^M2\s/i.test(line)) counts.speed++
      else if (/^(\*|>>>)/.test(line)) events.at(-1)?.comments.push(shorten(holdable(line.replace(/^\*\s*/, '')), 1000))
      else if (/^\d{3,}\s/.test(line)) return { ok: false, why: `Line ${i + 1} is not an event of an edit list: ${JSON.stringify(shorten(line, 80))}.` }
      else counts.unread++
      continue
    }
    if (events.length >= EVENTS_MOST) return { ok: false, why: `It has more than ${EVENTS_MOST.toLocaleString('en')} events.` }
    const times: number[] = []
    for (const written of found.slice(6, 10)) {
      const clock = written!.replace(/[.,]/g, ':')
      const drops = drop || clock.includes(';')
      const at = frameOfTimecode(drops ? clock.replace(/[:;](\d{2})$/, ';$1').replace(/;(?=.*;)/g, ':') : clock.replace(/;/g, ':'), rate, drops)
      if (at === null) return { ok: false, why: `Line ${i + 1}: ${written} is no timecode at ${timecodeBase(rate)} frames a second${drops ? ' with dropped numbers' : ''}. Is the list of a film of another rate?` }
      times.push(at)
    }
    events.push({ line: i + 1, number: found[1]!, reel: shorten(holdable(found[2]!), 64), channel: found[3]!.toUpperCase(), how: found[4]!.toUpperCase(), lengthFrames: Number(found[5] ?? 0), times: times as unknown as Event['times'], comments: [] })
  }
  if (events.length === 0) return { ok: false, why: 'There is no event in it: it is not an edit list, or an empty one.' }
  const wrong = events.find(({ times: [, , recordIn, recordOut] }) => recordOut < recordIn)
  if (wrong !== undefined) return { ok: false, why: `Line ${wrong.line}: the event ends before it begins.` }
  const isPicture = ({ channel }: Event) => /V/.test(channel) || channel === 'B'
  const isSound = ({ channel }: Event) => /^(A|B$|NONE$)/.test(channel) && channel !== 'NONE'
  const pictured = events.filter(isPicture)
  const start = pictured.length === 0 ? startFrame : pictured.reduce((least, { times }) => Math.min(least, times[2]), Infinity)
  const { pictures, transitions, marks } = picturesOf(pictured, start, rate, drop, counts)
  const sounds = events.filter(isSound).filter(({ times: [, , from, to] }) => to > from).map((event) => soundOf(event, start, rate))
  const say = (count: number, one: string, several: string) => (count === 0 ? [] : [count === 1 ? one : `${count} ${several}`])
  return {
    ok: true,
    film: null,
    list: { title, rate, startFrame: start, drop, pictures, transitions, sounds, marks, soundWithin: 0.75 },
    notes: [
      ...say(counts.speed, 'One picture runs at another speed: its length is taken, the speed is not.', 'pictures run at another speed: their lengths are taken, the speed is not.'),
      ...say(counts.over, 'One event begins before the one before it has ended; the later one stays whole.', 'events begin before those before them have ended; the later ones stay whole.'),
      ...say(counts.unread, 'One line is not understood, and left out.', 'lines are not understood, and left out.'),
    ],
  }
}

const commentOf = ({ comments }: Pick<Event, 'comments'>, name: string): string | null => {
  for (const comment of comments) if (comment.toUpperCase().startsWith(`${name}:`)) return comment.slice(name.length + 1).trim()
  return null
}

function picturesOf(events: readonly Event[], start: number, rate: Rate, drop: boolean, counts: { over: number }) {
  const pictures: CutPicture[] = []
  const transitions: CutTransition[] = []
  const marks: CutMark[] = []
  const sorted = [...events].sort((a, b) => a.times[2] - b.times[2] || a.line - b.line)
  // The first line of a dissolve says only what it comes from.
  const seen = sorted.filter(({ times, how, number }, i) => times[3] !== times[2] || how !== 'C' || sorted[i + 1]?.number !== number)
  const placed = seen.map((event) => {
    const into = event.how !== 'C' && event.lengthFrames > 0 ? transitionOf(event) : null
    const from = event.times[2] - start
    // A transition lies about its cut; a list begins the picture where it begins to be seen.
    return { event, into, from, to: event.times[3] - start, cut: from + (into?.before ?? 0) }
  })
  let at = 0
  placed.forEach(({ event, into, from, to, cut }, i) => {
    const { times, reel } = event
    const next = placed[i + 1]
    const end = next === undefined ? to : next.into !== null && next.from <= to ? next.cut : Math.min(to, next.cut)
    if (next !== undefined && next.from < to) counts.over++
    if (cut > at) pictures.push(nothing(cut - at))
    if (into !== null) transitions.push({ ...into, into: pictures.length })
    at = Math.max(at, end)
    const isNothing = reel === NOTHING
    // Into nothing at the end: the film's last picture goes on until it is gone.
    if (isNothing && next === undefined && into !== null) return
    if (end <= cut) return
    const [id = '', zero = ''] = (commentOf(event, 'RUBATO SHOT') ?? '').split(' ')
    const label = (into !== null ? commentOf(event, 'TO CLIP NAME') : commentOf(event, 'FROM CLIP NAME')) ?? commentOf(event, 'FROM CLIP NAME') ?? (isNothing ? '' : reel)
    pictures.push({
      kind: isNothing ? 'gap' : 'shot',
      shotId: isNothing || !/^[a-z0-9][a-z0-9_-]{0,63}$/i.test(id) ? null : id,
      label: shorten(label, 200),
      title: shorten(commentOf(event, 'TITLE') ?? '', 300),
      lengthFrames: end - cut,
      sourceFrame: isNothing ? null : times[0] + cut - from,
      sourceZero: /^\d{1,9}$/.test(zero) ? Number(zero) : null,
      panels: [],
    })
    for (const comment of event.comments) {
      const mark = /^MARK:\s*(\S+)\s+(\S+)\s*(.*)$/i.exec(comment)
      const frame = mark === null ? null : frameOfTimecode(mark[1]!, rate, drop)
      if (frame !== null && frame >= start) marks.push({ markId: null, frame: frame - start, name: shorten(mark![3]!, 120), meaning: MARK_MEANINGS.find((each) => each === mark![2]!.toLowerCase()) ?? ('note' satisfies MarkMeaning) })
    }
  })
  return { pictures, transitions, marks }
}

const nothing = (lengthFrames: number): CutPicture => ({ kind: 'gap', shotId: null, label: '', title: '', lengthFrames, sourceFrame: null, sourceZero: null, panels: [] })

/** As its comment says, else half before the cut and half after. */
function transitionOf(event: Event): Omit<CutTransition, 'into'> {
  const told = /^(dissolve|wipe|colour) (\d{1,5}) (\d{1,5}) (-?[\d.]{1,20}) ([\d.]{1,20}) (#[0-9a-f]{6}) ([01])$/i.exec(commentOf(event, 'RUBATO TRANSITION') ?? '')
  const [kind, before, after, angle, softness, colour, sound] = told?.slice(1) ?? []
  if (Number(before) + Number(after) === event.lengthFrames && Math.abs(Number(angle)) <= 36_000 && Number(softness) <= 1) {
    return { kind: kind!.toLowerCase() as CutTransition['kind'], before: Number(before), after: Number(after), look: { angleDegrees: Number(angle), softness: Number(softness), colour: colour!.toLowerCase(), soundToo: sound === '1' } }
  }
  const half = Math.floor(event.lengthFrames / 2)
  return { kind: event.how.startsWith('W') ? 'wipe' : 'dissolve', before: half, after: event.lengthFrames - half }
}

function soundOf(event: Event, start: number, rate: Rate): CutSound {
  const fps = framesPerSecond(rate)
  const [from, , recordIn, recordOut] = event.times
  const name = commentOf(event, 'FROM CLIP NAME') ?? event.reel
  const plain = { name: shorten(name, 200), laneId: null, laneName: event.channel, assetHash: null, clipId: null, atFrame: recordIn - start, fromSeconds: from / fps, lengthSeconds: (recordOut - recordIn) / fps }
  const [clipId = '', ...exact] = (commentOf(event, 'RUBATO CLIP') ?? '').split(' ')
  const [atFrame, fromSeconds, lengthSeconds, at, source, length] = exact.map(Number)
  if (!/^[a-z0-9][a-z0-9_-]{0,63}$/i.test(clipId)) return plain
  // Where the whole frames are as they were, the exact times that they stand for are too.
  if (exact.length === 6 && exact.every((each) => each !== '' && Number.isFinite(Number(each))) && source === from && length === recordOut - recordIn && Math.abs(fromSeconds!) < 1e6 && lengthSeconds! > 0 && lengthSeconds! < 1e6) {
    return { ...plain, clipId, fromSeconds: fromSeconds!, lengthSeconds: lengthSeconds!, atFrame: recordIn - start + (atFrame! - at!) }
  }
  return { ...plain, clipId }
}
