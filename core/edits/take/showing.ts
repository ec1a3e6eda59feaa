import { placedPanels } from '../../document/panels'
import { cellIdOf, type Level } from '../../document/records'
import type { TakeBody } from '../../document/units'
import type { Draft } from '../change/draft'

/** What each level shows in a panel: a drawing, or nothing. Levels that are not in it show nothing. */
export type Showing = ReadonlyMap<string, string | null>

/** What is shown, panel by panel, in order. */
export function showings(take: TakeBody): ReadonlyMap<string, Showing> {
  const levels = Object.values(take.levels)
  const held = new Map<string, string | null>(levels.map((level) => [level.id, null]))
  return new Map(
    placedPanels(take).map(({ panel }) => {
      for (const level of levels) {
        const cell = take.cells[cellIdOf(level.id, panel.id)]
        if (cell !== undefined) held.set(level.id, cell.drawingId)
      }
      return [panel.id, new Map(held)]
    }),
  )
}

/**
 * Puts the cells that make panels, in this order, show what is wanted: a level holds wherever it can, so each drawing
 * is put once. A panel's own cell stays where it says the same. Cells of panels not in the order go.
 */
export function layOut(draft: Draft<TakeBody>, take: TakeBody, levels: readonly Pick<Level, 'id'>[], order: readonly string[], wanted: (panelId: string, levelId: string) => string | null) {
  const kept = new Set<string>()
  for (const { id: levelId } of levels) {
    let held: string | null = null
    for (const panelId of order) {
      const want = wanted(panelId, levelId)
      const id = cellIdOf(levelId, panelId)
      const own = take.cells[id]
      if (want !== held || (own !== undefined && own.drawingId === want)) {
        draft.put('cells', { id, levelId, panelId, drawingId: want })
        kept.add(id)
      }
      held = want
    }
  }
  for (const id of Object.keys(take.cells)) if (!kept.has(id)) draft.drop('cells', id)
}
