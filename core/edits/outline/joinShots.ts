import type { Optics } from '../../camera/lens'
import { anchoredIn, carryAnchored } from '../../document/anchored'
import { carriersFirst, withCarrierNamed } from '../../document/carriers'
import { opticsOfFilm } from '../../document/optics'
import { inOrder } from '../../document/order'
import { KEY_KINDS, placedKeys, type AnyKeyKind } from '../../document/keys'
import { anchorOfFrame, takeLengthFrames, type Anchor } from '../../document/panels'
import { linkIdOf, type Level, type Panel, type Shot, type Take } from '../../document/records'
import { takeRef, outlineRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { withAirOf } from '../take/air'
import { alikeLevels } from '../take/alike'
import { lettersOf, namesOfCameras } from '../take/cameraNames'
import { putKeyRecord } from '../take/keys'
import { keyOf, keySpan, leftByJump, putSpan, startingAt } from '../take/keySpans'
import { keepLive, liveInPanels } from '../take/liveCuts'
import { carryNames } from '../take/levelDrawings'
import { putAllPieces, putPieces, spanPieces } from '../take/spanPieces'
import { swayingLater } from '../../document/swayShift'
import { layOut, showings, type Showing } from '../take/showing'
import { filmOrder } from './shotMoves'
import { shotsOf } from './shots'

/** One of the shots that are joined: its take, and what its panels (null: as they are), levels and cameras are called in the whole. */
interface JoinedPart {
  readonly take: TakeBody
  readonly names: ReadonlyMap<string, string> | null
  readonly levelOf: (levelId: string) => string
  readonly cameraOf: (cameraId: string) => string | undefined
}

/** What is put together. */
interface Joined {
  readonly sets: Film['sets']
  readonly base: TakeBody
  readonly draft: Draft<TakeBody>
  readonly outline: Draft<Outline>
  readonly parts: JoinedPart[]
  /** Panels and levels of the later shots, as they are called in the whole. */
  readonly panels: Panel[]
  readonly levels: Level[]
  readonly byLetter: Map<string, string>
  readonly newId: NewIds
}

/**
 * Joins shots that stand side by side in one sequence: the later ones' panels go to the end of the first. Levels that
 * are alike become one; where pictures differ each part shows its own. The cameras jump where one shot ended and the
 * next began, as they did.
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
  const unloaded = shots.find((shot) => film.takes[shot.circledTakeId] === undefined)
  if (unloaded !== undefined) return refused({ code: 'missing', what: 'shot', id: unloaded.id })
  const base = film.takes[first.circledTakeId]!
  const whole: Joined = {
    sets: film.sets,
    base,
    draft: new Draft(base),
    outline: new Draft(outline),
    parts: [{ take: base, names: null, levelOf: (id) => id, cameraOf: (id) => id }],
    panels: [],
    levels: [],
    byLetter: lettersOf(base),
    newId,
  }
  const airs = shots.map((shot) => film.takes[shot.circledTakeId]!)
  const clearBase = withAirOf(base, airs)
  for (const record of Object.values(clearBase.air)) whole.draft.put('air', record)
  whole.parts[0] = { ...whole.parts[0]!, take: clearBase }
  let startFrame = takeLengthFrames(base)
  for (const shot of rest) {
    const take = withAirOf(film.takes[shot.circledTakeId]!, airs)
    const part = joinTake(whole, take, startFrame)
    joinFollowers(whole, outline, shot, first, part.names!, startFrame, takeLengthFrames(take))
    for (const other of takesOf(shot)) whole.outline.drop('takes', other.id)
    startFrame += takeLengthFrames(take)
  }
  putTogether(whole, opticsOfFilm(outline))
  return made(whole.outline.edit('shot-join', outlineRef(projectId)), whole.draft.edit('shot-join', takeRef(first.circledTakeId)))
}

/** Takes in the panels, levels and cameras of a later shot, and the records that stand in its panels. */
function joinTake(whole: Joined, take: TakeBody, startFrame: number): JoinedPart {
  const { sets, base, draft, panels, levels, byLetter, newId } = whole
  const names = new Map<string, string>()
  for (const panel of inOrder(take.panels)) {
    const isTaken = base.panels[panel.id] !== undefined || panels.some((each) => each.id === panel.id)
    const id = isTaken ? newId() : panel.id
    names.set(panel.id, id)
    panels.push({ ...panel, id })
  }
  const rack = [...inOrder(base.levels), ...levels]
  const taken = new Set(rack.map(({ id }) => id))
  const levelNames = new Map<string, string>()
  const matched = new Set<string>()
  const coming = new Map<string, Level>()
  // What carries a level is called something before that level is.
  for (const own of carriersFirst(take, Object.values(take.levels))) {
    const level = withCarrierNamed(swayingLater(own, startFrame, sets), (id) => levelNames.get(id))!
    const alike = rack.find((each) => !matched.has(each.id) && alikeLevels(each, level, sets))
    const id = alike?.id ?? (taken.has(level.id) ? newId() : level.id)
    matched.add(id)
    taken.add(id)
    levelNames.set(level.id, id)
    if (alike === undefined) coming.set(own.id, { ...level, id })
  }
  for (const { id } of inOrder(take.levels)) if (coming.has(id)) levels.push(coming.get(id)!)
  const cameras = namesOfCameras(draft, inOrder(take.cameras), base, newId, byLetter)
  for (const preset of Object.values(take.presets)) if (base.presets[preset.id] === undefined) draft.put('presets', preset)
  carryAnchored(draft, anchoredIn(take), (id) => names.get(id)!, (id) => cameras.get(id), newId)
  const part: JoinedPart = { take, names, levelOf: (id) => levelNames.get(id)!, cameraOf: (id) => cameras.get(id) }
  whole.parts.push(part)
  return part
}

/** Links, marks and clips of a shot that goes into the first one, from `startFrame` on. */
function joinFollowers({ outline: draft }: Joined, outline: Outline, shot: Shot, first: Shot, names: ReadonlyMap<string, string>, startFrame: number, length: number): void {
  for (const link of Object.values(outline.links)) {
    if (link.takeId !== shot.circledTakeId) continue
    const panelId = names.get(link.panelId) ?? link.panelId
    const id = linkIdOf(link.passageId, panelId)
    if (id !== link.id) draft.drop('links', link.id)
    draft.put('links', { ...link, id, panelId, takeId: first.circledTakeId })
  }
  for (const mark of Object.values(outline.rulerMarks)) {
    // A mark past its shot's end is seen on the last frame, and stays there.
    if (mark.shotId === shot.id) draft.put('rulerMarks', { ...mark, shotId: first.id, offsetFrames: startFrame + Math.min(mark.offsetFrames, Math.max(0, length - 1)) })
  }
  for (const clip of Object.values(outline.clips)) if (clip.shotId === shot.id) draft.put('clips', { ...clip, shotId: first.id, offsetFrames: startFrame + clip.offsetFrames })
  if (outline.transitions[shot.id] !== undefined) draft.drop('transitions', shot.id)
  draft.drop('shots', shot.id)
}

/** Gives all that has come its place, and lays out again what each panel shows and is seen through. */
function putTogether({ base, draft, parts, panels, levels, newId }: Joined, optics: Optics): void {
  const [basePanels, baseLevels] = [inOrder(base.panels), inOrder(base.levels)]
  const panelOrders = draft.room('panels', basePanels, basePanels.length, panels.length)
  panels.forEach((panel, i) => draft.put('panels', { ...panel, order: panelOrders[i]! }))
  const levelOrders = draft.room('levels', baseLevels, baseLevels.length, levels.length)
  levels.forEach((level, i) => draft.put('levels', { ...level, order: levelOrders[i]! }))
  for (const { take, names, levelOf } of parts) if (names !== null) carryNames(draft, base, take, new Map(Object.keys(take.levels).map((id) => [id, levelOf(id)])), (id) => id)
  for (const kind of Object.values(KEY_KINDS)) joinTracks(kind, draft, parts, optics, newId)
  parts.forEach(({ take, names, levelOf, cameraOf }, i) => {
    const called = { newId, cameraOf, levelOf, anchorOf: (frame: number) => namedAnchor(anchorOfFrame(take, frame)!, names) }
    const pieces = spanPieces(take, optics, { from: 0, to: null, endsShot: i === parts.length - 1, beginsShot: i === 0 })
    if (names === null) putAllPieces(draft, take, pieces, called)
    else putPieces(draft, pieces, called)
  })
  const shown = new Map<string, Showing>()
  const live = new Map<string, string | null>()
  for (const { take, names, levelOf, cameraOf } of parts) {
    const called = (panelId: string) => names?.get(panelId) ?? panelId
    for (const [panelId, showing] of showings(take)) shown.set(called(panelId), new Map([...showing].map(([level, drawing]) => [levelOf(level), drawing])))
    for (const [panelId, cameraId] of liveInPanels(take)) live.set(called(panelId), cameraId === null ? null : (cameraOf(cameraId) ?? null))
  }
  const order = [...basePanels, ...panels].map((panel) => panel.id)
  layOut(draft, base, [...baseLevels, ...levels], order, (panelId, levelId) => shown.get(panelId)?.get(levelId))
  keepLive(draft, (panelId) => live.get(panelId) ?? null, newId)
}

const namedAnchor = (anchor: Anchor, names: ReadonlyMap<string, string> | null): Anchor => (names === null ? anchor : { ...anchor, panelId: names.get(anchor.panelId)! })

/** What an owner of keys is called in the whole. */
const ownerIn = (part: JoinedPart, kind: AnyKeyKind, id: string) => (kind.words.owner === 'camera' ? part.cameraOf(id) : kind.words.owner === 'level' ? part.levelOf(id) : id)

/** Each camera and level does in each part what it did there, and jumps from one to the next: one that nobody has touched too. */
function joinTracks(kind: AnyKeyKind, draft: Draft<TakeBody>, parts: readonly JoinedPart[], optics: Optics, newId: NewIds) {
  const targets = new Set(parts.flatMap((part) => kind.ownersIn(part.take).flatMap((id) => ownerIn(part, kind, id) ?? [])))
  for (const target of targets) {
    const owner = { kind, id: target }
    const own = parts.map((part) => ({ ...part, source: kind.ownersIn(part.take).find((id) => ownerIn(part, kind, id) === target) ?? null }))
    const rests = own.map(({ take, source }) => kind.rest(take, source ?? target, optics))
    const isKeyed = own.some(({ take, source }) => source !== null && placedKeys(take, { kind, id: source }).length > 0)
    if (!isKeyed && rests.every((rest) => rest === null || rests[0] === null || kind.values.equal(rest, rests[0]))) continue
    own.forEach(({ take, source, names }, i) => {
      const last = i === own.length - 1
      const found = source === null ? [] : keySpan(take, { kind, id: source }, optics, 0, last ? null : takeLengthFrames(take) - 1)
      const rest = rests[i]!
      // A level that is not there shows nothing.
      if (rest === null) return
      // The first part may begin later than its first frame: nothing is before it.
      const begun = i === 0 && found.length > 0 ? found : startingAt(found, 0, rest)
      const span = last ? begun : leftByJump(begun)
      if (names === null) putSpan(draft, take, owner, span, (frame) => anchorOfFrame(take, frame)!, newId)
      else {
        for (const each of span) {
          const anchor = anchorOfFrame(take, each.frame)!
          const made = keyOf(each, owner, { ...anchor, panelId: names.get(anchor.panelId)! }, newId, true)
          putKeyRecord(draft, kind, { ...made, locked: each.of?.record.locked ?? false })
        }
      }
    })
  }
}

