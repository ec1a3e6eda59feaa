import { isInFilm, transitionIdOf, type Clip, type Transition } from '../../document/records'
import type { Outline } from '../../document/units'
import { cutListOf, shotZero, startsOf, type CutList, type CutMark, type CutPicture, type CutSound, type CutTransition } from '../../stage/cutList'
import type { FilmStage } from '../../stage/filmStage'
import type { PlacedShot } from '../../stage/placedShot'
import { partsOf } from '../../stage/transitions'
import { framesPerSecond } from '../../time/rate'
import type { EndsBy } from './trimShot'
import { LEAST_CLIP_SECONDS } from './sound'

/** One way in which a list differs from the film; `id` is its own in the plan. */
export type CutLine = { readonly id: string } & (
  | { readonly kind: 'ends'; readonly shotId: string; readonly ends: EndsBy; readonly lengthFrames: number }
  | { readonly kind: 'moved' | 'dropped' | 'returned'; readonly shotId: string }
  /** A picture of the list that no shot of the film is. */
  | { readonly kind: 'new'; readonly index: number }
  /** A shot that is seen once more: a copy. */
  | { readonly kind: 'again'; readonly index: number; readonly shotId: string }
  | { readonly kind: 'transition'; readonly wanted: CutTransition | null; readonly index: number; readonly before: Transition | null }
  | { readonly kind: 'sound'; readonly clipId: string; readonly fields: SoundFields; readonly byFrames: number }
  /** A clip that the list has no more. */
  | { readonly kind: 'unheard'; readonly clipId: string }
  | { readonly kind: 'mark'; readonly mark: CutMark }
)
export type SoundFields = Partial<Pick<Clip, 'shotId' | 'offsetFrames' | 'fromSeconds' | 'lengthSeconds' | 'laneId' | 'gainDb' | 'fadeInSeconds' | 'fadeOutSeconds'>>

export interface CutPlan {
  readonly list: CutList
  readonly lines: readonly CutLine[]
  /** Of each picture, the shot that it is, or that it is a copy of; null for new ones. */
  readonly shots: readonly (string | null)[]
  /** Of each picture, the frame of that shot that it begins with. */
  readonly from: readonly number[]
  /** Sounds of the list that no clip of the film is. */
  readonly unknownSounds: readonly CutSound[]
}

/** What would have to change for the film to be as a list has it. Nothing of it need be loaded. */
export function planConform(outline: Outline, stage: FilmStage, asked: CutList): CutPlan {
  // One of sound alone says nothing of the pictures.
  const list = asked.pictures.length > 0 ? asked : ((now) => ({ ...asked, pictures: now.pictures, transitions: now.transitions }))(cutListOf(outline, stage))
  const { shots, from, again } = matched(outline, stage, list)
  const lines: CutLine[] = []
  const heads = new Map<string, number>()
  list.pictures.forEach(({ lengthFrames }, index) => {
    const shotId = shots[index]!
    if (shotId === null) return lines.push({ id: `new:${index}`, kind: 'new', index })
    if (again.has(index)) return lines.push({ id: `again:${index}`, kind: 'again', index, shotId })
    const placed = stage.placeOf(shotId)
    if (placed === null) lines.push({ id: `returned:${shotId}`, kind: 'returned', shotId })
    const length = placed?.lengthFrames ?? stage.lengthOf(shotId)
    const head = from[index] === 0 ? 0 : -from[index]!
    const tail = lengthFrames - head - length
    heads.set(shotId, head)
    if (head !== 0 || tail !== 0) lines.push({ id: `ends:${shotId}`, kind: 'ends', shotId, ends: { head, tail }, lengthFrames })
  })
  const first = shots.map((shotId, i) => (again.has(i) ? null : shotId))
  const isThere = new Set(first)
  const inPlace = longestRise(first.flatMap((shotId) => stage.placeOf(shotId ?? '')?.index ?? []))
  for (const shotId of first) {
    const placed = stage.placeOf(shotId ?? '')
    if (placed !== null && !inPlace.has(placed.index)) lines.push({ id: `moved:${shotId}`, kind: 'moved', shotId: shotId! })
  }
  for (const { shot } of stage.shots) if (!isThere.has(shot.id)) lines.push({ id: `dropped:${shot.id}`, kind: 'dropped', shotId: shot.id })
  lines.push(...transitionLines(outline, stage, list, first))
  const sound = soundLines(outline, stage, list, first, heads)
  lines.push(...sound.lines, ...markLines(outline, stage, list))
  return { list, lines, shots, from, unknownSounds: sound.unknown }
}

