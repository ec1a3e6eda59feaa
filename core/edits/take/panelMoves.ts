import { anchoredIn, putAnchored } from '../../document/anchored'
import { opticsOfFilm } from '../../document/optics'
import { inOrder } from '../../document/order'
import { anchorOfFrame, placedPanels } from '../../document/panels'
import { cellAt, linkIdOf, PANEL_FRAMES_RANGE, PANEL_LETTERS, type Link, type Panel } from '../../document/records'
import { takeRef, outlineRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { tidyLoose } from './keySpans'
import { Draft } from '../change/draft'
import { applyToUnit, merge, type Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { removePanel } from './panels'
import { keepSpansWhole } from './spanPieces'
import { keepLive, liveInPanels } from './liveCuts'
import { lastShown, layOut, showings, type Showing, type ShownIn } from './showing'
import { made, refused, type Made } from '../change/refusal'
import { removeShot } from '../outline/shots'

const missing = (id: string) => refused({ code: 'missing', what: 'panel', id })

/** The panels named, in the take's order; null where one is not there. */
export function chosenPanels(take: TakeBody, ids: readonly string[]): readonly Panel[] | null {
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
  return any ? [draft.edit('links', outlineRef(projectId))] : []
}

/**
 * Puts copies of panels after the last of them, showing the same and saying the same. Figure levels get their drawings
 * there as their own (shared until one is drawn on); all others hold. Keys are not copied.
 */
export function duplicatePanels(take: TakeBody, takeId: string, ids: readonly string[], newIds: readonly string[]): Made {
  const sources = chosenPanels(take, ids)
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
  layOut(draft, take, Object.values(take.levels), order, (panelId, levelId) => shown.get(panelId)?.get(levelId))
  for (const level of Object.values(take.levels)) {
    if (level.figure !== true) continue
    for (const panelId of newIds) {
      const drawingId = shown.get(panelId)?.get(level.id)?.first ?? null
      if (drawingId !== null) draft.put('cells', cellAt(level.id, panelId, 0, drawingId))
    }
  }
  return made(draft.edit('panel-duplicate', takeRef(takeId)))
}

/** Takes panels out one after the other, as `removePanel` does; the shot itself where none would be left. */
export function removePanels(film: Film, projectId: string, takeId: string, ids: readonly string[], newId: NewIds): Made {
  const take = film.takes[takeId]
  if (take === undefined || chosenPanels(take, ids) === null) return missing(ids[0] ?? '')
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
  for (const cell of Object.values(take.cells)) {
    const offset = cell.offsetFrames ?? 0
    if (cell.panelId !== panelId || offset < first) continue
    draft.drop('cells', cell.id).put('cells', cellAt(cell.levelId, newId, offset - first, cell.drawingId))
  }
  return made(draft.edit('panel-split', takeRef(takeId)))
}

const joinedWords = (words: readonly string[]) => words.filter((each, i) => each.trim() !== '' && words.indexOf(each) === i).join('\n')

/** What panels that become one show: the first's picture, or where it is exposed inside any of them each frame's own. */
function joinedShown(parts: readonly { readonly frame: number; readonly shown: ShownIn }[]): ShownIn {
  const [first, ...rest] = parts as [(typeof parts)[number], ...typeof parts]
  if (parts.every(({ shown }) => shown.then.length === 0)) return first.shown
  let held = lastShown(first.shown)
  const then = [...first.shown.then]
  for (const { frame, shown } of rest) {
    if (shown.first !== held) then.push({ offsetFrames: frame, drawingId: shown.first })
    then.push(...shown.then.map(({ offsetFrames, drawingId }) => ({ offsetFrames: offsetFrames + frame, drawingId })))
    held = lastShown(shown)
  }
  return { first: first.shown.first, then }
}

/** Makes one panel of several that stand side by side: the first's picture, all the words and all the time. What is exposed inside them stays at its frames. */
export function joinPanels(film: Film, projectId: string, takeId: string, ids: readonly string[]): Made {
  const take = film.takes[takeId]
  const parts = take === undefined ? null : chosenPanels(take, ids)
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
  const shown = new Map<string, Showing>(showings(take))
  shown.set(first.id, new Map(Object.keys(take.levels).map((levelId) => [levelId, joinedShown(parts.map((panel) => ({ frame: starts.get(panel.id)! - starts.get(first.id)!, shown: shown.get(panel.id)!.get(levelId)! })))])))
  layOut(draft, take, Object.values(take.levels), panels.filter((panel) => !gone.has(panel.id)).map((panel) => panel.id), (panelId, levelId) => shown.get(panelId)?.get(levelId))
  const links = linkEdit(
    film.outline,
    projectId,
    (link) => ({ ...link, id: linkIdOf(link.passageId, first.id), panelId: first.id }),
    (link) => link.takeId === takeId && gone.has(link.panelId),
  )
  return made(draft.edit('panel-join', takeRef(takeId)), ...links)
}

/** Moves panels of a take before another of it, or to its end (null). Each still shows what it showed; keys go along. */
export function movePanels(take: TakeBody, takeId: string, ids: readonly string[], beforeId: string | null, newId: NewIds): Made {
  const moving = chosenPanels(take, ids)
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
  keepSpansWhole(draft, take, (now, frame) => anchorOfFrame(now, frame)!)
  return made(keepLive(tidyLoose(draft, take), (panelId) => live.get(panelId)!, newId).edit('panel-move', takeRef(takeId)))
}
