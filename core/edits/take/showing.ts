import { exposuresOf } from '../../document/exposures'
import { placedPanels } from '../../document/panels'
import { cellAt, cellIdOf, type Level } from '../../document/records'
import type { TakeBody } from '../../document/units'
import type { Draft } from '../change/draft'

/** What a level shows in a panel: from its first frame on, and from others inside it on. A drawing, or nothing. */
export interface ShownIn {
  readonly first: string | null
  readonly then: readonly { readonly offsetFrames: number; readonly drawingId: string | null }[]
}
const NOTHING_SHOWN: ShownIn = Object.freeze({ first: null, then: [] })

/** What each level shows in a panel. Levels that are not in it show nothing. */
export type Showing = ReadonlyMap<string, ShownIn>

export const lastShown = ({ first, then }: ShownIn): string | null => (then.length === 0 ? first : then.at(-1)!.drawingId)
export const drawingsShown = ({ first, then }: ShownIn): readonly string[] => [first, ...then.map(({ drawingId }) => drawingId)].filter((id) => id !== null)
export const showsAny = (shown: ShownIn): boolean => drawingsShown(shown).length > 0
/** The same with other drawings. */
export const withDrawings = ({ first, then }: ShownIn, nameOf: (drawingId: string) => string | null): ShownIn => ({
  first: first === null ? null : nameOf(first),
  then: then.map(({ offsetFrames, drawingId }) => ({ offsetFrames, drawingId: drawingId === null ? null : nameOf(drawingId) })),
})

/** What is shown, panel by panel, in order. */
export function showings(take: TakeBody): ReadonlyMap<string, Showing> {
  const levels = Object.keys(take.levels).map((id) => ({ id, exposures: exposuresOf(take, id), at: 0, held: null as string | null }))
  return new Map(
    placedPanels(take).map(({ panel, startFrame }) => {
      const showing = new Map<string, ShownIn>()
      for (const level of levels) {
        const { exposures } = level
        const until = (frame: number) => exposures[level.at] !== undefined && exposures[level.at]!.frame < frame
        while (until(startFrame + 1)) level.held = exposures[level.at++]!.cell.drawingId
        const first = level.held
        const then: { offsetFrames: number; drawingId: string | null }[] = []
        while (until(startFrame + panel.lengthFrames)) {
          const { frame, cell } = exposures[level.at++]!
          then.push({ offsetFrames: frame - startFrame, drawingId: (level.held = cell.drawingId) })
        }
        showing.set(level.id, { first, then })
      }
      return [panel.id, showing]
    }),
  )
}

/**
 * Puts the cells that make panels, in this order, show what is wanted: a level holds wherever it can, so each drawing
 * is put once. A panel's own cell stays where it says the same. Cells of panels not in the order go.
 */
export function layOut(draft: Draft<TakeBody>, take: TakeBody, levels: readonly Pick<Level, 'id'>[], order: readonly string[], wanted: (panelId: string, levelId: string) => ShownIn | undefined) {
  const kept = new Set<string>()
  const put = (levelId: string, panelId: string, offsetFrames: number, drawingId: string | null) => {
    const cell = cellAt(levelId, panelId, offsetFrames, drawingId)
    draft.put('cells', cell)
    kept.add(cell.id)
  }
  for (const { id: levelId } of levels) {
    let held: string | null = null
    for (const panelId of order) {
      const want = wanted(panelId, levelId) ?? NOTHING_SHOWN
      const own = take.cells[cellIdOf(levelId, panelId)]
      if (want.first !== held || (own !== undefined && own.drawingId === want.first)) put(levelId, panelId, 0, want.first)
      for (const { offsetFrames, drawingId } of want.then) put(levelId, panelId, offsetFrames, drawingId)
      held = lastShown(want)
    }
  }
  for (const id of Object.keys(take.cells)) if (!kept.has(id)) draft.drop('cells', id)
}
