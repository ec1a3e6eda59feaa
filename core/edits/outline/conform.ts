import { labelBetween } from '../../document/labels'
import { newLevel } from '../../document/newLevel'
import { FIRST_ORDER, inOrder, orderKeys } from '../../document/order'
import { takeLengthFrames } from '../../document/panels'
import { isInFilm, transitionIdOf, type Panel, type Shot, type Transition } from '../../document/records'
import { shorten } from '../../document/text'
import { EMPTY_TAKE, outlineRef, takeRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { startsOf, type CutList, type CutPicture, type CutTransition } from '../../stage/cutList'
import { createFilmStage, type FilmStage } from '../../stage/filmStage'
import { mergeChanges } from '../change/change'
import { Draft, withFields } from '../change/draft'
import { applyToFilm, type Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { HOLE_TITLE, type CutLine, type CutPlan } from './conformPlan'
import { duplicateShot, filmOrder, trayShots, untrayShots } from './shotMoves'
import { labelsTaken } from './shots'
import { trimShot } from './trimShot'

/** Clips of a list that has no more of them are tied to this, which is no shot: so they wait in the tray. */
const NO_SHOT = 'tray'

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
  const picked = lines.filter(({ id }) => chosen.has(id))
  // Copies are of shots as they were: they come before anything is cut off.
  const taken = [...picked.filter(({ kind }) => kind === 'again'), ...picked.filter(({ kind }) => kind !== 'again')]
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
      const marked = new Draft(now.outline).put('shots', { ...now.outline.shots[id]!, againOf: line.shotId })
      if (!take(made(marked.edit('shot-duplicate', outlineRef(projectId))))) return refusal!
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
  const title = picture.kind === 'gap' ? HOLE_TITLE : picture.title.trim() || (label === named ? '' : named)
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
  const rank = (sequenceId: string) => sequences.findIndex(({ id }) => id === sequenceId)
  const bySequence = new Map(sequences.map(({ id }) => [id, order.filter((shot) => shot.sequenceId === id)]))
  for (const [after, group] of behind) {
    const before = order[after]
    // Once one of them is of the sequence that comes after, so are the rest.
    let current = before?.sequenceId
    const nowIn = (shot: Shot) => (current = current === before?.sequenceId ? sequenceOf(shot, before) : current)!
    for (const [sequenceId, part] of runsOf(group, nowIn)) {
      const there = bySequence.get(sequenceId)!
      const index = before?.sequenceId === sequenceId ? there.indexOf(before) + 1 : before === undefined || rank(before.sequenceId) < rank(sequenceId) ? 0 : there.length
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
