import type { GroundPlan, Mark } from '../../document/records'
import { takeRef, drawingRef, EMPTY_DRAWING, type Drawing, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { putOnTop, type NewMark } from '../ink/drawings'
import { made, refused, type Made } from '../change/refusal'

const USUAL = Object.freeze({ id: 'ground' as const, opacity: 0.6, visible: true })

/** Draws on what lies under a take's plan; the first mark lays a drawing there, with id `newDrawingId`. */
export function drawOnGround(take: TakeBody, takeId: string, drawings: Readonly<Record<string, Drawing>>, mark: NewMark, newDrawingId: string): Made {
  const ground = take.grounds.ground
  if (ground !== undefined && drawings[ground.drawingId] === undefined) return refused({ code: 'missing', what: 'drawing', id: ground.drawingId })
  const drawingId = ground?.drawingId ?? newDrawingId
  const drawing = ground === undefined ? EMPTY_DRAWING : drawings[drawingId]!
  const draft = new Draft(drawing)
  putOnTop(drawing, draft, [mark])
  const edit = draft.edit('ground-draw', drawingRef(drawingId))
  const shown: GroundPlan = { ...(ground ?? { ...USUAL, drawingId }), visible: true }
  return made(new Draft(take).put('grounds', shown).edit('ground-draw', takeRef(takeId)), edit)
}

/** Changes one mark of it: where a placed plan lies, how large it is, how it is turned. */
export function changeOnGround(take: TakeBody, drawings: Readonly<Record<string, Drawing>>, mark: Mark): Made {
  const ground = take.grounds.ground
  const drawing = ground === undefined ? undefined : drawings[ground.drawingId]
  if (ground === undefined || drawing === undefined || !drawing.marks.some((each) => each.id === mark.id)) return refused({ code: 'missing', what: 'drawing', id: ground?.drawingId ?? '' })
  return made(new Draft(drawing).put('marks', mark).edit('ground-change', drawingRef(ground.drawingId)))
}

/** Takes everything drawn or placed under the plan away. */
export function clearGround(take: TakeBody, takeId: string): Made {
  return made(new Draft(take).drop('grounds', 'ground').edit('ground-clear', takeRef(takeId)))
}

export function editGround(take: TakeBody, takeId: string, fields: Partial<Pick<GroundPlan, 'opacity' | 'visible'>>): Made {
  const ground = take.grounds.ground
  if (ground === undefined) return refused({ code: 'missing', what: 'drawing', id: '' })
  return made(new Draft(take).put('grounds', { ...ground, ...fields }).edit('ground-edit', takeRef(takeId)))
}
