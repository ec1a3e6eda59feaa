import { keyFraming } from '../edits'
import { done, REST, T } from '../edits/testing'
import { cellIdOf, EMPTY_TAKE, orderOfNumber, type Level, type TakeBody } from '../document'

export const EVEN = { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }

/** A shot of one panel and one camera; each level shows `d-` and its id. */
export function takeOf(levels: readonly Level[], frames = 49): TakeBody {
  const byId = <R extends { readonly id: string }>(records: readonly R[]) => Object.fromEntries(records.map((record) => [record.id, record]))
  return {
    ...EMPTY_TAKE,
    panels: byId([{ id: 'p1', order: orderOfNumber(1), lengthFrames: frames, lengthLocked: false, action: '', dialogue: '', notes: '' }]),
    levels: byId(levels),
    cells: byId(levels.map(({ id }) => ({ id: cellIdOf(id, 'p1'), levelId: id, panelId: 'p1', drawingId: `d-${id}` }))),
    cameras: byId([{ id: 'a', order: 'a1', letter: 'A', locked: false }]),
  }
}
/** The camera goes right, evenly, in 48 frames. */
export function travelling(take: TakeBody, x = 1.2): TakeBody {
  const first = done(take, keyFraming(take, T, 'a', 0, REST, 'f1'))
  const second = done(first, keyFraming(first, T, 'a', 48, { ...REST, x }, 'f2'))
  return { ...second, framings: { ...second.framings, f1: { ...second.framings.f1!, move: EVEN } } }
}
