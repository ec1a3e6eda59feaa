import type { Lens } from '../camera/projection'
import { into, turnedInto, type Stand } from '../depth/carriage'
import { cellAt, SET_SHOWN, type SetLevel } from '../document/records'
import { newLevel } from '../document/newLevel'
import { unfolded } from '../document/sets'
import { EMPTY_TAKE, type SetBody, type TakeBody } from '../document/units'

/**
 * A camera of a shot in the axes of a set that stands in it: what it sees of the set from there is what it sees of it in the shot.
 * Distances are then in the set's own fw, so the field is as wide and as high as it was.
 */
export const lensInSet = (lens: Lens, stands: Stand): Lens => ({ ...lens, ...turnedInto(stands, lens), position: into(stands, lens.position) })

const ALONE = 'alone'

/** A shot of one frame in which nothing is but a set, in its own axes. */
export function takeOfSet(setId: string, set: SetBody): TakeBody {
  const level: SetLevel = { ...newLevel({ id: ALONE, name: ALONE, kind: 'set', setId, order: 'a0' }) }
  const panel = { id: ALONE, order: 'a0', lengthFrames: 1, lengthLocked: false, action: '', dialogue: '', notes: '' }
  const shown = cellAt(ALONE, ALONE, 0, SET_SHOWN)
  return unfolded(Object.freeze({ ...EMPTY_TAKE, panels: { [ALONE]: panel }, levels: { [ALONE]: level }, cells: { [shown.id]: shown } }), () => set)
}
