import { posesEqual, type CameraPose } from '../camera/pose'
import { inOrder } from '../document/order'
import { placedFramings, placedPanels } from '../document/panels'
import { cellIdOf, linkIdOf, type Level, type Link, type Panel } from '../document/records'
import type { Film, Outline, TakeBody } from '../document/units'
import type { MoveSpec } from '../moves/move'
import { Draft } from './draft'
import { applyToUnit, merge, type Edit } from './edit'
import { removePanel } from './panels'
import { layOut, showings, type Showing } from './showing'
import { made, refused, type Made } from './refusal'
import { removeShot } from './shots'

const unitOf = (takeId: string) => ({ kind: 'take', id: takeId }) as const
const HOLD: MoveSpec = { timing: { kind: 'hold' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const EVEN: MoveSpec = { ...HOLD, timing: { kind: 'even' } }
const missing = (id: string) => refused({ code: 'missing', what: 'panel', id })

/** Orders for `count` records between two others. */
export function ordersBetween(before: number | undefined, after: number | undefined, count: number): number[] {
  const low = before ?? (after === undefined ? 0 : after - count - 1)
  const high = after ?? low + count + 1
  return Array.from({ length: count }, (_, i) => low + ((high - low) * (i + 1)) / (count + 1))
}

/** The panels named, in the take's order; null where one is not there. */
function chosen(take: TakeBody, ids: readonly string[]): readonly Panel[] | null {
  const wanted = new Set(ids)
  const found = inOrder(take.panels).filter((panel) => wanted.has(panel.id))
  return found.length === wanted.size ? found : null
}

/** The edit of links that follow their panels, null where there are none. */
export function linkEdit(outline: Outline, projectId: string, map: (link: Link) => Link | null, only: (link: Link) => boolean): Edit[] {
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
  const orders = ordersBetween(panels[last]!.order, panels[last + 1]?.order, sources.length)
  const draft = new Draft(take)
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
export function removePanels(film: Film, projectId: string, takeId: string, ids: readonly string[]): Made {
  const take = film.takes[takeId]
  if (take === undefined || chosen(take, ids) === null) return missing(ids[0] ?? '')
  const entry = film.outline.takes[takeId]
  if (entry !== undefined && new Set(ids).size === Object.keys(take.panels).length) {
    const alternates = Object.values(film.outline.takes).filter((other) => other.shotId === entry.shotId).length > 1
    return alternates ? refused({ code: 'last-panel' }) : removeShot(film.outline, projectId, entry.shotId)
  }
  let value = take
  let all: Edit | null = null
  for (const id of ids) {
    const one = removePanel(value, takeId, id)
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
  const [order] = ordersBetween(panel.order, panels[panels.indexOf(panel) + 1]?.order, 1)
  const draft = new Draft(take)
    .put('panels', { ...panel, lengthFrames: first })
    .put('panels', { ...panel, id: newId, order: order!, lengthFrames: panel.lengthFrames - first, action: '', dialogue: '', notes: '' })
  for (const collection of ['framings', 'cuts'] as const) {
    for (const key of Object.values(take[collection])) {
      if (key.panelId === panelId && key.offsetFrames >= first) draft.put(collection, { ...key, panelId: newId, offsetFrames: key.offsetFrames - first } as never)
    }
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
  const draft = new Draft(take).put('panels', {
    ...first,
    lengthFrames: parts.reduce((sum, panel) => sum + panel.lengthFrames, 0),
    action: joinedWords(parts.map((panel) => panel.action)),
    dialogue: joinedWords(parts.map((panel) => panel.dialogue)),
    notes: joinedWords(parts.map((panel) => panel.notes)),
  })
  const starts = new Map(placedPanels(take).map((placed) => [placed.panel.id, placed.startFrame]))
  for (const collection of ['framings', 'cuts'] as const) {
    for (const key of Object.values(take[collection])) {
      if (gone.has(key.panelId)) draft.put(collection, { ...key, panelId: first.id, offsetFrames: key.offsetFrames + starts.get(key.panelId)! - starts.get(first.id)! } as never)
    }
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
export function movePanels(take: TakeBody, takeId: string, ids: readonly string[], beforeId: string | null): Made {
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
  const orders = ordersBetween(rest[at - 1]?.order, rest[at]?.order, moving.length)
  const draft = new Draft(take)
  moving.forEach((panel, i) => draft.put('panels', { ...panel, order: orders[i]! }))
  const shown = showings(take)
  layOut(draft, take, Object.values(take.levels), order.map((panel) => panel.id), (panelId, levelId) => shown.get(panelId)!.get(levelId)!)
  return made(draft.edit('panel-move', unitOf(takeId)))
}

export interface NewIds {
  /** As many as may be asked for; each call gives another. */
  (): string
}

/** The level of `into` that is the same as `level` to look at, or null. */
function counterpart(into: TakeBody, level: Level): Level | null {
  return Object.values(into.levels).find((each) => each.name === level.name && each.kind === level.kind && each.depth === level.depth && each.scale === level.scale && each.x === level.x && each.y === level.y) ?? null
}

/** The pose of a take's live camera at a frame, as the stage evaluates it; null where the camera is untouched. */
export type PoseAt = (takeId: string, frame: number) => CameraPose | null

/**
 * Moves panels into another shot's take, before one of its panels or to its end (null). They bring what they show:
 * levels the other shot has alike are used, the others come along; the panels around them show what they showed. The
 * camera stands in them as it stood (see `carryCamera`). Art that stays in use where it was is copied. The shot they
 * leave goes when it is left empty.
 */
export function carryPanels(film: Film, projectId: string, fromTakeId: string, ids: readonly string[], toTakeId: string, beforeId: string | null, poseAt: PoseAt, newId: NewIds): Made {
  const from = film.takes[fromTakeId]
  const to = film.takes[toTakeId]
  const moving = from === undefined ? null : chosen(from, ids)
  if (from === undefined || to === undefined || moving === null) return missing(ids[0] ?? '')
  const removed = removePanels(film, projectId, fromTakeId, ids)
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
  const orders = ordersBetween(panels[at - 1]?.order, panels[at]?.order, moving.length)
  const newIds = new Map(moving.map((panel) => [panel.id, to.panels[panel.id] === undefined ? panel.id : newId()]))
  moving.forEach((panel, i) => draft.put('panels', { ...panel, id: newIds.get(panel.id)!, order: orders[i]! }))

  carryCamera(draft, from, fromTakeId, to, toTakeId, moving, newIds, at, poseAt, newId)
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
    drawings.push({ kind: 'drawing-copy', unit: { kind: 'drawing', id: copy }, changes: { marks } })
    return copy
  }
  const levelFor = new Map<string, string>()
  const rack = inOrder(to.levels)
  const levels: Pick<Level, 'id'>[] = [...rack]
  let last = rack.at(-1)?.order ?? 0
  const taken = new Set<string>()
  for (const level of used) {
    const there = counterpart(to, level)
    const id = there !== null && !taken.has(there.id) ? there.id : to.levels[level.id] === undefined ? level.id : newId()
    levelFor.set(id, level.id)
    taken.add(id)
    if (to.levels[id] !== undefined) continue
    draft.put('levels', { ...level, id, order: (last += 1) })
    levels.push({ id })
  }
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
  const moved = draft.edit('panel-carry', unitOf(toTakeId))
  return made(...withLinksMoved(film.outline, projectId, removed.edits, fromTakeId, newIds, toTakeId), moved, ...drawings)
}

/**
 * Keys that keep the pictures where panels are put among others that the camera sees otherwise: the carried panels'
 * own keys, one at each end of them, and one on the frame before and the frame after. Keys a frame apart are a jump.
 * None where the camera stands alike.
 */
function carryCamera(draft: Draft<TakeBody>, from: TakeBody, fromTakeId: string, to: TakeBody, toTakeId: string, moving: readonly Panel[], newIds: ReadonlyMap<string, string>, at: number, poseAt: PoseAt, newId: NewIds) {
  const [source, target] = [inOrder(from.cameras)[0], inOrder(to.cameras)[0]]
  if (source === undefined || target === undefined) return
  const placedFrom = new Map(placedPanels(from).map((placed) => [placed.panel.id, placed.startFrame]))
  const placedTo = placedPanels(to)
  const [previous, next] = [placedTo[at - 1], placedTo[at]]
  const rest = poseAt(toTakeId, 0) ?? poseAt(fromTakeId, placedFrom.get(moving[0]!.id)!)
  if (rest === null) return
  const poseFrom = (frame: number) => poseAt(fromTakeId, frame) ?? rest
  const poseTo = (frame: number) => poseAt(toTakeId, frame) ?? rest
  const span = (panel: Panel) => [poseFrom(placedFrom.get(panel.id)!), poseFrom(placedFrom.get(panel.id)! + panel.lengthFrames - 1)] as const
  const around = [...(previous === undefined ? [] : [poseTo(previous.startFrame + previous.panel.lengthFrames - 1)]), ...(next === undefined ? [] : [poseTo(next.startFrame)])]
  const all = [...moving.flatMap((panel) => [...span(panel)]), ...around]
  if (all.every((pose) => posesEqual(pose, all[0]!))) return
  const key = (panelId: string, offsetFrames: number, pose: CameraPose, move: MoveSpec = HOLD) =>
    draft.put('framings', { id: newId(), cameraId: target.id, panelId, offsetFrames, pose: { ...pose }, move, locked: false })
  const keyed = (take: TakeBody, cameraId: string, panelId: string, offset: number) => Object.values(take.framings).find((framing) => framing.cameraId === cameraId && framing.panelId === panelId && framing.offsetFrames === offset)
  const crossing = placedFramings(to, target.id).findLast((entry) => next !== undefined && entry.frame < next.startFrame)
  if (previous !== undefined && keyed(to, target.id, previous.panel.id, previous.panel.lengthFrames - 1) === undefined) key(previous.panel.id, previous.panel.lengthFrames - 1, around[0]!)
  for (const panel of moving) {
    const id = newIds.get(panel.id)!
    const [first, last] = span(panel)
    const own = Object.values(from.framings).filter((framing) => framing.cameraId === source.id && framing.panelId === panel.id)
    for (const framing of own) draft.put('framings', { ...framing, id: newId(), cameraId: target.id, panelId: id, locked: false })
    const still = own.length === 0 && posesEqual(first, last)
    if (!own.some((framing) => framing.offsetFrames === 0)) key(id, 0, first, still ? HOLD : EVEN)
    if (panel.lengthFrames > 1 && !own.some((framing) => framing.offsetFrames === panel.lengthFrames - 1)) key(id, panel.lengthFrames - 1, last)
  }
  if (next !== undefined && keyed(to, target.id, next.panel.id, 0) === undefined) key(next.panel.id, 0, around.at(-1)!, crossing?.framing.move ?? HOLD)
}

/** Taking panels out drops their links; where the panels only went elsewhere, the links go with them. */
function withLinksMoved(outline: Outline, projectId: string, edits: readonly Edit[], fromTakeId: string, newIds: ReadonlyMap<string, string>, toTakeId: string): Edit[] {
  const put = Object.fromEntries(
    Object.values(outline.links)
      .filter((link) => link.takeId === fromTakeId && newIds.has(link.panelId))
      .map((link): [string, Link] => {
        const panelId = newIds.get(link.panelId)!
        const id = linkIdOf(link.passageId, panelId)
        return [id, { ...link, id, panelId, takeId: toTakeId }]
      }),
  )
  if (Object.keys(put).length === 0) return [...edits]
  const outlineEdit = edits.find((edit) => edit.unit.kind === 'outline') ?? { kind: 'links', unit: { kind: 'outline', id: projectId } as const, changes: {} }
  const links = { ...outlineEdit.changes.links }
  for (const [id, link] of Object.entries(put)) links[id] = { before: outline.links[id] ?? null, after: link }
  return [{ ...outlineEdit, changes: { ...outlineEdit.changes, links } }, ...edits.filter((edit) => edit.unit.kind !== 'outline')]
}
