import type { CameraPose } from '../../camera/pose'
import { basisOf } from '../../camera/projection'
import { into, outOf, turnedInto, turnedOut, turnNear, type Stand } from '../../depth/carriage'
import { shadowInto, shadowOutOf } from '../../depth/shadow'
import { carriersOf } from '../../document/carriers'
import { exposuresOf } from '../../document/exposures'
import { newLevel } from '../../document/newLevel'
import { opticsOfFilm } from '../../document/optics'
import { inOrder } from '../../document/order'
import { placedFramings, placedPanels, rackLevels } from '../../document/panels'
import { pieceLevelId, pieceOf, setsIn, unfoldSome } from '../../document/sets'
import { spansOn } from '../../document/spans'
import { shorten } from '../../document/text'
import { cellAt, PIECES_MOST, SET_SHOWN, type Level, type Piece, type SetLevel } from '../../document/records'
import { drawingRef, EMPTY_SET, outlineRef, setRef, takeRef, type Drawing, type Film, type Outline, type SetBody, type TakeBody } from '../../document/units'
import type { Point3 } from '../../geometry/point'
import { createTakeStage } from '../../stage/takeStage'
import { Draft, withFields } from '../change/draft'
import type { Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made, type MakeRefusal, type Refused } from '../change/refusal'
import { sameJson } from '../change/sameJson'
import { applied } from './applied'
import { carryTogether, fastenLevels } from './fasten'
import { keyFraming, setFramingPose } from './framings'

/** Where one looks from while a set is made, or a piece is copied out: what is seen there stays. */
export interface LookedAt {
  /** Of the shot. */
  readonly frame: number
  readonly camera: CameraPose
}

const SET_NAME_LETTERS = 120
const missingSet = (id: string) => refused({ code: 'missing', what: 'set', id })
const missingLevel = (id: string) => refused({ code: 'missing', what: 'level', id })

/** Levels with those between them and others of them, so that each hangs on what is among them or on nothing of them. */
function closed(take: TakeBody, levelIds: readonly string[]): ReadonlySet<string> {
  const all = new Set(levelIds)
  for (const id of levelIds) {
    const { chain } = carriersOf(take, take.levels[id]!)
    const last = chain.findLastIndex((carrier) => all.has(carrier.id))
    for (const carrier of chain.slice(0, last)) all.add(carrier.id)
  }
  return all
}

type NotForASet = Extract<MakeRefusal, { readonly code: 'not-for-a-set' }>['why']
/** Why a level can't be part of a set; null where it can. */
function hinders(take: TakeBody, level: Level): NotForASet | null {
  if (level.kind === 'reference' || level.kind === 'set') return level.kind
  if (level.locked) return 'locked'
  if (level.carrier?.kind === 'camera') return 'camera'
  if (Object.values(take.levelKeys).some(({ levelId }) => levelId === level.id)) return 'keys'
  if (spansOn(take, level.id).length > 0) return 'followed'
  return new Set(exposuresOf(take, level.id).flatMap(({ cell }) => cell.drawingId ?? [])).size > 1 ? 'drawings' : null
}

/** When a level is seen: the frames from which on it is, and is not. */
const seenWhen = (take: TakeBody, levelId: string) => {
  const turns = exposuresOf(take, levelId).map(({ frame, cell }) => [frame, cell.drawingId !== null] as const)
  return JSON.stringify(turns.filter(([, isSeen], i) => (turns[i - 1]?.[1] ?? false) !== isSeen))
}

/**
 * Makes a set of levels, which stands in their shot from then on in their place; the picture stays as it is at every frame. Levels
 * between those that are chosen go in too; what hung on any of them hangs on the set. A set has no time, so all of them must stand
 * still, show one drawing each, and be seen at the same frames.
 */
