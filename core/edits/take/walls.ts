import type { RoomWall } from '../../depth/walls'
import { carriersOf } from '../../document/carriers'
import { newLevel } from '../../document/newLevel'
import { rackLevels } from '../../document/panels'
import { cellAt, type Level } from '../../document/records'
import { drawingRef, EMPTY_DRAWING, takeRef, type TakeBody } from '../../document/units'
import { Draft, withFields } from '../change/draft'
import type { Edit } from '../change/edit'
import { made, refused, type Made } from '../change/refusal'
import { putOnTop, type NewMark } from '../ink/drawings'

/** A wall that is to stand, drawn on with one tone and an edge; its numbers are in the axes of `on`. */
export interface NewWall extends Pick<RoomWall, 'width' | 'height' | 'pivot' | 'place' | 'turn'> {
  readonly id: string
  readonly drawingId: string
  readonly name: string
  readonly tone: string
  readonly visible: boolean
  /** The level that it is hinged to: one of these before it, or one that is there; null for none. */
  readonly on: string | null
}

/** How wide a wall's drawn edge is, fw, where it has room. */
const EDGE_FW = 0.0025
const EDGE_TONE = '#4a453c'

/**
 * Stands walls in the set as levels that are drawn on, from a panel on; each follows what it is hinged to. Refused where one has no size,
 * or would hang on more than `CARRIERS_DEEP` others.
 */
export function standWalls(take: TakeBody, takeId: string, panelId: string, walls: readonly NewWall[], group: string | null, newMarkId: () => string): Made {
  if (walls.length === 0) return refused({ code: 'nothing-selected' })
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const draft = new Draft(take)
  const rack = rackLevels(take)
  const orders = draft.room('levels', rack, rack.length, walls.length)
  const drawn: Edit[] = []
  for (const [i, { id, drawingId, name, tone, visible, on, place, turn, width, height, pivot }] of walls.entries()) {
    if (on !== null && draft.now('levels', on) === null) return refused({ code: 'missing', what: 'level', id: on })
    if (![place.x, place.y, place.depth, width, height, ...Object.values(turn)].every(Number.isFinite) || width <= 0 || height <= 0) return refused({ code: 'pose-not-finite' })
    const level = newLevel({ id, name, ...place, ...turn, visible, order: orders[i]! })
    draft.put('levels', withFields<Level>(level, { pivot: pivot.x === 0 && pivot.y === 0 ? undefined : pivot, carrier: on === null ? undefined : { kind: 'level', levelId: on, turn: true, size: true }, group: group ?? undefined }))
    draft.put('cells', cellAt(id, panelId, 0, drawingId))
    const drawing = new Draft(EMPTY_DRAWING)
    putOnTop(EMPTY_DRAWING, drawing, marksOf(width, height, tone, newMarkId))
    drawn.push(drawing.edit('mark-add', drawingRef(drawingId)))
  }
  const after = draft.value()
  for (const { id } of walls) if (carriersOf(after, after.levels[id]!).problem !== null) return refused({ code: 'carriers-too-deep', id })
  return made(draft.edit('walls-stand', takeRef(takeId)), ...drawn)
}

function marksOf(width: number, height: number, tone: string, newMarkId: () => string): NewMark[] {
  const [x, y] = [width / 2, height / 2]
  const edge = Math.min(EDGE_FW, x / 4, y / 4)
  const around = (by: number) => [by - x, by - y, x - by, by - y, x - by, y - by, by - x, y - by]
  const filled = (outlines: number[][], colour: string): NewMark => ({ id: newMarkId(), kind: 'fill', mode: 'ink', outlines, colour, opacity: 1 })
  return [filled([around(0)], tone), filled([around(0), around(edge)], EDGE_TONE)]
}
