import type { Fill, Mark } from '../../document/records'
import type { Point2 } from '../../geometry/point'
import { isForPrint } from '../../ink/bounds'
import { markAt } from '../../ink/select'
import { changeDrawing, putOnTop, type DrawingPlace } from './drawings'
import type { Made } from '../change/refusal'

/** What shows at a point of a drawing, and where in the pile it lies; null where paper does. */
export function shownAt(marks: readonly Mark[], at: Point2): Mark | null {
  const covers = (mark: Mark, eraser: boolean) => {
    if (isForPrint(mark)) return false
    if (mark.kind === 'picture') return !eraser && markAt([mark], at, 0) !== null
    if ((mark.mode === 'erase') !== eraser) return false
    return markAt([{ ...mark, mode: 'ink' }], at, 0) !== null
  }
  // What was put behind before an eraser passed is gone as well.
  let erasedUpTo = -1
  for (let i = marks.length - 1; i >= 0; i--) {
    const mark = marks[i]!
    if (covers(mark, true)) {
      erasedUpTo = i
      break
    }
    if ((mark.kind === 'picture' || mark.mode === 'ink') && covers(mark, false)) return mark
  }
  for (let i = erasedUpTo + 1; i < marks.length; i++) {
    const mark = marks[i]!
    if (mark.kind !== 'picture' && mark.mode === 'behind' && covers(mark, false)) return mark
  }
  return null
}

/**
 * Puts a filled area right above what shows at the point where it was asked for, so that it lies under every line: on
 * bare paper behind all marks, else between what is there and what is over that.
 */
export function fillArea(place: DrawingPlace, at: Point2, fill: Pick<Fill, 'id' | 'outlines' | 'colour' | 'opacity'>): Made {
  return changeDrawing(place, 'area-fill', 'copy', ({ marks }, draft) => {
    const under = shownAt(marks, at)
    if (under === null) return putOnTop({ marks }, draft, [{ ...fill, kind: 'fill', mode: 'behind', purpose: 'area' }])
    // Of what lies behind, the first in the pile is nearest.
    const behind = under.kind !== 'picture' && under.mode === 'behind'
    const index = marks.indexOf(under)
    const [order] = draft.room('marks', marks, behind ? index : index + 1, 1)
    draft.put('marks', { ...fill, kind: 'fill', mode: behind ? 'behind' : 'ink', purpose: 'area', order: order! })
  })
}
