import { untouchedPose, type CameraPose } from '../camera'
import { cellIdOf, EMPTY_TAKE, freeze, type Level, orderOfNumber, placedFramings, type TakeBody, takeBodySchema, takeProblems } from '../document'
import { createTakeStage } from '../stage'
import { applyToUnit, keyFraming, type Edit, type Made } from '.'

/** A take to try edits on, and what is asked of it in tests. */
let ids = 0
export const newId = () => `made${++ids}`
export const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
export const REST = untouchedPose(OPTICS)
export const T = 'take-1'
/** Levels as they stand at a frame, seen by a camera. */
export const seen = (take: TakeBody, camera: Partial<CameraPose>, frame = 0) => createTakeStage(take, OPTICS).seen(frame, { ...REST, ...camera })

export function level(id: string, order: number, depth: number, fields: Partial<Level> = {}): Level {
  return { id, order: orderOfNumber(order), name: id, kind: 'drawn', x: 0, y: 0, depth, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields } as Level
}

export function sampleTake(lengths: readonly number[] = [24, 12, 36]): TakeBody {
  const panels = Object.fromEntries(lengths.map((lengthFrames, i) => [`p${i + 1}`, { id: `p${i + 1}`, order: orderOfNumber(i + 1), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
  const cell = (levelId: string, panelId: string, drawingId: string) => ({ id: cellIdOf(levelId, panelId), levelId, panelId, drawingId })
  const cells = [cell('sky', 'p1', 'd-sky'), cell('tilda', 'p1', 'd-1'), cell('tilda', 'p2', 'd-2')]
  return freeze({
    ...EMPTY_TAKE,
    panels,
    levels: { tilda: level('tilda', 1, 0), sky: level('sky', 2, 6) },
    cells: Object.fromEntries(cells.map((entry) => [entry.id, entry])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  })
}

export function editsOf(made: Made): readonly Edit[] {
  if (!made.ok) throw new Error(made.refusal.code)
  return made.edits
}

export function done(take: TakeBody, made: Made): TakeBody {
  let value = take
  for (const edit of editsOf(made)) {
    const applied = applyToUnit(value, edit)
    if (!applied.ok) throw new Error(applied.refusal.code)
    value = applied.value
  }
  const problems = takeProblems(value)
  const { error } = takeBodySchema.safeParse(value)
  if (problems.length > 0 || error !== undefined) throw new Error(`not a take: ${JSON.stringify(problems)} ${error?.message ?? ''}`)
  return value
}

export function keyed(take: TakeBody, frames: readonly number[]): TakeBody {
  return frames.reduce((now, frame, i) => done(now, keyFraming(now, T, 'a', frame, { ...REST, x: i / 10 }, `k${i + 1}`)), take)
}
export const framesOf = (take: TakeBody) => placedFramings(take, 'a').map((entry) => entry.frame)