export function makeSet(film: Film, projectId: string, takeId: string, levelIds: readonly string[], ids: { readonly set: string; readonly level: string }, name: string, look: LookedAt): Made {
  const take = film.takes[takeId]
  if (take === undefined) return refused({ code: 'missing', what: 'take', id: takeId })
  if (levelIds.length === 0) return refused({ code: 'nothing-selected' })
  for (const id of levelIds) if (take.levels[id] === undefined) return missingLevel(id)
  const chosen = closed(take, levelIds)
  if (chosen.size > PIECES_MOST) return refused({ code: 'too-many-pieces', received: chosen.size, most: PIECES_MOST })
  for (const id of chosen) {
    const why = hinders(take, take.levels[id]!)
    if (why !== null) return refused({ code: 'not-for-a-set', name: take.levels[id]!.name, why })
  }
  const showing = [...chosen].filter((id) => exposuresOf(take, id).length > 0)
  const [when, ...others] = [...new Set(showing.map((id) => seenWhen(take, id)))]
  if (others.length > 0) return refused({ code: 'not-for-a-set', name: take.levels[showing.find((id) => seenWhen(take, id) !== when)!]!.name, why: 'drawings' })

  const optics = opticsOfFilm(film.outline)
  const seen = createTakeStage(take, optics).seen(look.frame, look.camera)
  const carried = carryTogether(take, takeId, [...chosen], ids.level, name, seen)
  if (!carried.ok) return carried
  let after = carried.edits.reduce(applied, take)
  // What such a piece does not follow it would have of the set then, and had of the world before.
  const loose = after.levels[ids.level]!.carrier === undefined ? undefined : [...chosen].map((id) => after.levels[id]!).find(({ carrier }) => carrier?.kind === 'level' && carrier.levelId !== ids.level && !(carrier.turn && carrier.size))
  if (loose !== undefined) return refused({ code: 'not-for-a-set', name: loose.name, why: 'follows' })
  const hanging = Object.values(after.levels).filter(({ id, carrier }) => id !== ids.level && !chosen.has(id) && carrier?.kind === 'level' && chosen.has(carrier.levelId))
  for (const level of hanging) {
    const follows = level.carrier as Extract<Level['carrier'], { readonly kind: 'level' }>
    const held = fastenLevels(after, takeId, [level.id], { ...follows, levelId: ids.level }, createTakeStage(after, optics).seen(look.frame, look.camera))
    if (!held.ok) return held
    after = held.edits.reduce(applied, after)
  }

  const draft = new Draft(take)
  for (const level of Object.values(after.levels)) if (!chosen.has(level.id)) draft.put('levels', level.id === ids.level ? setLevelOf(level, ids.set) : level)
  for (const key of Object.values(after.levelKeys)) draft.put('levelKeys', key)
  for (const id of chosen) draft.drop('levels', id)
  for (const { id, levelId } of Object.values(take.cells)) if (chosen.has(levelId)) draft.drop('cells', id)
  for (const { id, levelId } of Object.values(take.levelDrawings)) if (chosen.has(levelId)) draft.drop('levelDrawings', id)
  const shows = showing[0]
  for (const { cell } of shows === undefined ? [] : exposuresOf(take, shows)) draft.put('cells', cellAt(ids.level, cell.panelId, cell.offsetFrames ?? 0, cell.drawingId === null ? null : SET_SHOWN))
  const [first] = placedPanels(take)
  if (shows === undefined && first !== undefined) draft.put('cells', cellAt(ids.level, first.panel.id, 0, SET_SHOWN))

  const set = new Draft<SetBody>(EMPTY_SET)
  const base = createTakeStage(after, optics).seen(look.frame, look.camera).standOf(ids.level)
  for (const id of chosen) {
    const { carrier, ...level } = after.levels[id]!
    const piece = level.shadow === undefined ? level : { ...level, shadow: shadowInto(level.shadow, base) }
    const isOn = carrier?.kind === 'level' && carrier.levelId !== ids.level
    set.put('pieces', { ...piece, ...(isOn ? { carrier } : {}) } as Piece)
    const drawingId = exposuresOf(take, id).find(({ cell }) => cell.drawingId !== null)?.cell.drawingId
    if (drawingId !== undefined && drawingId !== null) set.put('art', { id, drawingId })
  }
  const { x, y, depth } = after.levels[ids.level]!
  const outline = named(film.outline, ids.set, name, { x, y, depth })
  return made(outline.edit('set-make', outlineRef(projectId)), set.edit('set-make', setRef(ids.set)), draft.edit('set-make', takeRef(takeId)))
}

const setLevelOf = (level: Level, setId: string): SetLevel => ({ ...(level as Extract<Level, { readonly kind: 'carrier' }>), kind: 'set', setId })