/** What an empty shot is called that stands where a list has nothing. */
export const HOLE_TITLE = 'Hole'

const plain = (name: string) => name.trim().toLowerCase().replace(/\.[a-z0-9]{2,5}$/, '')

/** Which shot each picture is: by its id, by its label, or, where it is of the film as one movie, by where in it it lies. */
function matched(outline: Outline, stage: FilmStage, list: CutList) {
  // Labels go before titles, which is where a name that is too long for a label went, and those of the film before those in the tray.
  const byLabel = new Map<string, string>()
  const known = [...Object.values(outline.shots).filter((each) => !isInFilm(each)), ...stage.shots.map((each) => each.shot)]
  for (const name of ['title', 'label'] as const) for (const shot of known) if (shot[name] !== '' && shot[name] !== HOLE_TITLE) byLabel.set(plain(shot[name]), shot.id)
  const zero = shotZero(list.rate, list.drop)
  const movie = plain(list.title)
  const shots: (string | null)[] = []
  const from: number[] = []
  const again = new Set<number>()
  const seen = new Set<string>()
  list.pictures.forEach((picture, index) => {
    const byId = picture.shotId !== null && outline.shots[picture.shotId] !== undefined ? picture.shotId : null
    const named = byId ?? byLabel.get(plain(picture.label)) ?? null
    const whole = picture.kind === 'shot' && picture.shotId === null && named === null ? ofMovie(picture) : null
    const shotId = picture.kind === 'gap' ? null : (named ?? whole?.shotId ?? null)
    shots.push(shotId)
    from.push(shotId === null ? 0 : (whole?.from ?? fromOf(picture, stage.lengthOf(shotId), stage.placeOf(shotId)?.startFrame ?? null, outline.shots[shotId]!.startsAt ?? 0)))
    if (shotId === null) return
    if (seen.has(shotId)) again.add(index)
    seen.add(shotId)
  })
  // A hole, and a shot that is seen once more, have no name to be found by: what was made of them before comes right after the same shot,
  // and what was made of a shot says so. Another that merely looks alike is not it.
  list.pictures.forEach((picture, index) => {
    if (picture.kind !== 'gap' && !again.has(index)) return
    const before = index === 0 ? -1 : (stage.placeOf(shots[index - 1] ?? '')?.index ?? null)
    const follower = before === null ? undefined : stage.shots[before + 1]
    if (follower === undefined || seen.has(follower.shot.id) || !isMadeOf(follower, picture, shots[index]!)) return
    seen.add(follower.shot.id)
    again.delete(index)
    shots[index] = follower.shot.id
    from[index] = 0
  })
  return { shots, from, again }

  function isMadeOf({ shot, lengthFrames }: PlacedShot, picture: CutPicture, copyOf: string | null): boolean {
    if (picture.kind === 'gap') return shot.title === HOLE_TITLE
    if (copyOf === null || shot.againOf !== copyOf || lengthFrames !== picture.lengthFrames) return false
    const { startsAt = 0 } = outline.shots[copyOf]!
    return (shot.startsAt ?? 0) - startsAt === fromOf(picture, stage.lengthOf(copyOf), null, startsAt)
  }

  /** The frame of the shot that a picture begins with. */
  function fromOf({ sourceFrame, sourceZero }: CutPicture, length: number, startFrame: number | null, startsAt: number): number {
    if (sourceFrame === null) return 0
    if (sourceZero !== null) return sourceFrame - sourceZero - startsAt
    const room = Math.max(length, zero / 2)
    if (Math.abs(sourceFrame - zero) <= room) return sourceFrame - zero - startsAt
    if (sourceFrame <= length + startsAt) return sourceFrame - startsAt
    const inFilm = startFrame === null ? -1 : sourceFrame - list.startFrame - startFrame
    return inFilm >= 0 && inFilm < length ? inFilm : 0
  }
  function ofMovie({ label, sourceFrame }: CutPicture): { readonly shotId: string; readonly from: number } | null {
    if (sourceFrame === null || movie === '' || !plain(label).startsWith(movie.slice(0, 8))) return null
    const at = sourceFrame - list.startFrame
    const placed = at < 0 || at >= stage.lengthFrames ? null : stage.shotAt(at)
    return placed === null ? null : { shotId: placed.shot.id, from: at - placed.startFrame }
  }
}

