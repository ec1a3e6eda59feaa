import { anchoredIn, putAnchored } from '../../document/anchored'
import { FIRST_ORDER, inOrder } from '../../document/order'
import { drawingsOf, panelAtFrame, placedPanels, takeLengthFrames } from '../../document/panels'
import { cellAt, linkIdOf, PANEL_FRAMES_RANGE, type Shot } from '../../document/records'
import { swayingLater } from '../../document/swayShift'
import { outlineRef, takeRef, type Film, type Outline, type TakeBody } from '../../document/units'
import { diffUnits } from '../change/diff'
import { Draft } from '../change/draft'
import { applyToFilm, applyToUnit, type Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { splitPanel } from '../take/panelMoves'
import { cutTake } from './cutShot'
import { wholeTake } from './copyArt'
import { ofItsOwn } from './shots'

/** Frames that a shot gets at its ends; below 0 it loses as many. */
export interface EndsBy {
  readonly head: number
  readonly tail: number
}

/**
 * Makes a shot's circled take begin and end elsewhere, as whoever cuts a film does: every frame that stays looks as it did, and what
 * is added holds the first or the last panel longer. Panels and drawings that it loses are not thrown away: they become a shot in the
 * tray. Clips and marks stay with the frames that they stand at. What is cut into must be loaded with its art.
 */
export function trimShot(film: Film, projectId: string, shotId: string, { head, tail }: EndsBy, newId: NewIds): Made {
  const shot = film.outline.shots[shotId]
  const take = shot === undefined ? undefined : film.takes[shot.circledTakeId]
  if (shot === undefined || take === undefined) return refused({ code: 'missing', what: 'shot', id: shotId })
  const left = takeLengthFrames(take) + head + tail
  if (!Number.isInteger(left) || left < 1 || left > PANEL_FRAMES_RANGE.max) return refused({ code: 'length-out-of-range', received: left, ...PANEL_FRAMES_RANGE })
  // What is added first leaves more to cut from: no order of the two fails where the other would not.
  const steps = ([['tail', tail], ['head', head]] as const).filter(([, by]) => by !== 0).sort(([, a], [, b]) => b - a)
  let now = film
  const edits: Edit[] = []
  for (const [end, by] of steps) {
    const one = by > 0 ? longer(now, projectId, shot, end, by) : cutOff(now, projectId, shot, end, -by, newId)
    if (!one.ok) return one
    for (const edit of one.edits) {
      const applied = applyToFilm(now, edit)
      if (!applied.ok) throw new Error(`trimShot: ${applied.refusal.code} at ${applied.refusal.path.join('.')}`)
      now = applied.value
      edits.push(edit)
    }
  }
  return made(...edits)
}

/** The first panel begins sooner, or the last ends later; no key moves against the picture. */
function longer(film: Film, projectId: string, shot: Shot, end: 'head' | 'tail', frames: number): Made {
  const takeId = shot.circledTakeId
  const take = film.takes[takeId]!
  const placed = placedPanels(take)
  const { panel } = (end === 'head' ? placed[0] : placed.at(-1))!
  const lengthFrames = panel.lengthFrames + frames
  if (lengthFrames > PANEL_FRAMES_RANGE.max) return refused({ code: 'length-out-of-range', received: lengthFrames, ...PANEL_FRAMES_RANGE })
  const draft = new Draft(take).put('panels', { ...panel, lengthFrames })
  if (end === 'tail') return made(draft.edit('shot-longer', takeRef(takeId)))
  for (const each of anchoredIn(take, (id) => id === panel.id)) {
    // The camera that is live first is so from the first frame on.
    if (each.collection === 'cuts' && each.record.offsetFrames === 0) continue
    putAnchored(draft, each, { offsetFrames: each.record.offsetFrames + frames })
  }
  const later = Object.values(take.cells).filter(({ panelId, offsetFrames = 0 }) => panelId === panel.id && offsetFrames > 0)
  for (const cell of later) draft.drop('cells', cell.id)
  for (const { levelId, offsetFrames = 0, drawingId } of later) draft.put('cells', cellAt(levelId, panel.id, offsetFrames + frames, drawingId))
  for (const level of Object.values(take.levels)) draft.put('levels', swayingLater(level, frames, film.sets))
  return made(draft.edit('shot-longer', takeRef(takeId)), followHead(film.outline, shot.id, frames).edit('shot-longer', outlineRef(projectId)))
}

/** Marks and clips of a shot whose first frame is now so many sooner (below 0: later) in its own time, which it remembers. */
function followHead(outline: Outline, shotId: string, frames: number): Draft<Outline> {
  const draft = new Draft(outline)
  const { startsAt: before = 0, ...shot } = outline.shots[shotId]!
  const startsAt = before - frames
  draft.put('shots', startsAt === 0 ? shot : { ...shot, startsAt })
  for (const mark of Object.values(outline.rulerMarks)) if (mark.shotId === shotId) draft.put('rulerMarks', { ...mark, offsetFrames: Math.max(0, mark.offsetFrames + frames) })
  for (const clip of Object.values(outline.clips)) if (clip.shotId === shotId) draft.put('clips', { ...clip, offsetFrames: clip.offsetFrames + frames })
  return draft
}

function cutOff(film: Film, projectId: string, shot: Shot, end: 'head' | 'tail', frames: number, newId: NewIds): Made {
  const takeId = shot.circledTakeId
  const take = film.takes[takeId]!
  const cutFrame = end === 'head' ? frames : takeLengthFrames(take) - frames
  const over = panelAtFrame(take, cutFrame)!
  const halved = over.startFrame === cutFrame ? null : newId()
  const body = halved === null ? take : applied(take, splitPanel(take, takeId, over.panel.id, cutFrame - over.startFrame, halved))
  const at = over.index + (halved === null ? 0 : 1)
  const cutInTwo = (oneStays: boolean) => cutTake({ ...film, takes: { ...film.takes, [takeId]: body } }, body, placedPanels(body), at, newId, oneStays)
  const sides = cutInTwo(true)
  if (typeof sides === 'string') return refused({ code: 'missing', what: 'drawing', id: sides })
  const [stays, goes] = end === 'head' ? [sides.cut.right.value(), sides.cut.left.value()] : [sides.cut.left.value(), sides.cut.right.value()]
  const shown = new Set(drawingsOf(stays))
  const losesPanels = Object.keys(goes.panels).length > (halved === null ? 0 : 1)
  const isLoss = losesPanels || drawingsOf(goes).some((id) => !shown.has(id))
  const outline = end === 'head' ? followHead(film.outline, shot.id, -frames) : new Draft(film.outline)
  // The half that stays says what the whole did, in whichever half that is.
  const renamed = end === 'head' && halved !== null ? { from: over.panel.id, to: halved } : null
  const kept = renamed === null ? stays : { ...stays, panels: { ...stays.panels, [renamed.to]: { ...over.panel, id: renamed.to, order: stays.panels[renamed.to]!.order, lengthFrames: stays.panels[renamed.to]!.lengthFrames } } }
  if (renamed !== null) {
    for (const link of Object.values(film.outline.links)) {
      if (link.takeId === takeId && link.panelId === renamed.from) outline.drop('links', link.id).put('links', { ...link, id: linkIdOf(link.passageId, renamed.to), panelId: renamed.to })
    }
  }
  if (!isLoss) return made(...whole(outline, projectId), ...differs(takeId, take, kept))
  const apart = cutInTwo(false)
  if (typeof apart === 'string') return refused({ code: 'missing', what: 'drawing', id: apart })
  const [own, scrap] = end === 'head' ? [apart.cut.right.value(), apart.cut.left.value()] : [apart.cut.left.value(), apart.cut.right.value()]
  const [scrapShot, scrapTake] = [newId(), newId()]
  putScrap(outline, film.outline, shot, end, { shotId: scrapShot, takeId: scrapTake })
  const gone = new Set(Object.keys(scrap.panels))
  for (const link of Object.values(film.outline.links)) if (link.takeId === takeId && gone.has(link.panelId) && link.panelId !== renamed?.from) outline.put('links', { ...link, takeId: scrapTake })
  const ownKept = renamed === null ? own : { ...own, panels: { ...own.panels, [renamed.to]: kept.panels[renamed.to]! } }
  return made(...whole(outline, projectId), ...differs(takeId, take, ownKept), wholeTake(scrap, scrapTake, 'shot-trim'), ...apart.art)
}

function applied(take: TakeBody, step: Made): TakeBody {
  if (!step.ok) throw new Error(`trimShot: ${step.refusal.code}`)
  return step.edits.reduce((now, edit) => {
    const one = applyToUnit(now, edit)
    if (!one.ok) throw new Error(`trimShot: ${one.refusal.code}`)
    return one.value
  }, take)
}

function whole(draft: Draft<Outline>, projectId: string): readonly Edit[] {
  const edit = draft.edit('shot-trim', outlineRef(projectId))
  return Object.keys(edit.changes).length === 0 ? [] : [edit]
}

function differs(takeId: string, from: TakeBody, to: TakeBody): readonly Edit[] {
  const edit = diffUnits(takeRef(takeId), from, to, 'shot-trim')
  return edit === null ? [] : [edit]
}

const SCRAP_LABEL = 14
/** What is cut off, as a shot in the tray beside the one that it was of. */
function putScrap(draft: Draft<Outline>, outline: Outline, shot: Shot, end: 'head' | 'tail', ids: { readonly shotId: string; readonly takeId: string }): void {
  // As they are by now: room may have to be made among them.
  const there = inOrder(outline.shots).flatMap((each) => (each.sequenceId === shot.sequenceId ? [draft.now('shots', each.id)!] : []))
  const [order] = draft.room('shots', there, there.findIndex(({ id }) => id === shot.id) + (end === 'tail' ? 1 : 0), 1)
  const { targetFrames: _, ...rest } = ofItsOwn(shot)
  draft
    .put('shots', { ...rest, id: ids.shotId, order: order!, label: `${shot.label.slice(0, SCRAP_LABEL)} ${end}`, title: '', circledTakeId: ids.takeId, inTray: true })
    .put('takes', { id: ids.takeId, shotId: ids.shotId, order: FIRST_ORDER, letter: 'A' })
}
