import type { Optics } from '../../camera/lens'
import { untouchedPose } from '../../camera/pose'
import { anchoredIn, carryAnchored, putAnchored } from '../../document/anchored'
import { opticsOfFilm } from '../../document/optics'
import { inOrder } from '../../document/order'
import { liveSpans } from '../../document/liveCamera'
import { anchorOfFrame, firstCamera, frameOfAnchor, placedFramings, placedPanels, takeLengthFrames, type PlacedPanel } from '../../document/panels'
import { cellIdOf, linkIdOf, PANEL_FRAMES_RANGE, PANEL_LETTERS, type Camera, type Level, type Link, type Panel } from '../../document/records'
import type { Film, Outline, TakeBody } from '../../document/units'
import { allAlike, cameraSpan, framingOf, leftByJump, putSpan, startingAt, tidyLoose, type SpanKeys } from './cameraSpans'
import { Draft } from '../change/draft'
import { applyToUnit, isEmpty, merge, type Edit, type RecordChange } from '../change/edit'
import { removePanel } from './panels'
import { keepLive, liveInPanels } from './liveCuts'
import { layOut, showings, type Showing } from './showing'
import { made, refused, type Made } from '../change/refusal'
import { removeShot } from '../outline/shots'

const unitOf = (takeId: string) => ({ kind: 'take', id: takeId }) as const
const missing = (id: string) => refused({ code: 'missing', what: 'panel', id })

/** The panels named, in the take's order; null where one is not there. */
function chosen(take: TakeBody, ids: readonly string[]): readonly Panel[] | null {
  const wanted = new Set(ids)
  const found = inOrder(take.panels).filter((panel) => wanted.has(panel.id))
  return found.length === wanted.size ? found : null
}

/** The edit of links that follow their panels, null where there are none. */
function linkEdit(outline: Outline, projectId: string, map: (link: Link) => Link | null, only: (link: Link) => boolean): Edit[] {
  const draft = new Draft(outline)
  let any = false
  for (const link of Object.values(outline.links)) {
    if (!only(link)) continue
    const next = map(link)
    if (next === link) continue
    any = true
    if (next === null || next.id !== link.id) draft.drop('links', link.id)
    if (next !== null) draft.put('links', next)
  }
  return any ? [draft.edit('links', { kind: 'outline', id: projectId })] : []
}

/**
 * Puts copies of panels after the last of them, showing the same and saying the same. Figure levels get their drawings
 * there as their own (shared until one is drawn on); all others hold. Keys are not copied.
 */
export function duplicatePanels(take: TakeBody, takeId: string, ids: readonly string[], newIds: readonly string[]): Made {
  const sources = chosen(take, ids)
  if (sources === null || sources.length === 0 || newIds.length !== sources.length) return missing(ids[0] ?? '')
  const panels = inOrder(take.panels)
  const last = panels.indexOf(sources.at(-1)!)
  const draft = new Draft(take)
  const orders = draft.room('panels', panels, last + 1, sources.length)
  const shown = new Map<string, Showing>(showings(take))
  sources.forEach((panel, i) => {
    draft.put('panels', { ...panel, id: newIds[i]!, order: orders[i]!, lengthLocked: false })
    shown.set(newIds[i]!, shown.get(panel.id)!)
  })
  const order = panels.map((panel) => panel.id)
  order.splice(last + 1, 0, ...newIds)
  layOut(draft, take, Object.values(take.levels), order, (panelId, levelId) => shown.get(panelId)?.get(levelId) ?? null)
  for (const level of Object.values(take.levels)) {
    if (level.figure !== true) continue
    for (const panelId of newIds) {
      const drawingId = shown.get(panelId)?.get(level.id) ?? null
      if (drawingId !== null) draft.put('cells', { id: cellIdOf(level.id, panelId), levelId: level.id, panelId, drawingId })
    }
  }
  return made(draft.edit('panel-duplicate', unitOf(takeId)))
}

