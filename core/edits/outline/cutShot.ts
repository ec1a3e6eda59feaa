import { anchoredIn, dropAnchored, kindOfAnchored, putAnchored } from '../../document/anchored'
import { carriersFirst } from '../../document/carriers'
import { opticsOfFilm } from '../../document/optics'
import { FIRST_ORDER, inOrder } from '../../document/order'
import { keyOwners } from '../../document/keys'
import { anchorOfFrame, placedPanels, type PlacedPanel } from '../../document/panels'
import { spansOn } from '../../document/spans'
import type { Level, Shot } from '../../document/records'
import { takeRef, outlineRef, EMPTY_TAKE, type Film, type Outline, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import type { Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { putKeyRecord } from '../take/keys'
import { keyOf, keySpan, putSpan } from '../take/keySpans'
import { keepLive, liveInPanels } from '../take/liveCuts'
import { carryNames } from '../take/levelDrawings'
import { putAllPieces, putPieces, spanPieces } from '../take/spanPieces'
import { drawingsShown, layOut, showings, showsAny, withDrawings } from '../take/showing'
import { swayingLater } from '../../document/swayShift'
import { copyArt, groundsWith } from './copyArt'
import { ofItsOwn, placeAfter } from './shots'

/** A take that is being cut: what stays, and what goes into a take of its own. */
export interface Cut {
  readonly take: TakeBody
  readonly left: Draft<TakeBody>
  readonly right: Draft<TakeBody>
  readonly stays: readonly string[]
  readonly goes: readonly string[]
  readonly cutFrame: number
  readonly newId: NewIds
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
  if (shot === undefined || take === undefined) return refused({ code: 'missing', what: 'shot', id: shotId })
  const placed = placedPanels(take)
  const at = placed.findIndex((entry) => entry.panel.id === panelId)
  if (at < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  if (at === 0) return refused({ code: 'nothing-to-cut' })
  const parts = cutTake(film, take, placed, at, newId)
  if (typeof parts === 'string') return refused({ code: 'missing', what: 'drawing', id: parts })
  const { cut, art } = parts
  const newTake = newId()
  return made(cutOutline(cut, outline, projectId, shot, newTake), cut.left.edit('shot-cut', takeRef(takeId)), cut.right.edit('shot-cut', takeRef(newTake)), ...art)
}

/**
 * A take in two where the panel at `at` begins, each side as it was, and the edits that copy art used on both; the id of a drawing that is not there.
 * `oneStays`: only one side is kept, so art is not copied.
 */
export function cutTake(film: Film, take: TakeBody, placed: readonly PlacedPanel[], at: number, newId: NewIds, oneStays = false): { readonly cut: Cut; readonly art: readonly Edit[] } | string {
  const ids = placed.map((entry) => entry.panel.id)
  const cut: Cut = { take, left: new Draft(take), right: new Draft<TakeBody>(EMPTY_TAKE), stays: ids.slice(0, at), goes: ids.slice(at), cutFrame: placed[at]!.startFrame, newId }
  for (const { panel } of placed.slice(at)) {
    cut.left.drop('panels', panel.id)
    cut.right.put('panels', panel)
  }
  for (const preset of Object.values(take.presets)) cut.right.put('presets', preset)
  for (const record of Object.values(take.air)) cut.right.put('air', record)
  for (const record of Object.values(take.meant)) cut.right.put('meant', record)
  const going = levelsGoing(cut)
  cutKeys(cut, film, new Set(going.map((level) => level.id)))
  const art = cutLevels(cut, film, going, oneStays)
  if (typeof art === 'string') return art
  const live = liveInPanels(take)
  for (const side of [cut.left, cut.right]) keepLive(side, (panel) => live.get(panel)!, newId)
  return { cut, art }
}

/** The levels that show something past the cut or that cameras go after, and what they hang on. */
function levelsGoing({ take, goes }: Cut): readonly Level[] {
  const shown = showings(take)
  const seen = Object.values(take.levels).filter((level) => goes.some((panel) => showsAny(shown.get(panel)!.get(level.id)!)) || spansOn(take, level.id).length > 0)
  const going = new Set(carriersFirst(take, seen))
  return inOrder(take.levels).filter((level) => going.has(level))
}

/** Both sides have all cameras and what they show, each doing there what it did, and the records that stand in their panels. */
function cutKeys({ take, left, right, goes, cutFrame, newId }: Cut, film: Film, going: ReadonlySet<string>): void {
  const optics = opticsOfFilm(film.outline)
  const anchorOf = (frame: number) => anchorOfFrame(take, frame)!
  for (const camera of Object.values(take.cameras)) right.put('cameras', camera)
  for (const owner of keyOwners(take)) {
    putSpan(left, take, owner, keySpan(take, owner, optics, 0, cutFrame - 1), anchorOf, newId)
    if (owner.kind.words.owner === 'level' && !going.has(owner.id)) continue
    for (const each of keySpan(take, owner, optics, cutFrame, null)) putKeyRecord(right, owner.kind, keyOf(each, owner, anchorOf(each.frame), newId))
  }
  putAllPieces(left, take, spanPieces(take, optics, { from: 0, to: cutFrame - 1, endsShot: true, beginsShot: true }), { anchorOf, newId })
  putPieces(right, spanPieces(take, optics, { from: cutFrame, to: null, endsShot: true, beginsShot: false }), { anchorOf, newId })
  const isGoing = new Set(goes)
  for (const each of anchoredIn(take, (id) => isGoing.has(id))) {
    if (kindOfAnchored(each.collection).track) continue
    dropAnchored(left, each)
    putAnchored(right, each)
  }
}

/** Levels, cells and what lies under the plan, so that every panel shows what it showed. The edits that copy art used on both sides; the id of a drawing that is not there. */
function cutLevels({ take, left, right, stays, goes, cutFrame, newId }: Cut, film: Film, going: readonly Level[], oneStays: boolean): readonly Edit[] | string {
  const shown = showings(take)
  const levels = inOrder(take.levels)
  layOut(left, take, levels, stays, (panel, level) => shown.get(panel)!.get(level)!)
  const used = (panels: readonly string[]) => new Set(panels.flatMap((panel) => [...shown.get(panel)!.values()].flatMap(drawingsShown)))
  const here = used(stays)
  const both = oneStays ? new Set<string>() : new Set([...[...used(goes)].filter((id) => here.has(id)), ...Object.values(take.grounds).map((ground) => ground.drawingId)])
  const art = copyArt(film, take, both, newId, true)
  if (typeof art === 'string') return art
  for (const level of going) right.put('levels', swayingLater(level, -cutFrame, film.sets))
  for (const ground of Object.values(oneStays ? take.grounds : groundsWith(take, art.names))) right.put('grounds', ground)
  layOut(right, EMPTY_TAKE, going, goes, (panel, level) => withDrawings(shown.get(panel)!.get(level)!, (id) => art.names.get(id) ?? id))
  const gone = used(goes)
  carryNames(right, EMPTY_TAKE, take, new Map(going.map(({ id }) => [id, id])), (id) => (gone.has(id) ? (art.names.get(id) ?? id) : null))
  return art.edits
}

/** The new shot and its take; links, marks and clips that belong to its frames. */
function cutOutline({ goes, cutFrame, newId }: Cut, outline: Outline, projectId: string, shot: Shot, newTake: string): Edit {
  const [newShot, isGoing] = [newId(), new Set(goes)]
  const draft = new Draft(outline)
  draft
    .put('shots', { ...ofItsOwn(shot), id: newShot, title: '', circledTakeId: newTake, ...placeAfter(draft, outline, shot) })
    .put('takes', { id: newTake, shotId: newShot, order: FIRST_ORDER, letter: 'A' })
  for (const link of Object.values(outline.links)) if (link.takeId === shot.circledTakeId && isGoing.has(link.panelId)) draft.put('links', { ...link, takeId: newTake })
  for (const mark of Object.values(outline.rulerMarks)) if (mark.shotId === shot.id && mark.offsetFrames >= cutFrame) draft.put('rulerMarks', { ...mark, shotId: newShot, offsetFrames: mark.offsetFrames - cutFrame })
  for (const clip of Object.values(outline.clips)) if (clip.shotId === shot.id && clip.offsetFrames >= cutFrame) draft.put('clips', { ...clip, shotId: newShot, offsetFrames: clip.offsetFrames - cutFrame })
  return draft.edit('shot-cut', outlineRef(projectId))
}
