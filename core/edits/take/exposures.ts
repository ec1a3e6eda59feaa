import { exposureAt, exposuresOf, namedDrawings, shownAt, shownOver } from '../../document/exposures'
import { anchorOfFrame, takeLengthFrames } from '../../document/panels'
import { cellAt, showsNothing } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { addDrawing, settleNames } from './levelDrawings'

/** A drawing, or nothing. */
export type Shown = string | null

/** Frames of one level, `from` up to but not with `to`. */
export interface FrameSpan {
  readonly from: number
  readonly to: number
}

function openLevel(take: TakeBody, levelId: string): Refused | null {
  if (!Object.hasOwn(take.levels, levelId)) return refused({ code: 'missing', what: 'level', id: levelId })
  const { kind, locked } = take.levels[levelId]!
  if (showsNothing({ kind })) return refused({ code: 'carrier-shows-nothing', id: levelId })
  return locked ? refused({ code: 'level-locked', id: levelId }) : null
}

/**
 * Lets a level show, from a frame of the shot on, a drawing (or nothing) at each frame. What goes past the shot's end is left
 * off; all frames outside stay as they are, held ones too.
 */
export function exposeFrames(take: TakeBody, takeId: string, levelId: string, from: number, wanted: readonly Shown[]): Made {
  const refusal = openLevel(take, levelId)
  if (refusal !== null) return refusal
  const length = takeLengthFrames(take)
  const shown = wanted.slice(0, Math.max(0, length - from))
  if (shown.length === 0 || from < 0) return refused({ code: 'nothing-after', what: 'frame' })
  const draft = new Draft(take)
  settleNames(draft, take, levelId)
  const put = (frame: number, drawingId: Shown) => {
    const { panelId, offsetFrames } = anchorOfFrame(take, frame)!
    draft.put('cells', cellAt(levelId, panelId, offsetFrames, drawingId))
  }
  const to = from + shown.length
  const exposures = exposuresOf(take, levelId)
  for (const { frame, cell } of exposures) if (frame >= from && frame < to) draft.drop('cells', cell.id)
  let held = from === 0 ? null : (shownAt(take, levelId, from - 1)?.drawingId ?? null)
  shown.forEach((drawingId, i) => {
    if (drawingId !== held) put(from + i, (held = drawingId))
  })
  // What is shown after it goes on.
  const after = shownAt(take, levelId, to)?.drawingId ?? null
  if (to < length && after !== held && exposureAt(exposures, to)?.frame !== to) put(to, after)
  return made(draft.edit('expose', takeRef(takeId)))
}

/** From a frame on a level shows a drawing, until its next exposure. */
export function exposeFrom(take: TakeBody, takeId: string, levelId: string, frame: number, drawingId: Shown): Made {
  const refusal = openLevel(take, levelId)
  if (refusal !== null) return refusal
  const at = anchorOfFrame(take, frame)
  if (at === null) return refused({ code: 'nothing-after', what: 'frame' })
  const draft = new Draft(take)
  settleNames(draft, take, levelId)
  return made(draft.put('cells', cellAt(levelId, at.panelId, at.offsetFrames, drawingId)).edit('expose', takeRef(takeId)))
}

/** From a frame on a level shows a drawing that is new to it; its name is the next free number where none is asked for. */
export function exposeNew(take: TakeBody, takeId: string, levelId: string, frame: number, drawingId: string, name?: string): Made {
  const refusal = openLevel(take, levelId)
  if (refusal !== null) return refusal
  const at = anchorOfFrame(take, frame)
  if (at === null) return refused({ code: 'nothing-after', what: 'frame' })
  const draft = new Draft(take)
  addDrawing(draft, take, levelId, drawingId, name)
  return made(draft.put('cells', cellAt(levelId, at.panelId, at.offsetFrames, drawingId)).edit('expose-new', takeRef(takeId)))
}

/** What some frames show becomes what `change` makes of it; it may become longer or shorter than it was. */
export function changeExposures(take: TakeBody, takeId: string, levelId: string, { from, to }: FrameSpan, change: (shown: readonly Shown[]) => readonly Shown[]): Made {
  return exposeFrames(take, takeId, levelId, from, change(shownOver(take, levelId, from, Math.max(0, to - from))))
}

/** The run that a level is in at a frame: from its exposure to the next, or to the shot's end. */
export function runAt(take: TakeBody, levelId: string, frame: number): FrameSpan & { readonly drawingId: Shown } {
  const exposures = exposuresOf(take, levelId)
  const at = exposures.findLastIndex((each) => each.frame <= frame)
  return { from: exposures[at]?.frame ?? 0, to: exposures[at + 1]?.frame ?? takeLengthFrames(take), drawingId: exposures[at]?.cell.drawingId ?? null }
}

/**
 * Ends the run at a frame elsewhere. What comes after it gives or takes the time; with `pushes` it moves along, and what is
 * pushed past the shot's end goes.
 */
