import type { Optics } from '../../camera/lens'
import { untouchedPose } from '../../camera/pose'
import { anchoredIn, carryAnchored, dropAnchored, kindOfAnchored, putAnchored } from '../../document/anchored'
import { opticsOfFilm } from '../../document/optics'
import { FIRST_ORDER, inOrder } from '../../document/order'
import { anchorOfFrame, placedFramings, placedPanels, takeLengthFrames } from '../../document/panels'
import { linkIdOf, type Level, type Panel, type Shot, type Take } from '../../document/records'
import { EMPTY_TAKE, type Drawing, type Film, type Outline, type TakeBody } from '../../document/units'
import { cameraSpan, framingOf, leftByJump, putSpan, startingAt } from '../take/cameraSpans'
import { Draft } from '../change/draft'
import type { Edit } from '../change/edit'
import { keepLive, liveInPanels } from '../take/liveCuts'
import { lettersOf, namesOfCameras, type NewIds } from '../take/panelMoves'
import { made, refused, type Made } from '../change/refusal'
import { labelBetween } from '../../document/labels'
import { removeShot, shotsOf } from './shots'
import { layOut, showings } from '../take/showing'

const outlineOf = (projectId: string) => ({ kind: 'outline', id: projectId }) as const
const takeOf = (id: string) => ({ kind: 'take', id }) as const
const missing = (id: string) => refused({ code: 'missing', what: 'shot', id })
/** Shots in film order. */
export function filmOrder(outline: Outline): readonly Shot[] {
  return inOrder(outline.sequences).flatMap((sequence) => shotsOf(outline, sequence.id))
}

const labels = (outline: Outline) => new Set(Object.values(outline.shots).map((shot) => shot.label))

/** Moves shots into a sequence, before one of its shots or to its end (null). Labels stay until they are renumbered. */
export function moveShots(outline: Outline, projectId: string, ids: readonly string[], sequenceId: string, beforeId: string | null): Made {
  if (outline.sequences[sequenceId] === undefined) return refused({ code: 'missing', what: 'sequence', id: sequenceId })
  const set = new Set(ids)
  const moving = filmOrder(outline).filter((shot) => set.has(shot.id))
  if (moving.length !== set.size) return missing(ids[0] ?? '')
  const there = shotsOf(outline, sequenceId)
  const asked = beforeId === null ? there.length : there.findIndex((shot) => shot.id === beforeId)
  if (asked < 0) return missing(beforeId!)
  const rest = there.filter((shot) => !set.has(shot.id))
  const at = there.slice(0, asked).filter((shot) => !set.has(shot.id)).length
  const order = [...rest.slice(0, at), ...moving, ...rest.slice(at)]
  if (order.length === there.length && order.every((shot, i) => shot === there[i])) return made()
  const draft = new Draft(outline)
  const orders = draft.room('shots', rest, at, moving.length)
  moving.forEach((shot, i) => draft.put('shots', { ...shot, sequenceId, order: orders[i]! }))
  return made(draft.edit('shot-move', outlineOf(projectId)))
}

/** Takes shots out, with their takes; one stays. */
export function removeShots(outline: Outline, projectId: string, ids: readonly string[]): Made {
  if (ids.length >= Object.keys(outline.shots).length) return refused({ code: 'last-shot' })
  const changes: Record<string, Record<string, { before: object | null; after: object | null }>> = {}
  for (const id of new Set(ids)) {
    const one = removeShot(outline, projectId, id)
    if (!one.ok) return one
    for (const [collection, records] of Object.entries(one.edits[0]!.changes)) Object.assign((changes[collection] ??= {}), records)
  }
  return made({ kind: 'shot-remove', unit: outlineOf(projectId), changes })
}

