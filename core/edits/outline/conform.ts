import { newLevel } from '../../document/newLevel'
import { labelBetween } from '../../document/labels'
import { FIRST_ORDER, inOrder, orderKeys } from '../../document/order'
import { isInFilm, transitionIdOf, type Clip, type Panel, type Shot, type Transition } from '../../document/records'
import { shorten } from '../../document/text'
import { EMPTY_TAKE, outlineRef, takeRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { cutListOf, shotZero, startsOf, type CutList, type CutMark, type CutPicture, type CutSound, type CutTransition } from '../../stage/cutList'
import { createFilmStage, type FilmStage } from '../../stage/filmStage'
import { partsOf } from '../../stage/transitions'
import { takeLengthFrames } from '../../document/panels'
import { framesPerSecond } from '../../time/rate'
import { Draft, withFields } from '../change/draft'
import { mergeChanges } from '../change/change'
import { applyToFilm, type Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { duplicateShot, filmOrder, trayShots, untrayShots } from './shotMoves'
import { labelsTaken } from './shots'
import { LEAST_CLIP_SECONDS } from './sound'
import { trimShot, type EndsBy } from './trimShot'

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

/** Clips of a list that has no more of them are tied to this, which is no shot: so they wait in the tray. */
const NO_SHOT = 'tray'

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

const plain = (name: string) => name.trim().toLowerCase().replace(/\.[a-z0-9]{2,5}$/, '')

/** Which shot each picture is: by its id, by its label, or, where it is of the film as one movie, by where in it it lies. */
function matched(outline: Outline, stage: FilmStage, list: CutList) {
  const byLabel = new Map<string, string>()
  // Those of the film go before those in the tray.
  for (const shot of [...Object.values(outline.shots).filter((each) => !isInFilm(each)), ...stage.shots.map((each) => each.shot)]) byLabel.set(plain(shot.label), shot.id)
  const zero = shotZero(list.rate, list.drop)
  const movie = plain(list.title)
  const shots: (string | null)[] = []
  const from: number[] = []
  const again = new Set<number>()
  const seen = new Set<string>()
  list.pictures.forEach((picture, index) => {
    const whole = picture.kind === 'shot' && picture.shotId === null && !byLabel.has(plain(picture.label)) ? ofMovie(picture) : null
    const shotId = picture.kind === 'gap' ? null : picture.shotId !== null && outline.shots[picture.shotId] !== undefined ? picture.shotId : (byLabel.get(plain(picture.label)) ?? whole?.shotId ?? null)
    shots.push(shotId)
    from.push(shotId === null ? 0 : (whole?.from ?? fromOf(picture, stage.lengthOf(shotId), stage.placeOf(shotId)?.startFrame ?? null, outline.shots[shotId]!.startsAt ?? 0)))
    if (shotId === null) return
    if (seen.has(shotId)) again.add(index)
    seen.add(shotId)
  })
  return { shots, from, again }

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
      const sameLook = want.look === undefined || (want.look.soundToo === now.soundToo && (now.kind !== 'wipe' || (want.look.angleDegrees === now.angleDegrees && want.look.softness === now.softness)) && (now.kind !== 'colour' || want.look.colour === now.colour))
      if (want.kind === now.kind && parts.before === want.before && parts.after === want.after && sameLook) continue
    }
    lines.push({ id: `transition:${index}`, kind: 'transition', wanted: want, index, before: now })
  }
  return lines
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

/** The shots whose bodies must be loaded before lines are taken; of those in `art` with their art. */
export function neededFor(plan: CutPlan, chosen: ReadonlySet<string>): { readonly shotIds: readonly string[]; readonly art: readonly string[] } {
  const [bodies, art] = [new Set<string>(), new Set<string>()]
  for (const line of plan.lines) {
    if (!chosen.has(line.id)) continue
    if (line.kind === 'ends') (line.ends.head < 0 || line.ends.tail < 0 ? art : bodies).add(line.shotId)
    if (line.kind === 'again') art.add(line.shotId)
  }
  return { shotIds: [...bodies, ...art], art: [...art] }
}

/**
 * Takes lines of a plan, step by step so that who does it may rest in between: each picture that is new or goes elsewhere comes after
 * the one that it follows in the list; all else stays as it is. What the film has no more goes to the tray.
 */
export function* conformSteps(film: Film, projectId: string, { list, lines, shots, from }: CutPlan, chosen: ReadonlySet<string>, newId: NewIds): Generator<void, Made> {
  const taken = lines.filter(({ id }) => chosen.has(id))
  const edits: Edit[] = []
  let now = film
  let refusal: Made | null = null
  const take = (step: Made): boolean => {
    if (!step.ok) {
      refusal = step
      return false
    }
    for (const edit of step.edits) {
      const applied = applyToFilm(now, edit)
      if (!applied.ok) {
        refusal = refused({ code: 'ground-gone' })
        return false
      }
      now = applied.value
      edits.push(edit)
    }
    return true
  }
  const again = new Set(lines.flatMap((line) => (line.kind === 'again' ? [line.index] : [])))
  const idOf = shots.map((shotId, index) => (again.has(index) ? null : shotId))
  const placed = new Set<number>()
  const firstSequence = filmOrder(film.outline)[0]?.sequenceId ?? inOrder(film.outline.sequences)[0]?.id
  if (firstSequence === undefined) return refused({ code: 'missing', what: 'sequence', id: '' })
  for (const line of taken) {
    if (line.kind === 'new') {
      const near = (step: 1 | -1) => now.outline.shots[idOf[line.index + step] ?? '']?.label ?? null
      const [id, step] = newShot(now.outline, projectId, firstSequence, list.pictures[line.index]!, [near(-1), near(1)], newId)
      if (!take(step)) return refusal!
      idOf[line.index] = id
      placed.add(line.index)
    } else if (line.kind === 'again') {
      const before = new Set(Object.keys(now.outline.shots))
      if (!take(duplicateShot(now, projectId, line.shotId, newId))) return refusal!
      const id = Object.keys(now.outline.shots).find((each) => !before.has(each))!
      const length = takeLengthFrames(now.takes[now.outline.shots[id]!.circledTakeId]!)
      const head = from[line.index] === 0 ? 0 : -from[line.index]!
      const ends = { head, tail: list.pictures[line.index]!.lengthFrames - head - length }
      if ((ends.head !== 0 || ends.tail !== 0) && !take(trimShot(now, projectId, id, ends, newId))) return refusal!
      idOf[line.index] = id
      placed.add(line.index)
    } else if (line.kind === 'ends') {
      if (!take(trimShot(now, projectId, line.shotId, line.ends, newId))) return refusal!
    } else if (line.kind === 'moved' || line.kind === 'returned') placed.add(idOf.indexOf(line.shotId))
    yield
  }
  const returned = taken.flatMap((line) => (line.kind === 'returned' ? [line.shotId] : []))
  if (returned.length > 0 && !take(untrayShots(now.outline, projectId, returned))) return refusal!
  const dropped = taken.flatMap((line) => (line.kind === 'dropped' ? [line.shotId] : []))
  if (dropped.length > 0 && !take(trayShots(now.outline, projectId, dropped))) return refusal!
  if (placed.size > 0 && !take(inListOrder(now.outline, projectId, idOf, placed))) return refusal!
  yield
  const last = createFilmStage(now.outline, (takeId) => ((body) => (body === undefined ? 1 : takeLengthFrames(body)))(now.takes[takeId]))
  take(made(...restOf(now.outline, projectId, taken, list, idOf, last, newId)))
  // One edit for each unit, however many lines touch it.
  return refusal ?? made(...mergeChanges({ id: '', label: '', edits: [] }, { id: '', label: '', edits }).edits)
}

/** All lines that are chosen, at once. */
export function conform(film: Film, projectId: string, plan: CutPlan, chosen: ReadonlySet<string>, newId: NewIds): Made {
  const steps = conformSteps(film, projectId, plan, chosen, newId)
  for (;;) {
    const step = steps.next()
    if (step.done === true) return step.value
  }
}

const LABEL_LETTERS = 20
/** An empty shot, as long as its picture, at the end of a sequence: it is put in its place after. */
function newShot(outline: Outline, projectId: string, sequenceId: string, picture: CutPicture, [before, after]: readonly [string | null, string | null], newId: NewIds): readonly [string, Made] {
  const [shotId, takeId] = [newId(), newId()]
  const taken = labelsTaken(outline)
  const named = picture.kind === 'gap' ? '' : picture.label.trim()
  const label = named !== '' && named.length <= LABEL_LETTERS && !taken.has(named) ? named : labelBetween(before, after, taken)
  const title = picture.title.trim() || (label === named ? '' : named)
  const draft = new Draft(outline)
  const there = inOrder(outline.shots)
  const [order] = draft.room('shots', there, there.length, 1)
  draft.put('shots', { id: shotId, sequenceId, order: order!, label, title: shorten(title, 300), circledTakeId: takeId }).put('takes', { id: takeId, shotId, order: FIRST_ORDER, letter: 'A' })
  const body = new Draft<TakeBody>(EMPTY_TAKE)
  const parts = picture.panels.length > 0 && picture.panels.reduce((sum, { lengthFrames }) => sum + lengthFrames, 0) === picture.lengthFrames ? picture.panels : [{ lengthFrames: picture.lengthFrames, action: '', dialogue: '' }]
  const orders = orderKeys(parts.length)
  parts.forEach(({ lengthFrames, action, dialogue }, i) => body.put('panels', { id: newId(), order: orders[i]!, lengthFrames, lengthLocked: false, action, dialogue, notes: '' } satisfies Panel))
  body.put('cameras', { id: newId(), order: FIRST_ORDER, letter: 'A', locked: false })
  body.put('levels', newLevel({ id: newId(), order: 'a1', name: 'Level 1', figure: true }))
  return [shotId, made(draft.edit('shot-add', outlineRef(projectId)), body.edit('shot-add', takeRef(takeId)))]
}

/** Puts each picture at `placed` after the one before it in the list; all other shots stay where they are. */
function inListOrder(outline: Outline, projectId: string, idOf: readonly (string | null)[], placed: ReadonlySet<number>): Made {
  const moving = new Set([...placed].map((index) => idOf[index]!))
  const order: Shot[] = filmOrder(outline).filter(({ id }) => !moving.has(id))
  const next = new Map<string, string>()
  const stays = idOf.map((id) => (id !== null && !moving.has(id) && outline.shots[id] !== undefined && isInFilm(outline.shots[id]) ? id : null))
  for (let index = idOf.length - 1, after: string | undefined; index >= 0; index--) {
    if (placed.has(index) && after !== undefined) next.set(idOf[index]!, after)
    after = stays[index] ?? after
  }
  const at = new Map(order.map((shot, i) => [shot.id, i]))
  const behind = new Map<number, Shot[]>()
  let anchor = -1
  idOf.forEach((id, index) => {
    if (id === null) return
    const here = at.get(id)
    if (here !== undefined) anchor = here
    else if (placed.has(index)) behind.set(anchor, [...(behind.get(anchor) ?? []), outline.shots[id]!])
  })
  const draft = new Draft(outline)
  const sequences = inOrder(outline.sequences)
  const bySequence = new Map(sequences.map(({ id }) => [id, order.filter((shot) => shot.sequenceId === id)]))
  for (const [after, group] of behind) {
    const before = order[after]
    // Once one of them is of the sequence that comes after, so are the rest.
    let current = before?.sequenceId
    const nowIn = (shot: Shot) => (current = current === before?.sequenceId ? sequenceOf(shot, before) : current)!
    for (const [sequenceId, part] of runsOf(group, nowIn)) {
      const there = bySequence.get(sequenceId)!
      const index = before !== undefined && before.sequenceId === sequenceId ? there.indexOf(before) + 1 : before === undefined || sequences.findIndex(({ id }) => id === before.sequenceId) < sequences.findIndex(({ id }) => id === sequenceId) ? 0 : there.length
      const now = there.map((shot) => draft.now('shots', shot.id) ?? shot)
      const orders = draft.room('shots', now, index, part.length)
      part.forEach((shot, i) => draft.put('shots', { ...shot, sequenceId, order: orders[i]! }))
      bySequence.set(sequenceId, [...there.slice(0, index), ...part, ...there.slice(index)])
    }
  }
  return made(draft.edit('shot-move', outlineRef(projectId)))

  /** Its own sequence where the shot after it is of that; else that of the one before. */
  function sequenceOf(shot: Shot, before: Shot | undefined): string {
    const after = outline.shots[next.get(shot.id) ?? '']
    if (after !== undefined && (before === undefined || after.sequenceId === shot.sequenceId)) return after.sequenceId
    return before?.sequenceId ?? shot.sequenceId
  }
}

/** Side by side, by what they have in common. */
function runsOf<T>(list: readonly T[], of: (each: T) => string): readonly (readonly [string, readonly T[]])[] {
  const runs: [string, T[]][] = []
  for (const each of list) {
    const name = of(each)
    if (runs.at(-1)?.[0] === name) runs.at(-1)![1].push(each)
    else runs.push([name, [each]])
  }
  return runs
}

/** Transitions, sound and marks, once the shots stand. */
function restOf(outline: Outline, projectId: string, lines: readonly CutLine[], list: CutList, idOf: readonly (string | null)[], stage: FilmStage, newId: NewIds): readonly Edit[] {
  const draft = new Draft(outline)
  const starts = startsOf(list.pictures)
  for (const line of lines) {
    if (line.kind === 'transition') {
      const at = line.index === 0 ? 'start' : line.index === list.pictures.length ? 'end' : 'cut'
      const id = at === 'cut' ? idOf[line.index]! : transitionIdOf({ at })
      if (id === null || (at === 'cut' && outline.shots[id] === undefined)) continue
      if (line.wanted === null) draft.drop('transitions', id)
      else draft.put('transitions', asTransition(id, at, line.wanted, line.before))
    } else if (line.kind === 'sound') draft.put('clips', withFields(outline.clips[line.clipId]!, line.fields))
    else if (line.kind === 'unheard') draft.put('clips', { ...outline.clips[line.clipId]!, shotId: NO_SHOT })
    else if (line.kind === 'mark') {
      const index = Math.max(0, starts.findLastIndex((start) => start <= line.mark.frame))
      const placed = stage.placeOf(idOf[index] ?? '') ?? stage.shotAt(line.mark.frame)
      if (placed === null) continue
      const offsetFrames = Math.max(0, idOf[index] === placed.shot.id ? line.mark.frame - starts[index]! : line.mark.frame - placed.startFrame)
      const id = line.mark.markId ?? newId()
      draft.put('rulerMarks', { id, shotId: placed.shot.id, offsetFrames, name: shorten(line.mark.name, 120), meaning: line.mark.meaning })
    }
  }
  const edit = draft.edit('conform', outlineRef(projectId))
  return Object.keys(edit.changes).length === 0 ? [] : [edit]
}

const TRANSITION_MOST = 10_000
const PLAIN_LOOK = Object.freeze({ angleDegrees: 0, softness: 0.05, colour: '#000000', soundToo: false })
function asTransition(id: string, at: Transition['at'], { kind, before, after, look }: CutTransition, now: Transition | null): Transition {
  const lengthFrames = Math.min(TRANSITION_MOST, Math.max(1, before + after))
  const place = at !== 'cut' || before === Math.floor(lengthFrames / 2) ? 'centre' : before === 0 ? 'after' : after === 0 ? 'before' : 'centre'
  return { ...PLAIN_LOOK, ...(now === null ? {} : { angleDegrees: now.angleDegrees, softness: now.softness, colour: now.colour, soundToo: now.soundToo }), ...look, id, at, kind: at === 'cut' ? kind : 'colour', lengthFrames, place }
}