export function endRun(take: TakeBody, takeId: string, levelId: string, frame: number, end: number, pushes: boolean): Made {
  const { from, to, drawingId } = runAt(take, levelId, frame)
  const length = takeLengthFrames(take)
  const until = Math.min(length, Math.max(from + 1, end))
  if (until === to) return made()
  if (pushes) {
    const rest = shownOver(take, levelId, to, length - to)
    return exposeFrames(take, takeId, levelId, from, filled([...Array<Shown>(until - from).fill(drawingId), ...rest], length - from))
  }
  if (until > to) return exposeFrames(take, takeId, levelId, from, Array<Shown>(until - from).fill(drawingId))
  const next = to < length ? (shownAt(take, levelId, to)?.drawingId ?? null) : null
  return exposeFrames(take, takeId, levelId, until, Array<Shown>(to - until).fill(next))
}

/** Frames put in before one: what was shown before it is held for them, and all that comes later is so much later. */
export function insertExposures(take: TakeBody, takeId: string, levelId: string, frame: number, count: number): Made {
  const length = takeLengthFrames(take)
  const held = shownAt(take, levelId, Math.max(0, frame - 1))?.drawingId ?? null
  return exposeFrames(take, takeId, levelId, frame, filled([...Array<Shown>(count).fill(held), ...shownOver(take, levelId, frame, length - frame)], length - frame))
}

/** Frames taken out: all that comes later is so much earlier, and the last is held to the end. */
export function deleteExposures(take: TakeBody, takeId: string, levelId: string, { from, to }: FrameSpan): Made {
  const length = takeLengthFrames(take)
  const rest = to < length ? shownOver(take, levelId, to, length - to) : [from === 0 ? null : (shownAt(take, levelId, from - 1)?.drawingId ?? null)]
  return exposeFrames(take, takeId, levelId, from, filled(rest, length - from))
}

/** What some frames show is shown so much later or earlier; where it was, what came before it is held. */
export function shiftExposures(take: TakeBody, takeId: string, levelId: string, { from, to }: FrameSpan, by: number): Made {
  const length = takeLengthFrames(take)
  const [first, last] = [Math.max(0, Math.min(from, from + by)), Math.min(length, Math.max(to, to + by))]
  const now = shownOver(take, levelId, first, last - first)
  const held = from === 0 ? null : (shownAt(take, levelId, from - 1)?.drawingId ?? null)
  const block = shownOver(take, levelId, from, to - from)
  // Moved later, what was before it is held longer; moved earlier, its own last is.
  const gap = by > 0 ? held : (block.at(-1) ?? null)
  const next = now.map((shown, i) => {
    const frame = first + i
    if (frame >= from + by && frame < to + by) return block[frame - from - by]!
    return frame >= from && frame < to ? gap : shown
  })
  return exposeFrames(take, takeId, levelId, first, next)
}

/** To just so many frames: cut off, or the last held. */
function filled(shown: readonly Shown[], frames: number): readonly Shown[] {
  if (shown.length >= frames) return shown.slice(0, frames)
  return [...shown, ...Array<Shown>(frames - shown.length).fill(shown.at(-1) ?? null)]
}

/** A drawing of a level by the name that it is exposed by; case does not matter. Null where it has none of that name. */
export function drawingNamed(take: TakeBody, levelId: string, name: string): string | null {
  const wanted = name.trim().toLowerCase()
  return namedDrawings(take, levelId).find((each) => each.name.toLowerCase() === wanted)?.drawingId ?? null
}

/** Calls a drawing of a level something else: no two of one level have the same name. */
export function renameDrawing(take: TakeBody, takeId: string, levelId: string, drawingId: string, name: string): Made {
  const refusal = openLevel(take, levelId)
  if (refusal !== null) return refusal
  const given = name.trim()
  const other = drawingNamed(take, levelId, given)
  if (given === '' || given.length > 12 || (other !== null && other !== drawingId)) return refused({ code: 'drawing-name', name: given })
  const draft = new Draft(take)
  settleNames(draft, take, levelId)
  addDrawing(draft, take, levelId, drawingId, given)
  return made(draft.edit('drawing-rename', takeRef(takeId)))
}

/** Takes a drawing out of a level: where it was shown, what came before it is held. */
export function dropDrawing(take: TakeBody, takeId: string, levelId: string, drawingId: string): Made {
  const refusal = openLevel(take, levelId)
  if (refusal !== null) return refusal
  const draft = new Draft(take)
  for (const { cell } of exposuresOf(take, levelId)) if (cell.drawingId === drawingId) draft.drop('cells', cell.id)
  for (const named of Object.values(take.levelDrawings)) if (named.levelId === levelId && named.drawingId === drawingId) draft.drop('levelDrawings', named.id)
  return made(draft.edit('drawing-drop', takeRef(takeId)))
}