/** Takes panels out one after the other, as `removePanel` does; the shot itself where none would be left. */
export function removePanels(film: Film, projectId: string, takeId: string, ids: readonly string[], newId: NewIds): Made {
  const take = film.takes[takeId]
  if (take === undefined || chosen(take, ids) === null) return missing(ids[0] ?? '')
  const entry = film.outline.takes[takeId]
  if (entry !== undefined && new Set(ids).size === Object.keys(take.panels).length) {
    const alternates = Object.values(film.outline.takes).filter((other) => other.shotId === entry.shotId).length > 1
    return alternates ? refused({ code: 'last-panel' }) : removeShot(film.outline, projectId, entry.shotId)
  }
  let value = take
  let all: Edit | null = null
  const optics = opticsOfFilm(film.outline)
  for (const id of ids) {
    const one = removePanel(value, takeId, id, optics, newId)
    if (!one.ok) return one
    const [edit] = one.edits
    const applied = applyToUnit(value, edit!)
    if (!applied.ok) throw new Error(`removePanels: ${applied.refusal.code}`)
    value = applied.value
    all = all === null ? edit! : merge(all, edit!)
  }
  const gone = new Set(ids)
  return made(...(all === null ? [] : [all]), ...linkEdit(film.outline, projectId, () => null, (link) => link.takeId === takeId && gone.has(link.panelId)))
}

/** Makes two panels of one: the first keeps the words and `firstFrames`, the second the rest. Keys stay at their frames. */
export function splitPanel(take: TakeBody, takeId: string, panelId: string, firstFrames: number, newId: string): Made {
  const panel = take.panels[panelId]
  if (panel === undefined) return missing(panelId)
  if (panel.lengthFrames < 2) return refused({ code: 'too-short-to-split' })
  const first = Math.min(panel.lengthFrames - 1, Math.max(1, Math.round(firstFrames)))
  const panels = inOrder(take.panels)
  const draft = new Draft(take)
  const [order] = draft.room('panels', panels, panels.indexOf(panel) + 1, 1)
  draft
    .put('panels', { ...panel, lengthFrames: first })
    .put('panels', { ...panel, id: newId, order: order!, lengthFrames: panel.lengthFrames - first, action: '', dialogue: '', notes: '' })
  for (const each of anchoredIn(take, (id) => id === panelId)) {
    if (each.record.offsetFrames >= first) putAnchored(draft, each, { panelId: newId, offsetFrames: each.record.offsetFrames - first })
  }
  return made(draft.edit('panel-split', unitOf(takeId)))
}

const joinedWords = (words: readonly string[]) => words.filter((each, i) => each.trim() !== '' && words.indexOf(each) === i).join('\n')

/** Makes one panel of several that stand side by side: the first's picture, all the words and all the time. */
export function joinPanels(film: Film, projectId: string, takeId: string, ids: readonly string[]): Made {
  const take = film.takes[takeId]
  const parts = take === undefined ? null : chosen(take, ids)
  if (take === undefined || parts === null) return missing(ids[0] ?? '')
  const panels = inOrder(take.panels)
  const at = panels.indexOf(parts[0]!)
  if (parts.length < 2 || parts.some((panel, i) => panels[at + i] !== panel)) return refused({ code: 'not-side-by-side' })
  const [first, ...rest] = parts as readonly [Panel, ...Panel[]]
  const gone = new Set(rest.map((panel) => panel.id))
  const lengthFrames = parts.reduce((sum, panel) => sum + panel.lengthFrames, 0)
  if (lengthFrames > PANEL_FRAMES_RANGE.max) return refused({ code: 'length-out-of-range', received: lengthFrames, ...PANEL_FRAMES_RANGE })
  const words = { action: joinedWords(parts.map((panel) => panel.action)), dialogue: joinedWords(parts.map((panel) => panel.dialogue)), notes: joinedWords(parts.map((panel) => panel.notes)) }
  const longest = Math.max(...Object.values(words).map((each) => each.length))
  if (longest > PANEL_LETTERS) return refused({ code: 'words-too-long', received: longest, most: PANEL_LETTERS })
  const draft = new Draft(take).put('panels', { ...first, lengthFrames, ...words })
  const starts = new Map(placedPanels(take).map((placed) => [placed.panel.id, placed.startFrame]))
  for (const each of anchoredIn(take, (id) => gone.has(id))) {
    putAnchored(draft, each, { panelId: first.id, offsetFrames: each.record.offsetFrames + starts.get(each.record.panelId)! - starts.get(first.id)! })
  }
  for (const id of gone) draft.drop('panels', id)
  const shown = showings(take)
  layOut(draft, take, Object.values(take.levels), panels.filter((panel) => !gone.has(panel.id)).map((panel) => panel.id), (panelId, levelId) => shown.get(panelId)?.get(levelId) ?? null)
  const links = linkEdit(
    film.outline,
    projectId,
    (link) => ({ ...link, id: linkIdOf(link.passageId, first.id), panelId: first.id }),
    (link) => link.takeId === takeId && gone.has(link.panelId),
  )
  return made(draft.edit('panel-join', unitOf(takeId)), ...links)
}