/** A set's name in the outline, after the others. */
function named(outline: Outline, id: string, name: string, stands: Point3): Draft<Outline> {
  const draft = new Draft(outline)
  const sets = inOrder(outline.sets)
  const [order] = draft.room('sets', sets, sets.length, 1)
  return draft.put('sets', { id, order: order!, name: shorten(name.trim(), SET_NAME_LETTERS), stands })
}

/** Puts a set into a shot, where it stands in others, from its first panel on; behind all levels that stand at its depth. */
export function putSet(film: Film, takeId: string, setId: string, newId: string, at?: Pick<SetLevel, 'x' | 'y' | 'depth' | 'scale' | 'panDegrees' | 'tiltDegrees' | 'rollDegrees'>): Made {
  const [take, set] = [film.takes[takeId], film.outline.sets[setId]]
  if (take === undefined) return refused({ code: 'missing', what: 'take', id: takeId })
  if (set === undefined) return missingSet(setId)
  const draft = new Draft(take)
  const rack = rackLevels(take)
  const [order] = draft.room('levels', rack, rack.length, 1)
  draft.put('levels', { ...newLevel({ id: newId, name: set.name, kind: 'set', setId, order: order!, ...set.stands }), ...at })
  const [first] = placedPanels(take)
  if (first !== undefined) draft.put('cells', cellAt(newId, first.panel.id, 0, SET_SHOWN))
  return made(draft.edit('set-put', takeRef(takeId)))
}

/** The sets of a shot as they stood at a frame, and where they were looked at from. */
export interface SetUp {
  readonly levels: readonly { readonly level: SetLevel; readonly stands: Stand }[]
  readonly pose: CameraPose
}

/**
 * Puts the sets of a set-up into a shot that are not in it yet, as they stood, and looks at them from where they were looked at: a
 * shot with one framing has that one changed, one with none begins with it, any other gets it as a key at the frame. Where the first of
 * its sets stands otherwise in this shot, the camera goes along, so that it is seen alike.
 */
export function pasteSetUp(film: Film, takeId: string, cameraId: string, frame: number, setUp: SetUp, newId: NewIds): Made {
  const take = film.takes[takeId]
  if (take === undefined) return refused({ code: 'missing', what: 'take', id: takeId })
  if (setUp.levels.length === 0) return refused({ code: 'nothing-to-paste' })
  const edits: Edit[] = []
  let now = take
  const there = new Map(setsIn(take).map((level) => [level.setId, level]))
  for (const { level: { setId, x, y, depth, scale, panDegrees, tiltDegrees, rollDegrees } } of setUp.levels) {
    if (there.has(setId)) continue
    const put = putSet({ ...film, takes: { ...film.takes, [takeId]: now } }, takeId, setId, newId(), { x, y, depth, scale, panDegrees, tiltDegrees, rollDegrees })
    if (!put.ok) return put
    edits.push(...put.edits)
    now = put.edits.reduce(applied, now)
  }
  const common = setUp.levels.find(({ level: { setId } }) => there.has(setId))
  const pose = common === undefined ? setUp.pose : seenFrom(setUp.pose, common.stands, createTakeStage(take, opticsOfFilm(film.outline)).seen(frame, setUp.pose).standOf(there.get(common.level.setId)!.id))
  const [only, ...more] = placedFramings(now, cameraId)
  const framed = only !== undefined && more.length === 0 ? setFramingPose(now, takeId, only.framing.id, pose) : keyFraming(now, takeId, cameraId, only === undefined ? 0 : frame, pose, newId())
  return framed.ok ? made(...edits, ...framed.edits) : framed
}

/** A camera that sees what stands so as another sees it where it stands otherwise. */
function seenFrom(pose: CameraPose, stood: Stand, stands: Stand): CameraPose {
  if (sameJson(stood, stands)) return pose
  return { ...pose, ...outOf(stands, into(stood, pose)), ...turnNear(turnedOut(stands, turnedInto(stood, basisOf(pose))), pose) }
}

/** The level that is a set in a take; null for any other. */
function setLevelIn(take: TakeBody | undefined, levelId: string): SetLevel | null {
  return take === undefined ? null : (setsIn(take).find(({ id }) => id === levelId) ?? null)
}

