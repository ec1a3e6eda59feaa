import type { Optics } from '../../camera/lens'
import { anchoredIn, carryAnchored } from '../../document/anchored'
import { liveSpans } from '../../document/liveCamera'
import { opticsOfFilm } from '../../document/optics'
import { carriersFirst, withCarrierNamed } from '../../document/carriers'
import { compareOrdered, inOrder } from '../../document/order'
import { AIR_OWNERS, cameraKeys, levelOwners, placedKeys, type AnyKeyOwner } from '../../document/keys'
import { anchorOfFrame, drawingsWith, frameOfAnchor, isDrawing, placedPanels, takeLengthFrames, type PlacedPanel } from '../../document/panels'
import { placedSpans, targetOf } from '../../document/spans'
import { linkIdOf, type Level } from '../../document/records'
import { takeRef, outlineRef, drawingRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { applyToUnit, isEmpty, type Edit, type RecordChange } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { withAirOf } from './air'
import { alikeLevels } from './alike'
import { namesOfCameras } from './cameraNames'
import { putKeyRecord } from './keys'
import { allAlike, keyOf, keySpan, leftByJump, putSpan, startingAt, tidyLoose, type SpanKeys } from './keySpans'
import { keepLive, liveInPanels } from './liveCuts'
import { chosenPanels, movePanels, removePanels } from './panelMoves'
import { carryNames } from './levelDrawings'
import { putAllPieces, putPieces, spanPieces } from './spanPieces'
import { drawingsShown, layOut, showings, showsAny, withDrawings } from './showing'
import { swayingLater } from '../../document/swayShift'

/** Panels on their way from one take to another. */
interface Carry {
  readonly from: TakeBody
  readonly to: TakeBody
  /** Of the take they are put into. */
  readonly draft: Draft<TakeBody>
  readonly moving: readonly PlacedPanel[]
  /** What they are called there, by what they are called here. */
  readonly names: ReadonlyMap<string, string>
  /** Before the panel with this index, or at the end. */
  readonly at: number
  readonly optics: Optics
  readonly newId: NewIds
}

/**
 * Moves panels into another shot's take, before one of its panels or to its end (null). They bring what they show:
 * levels the other shot has alike are used, the others come along; the panels around them show what they showed. The
 * cameras do in them what they did (see `carryCameras`), and marks on the ruler over them go along. Art that stays in use
 * where it was is copied. The shot they leave goes when it is left empty.
 */
export function carryPanels(film: Film, projectId: string, fromTakeId: string, ids: readonly string[], toTakeId: string, beforeId: string | null, newId: NewIds): Made {
  const [from, to] = [film.takes[fromTakeId], film.takes[toTakeId]]
  if (from !== undefined && fromTakeId === toTakeId) return movePanels(from, fromTakeId, ids, beforeId, newId)
  const missing = (id: string) => refused({ code: 'missing', what: 'panel', id })
  if (from === undefined || to === undefined || chosenPanels(from, ids) === null) return missing(ids[0] ?? '')
  const removed = removePanels(film, projectId, fromTakeId, ids, newId)
  if (!removed.ok) return removed
  const panels = inOrder(to.panels)
  const at = beforeId === null ? panels.length : panels.findIndex((panel) => panel.id === beforeId)
  if (at < 0) return missing(beforeId!)
  const moving = placedPanels(from).filter(({ panel }) => ids.includes(panel.id))
  const names = new Map(moving.map(({ panel: { id } }) => [id, to.panels[id] === undefined ? id : newId()]))
  const draft = new Draft(to)
  const carry: Carry = { from, to, draft, moving, names, at, optics: opticsOfFilm(film.outline), newId }
  const orders = draft.room('panels', panels, at, moving.length)
  moving.forEach(({ panel }, i) => draft.put('panels', { ...panel, id: names.get(panel.id)!, order: orders[i]! }))
  const cameras = carryCameras(carry)
  const art = carryLevels(carry, film, drawingsLeft(from, fromTakeId, removed.edits))
  if (typeof art === 'string') return refused({ code: 'missing', what: 'drawing', id: art })
  for (const target of new Set([...Object.keys(to.levels), ...art.origins.keys()])) {
    const source = art.origins.get(target) ?? null
    levelOwners(target).forEach((owner, i) => carryTrack(carry, source === null ? null : levelOwners(source)[i]!, owner))
  }
  carryAir(carry)
  carrySpans(carry, cameras, art.called)
  tidyLoose(draft, to)
  const [liveHere, liveThere] = [liveInPanels(from), liveInPanels(to)]
  const here = new Map([...names].map(([old, id]) => [id, old]))
  keepLive(draft, (id) => (here.has(id) ? (cameras.get(liveHere.get(here.get(id)!) ?? '') ?? null) : liveThere.get(id)!), newId)
  const outline = withFollowers(film.outline, projectId, removed.edits, { takeId: fromTakeId, take: from }, { takeId: toTakeId, take: draft.value() }, names)
  return made(...outline, draft.edit('panel-carry', takeRef(toTakeId)), ...art.edits)
}

/** The drawings that a take still shows when panels have been taken out of it; none where the whole shot goes. */
function drawingsLeft(from: TakeBody, takeId: string, edits: readonly Edit[]): ReadonlySet<string | null> {
  if (edits.some((edit) => edit.unit.kind === 'outline' && edit.changes.takes?.[takeId] !== undefined)) return new Set()
  const rest = edits.reduce<TakeBody>((value, edit) => {
    const applied = edit.unit.kind === 'take' ? applyToUnit(value, edit) : null
    return applied?.ok === true ? applied.value : value
  }, from)
  return new Set(drawingsWith(rest))
}

/** The level of `into` that is the same as `level` to look at, or null. One that sways goes on from where it is: it is no other's. */
function counterpart(into: TakeBody, level: Level, sets: Film['sets']): Level | null {
  return Object.values(into.levels).find((each) => alikeLevels(each, level, sets)) ?? null
}

/** What levels there are here, by what they are called there, and the edits that copy art. */
interface CarriedLevels {
  readonly origins: ReadonlyMap<string, string>
  /** What levels here are called there. */
  readonly called: ReadonlyMap<string, string>
  readonly edits: readonly Edit[]
}

/** Levels and cells, so that the panels show what they showed, and those around them too. The id of a drawing that is not there. */
function carryLevels({ from, to, draft, moving, names, at, newId }: Carry, film: Film, stillUsed: ReadonlySet<string | null>): CarriedLevels | string {
  const [shownFrom, shownTo] = [showings(from), showings(to)]
  const gone = new Set(followedIn(from, moving))
  const isFollowed = (levelId: string) => gone.has(levelId)
  const used = carriersFirst(from, Object.values(from.levels).filter((level) => moving.some(({ panel }) => showsAny(shownFrom.get(panel.id)!.get(level.id)!)) || isFollowed(level.id)))
  const edits: Edit[] = []
  const copies = new Map<string, string>()
  const drawingFor = (id: string): string | null => {
    if (!stillUsed.has(id) || !isDrawing(id)) return id
    const known = copies.get(id)
    if (known !== undefined) return known
    const drawing = film.drawings[id]
    if (drawing === undefined) return null
    const copy = newId()
    copies.set(id, copy)
    const marks = Object.fromEntries(drawing.marks.map((mark) => [mark.id, { before: null, after: mark }]))
    edits.push({ kind: 'drawing-copy', unit: drawingRef(copy), changes: { marks }, copyOf: id })
    return copy
  }
  const rack = inOrder(to.levels)
  const levels: Pick<Level, 'id'>[] = [...rack]
  const coming: Level[] = []
  /** What a level there is here. */
  const origins = new Map<string, string>()
  /** What a level here is called there: what carries one before that one. */
  const called = new Map<string, string>()
  for (const own of used) {
    const level = withCarrierNamed(own, (id) => called.get(id))!
    const there = counterpart(to, level, film.sets)
    const id = there !== null && !origins.has(there.id) ? there.id : to.levels[level.id] === undefined ? level.id : newId()
    origins.set(id, level.id)
    called.set(level.id, id)
    if (to.levels[id] !== undefined) continue
    coming.push({ ...swayingLater(level, (placedPanels(to)[at]?.startFrame ?? takeLengthFrames(to)) - moving[0]!.startFrame, film.sets), id })
    levels.push({ id })
  }
  coming.sort(compareOrdered)
  const places = draft.room('levels', rack, rack.length, coming.length)
  coming.forEach((level, i) => draft.put('levels', { ...level, order: places[i]! }))
  const carried = new Set(moving.flatMap(({ panel }) => [...origins.values()].flatMap((level) => drawingsShown(shownFrom.get(panel.id)!.get(level)!))))
  for (const id of carried) if (drawingFor(id) === null) return id
  const here = new Map([...names].map(([old, id]) => [id, old]))
  const panels = inOrder(to.panels).map((panel) => panel.id)
  const order = [...panels.slice(0, at), ...moving.map(({ panel }) => names.get(panel.id)!), ...panels.slice(at)]
  layOut(draft, to, levels, order, (panelId, levelId) => {
    const old = here.get(panelId)
    if (old === undefined) return shownTo.get(panelId)?.get(levelId)
    const source = origins.get(levelId)
    return source === undefined ? undefined : withDrawings(shownFrom.get(old)!.get(source)!, drawingFor)
  })
  carryNames(draft, to, from, called, (id) => (carried.has(id) ? drawingFor(id) : null))
  return { origins, called, edits }
}

/**
 * The cameras of a shot that panels are put into: in them each does what it did in their own, around them what it did, and
 * jumps where they begin and end. Nothing is keyed where one stands alike in all of them. What the panels are seen through
 * first is what the shot is; the other cameras that they are seen through go by their letters, or come along. Gives what each
 * is called there.
 */
function carryCameras(carry: Carry): ReadonlyMap<string, string> {
  const { from, to, draft, moving, names, newId } = carry
  const spans = liveSpans(from)
  const isSeen = (i: number) => moving.some(({ panel, startFrame }) => spans[i]!.from < startFrame + panel.lengthFrames && (spans[i + 1]?.from ?? Infinity) > startFrame)
  const seen = new Set(spans.flatMap((span, i) => (isSeen(i) ? [span.cameraId] : [])))
  const called = namesOfCameras(draft, inOrder(from.cameras).filter((camera, i) => i === 0 || seen.has(camera.id)), to, newId)
  const sources = new Map([...called].map(([source, target]) => [target, source]))
  for (const target of new Set([...Object.keys(to.cameras), ...sources.keys()])) {
    const source = sources.get(target) ?? null
    carryTrack(carry, source === null ? null : cameraKeys(source), cameraKeys(target))
  }
  carryAnchored(draft, anchoredIn(from, (id) => names.has(id)), (id) => names.get(id)!, (id) => called.get(id), newId)
  return called
}

/** The keys of one of those; with `source` null nothing is seen of it, or through it, in the panels that come. */
function carryTrack({ from, to, draft, moving, names, at, optics, newId }: Carry, source: AnyKeyOwner | null, owner: AnyKeyOwner): void {
  const keyed = placedKeys(to, owner).length > 0
  const restHere = source === null ? null : owner.kind.rest(from, source.id, optics)
  const rest = owner.kind.rest(to, owner.id, optics) ?? restHere
  if (!keyed && (source === null || (placedKeys(from, source).length === 0 && owner.kind.values.equal(restHere, rest)))) return
  const placedTo = placedPanels(to)
  const cutFrame = placedTo[at]?.startFrame ?? takeLengthFrames(to)
  const spanOf = (take: TakeBody, of: AnyKeyOwner, start: number, end: number | null) => startingAt(keySpan(take, of, optics, start, end), start, take === from ? restHere : rest)
  const carried = source === null ? [] : runsOf(moving).map(({ start, end }) => spanOf(from, source, start, end - 1))
  let after: SpanKeys<unknown> = []
  if (owner.kind.ownerIn(to, owner.id) !== null) {
    const own = keySpan(to, owner, optics, 0, cutFrame - 1)
    const before = at === 0 ? [] : own.length === 0 ? startingAt(own, 0, rest) : own
    after = at >= placedTo.length ? [] : spanOf(to, owner, cutFrame, null)
    if (allAlike([before, ...carried, after], owner.kind.values) && keyed) return
    putSpan(draft, to, owner, [...(after.length + carried.length > 0 ? leftByJump(before) : before), ...after], (frame) => anchorOfFrame(to, frame)!, newId)
  }
  carried.forEach((span, i) => {
    const left = i === carried.length - 1 && after.length === 0 ? span : leftByJump(span)
    for (const each of left) {
      const anchor = anchorOfFrame(from, each.frame)!
      putKeyRecord(draft, owner.kind, keyOf(each, owner, { ...anchor, panelId: names.get(anchor.panelId)! }, newId, true))
    }
  })
}

/** Haze and focus are in the panels what they were in their own shot, and around them what they were. */
function carryAir(carry: Carry): void {
  const [from, to] = [withAirOf(carry.from, [carry.to]), withAirOf(carry.to, [carry.from])]
  for (const record of Object.values(to.air)) carry.draft.put('air', record)
  for (const owner of AIR_OWNERS) if (owner.kind.ownerIn(to, owner.id) !== null) carryTrack({ ...carry, from, to }, owner, owner)
}

/** The levels that a camera goes after in panels. */
const followedIn = (from: TakeBody, moving: readonly PlacedPanel[]): readonly string[] =>
  placedSpans(from).flatMap(({ span, first, last }) => (moving.some(({ panel, startFrame }) => first < startFrame + panel.lengthFrames && last >= startFrame) ? (targetOf(span)?.levelId ?? []) : []))

/** Spans do in the panels that come what they did, and around them what they did: one that goes across is in pieces. */
function carrySpans({ from, to, draft, moving, names, at, optics, newId }: Carry, cameras: ReadonlyMap<string, string>, levels: ReadonlyMap<string, string>): void {
  const cutFrame = placedPanels(to)[at]?.startFrame ?? takeLengthFrames(to)
  const isLast = at >= placedPanels(to).length
  const own = [
    ...spanPieces(to, optics, { from: 0, to: cutFrame - 1, endsShot: false, beginsShot: true }),
    ...(isLast ? [] : spanPieces(to, optics, { from: cutFrame, to: null, endsShot: true, beginsShot: false })),
  ]
  putAllPieces(draft, to, own, { anchorOf: (frame) => anchorOfFrame(to, frame)!, newId })
  const runs = runsOf(moving)
  runs.forEach(({ start, end }, i) => {
    const pieces = spanPieces(from, optics, { from: start, to: end - 1, endsShot: isLast && i === runs.length - 1, beginsShot: start === 0 && at === 0 && i === 0 })
    const anchorOf = (frame: number) => {
      const anchor = anchorOfFrame(from, frame)!
      return { ...anchor, panelId: names.get(anchor.panelId)! }
    }
    putPieces(draft, pieces, { anchorOf, newId, cameraOf: (id) => cameras.get(id), levelOf: (id) => levels.get(id) })
  })
}

/** Panels that stand side by side are one stretch. */
function runsOf(panels: readonly PlacedPanel[]): readonly { readonly start: number; readonly end: number }[] {
  const runs: { readonly start: number; end: number }[] = []
  for (const { panel, startFrame } of panels) {
    const run = runs.at(-1)
    if (run?.end === startFrame) run.end += panel.lengthFrames
    else runs.push({ start: startFrame, end: startFrame + panel.lengthFrames })
  }
  return runs
}

interface Place {
  readonly takeId: string
  readonly take: TakeBody
}

/** Taking panels out drops their links, and their marks where the shot goes; where they only went elsewhere, both go with them. */
function withFollowers(outline: Outline, projectId: string, edits: readonly Edit[], from: Place, to: Place, names: ReadonlyMap<string, string>): Edit[] {
  const follow = new Draft(outline)
  for (const link of Object.values(outline.links)) {
    if (link.takeId !== from.takeId || !names.has(link.panelId)) continue
    const panelId = names.get(link.panelId)!
    const id = linkIdOf(link.passageId, panelId)
    if (id !== link.id) follow.drop('links', link.id)
    follow.put('links', { ...link, id, panelId, takeId: to.takeId })
  }
  const [fromShot, toShot] = [from.takeId, to.takeId].map((id) => outline.shots[outline.takes[id]?.shotId ?? ''])
  if (fromShot?.circledTakeId === from.takeId && toShot?.circledTakeId === to.takeId) {
    for (const mark of Object.values(outline.rulerMarks)) {
      if (mark.shotId !== fromShot.id) continue
      const anchor = anchorOfFrame(from.take, mark.offsetFrames)!
      const panelId = names.get(anchor.panelId)
      if (panelId !== undefined) follow.put('rulerMarks', { ...mark, shotId: toShot.id, offsetFrames: frameOfAnchor(to.take, { ...anchor, panelId }) })
    }
  }
  const edit = follow.edit('panel-carry', outlineRef(projectId))
  if (isEmpty(edit)) return [...edits]
  const own = edits.find((each) => each.unit.kind === 'outline')
  // What the removal dropped and what follows both begin from the outline as it is.
  const changes: Record<string, Record<string, RecordChange>> = {}
  for (const each of own === undefined ? [edit] : [own, edit]) for (const [collection, records] of Object.entries(each.changes)) changes[collection] = { ...changes[collection], ...records }
  return [{ ...edit, changes }, ...edits.filter((each) => each.unit.kind !== 'outline')]
}