/** Of numbers in some order, those of one of the longest runs that rise. */
function longestRise(values: readonly number[]): ReadonlySet<number> {
  const ends: number[] = []
  const before: number[] = []
  values.forEach((value, i) => {
    let [low, high] = [0, ends.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (values[ends[middle]!]! < value) low = middle + 1
      else high = middle
    }
    before[i] = low === 0 ? -1 : ends[low - 1]!
    ends[low] = i
  })
  const rise = new Set<number>()
  for (let at = ends.at(-1) ?? -1; at >= 0; at = before[at]!) rise.add(values[at]!)
  return rise
}

function transitionLines(outline: Outline, stage: FilmStage, list: CutList, shots: readonly (string | null)[]): CutLine[] {
  const wanted = new Map(list.transitions.map((each) => [each.into, each]))
  const placed = new Map(stage.transitions.map((each) => [each.transition.id, each]))
  const lines: CutLine[] = []
  for (let index = 0; index <= list.pictures.length; index++) {
    const shotId = index === 0 || index === list.pictures.length ? null : shots[index]!
    const id = index === 0 ? transitionIdOf({ at: 'start' }) : index === list.pictures.length ? transitionIdOf({ at: 'end' }) : shotId
    const now = id === null ? null : (outline.transitions[id] ?? null)
    const want = wanted.get(index) ?? null
    if (want === null && (now === null || list.pictures.length === 0)) continue
    if (want !== null && now !== null) {
      const there = placed.get(now.id)
      const parts = there === undefined ? partsOf(now) : { before: there.cutFrame - there.from, after: there.to - there.cutFrame }
      if (want.kind === now.kind && parts.before === want.before && parts.after === want.after && looksSo(now, want)) continue
    }
    lines.push({ id: `transition:${index}`, kind: 'transition', wanted: want, index, before: now })
  }
  return lines
}

/** Whether a transition has the look that a list asks for, of what is seen of its kind. */
function looksSo(now: Transition, { look }: CutTransition): boolean {
  if (look === undefined) return true
  if (look.soundToo !== now.soundToo) return false
  if (now.kind === 'wipe') return look.angleDegrees === now.angleDegrees && look.softness === now.softness
  return now.kind !== 'colour' || look.colour === now.colour
}