/** Moves panels of a take before another of it, or to its end (null). Each still shows what it showed; keys go along. */
export function movePanels(take: TakeBody, takeId: string, ids: readonly string[], beforeId: string | null, newId: NewIds): Made {
  const moving = chosen(take, ids)
  if (moving === null) return missing(ids[0] ?? '')
  const set = new Set(ids)
  const panels = inOrder(take.panels)
  const asked = beforeId === null ? panels.length : panels.findIndex((panel) => panel.id === beforeId)
  if (asked < 0) return missing(beforeId!)
  const rest = panels.filter((panel) => !set.has(panel.id))
  const at = panels.slice(0, asked).filter((panel) => !set.has(panel.id)).length
  const order = [...rest.slice(0, at), ...moving, ...rest.slice(at)]
  if (order.every((panel, i) => panel === panels[i])) return made()
  const draft = new Draft(take)
  const orders = draft.room('panels', rest, at, moving.length)
  moving.forEach((panel, i) => draft.put('panels', { ...panel, order: orders[i]! }))
  const shown = showings(take)
  layOut(draft, take, Object.values(take.levels), order.map((panel) => panel.id), (panelId, levelId) => shown.get(panelId)!.get(levelId)!)
  const live = liveInPanels(take)
  return made(keepLive(tidyLoose(draft, take), (panelId) => live.get(panelId)!, newId).edit('panel-move', unitOf(takeId)))
}

export interface NewIds {
  /** As many as may be asked for; each call gives another. */
  (): string
}

/** The level of `into` that is the same as `level` to look at, or null. */
function counterpart(into: TakeBody, level: Level): Level | null {
  return Object.values(into.levels).find((each) => each.name === level.name && each.kind === level.kind && each.depth === level.depth && each.scale === level.scale && each.x === level.x && each.y === level.y) ?? null
}

/**
 * Moves panels into another shot's take, before one of its panels or to its end (null). They bring what they show:
 * levels the other shot has alike are used, the others come along; the panels around them show what they showed. The
 * camera does in them what it did (see `carryCamera`), and marks on the ruler over them go along. Art that stays in use
 * where it was is copied. The shot they leave goes when it is left empty.
 */
export function carryPanels(film: Film, projectId: string, fromTakeId: string, ids: readonly string[], toTakeId: string, beforeId: string | null, newId: NewIds): Made {
  const from = film.takes[fromTakeId]
  const to = film.takes[toTakeId]
  if (from !== undefined && fromTakeId === toTakeId) return movePanels(from, fromTakeId, ids, beforeId, newId)
  const moving = from === undefined ? null : chosen(from, ids)
  if (from === undefined || to === undefined || moving === null) return missing(ids[0] ?? '')
  const removed = removePanels(film, projectId, fromTakeId, ids, newId)
  if (!removed.ok) return removed
  const rest = removed.edits.reduce<TakeBody | null>((value, edit) => {
    if (edit.unit.kind !== 'take' || value === null) return value
    const applied = applyToUnit(value, edit)
    return applied.ok ? applied.value : value
  }, from)
  const shotGoes = removed.edits.some((edit) => edit.unit.kind === 'outline' && edit.changes.takes?.[fromTakeId] !== undefined)
  const stillUsed = new Set(shotGoes || rest === null ? [] : Object.values(rest.cells).map((cell) => cell.drawingId))

  const draft = new Draft(to)
  const panels = inOrder(to.panels)
  const at = beforeId === null ? panels.length : panels.findIndex((panel) => panel.id === beforeId)
  if (at < 0) return missing(beforeId!)
  const orders = draft.room('panels', panels, at, moving.length)
  const newIds = new Map(moving.map((panel) => [panel.id, to.panels[panel.id] === undefined ? panel.id : newId()]))
  moving.forEach((panel, i) => draft.put('panels', { ...panel, id: newIds.get(panel.id)!, order: orders[i]! }))

  const cameras = carryCameras(draft, from, to, moving, newIds, at, opticsOfFilm(film.outline), newId)
  const shownFrom = showings(from)
  const shownTo = showings(to)
  const used = inOrder(from.levels).filter((level) => moving.some((panel) => shownFrom.get(panel.id)!.get(level.id) !== null))
  const drawings: Edit[] = []
  const copies = new Map<string, string>()
  const drawingFor = (id: string): string | null => {
    if (!stillUsed.has(id)) return id
    const known = copies.get(id)
    if (known !== undefined) return known
    const drawing = film.drawings[id]
    if (drawing === undefined) return null
    const copy = newId()
    copies.set(id, copy)
    const marks = Object.fromEntries(drawing.marks.map((mark) => [mark.id, { before: null, after: mark }]))
    drawings.push({ kind: 'drawing-copy', unit: { kind: 'drawing', id: copy }, changes: { marks }, copyOf: id })
    return copy
  }
  const levelFor = new Map<string, string>()
  const rack = inOrder(to.levels)
  const levels: Pick<Level, 'id'>[] = [...rack]
  const taken = new Set<string>()
  const coming: Level[] = []
  for (const level of used) {
    const there = counterpart(to, level)
    const id = there !== null && !taken.has(there.id) ? there.id : to.levels[level.id] === undefined ? level.id : newId()
    levelFor.set(id, level.id)
    taken.add(id)
    if (to.levels[id] !== undefined) continue
    coming.push({ ...level, id })
    levels.push({ id })
  }
  const places = draft.room('levels', rack, rack.length, coming.length)
  coming.forEach((level, i) => draft.put('levels', { ...level, order: places[i]! }))
  const origin = new Map([...newIds].map(([old, id]) => [id, old]))
  for (const id of new Set(moving.flatMap((panel) => [...levelFor.values()].map((level) => shownFrom.get(panel.id)!.get(level)!)))) {
    if (id !== null && drawingFor(id) === null) return refused({ code: 'missing', what: 'drawing', id })
  }
  const order = [...panels.slice(0, at).map((panel) => panel.id), ...moving.map((panel) => newIds.get(panel.id)!), ...panels.slice(at).map((panel) => panel.id)]
  layOut(draft, to, levels, order, (panelId, levelId) => {
    const old = origin.get(panelId)
    if (old === undefined) return shownTo.get(panelId)?.get(levelId) ?? null
    const source = levelFor.get(levelId)
    const drawing = source === undefined ? null : shownFrom.get(old)!.get(source)!
    return drawing === null ? null : drawingFor(drawing)
  })
  tidyLoose(draft, to)
  const [liveFrom, liveTo] = [liveInPanels(from), liveInPanels(to)]
  keepLive(draft, (panelId) => (origin.has(panelId) ? (cameras.get(liveFrom.get(origin.get(panelId)!) ?? '') ?? null) : liveTo.get(panelId)!), newId)
  return made(...withFollowers(film.outline, projectId, removed.edits, from, fromTakeId, newIds, toTakeId, draft.value()), draft.edit('panel-carry', unitOf(toTakeId)), ...drawings)
}

