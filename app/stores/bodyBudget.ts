import { drawingsWith, unfolded, type Film } from '@rubato/core/document'
import { unitBytes } from '~/viewport/unitBytes'

/**
 * What of a film leaves memory when its bodies pass the budget: the takes used longest ago, with the drawings that no
 * take left shows. `usedAt` says when a take was last wanted; what is in `needed` stays. Null where nothing need go.
 */
export function overBudget(film: Film, usedAt: ReadonlyMap<string, number>, needed: { readonly takes: ReadonlySet<string>; readonly drawings: ReadonlySet<string> }, budgetBytes: number): { readonly takes: readonly string[]; readonly drawings: readonly string[] } | null {
  let bytes = 0
  for (const unit of [...Object.values(film.takes), ...Object.values(film.drawings)]) bytes += unitBytes(unit)
  if (bytes <= budgetBytes) return null
  // What sets show goes with the last take that stands in them.
  const drawingsOf = (takeId: string) => drawingsWith(unfolded(film.takes[takeId]!, (id) => film.sets?.[id] ?? null))
  const shownBy = new Map<string, Set<string>>()
  for (const takeId of Object.keys(film.takes)) {
    for (const drawingId of drawingsOf(takeId)) shownBy.set(drawingId, (shownBy.get(drawingId) ?? new Set()).add(takeId))
  }
  const takes: string[] = []
  const drawings = new Set<string>()
  const oldest = Object.keys(film.takes).filter((id) => !needed.takes.has(id)).sort((a, b) => (usedAt.get(a) ?? 0) - (usedAt.get(b) ?? 0))
  for (const takeId of oldest) {
    // Well below the budget, so that it is not passed again at once.
    if (bytes <= budgetBytes * 0.7) break
    takes.push(takeId)
    bytes -= unitBytes(film.takes[takeId]!)
    for (const drawingId of drawingsOf(takeId)) {
      const shown = shownBy.get(drawingId)!
      shown.delete(takeId)
      const drawing = film.drawings[drawingId]
      if (shown.size > 0 || drawing === undefined || needed.drawings.has(drawingId) || drawings.has(drawingId)) continue
      drawings.add(drawingId)
      bytes -= unitBytes(drawing)
    }
  }
  return takes.length === 0 ? null : { takes, drawings: [...drawings] }
}
