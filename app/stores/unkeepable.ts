import { UNIT_KINDS, unitIn, type Film } from '@rubato/core/document'
import { checkEdit, type Edit, type EditRefusal } from '@rubato/core/edits'

/** More records than this are not checked while something is dragged, only when it is let go. */
const QUICK_RECORDS = 120

/** Why the server would refuse edits, by its own checks; null where it takes them. `film` has them made. */
export function unkeepable(film: Film, edits: readonly Edit[], whole: boolean): EditRefusal | null {
  for (const edit of edits) {
    const records = Object.values(edit.changes).reduce((sum, each) => sum + Object.keys(each).length, 0)
    if (!whole && records > QUICK_RECORDS) continue
    const refusal = checkEdit(edit, true)
    if (refusal !== null) return refusal
    if (!whole) continue
    const [problem] = UNIT_KINDS[edit.unit.kind].problems(unitIn(film, edit.unit))
    if (problem !== undefined) return { code: 'malformed', path: problem.path, message: problem.code }
  }
  return null
}
