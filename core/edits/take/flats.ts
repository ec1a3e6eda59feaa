import type { RoomWall } from '../../depth/walls'
import type { ToneArea } from '../../ink/standInArt'
import { carriersOf } from '../../document/carriers'
import { newLevel } from '../../document/newLevel'
import { rackLevels } from '../../document/panels'
import { cellAt, type Level } from '../../document/records'
import { drawingRef, EMPTY_DRAWING, takeRef, type TakeBody } from '../../document/units'
import { Draft, withFields } from '../change/draft'
import type { Edit } from '../change/edit'
import { made, refused, type Made } from '../change/refusal'
import { putOnTop, type NewMark } from '../ink/drawings'

/** A level that is to stand in the set with art of its own; its numbers are in the axes of `on`. */
export interface NewFlat extends Pick<RoomWall, 'width' | 'height' | 'pivot' | 'place' | 'turn'> {
  readonly id: string
  readonly drawingId: string
  readonly name: string
  readonly art: readonly ToneArea[]
  readonly visible: boolean
  /** The level that it is hinged to: one of these before it, or one that is there; null for none. */
  readonly on: string | null
  /** What else is said of it. */
  readonly fields?: Pick<Partial<Level>, 'standIn' | 'facing'>
}

const PLACES = 6
function marksOf(art: readonly ToneArea[], newMarkId: () => string): NewMark[] {
  const rounded = (outline: readonly number[]) => outline.map((value) => Number(value.toFixed(PLACES)))
  return art.map(({ outlines, colour }) => ({ id: newMarkId(), kind: 'fill', mode: 'ink', outlines: outlines.map(rounded), colour, opacity: 1 }))
}

/**
 * Stands flat art in the set, each piece a drawn level, from a panel on; each follows what it is hinged to. Refused where one has no size,
 * or would hang on more than `CARRIERS_DEEP` others.
 */
export function standFlats(take: TakeBody, takeId: string, panelId: string, walls: readonly NewFlat[], group: string | null, newMarkId: () => string): Made {
  if (walls.length === 0) return refused({ code: 'nothing-selected' })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const draft = new Draft(take)
  const rack = rackLevels(take)
  const orders = draft.room('levels', rack, rack.length, walls.length)
  const drawn: Edit[] = []
  for (const [i, { id, drawingId, name, art, visible, on, place, turn, width, height, pivot, fields }] of walls.entries()) {
    if (on !== null && draft.now('levels', on) === null) return refused({ code: 'missing', what: 'level', id: on })
    if (![place.x, place.y, place.depth, width, height, ...Object.values(turn)].every(Number.isFinite) || width <= 0 || height <= 0) return refused({ code: 'pose-not-finite' })
    const level = newLevel({ id, name, ...place, ...turn, visible, order: orders[i]!, ...fields })
    draft.put('levels', withFields<Level>(level, { pivot: pivot.x === 0 && pivot.y === 0 ? undefined : pivot, carrier: on === null ? undefined : { kind: 'level', levelId: on, turn: true, size: true }, group: group ?? undefined }))
    draft.put('cells', cellAt(id, panelId, 0, drawingId))
    const drawing = new Draft(EMPTY_DRAWING)
    putOnTop(EMPTY_DRAWING, drawing, marksOf(art, newMarkId))
    drawn.push(drawing.edit('mark-add', drawingRef(drawingId)))
  }
  const after = draft.value()
  for (const { id } of walls) if (carriersOf(after, after.levels[id]!).problem !== null) return refused({ code: 'carriers-too-deep', id })
  return made(draft.edit('flats-stand', takeRef(takeId)), ...drawn)
}

/** Shows other art on a level from a frame of a panel on. */
export function showArt(take: TakeBody, takeId: string, levelId: string, panelId: string, offsetFrames: number, art: readonly ToneArea[], drawingId: string, newMarkId: () => string): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const drawing = new Draft(EMPTY_DRAWING)
  putOnTop(EMPTY_DRAWING, drawing, marksOf(art, newMarkId))
  return made(new Draft(take).put('cells', cellAt(levelId, panelId, offsetFrames, drawingId)).edit('art-show', takeRef(takeId)), drawing.edit('mark-add', drawingRef(drawingId)))
}

/** A new level that lies over another, goes along with it in everything, and is listed just before it: to draw over it. */
export function drawOver(take: TakeBody, takeId: string, levelId: string, newId: string, name: string): Made {
  const rack = rackLevels(take)
  const at = rack.findIndex(({ id }) => id === levelId)
  if (at < 0) return refused({ code: 'missing', what: 'level', id: levelId })
  const under = rack[at]!
  const draft = new Draft(take)
  const [order] = draft.room('levels', rack, at, 1)
  const { pivot, group } = under
  // Of its carrier it follows all, so its own numbers are none; pivots of one place lay the two drawings over one another.
  draft.put('levels', withFields<Level>(newLevel({ id: newId, name, order: order! }), { carrier: { kind: 'level', levelId, turn: true, size: true }, pivot, group }))
  const after = draft.value()
  if (carriersOf(after, after.levels[newId]!).problem !== null) return refused({ code: 'carriers-too-deep', id: newId })
  return made(draft.edit('level-draw-over', takeRef(takeId)))
}
