import type { Film } from '../../document/units'
import { applyChange } from './change'
import type { Edit } from './edit'
import type { Made } from './refusal'

/** One thing after another as one change; the first that is refused refuses all. */
export function inTurn(film: Film, steps: readonly ((film: Film) => Made)[]): Made {
  let value = film
  const edits: Edit[] = []
  for (const step of steps) {
    const made = step(value)
    if (!made.ok) return made
    const applied = applyChange(value, { edits: made.edits })
    if (!applied.ok) return { ok: false, refusal: { code: 'ground-gone' } }
    value = applied.value
    edits.push(...made.edits)
  }
  return { ok: true, edits }
}