/** Labels shots 010, 020 … in film order: all of them, or those of one sequence. A label used elsewhere is refused. */
export function renumberShots(outline: Outline, projectId: string, sequenceId: string | null, first = 10, step = 10): Made {
  const shots = filmOrder(outline).filter((shot) => sequenceId === null || shot.sequenceId === sequenceId)
  const inside = new Set(shots.map((shot) => shot.id))
  const outside = new Set(Object.values(outline.shots).filter((shot) => !inside.has(shot.id)).map((shot) => shot.label))
  const digits = Math.max(3, String(first + step * Math.max(0, shots.length - 1)).length)
  const draft = new Draft(outline)
  for (const [index, shot] of shots.entries()) {
    const label = String(first + step * index).padStart(digits, '0')
    if (outside.has(label)) return refused({ code: 'label-taken', label })
    draft.put('shots', { ...shot, label })
  }
  return made(draft.edit('shot-renumber', outlineOf(projectId)))
}

/** The place after a shot, in a draft of the outline. */
function nextTo(draft: Draft<Outline>, outline: Outline, shot: Shot) {
  const there = shotsOf(outline, shot.sequenceId)
  const after = there.indexOf(shot) + 1
  const [order] = draft.room('shots', there, after, 1)
  return { order: order!, label: labelBetween(shot.label, there[after]?.label ?? null, labels(outline)) }
}

/** Drawings of a take under new ids, so that the copies can be drawn on; with `goesOn` in place of them. The id of one that is not loaded. */
function copyArt(film: Film, take: TakeBody, only: ReadonlySet<string> | null, newId: NewIds, goesOn = false): { readonly names: ReadonlyMap<string, string>; readonly edits: readonly Edit[] } | string {
  const names = new Map<string, string>()
  const edits: Edit[] = []
  for (const { drawingId } of [...Object.values(take.cells), ...Object.values(take.grounds)]) {
    if (drawingId === null || names.has(drawingId) || (only !== null && !only.has(drawingId))) continue
    const drawing: Drawing | undefined = film.drawings[drawingId]
    if (drawing === undefined) return drawingId
    const copy = newId()
    names.set(drawingId, copy)
    edits.push({ kind: 'drawing-copy', unit: { kind: 'drawing', id: copy }, changes: { marks: Object.fromEntries(drawing.marks.map((mark) => [mark.id, { before: null, after: mark }])) }, ...(goesOn ? { copyOf: drawingId } : {}) })
  }
  return { names, edits }
}

/** What lies under the plan, with the copies of its drawings. */
function groundsWith(take: TakeBody, names: ReadonlyMap<string, string>): TakeBody['grounds'] {
  return Object.fromEntries(Object.values(take.grounds).map((ground) => [ground.id, { ...ground, drawingId: names.get(ground.drawingId)! }]))
}

function wholeTake(body: TakeBody, takeId: string, kind: string): Edit {
  const changes = Object.fromEntries(Object.entries(body).map(([collection, records]) => [collection, Object.fromEntries(Object.entries(records as Record<string, object>).map(([id, record]) => [id, { before: null, after: record }]))]))
  return { kind, unit: takeOf(takeId), changes: Object.fromEntries(Object.entries(changes).filter(([, records]) => Object.keys(records).length > 0)) }
}

/** A copy of a shot's circled take as a new shot after it, with art of its own. */
export function duplicateShot(film: Film, projectId: string, shotId: string, newId: NewIds): Made {
  const shot = film.outline.shots[shotId]
  const take = shot === undefined ? undefined : film.takes[shot.circledTakeId]
  if (shot === undefined || take === undefined) return missing(shotId)
  const art = copyArt(film, take, null, newId)
  if (typeof art === 'string') return refused({ code: 'missing', what: 'drawing', id: art })
  const [newShot, newTake] = [newId(), newId()]
  const cells = Object.fromEntries(Object.values(take.cells).map((cell) => [cell.id, { ...cell, drawingId: cell.drawingId === null ? null : art.names.get(cell.drawingId)! }]))
  const grounds = groundsWith(take, art.names)
  const draft = new Draft(film.outline)
  const outline = draft
    .put('shots', { ...shot, id: newShot, circledTakeId: newTake, ...nextTo(draft, film.outline, shot) })
    .put('takes', { id: newTake, shotId: newShot, order: FIRST_ORDER, letter: 'A' })
    .edit('shot-duplicate', outlineOf(projectId))
  return made(outline, wholeTake({ ...take, cells, grounds }, newTake, 'shot-duplicate'), ...art.edits)
}