/** Whether a piece is seen in this shot. The set itself, and all other shots, stay as they are. */
export function hidePieces(take: TakeBody, takeId: string, setLevelId: string, pieceIds: readonly string[], hidden: boolean): Made {
  const on = setLevelIn(take, setLevelId)
  if (on === null) return missingLevel(setLevelId)
  const some = new Set(pieceIds)
  const now = [...(on.hidden ?? []).filter((id) => !some.has(id)), ...(hidden ? some : [])]
  return made(new Draft(take).put('levels', withFields<SetLevel>(on, { hidden: now.length === 0 ? undefined : now })).edit('pieces-hide', takeRef(takeId)))
}

/**
 * Makes pieces this shot's own: levels with copies of their drawings, each where it stands at the frame that is seen, fastened to the set;
 * in the set they are hidden here. Among pieces at the very same depth it lies in front of all others where it did, else behind them.
 */
export function ownPieces(film: Film, takeId: string, setLevelId: string, pieceIds: readonly string[], look: LookedAt, newId: NewIds): Made & { readonly levelIds?: readonly string[] } {
  const take = film.takes[takeId]
  const on = setLevelIn(take, setLevelId)
  if (take === undefined || on === null) return missingLevel(setLevelId)
  const set = film.sets?.[on.setId]
  if (set === undefined) return missingSet(on.setId)
  if (pieceIds.length === 0) return refused({ code: 'nothing-selected' })
  const opened = unfoldSome(take, [on], () => set)
  const optics = opticsOfFilm(film.outline)
  const draft = new Draft(take)
  const rack = rackLevels(take)
  const unfolded = rackLevels(opened)
  const names = new Map<string, string>()
  const drawings: Edit[] = []
  let after = opened
  for (const id of unfolded.flatMap((level) => ((of) => (of?.setLevelId === setLevelId && pieceIds.includes(of.pieceId) ? [level.id] : []))(pieceOf(level.id)))) {
    const piece = set.pieces[pieceOf(id)!.pieceId]!
    const own = newId()
    names.set(id, own)
    const { order: _, ...found } = opened.levels[id]!
    const seen = createTakeStage(after, optics).seen(look.frame, look.camera)
    const level = found.shadow === undefined ? found : { ...found, shadow: shadowOutOf(found.shadow, seen.standOf(setLevelId)) }
    const { depth } = seen.standOf(id).place
    const isFirst = !unfolded.slice(0, unfolded.findIndex((each) => each.id === id)).some((each) => each.id !== setLevelId && pieceOf(each.id)?.setLevelId === setLevelId && seen.standOf(each.id).place.depth === depth)
    const at = rack.findIndex((each) => each.id === setLevelId) + (isFirst ? 0 : 1)
    const [order] = draft.room('levels', rack, at, 1)
    after = { ...after, levels: { ...after.levels, [own]: { ...level, id: own, order: order!, visible: true, locked: false } as Level } }
    if (level.carrier?.kind === 'level' && level.carrier.levelId !== setLevelId) {
      const held = fastenLevels(after, takeId, [own], { kind: 'level', levelId: setLevelId, turn: true, size: true }, createTakeStage(after, optics).seen(look.frame, look.camera))
      if (!held.ok) return held
      after = held.edits.reduce(applied, after)
    }
    draft.put('levels', { ...after.levels[own]!, visible: piece.visible })
    const art = set.art[piece.id]
    if (art !== undefined) {
      const copied = copyDrawing(film, art.drawingId, newId)
      if (!('edit' in copied)) return copied
      drawings.push(copied.edit)
      for (const { panelId, offsetFrames, drawingId } of Object.values(take.cells).filter(({ levelId }) => levelId === setLevelId)) draft.put('cells', cellAt(own, panelId, offsetFrames ?? 0, drawingId === null ? null : copied.id))
    }
  }
  if (names.size < new Set(pieceIds).size) return missingLevel(pieceIds.find((id) => !names.has(pieceLevelId(setLevelId, id)))!)
  draft.put('levels', withFields<SetLevel>(on, { hidden: [...new Set([...(on.hidden ?? []), ...pieceIds])] }))
  return { ...made(draft.edit('pieces-own', takeRef(takeId)), ...drawings), levelIds: [...names.values()] }
}