/**
 * The cameras of a shot that panels are put into: in them each does what it did in their own, around them what it did, and
 * jumps where they begin and end. Nothing is keyed where one stands alike in all of them. What the panels are seen through
 * first is what the shot is; the other cameras that they are seen through go by their letters, or come along. Gives what each
 * is called there.
 */
function carryCameras(draft: Draft<TakeBody>, from: TakeBody, to: TakeBody, moving: readonly Panel[], newIds: ReadonlyMap<string, string>, at: number, optics: Optics, newId: NewIds): ReadonlyMap<string, string> {
  const placed = placedPanels(from).filter(({ panel }) => newIds.has(panel.id))
  const spans = liveSpans(from)
  const seen = new Set(placed.flatMap(({ panel, startFrame }) => spans.filter((span, i) => span.from < startFrame + panel.lengthFrames && (spans[i + 1]?.from ?? Infinity) > startFrame).map((span) => span.cameraId)))
  const names = namesOfCameras(draft, inOrder(from.cameras).filter((camera, i) => i === 0 || seen.has(camera.id)), to, newId)
  const sources = new Map([...names].map(([source, target]) => [target, source]))
  for (const target of new Set([...Object.keys(to.cameras), ...sources.keys()])) carryCamera(draft, from, to, placed, newIds, at, optics, newId, sources.get(target) ?? null, target)
  carryAnchored(draft, anchoredIn(from, (id) => newIds.has(id)), (id) => newIds.get(id)!, (id) => names.get(id), newId)
  return names
}

/** What cameras of a take are called in another: the first is the first there, the others go by their letters, and those that it has not are put into it. */
export function namesOfCameras(draft: Draft<TakeBody>, cameras: readonly Camera[], to: TakeBody, newId: NewIds, byLetter: Map<string, string> = lettersOf(to)): ReadonlyMap<string, string> {
  const names = new Map<string, string>()
  const first = firstCamera(to)?.id
  cameras.forEach((camera, i) => {
    let id = i === 0 ? first : byLetter.get(camera.letter)
    if (id === undefined || [...names.values()].includes(id)) {
      id = to.cameras[camera.id] === undefined ? camera.id : newId()
      byLetter.set(camera.letter, id)
      draft.put('cameras', { ...camera, id })
    }
    names.set(camera.id, id)
  })
  return names
}