function soundLines(outline: Outline, stage: FilmStage, list: CutList, shots: readonly (string | null)[], heads: ReadonlyMap<string, number>): { readonly lines: CutLine[]; readonly unknown: readonly CutSound[] } {
  if (list.sounds.length === 0) return { lines: [], unknown: [] }
  const fps = framesPerSecond(list.rate)
  const starts = startsOf(list.pictures)
  const startOf = new Map<string, number>()
  shots.forEach((shotId, i) => shotId !== null && startOf.set(shotId, starts[i]!))
  const left = new Map(Object.values(outline.clips).filter(({ shotId }) => shotId === null || stage.placeOf(shotId) !== null).map((clip) => [clip.id, clip]))
  const near = (a: number, b: number) => Math.abs(a - b) <= list.soundWithin + 1e-6
  const pairs: [CutSound, Clip][] = []
  const rest: CutSound[] = []
  for (const sound of list.sounds) {
    const clip = sound.clipId === null ? undefined : left.get(sound.clipId)
    if (clip === undefined) rest.push(sound)
    else pairs.push([sound, clip])
    left.delete(clip?.id ?? '')
  }
  const unknown: CutSound[] = []
  for (const sound of rest) {
    // Of clips of one name the one that is taken from the same place, and lies nearest.
    const named = [...left.values()].filter((clip) => plain(clip.name) === plain(sound.name) || (sound.assetHash !== null && clip.assetHash === sound.assetHash))
    const at = (clip: Clip) => (clip.shotId === null ? 0 : (startOf.get(clip.shotId) ?? stage.placeOf(clip.shotId)!.startFrame)) + clip.offsetFrames
    const off = (clip: Clip) => (near(clip.fromSeconds * fps, sound.fromSeconds * fps) ? 0 : 1e9) + Math.abs(at(clip) - sound.atFrame)
    const clip = named.sort((a, b) => off(a) - off(b))[0]
    if (clip === undefined) unknown.push(sound)
    else pairs.push([sound, clip])
    left.delete(clip?.id ?? '')
  }
  const lines: CutLine[] = []
  for (const [asked, clip] of pairs) {
    // A list may ask for more than was recorded.
    const fromSeconds = Math.min(asked.fromSeconds, clip.sourceSeconds - LEAST_CLIP_SECONDS)
    const sound = { ...asked, fromSeconds, lengthSeconds: Math.max(LEAST_CLIP_SECONDS, Math.min(asked.lengthSeconds, clip.sourceSeconds - fromSeconds)) }
    const tied = clip.shotId === null || startOf.has(clip.shotId) ? clip.shotId : (shots[Math.max(0, starts.findLastIndex((start) => start <= sound.atFrame))] ?? null)
    const offset = sound.atFrame - (tied === null ? 0 : startOf.get(tied)!)
    const byFrames = offset - clip.offsetFrames - (tied === null ? 0 : (heads.get(tied) ?? 0))
    const fields: SoundFields = {
      ...(tied === clip.shotId && near(byFrames, 0) ? {} : { shotId: tied, offsetFrames: offset }),
      ...(near(sound.fromSeconds * fps, clip.fromSeconds * fps) ? {} : { fromSeconds: sound.fromSeconds }),
      ...(near(sound.lengthSeconds * fps, clip.lengthSeconds * fps) ? {} : { lengthSeconds: sound.lengthSeconds }),
      ...(sound.laneId === null || sound.laneId === clip.laneId || outline.lanes[sound.laneId] === undefined ? {} : { laneId: sound.laneId }),
      ...(sound.gainDb === undefined || Math.abs(sound.gainDb - clip.gainDb) < 0.05 ? {} : { gainDb: sound.gainDb }),
      ...(sound.fadeInSeconds === undefined || near(sound.fadeInSeconds * fps, clip.fadeInSeconds * fps) ? {} : { fadeInSeconds: sound.fadeInSeconds }),
      ...(sound.fadeOutSeconds === undefined || near(sound.fadeOutSeconds * fps, clip.fadeOutSeconds * fps) ? {} : { fadeOutSeconds: sound.fadeOutSeconds }),
    }
    if (Object.keys(fields).length > 0) lines.push({ id: `sound:${clip.id}`, kind: 'sound', clipId: clip.id, fields, byFrames: tied === clip.shotId ? byFrames : 0 })
  }
  // A list that has nothing of a lane is not about it.
  const lanes = new Set(pairs.map(([, { laneId }]) => laneId))
  for (const clip of left.values()) if (lanes.has(clip.laneId)) lines.push({ id: `unheard:${clip.id}`, kind: 'unheard', clipId: clip.id })
  return { lines, unknown }
}

function markLines(outline: Outline, stage: FilmStage, list: CutList): CutLine[] {
  const there = new Set(cutListOf(outline, stage).marks.map(({ frame, name }) => `${frame} ${name}`))
  return list.marks.filter(({ markId, frame, name }) => (markId === null || outline.rulerMarks[markId] === undefined) && !there.has(`${frame} ${name}`)).map((mark, i) => ({ id: `mark:${i}`, kind: 'mark', mark }))
}
