import type { TakeBody } from '../../document/units'
import { applyToUnit, type Edit } from '../change/edit'

/** A take with an edit that was made on it. */
export function applied(take: TakeBody, edit: Edit): TakeBody {
  const done = applyToUnit(take, edit)
  if (!done.ok) throw new Error(`applied: ${done.refusal.code} at ${done.refusal.path.join('.')}`)
  return done.value
}