export const lettersOf = (take: TakeBody) => new Map(inOrder(take.cameras).map((camera) => [camera.letter, camera.id]))

/** One camera of those (`source`, null: in the panels that come nothing is seen through it), in a shot that panels are put into. */
function carryCamera(draft: Draft<TakeBody>, from: TakeBody, to: TakeBody, moving: readonly PlacedPanel[], newIds: ReadonlyMap<string, string>, at: number, optics: Optics, newId: NewIds, source: string | null, target: string) {
  const keyed = placedFramings(to, target).length > 0
  if (!keyed && (source === null || placedFramings(from, source).length === 0)) return
  const rest = untouchedPose(optics)
  const placedTo = placedPanels(to)
  const cutFrame = placedTo[at]?.startFrame ?? takeLengthFrames(to)
  // Panels that stood side by side are one stretch.
  const runs: { readonly start: number; end: number }[] = []
  for (const { panel, startFrame } of moving) {
    const run = runs.at(-1)
    if (run?.end === startFrame) run.end += panel.lengthFrames
    else runs.push({ start: startFrame, end: startFrame + panel.lengthFrames })
  }
  const spanOf = (take: TakeBody, cameraId: string, start: number, end: number | null) => startingAt(cameraSpan(take, cameraId, optics, start, end), start, rest)
  const carried = source === null ? [] : runs.map(({ start, end }) => spanOf(from, source, start, end - 1))
  let after: SpanKeys = []
  if (to.cameras[target] !== undefined) {
    const own = cameraSpan(to, target, optics, 0, cutFrame - 1)
    const before = at === 0 ? [] : own.length === 0 ? startingAt(own, 0, rest) : own
    after = at >= placedTo.length ? [] : spanOf(to, target, cutFrame, null)
    if (allAlike([before, ...carried, after]) && keyed) return
    putSpan(draft, to, target, [...(after.length + carried.length > 0 ? leftByJump(before) : before), ...after], (frame) => anchorOfFrame(to, frame)!, newId)
  }
  carried.forEach((span, i) => {
    const left = i === carried.length - 1 && after.length === 0 ? span : leftByJump(span)
    for (const each of left) {
      const anchor = anchorOfFrame(from, each.frame)!
      draft.put('framings', framingOf(each, target, { ...anchor, panelId: newIds.get(anchor.panelId)! }, newId, true))
    }
  })
}

/** Taking panels out drops their links, and their marks where the shot goes; where they only went elsewhere, both go with them. */
function withFollowers(outline: Outline, projectId: string, edits: readonly Edit[], from: TakeBody, fromTakeId: string, newIds: ReadonlyMap<string, string>, toTakeId: string, moved: TakeBody): Edit[] {
  const follow = new Draft(outline)
  for (const link of Object.values(outline.links)) {
    if (link.takeId !== fromTakeId || !newIds.has(link.panelId)) continue
    const panelId = newIds.get(link.panelId)!
    const id = linkIdOf(link.passageId, panelId)
    if (id !== link.id) follow.drop('links', link.id)
    follow.put('links', { ...link, id, panelId, takeId: toTakeId })
  }
  const [fromShot, toShot] = [fromTakeId, toTakeId].map((id) => outline.shots[outline.takes[id]?.shotId ?? ''])
  if (fromShot?.circledTakeId === fromTakeId && toShot?.circledTakeId === toTakeId) {
    for (const mark of Object.values(outline.rulerMarks)) {
      if (mark.shotId !== fromShot.id) continue
      const anchor = anchorOfFrame(from, mark.offsetFrames)!
      const panelId = newIds.get(anchor.panelId)
      if (panelId !== undefined) follow.put('rulerMarks', { ...mark, shotId: toShot.id, offsetFrames: frameOfAnchor(moved, { ...anchor, panelId }) })
    }
  }
  const edit = follow.edit('panel-carry', { kind: 'outline', id: projectId })
  if (isEmpty(edit)) return [...edits]
  const own = edits.find((each) => each.unit.kind === 'outline')
  // What the removal dropped and what follows both begin from the outline as it is.
  const changes: Record<string, Record<string, RecordChange>> = {}
  for (const each of own === undefined ? [edit] : [own, edit]) for (const [collection, records] of Object.entries(each.changes)) changes[collection] = { ...changes[collection], ...records }
  return [{ ...edit, changes }, ...edits.filter((each) => each.unit.kind !== 'outline')]
}