/**
 * Cuts a shot in two where a panel begins: that panel and those after it become a shot of their own. Every frame of both
 * stays as it was: levels and keys go along, art used on both sides is copied, and a camera that is under way at the cut
 * gets a framing on each side of it.
 */
export function cutShot(film: Film, projectId: string, shotId: string, panelId: string, newId: NewIds): Made {
  const { outline } = film
  const shot = outline.shots[shotId]
  const takeId = shot?.circledTakeId ?? ''
  const take = film.takes[takeId]
  if (shot === undefined || take === undefined) return missing(shotId)
  const placed = placedPanels(take)
  const at = placed.findIndex((entry) => entry.panel.id === panelId)
  if (at < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  if (at === 0) return refused({ code: 'nothing-to-cut' })
  const going = new Set(placed.slice(at).map((entry) => entry.panel.id))
  const cutFrame = placed[at]!.startFrame
  const shown = showings(take)
  const levels = inOrder(take.levels)
  const left = new Draft(take)
  const right = new Draft<TakeBody>(EMPTY_TAKE)
  for (const { panel } of placed.slice(at)) {
    left.drop('panels', panel.id)
    right.put('panels', panel)
  }
  for (const camera of Object.values(take.cameras)) right.put('cameras', camera)
  const optics = opticsOfFilm(outline)
  const anchorOf = (frame: number) => anchorOfFrame(take, frame)!
  for (const { id } of Object.values(take.cameras)) {
    putSpan(left, take, id, cameraSpan(take, id, optics, 0, cutFrame - 1), anchorOf, newId)
    for (const each of cameraSpan(take, id, optics, cutFrame, null)) right.put('framings', framingOf(each, id, anchorOf(each.frame), newId))
  }
  for (const each of anchoredIn(take, (id) => going.has(id))) {
    if (kindOfAnchored(each.collection).track) continue
    dropAnchored(left, each)
    putAnchored(right, each)
  }
  const [leftOrder, rightOrder] = [placed.slice(0, at).map((entry) => entry.panel.id), placed.slice(at).map((entry) => entry.panel.id)]
  layOut(left, take, levels, leftOrder, (panel, level) => shown.get(panel)!.get(level)!)
  const usedLeft = new Set(leftOrder.flatMap((panel) => [...shown.get(panel)!.values()]))
  const usedRight = new Set(rightOrder.flatMap((panel) => [...shown.get(panel)!.values()]))
  const both = new Set([...[...usedRight].filter((id): id is string => id !== null && usedLeft.has(id)), ...Object.values(take.grounds).map((ground) => ground.drawingId)])
  const art = copyArt(film, take, both, newId, true)
  if (typeof art === 'string') return refused({ code: 'missing', what: 'drawing', id: art })
  const rightLevels = levels.filter((level) => rightOrder.some((panel) => shown.get(panel)!.get(level.id) !== null))
  for (const level of rightLevels) right.put('levels', level)
  for (const preset of Object.values(take.presets)) right.put('presets', preset)
  for (const ground of Object.values(groundsWith(take, art.names))) right.put('grounds', ground)
  layOut(right, EMPTY_TAKE, rightLevels, rightOrder, (panel, level) => {
    const id = shown.get(panel)!.get(level)!
    return id === null ? null : (art.names.get(id) ?? id)
  })
  const live = liveInPanels(take)
  for (const side of [left, right]) keepLive(side, (panel) => live.get(panel)!, newId)
  const [newShot, newTake] = [newId(), newId()]
  const outlineDraft = new Draft(outline)
  outlineDraft
    .put('shots', { ...shot, id: newShot, title: '', circledTakeId: newTake, ...nextTo(outlineDraft, outline, shot) })
    .put('takes', { id: newTake, shotId: newShot, order: FIRST_ORDER, letter: 'A' })
  for (const link of Object.values(outline.links)) if (link.takeId === takeId && going.has(link.panelId)) outlineDraft.put('links', { ...link, takeId: newTake })
  for (const mark of Object.values(outline.rulerMarks)) if (mark.shotId === shotId && mark.offsetFrames >= cutFrame) outlineDraft.put('rulerMarks', { ...mark, shotId: newShot, offsetFrames: mark.offsetFrames - cutFrame })
  for (const clip of Object.values(outline.clips)) if (clip.shotId === shotId && clip.offsetFrames >= cutFrame) outlineDraft.put('clips', { ...clip, shotId: newShot, offsetFrames: clip.offsetFrames - cutFrame })
  return made(outlineDraft.edit('shot-cut', outlineOf(projectId)), left.edit('shot-cut', takeOf(takeId)), right.edit('shot-cut', takeOf(newTake)), ...art.edits)
}

/**
 * Joins shots that stand side by side in one sequence: the later ones' panels go to the end of the first. Levels that
 * are alike become one; where pictures differ each part shows its own. The camera jumps where one shot ended and the
 * next began, as it did.
 */
export function joinShots(film: Film, projectId: string, ids: readonly string[], newId: NewIds): Made {
  const { outline } = film
  const set = new Set(ids)
  const shots = filmOrder(outline).filter((shot) => set.has(shot.id))
  const [first, ...rest] = shots
  if (first === undefined || shots.length !== set.size || rest.length === 0) return refused({ code: 'not-side-by-side' })
  const there = shotsOf(outline, first.sequenceId)
  const at = there.indexOf(first)
  if (shots.some((shot, i) => there[at + i] !== shot)) return refused({ code: 'not-side-by-side' })
  const takesOf = (shot: Shot): Take[] => Object.values(outline.takes).filter((take) => take.shotId === shot.id)
  if (rest.some((shot) => takesOf(shot).length > 1)) return refused({ code: 'has-alternates' })
  const base = film.takes[first.circledTakeId]
  if (base === undefined) return missing(first.id)
  const draft = new Draft(base)
  const baseLevels = inOrder(base.levels)
  const levels: Level[] = [...baseLevels]
  const coming: { readonly panels: Panel[]; readonly levels: Level[] } = { panels: [], levels: [] }
  const shown = new Map<string, ReadonlyMap<string, string | null>>(showings(base))
  const order = inOrder(base.panels).map((panel) => panel.id)
  const panelIds = new Set(order)
  const outlineDraft = new Draft(outline)
  let startFrame = takeLengthFrames(base)
  const parts: JoinedPart[] = [{ take: base, names: null, cameraOf: (id) => id }]
  const byLetter = lettersOf(base)
  const live = new Map(liveInPanels(base))
  for (const shot of rest) {
    const take = film.takes[shot.circledTakeId]
    if (take === undefined) return missing(shot.id)
    const names = new Map<string, string>()
    for (const panel of inOrder(take.panels)) {
      const id = panelIds.has(panel.id) ? newId() : panel.id
      panelIds.add(id)
      names.set(panel.id, id)
      order.push(id)
      coming.panels.push({ ...panel, id })
    }
    const levelNames = new Map<string, string>()
    const matched = new Set<string>()
    for (const level of inOrder(take.levels)) {
      const alike = levels.find((each) => !matched.has(each.id) && alikeLevels(each, level))
      const id = alike?.id ?? (levels.some((each) => each.id === level.id) ? newId() : level.id)
      matched.add(id)
      levelNames.set(level.id, id)
      if (alike !== undefined) continue
      const added = { ...level, id }
      levels.push(added)
      coming.levels.push(added)
    }
    for (const [panelId, showing] of showings(take)) shown.set(names.get(panelId)!, new Map([...showing].map(([level, drawing]) => [levelNames.get(level)!, drawing])))
    const cameras = namesOfCameras(draft, inOrder(take.cameras), base, newId, byLetter)
    for (const [panelId, cameraId] of liveInPanels(take)) live.set(names.get(panelId)!, cameraId === null ? null : cameras.get(cameraId)!)
    parts.push({ take, names, cameraOf: (id) => cameras.get(id) })
    for (const preset of Object.values(take.presets)) if (base.presets[preset.id] === undefined) draft.put('presets', preset)
    carryAnchored(draft, anchoredIn(take), (id) => names.get(id)!, (id) => cameras.get(id), newId)
    for (const link of Object.values(outline.links)) {
      if (link.takeId !== shot.circledTakeId) continue
      const panelId = names.get(link.panelId) ?? link.panelId
      const id = linkIdOf(link.passageId, panelId)
      if (id !== link.id) outlineDraft.drop('links', link.id)
      outlineDraft.put('links', { ...link, id, panelId, takeId: first.circledTakeId })
    }
    const length = takeLengthFrames(take)
    for (const mark of Object.values(outline.rulerMarks)) {
      // A mark past its shot's end is seen on the last frame, and stays there.
      if (mark.shotId === shot.id) outlineDraft.put('rulerMarks', { ...mark, shotId: first.id, offsetFrames: startFrame + Math.min(mark.offsetFrames, Math.max(0, length - 1)) })
    }
    for (const clip of Object.values(outline.clips)) if (clip.shotId === shot.id) outlineDraft.put('clips', { ...clip, shotId: first.id, offsetFrames: startFrame + clip.offsetFrames })
    if (outline.transitions[shot.id] !== undefined) outlineDraft.drop('transitions', shot.id)
    startFrame += length
    outlineDraft.drop('shots', shot.id)
    for (const other of takesOf(shot)) outlineDraft.drop('takes', other.id)
  }
  const basePanels = inOrder(base.panels)
  const panelOrders = draft.room('panels', basePanels, basePanels.length, coming.panels.length)
  coming.panels.forEach((panel, i) => draft.put('panels', { ...panel, order: panelOrders[i]! }))
  const levelOrders = draft.room('levels', baseLevels, baseLevels.length, coming.levels.length)
  coming.levels.forEach((level, i) => draft.put('levels', { ...level, order: levelOrders[i]! }))
  joinCameras(draft, parts, opticsOfFilm(outline), newId)
  layOut(draft, base, levels, order, (panelId, levelId) => shown.get(panelId)?.get(levelId) ?? null)
  keepLive(draft, (panelId) => live.get(panelId) ?? null, newId)
  return made(outlineDraft.edit('shot-join', outlineOf(projectId)), draft.edit('shot-join', takeOf(first.circledTakeId)))
}

/** One of the shots that are joined: its take, and what its panels (null: as they are) and cameras are called in the whole. */
interface JoinedPart {
  readonly take: TakeBody
  readonly names: ReadonlyMap<string, string> | null
  readonly cameraOf: (cameraId: string) => string | undefined
}

/** Each camera does in each part what it did there, and jumps from one to the next: one that nobody has touched too. */
function joinCameras(draft: Draft<TakeBody>, parts: readonly JoinedPart[], optics: Optics, newId: NewIds) {
  const rest = untouchedPose(optics)
  const targets = new Set(parts.flatMap(({ take, cameraOf }) => Object.keys(take.cameras).flatMap((id) => cameraOf(id) ?? [])))
  for (const target of targets) {
    const own = parts.map((part) => ({ ...part, camera: inOrder(part.take.cameras).find((camera) => part.cameraOf(camera.id) === target) }))
    if (own.every(({ take, camera }) => camera === undefined || placedFramings(take, camera.id).length === 0)) continue
    own.forEach(({ take, camera, names }, i) => {
      const last = i === own.length - 1
      const found = camera === undefined ? [] : cameraSpan(take, camera.id, optics, 0, last ? null : takeLengthFrames(take) - 1)
      // The first part may begin later than its first frame: nothing is before it.
      const begun = i === 0 && found.length > 0 ? found : startingAt(found, 0, rest)
      const span = last ? begun : leftByJump(begun)
      if (names === null) putSpan(draft, take, target, span, (frame) => anchorOfFrame(take, frame)!, newId)
      else {
        for (const each of span) {
          const anchor = anchorOfFrame(take, each.frame)!
          const made = framingOf(each, target, { ...anchor, panelId: names.get(anchor.panelId)! }, newId, true)
          draft.put('framings', { ...made, locked: each.of?.framing.locked ?? false })
        }
      }
    })
  }
}

const LOOKS = ['name', 'kind', 'x', 'y', 'depth', 'scale', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'opacity', 'visible'] as const
const alikeLevels = (a: Level, b: Level) => LOOKS.every((field) => a[field] === b[field])