function copyDrawing(film: Film, drawingId: string, newId: NewIds): { readonly id: string; readonly edit: Edit } | Refused {
  const drawing = film.drawings[drawingId]
  if (drawing === undefined) return refused({ code: 'missing', what: 'drawing', id: drawingId })
  const id = newId()
  return { id, edit: { kind: 'drawing-copy', unit: drawingRef(id), changes: { marks: Object.fromEntries(drawing.marks.map((mark) => [mark.id, { before: null, after: mark }])) } } }
}

/** A set of its own like another, with copies of its drawings; with `inTake` that shot's level shows it from then on. */
export function duplicateSet(film: Film, projectId: string, setId: string, newSetId: string, name: string, newId: NewIds, inTake: { readonly takeId: string; readonly setLevelId: string } | null): Made {
  const [set, old] = [film.sets?.[setId], film.outline.sets[setId]]
  if (set === undefined || old === undefined) return missingSet(setId)
  const draft = new Draft<SetBody>(EMPTY_SET)
  const edits: Edit[] = []
  for (const piece of Object.values(set.pieces)) draft.put('pieces', piece)
  for (const { id, drawingId } of Object.values(set.art)) {
    const copied = copyDrawing(film, drawingId, newId)
    if (!('edit' in copied)) return copied
    draft.put('art', { id, drawingId: copied.id })
    edits.push(copied.edit)
  }
  const on = inTake === null ? null : setLevelIn(film.takes[inTake.takeId], inTake.setLevelId)
  if (inTake !== null && on === null) return missingLevel(inTake.setLevelId)
  const shows = on === null ? [] : [new Draft(film.takes[inTake!.takeId]!).put('levels', { ...on, setId: newSetId }).edit('set-own', takeRef(inTake!.takeId))]
  return made(named(film.outline, newSetId, name, old.stands).edit('set-duplicate', outlineRef(projectId)), draft.edit('set-duplicate', setRef(newSetId)), ...shows, ...edits)
}

/** A set that comes from elsewhere, with the drawings that it shows; all of it under new names, so it can come more than once. */
export interface BroughtSet {
  readonly name: string
  readonly stands: Point3
  readonly set: SetBody
  readonly drawings: Readonly<Record<string, Drawing>>
}
export function bringSet(outline: Outline, projectId: string, { name, stands, set, drawings }: BroughtSet, newSetId: string, newId: NewIds): Made {
  const draft = new Draft<SetBody>(EMPTY_SET)
  const edits: Edit[] = []
  const called = new Map<string, string>()
  for (const piece of Object.values(set.pieces)) draft.put('pieces', piece)
  for (const { id, drawingId } of Object.values(set.art)) {
    const drawing = drawings[drawingId]
    if (drawing === undefined) return refused({ code: 'missing', what: 'drawing', id: drawingId })
    if (!called.has(drawingId)) {
      called.set(drawingId, newId())
      edits.push({ kind: 'set-bring', unit: drawingRef(called.get(drawingId)!), changes: { marks: Object.fromEntries(drawing.marks.map((mark) => [mark.id, { before: null, after: mark }])) } })
    }
    draft.put('art', { id, drawingId: called.get(drawingId)! })
  }
  return made(named(outline, newSetId, name, stands).edit('set-bring', outlineRef(projectId)), draft.edit('set-bring', setRef(newSetId)), ...edits)
}

/** A name of nothing but space is none. */
export function renameSet(outline: Outline, projectId: string, setId: string, name: string): Made {
  const set = outline.sets[setId]
  if (set === undefined) return missingSet(setId)
  const told = shorten(name.trim(), SET_NAME_LETTERS)
  return told === '' ? made() : made(new Draft(outline).put('sets', { ...set, name: told }).edit('set-name', outlineRef(projectId)))
}

/** Takes a set that no shot stands in out of the film: `users` says how many do. Its pieces stay with the server, for undo. */
export function removeSet(outline: Outline, projectId: string, setId: string, users: number): Made {
  if (outline.sets[setId] === undefined) return missingSet(setId)
  if (users > 0) return refused({ code: 'set-in-use', name: outline.sets[setId].name, shots: users })
  return made(new Draft(outline).drop('sets', setId).edit('set-remove', outlineRef(projectId)))
}
