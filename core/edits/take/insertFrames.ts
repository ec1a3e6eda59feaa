import { longerBy, speedsOf, type Strobe } from '../../checks/speed'
import type { Optics } from '../../camera/lens'
import { anchoredIn, putAnchored } from '../../document/anchored'
import { panelAtFrame } from '../../document/panels'
import { cellAt } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { createTakeStage } from '../../stage/takeStage'
import { applyToUnit } from '../change/edit'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'
import { checkLength } from './panelLength'

/**
 * Puts frames in before a frame of the shot: its panel gets so much longer, and all that stands in the panel from there on, keys, cuts,
 * spans and exposures, comes so much later. What goes on across that place takes longer. Refused where the panel keeps its length.
 */
export function insertFrames(take: TakeBody, takeId: string, before: number, frames: number): Made {
  const placed = panelAtFrame(take, before - 1)
  if (placed === null) return refused({ code: 'missing', what: 'panel', id: '' })
  const { panel, startFrame } = placed
  const refusal = checkLength(panel, panel.lengthFrames + frames)
  if (refusal !== null) return refused(refusal)
  const from = before - startFrame
  const draft = new Draft(take)
  draft.put('panels', { ...panel, lengthFrames: panel.lengthFrames + frames })
  for (const each of anchoredIn(take, (panelId) => panelId === panel.id)) if (each.record.offsetFrames >= from) putAnchored(draft, each, { offsetFrames: each.record.offsetFrames + frames })
  const later = Object.values(take.cells).filter(({ panelId, offsetFrames = 0 }) => panelId === panel.id && offsetFrames >= from)
  for (const cell of later) draft.drop('cells', cell.id)
  for (const { levelId, offsetFrames = 0, drawingId } of later) draft.put('cells', cellAt(levelId, panel.id, offsetFrames + frames, drawingId))
  return made(draft.edit('frames-in', takeRef(takeId)))
}

/** Frames put in where something goes too fast. */
export interface Slowing {
  /** They come before this frame of the shot. */
  readonly before: number
  readonly frames: number
}

/** More would be another film. */
const MOST_TIMES = 12
const MOST_FRAMES = 2400

/** The fewest frames put in at its fastest that leave a level no strobing there; null where none do, as where its panel keeps its length. */
export function leastSlowing(take: TakeBody, levelId: string, strobe: Strobe, optics: Optics, fps: number, limit: number): Slowing | null {
  const before = strobe.worstFrame + 1
  const isWell = (frames: number): boolean | null => {
    const found = insertFrames(take, 'take', before, frames)
    if (!found.ok) return null
    const applied = found.edits.reduce<TakeBody | null>((body, edit) => {
      const one = body === null ? null : applyToUnit(body, edit)
      return one?.ok ? one.value : null
    }, take)
    if (applied === null) return null
    const [first, last] = [Math.max(0, strobe.first - 1), strobe.last + frames + 1]
    const own = speedsOf(createTakeStage(applied, optics), fps, limit, { first, last, only: levelId }).find((each) => each.levelId === levelId)
    return own !== undefined && own.strobes.length === 0
  }
  const length = strobe.last - strobe.first + 1
  let most = Math.max(1, Math.ceil(length * (longerBy(strobe.speed, limit) - 1)))
  while (isWell(most) === false && most < length * MOST_TIMES && most < MOST_FRAMES) most = Math.min(MOST_FRAMES, Math.ceil(most * 1.5) + 1)
  if (isWell(most) !== true) return null
  let low = 0
  while (most - low > 1) {
    const middle = Math.floor((low + most) / 2)
    if (isWell(middle) === true) most = middle
    else low = middle
  }
  return { before, frames: most }
}
