import { indexAt } from '../time/indexAt'
import { placedPanels } from './panels'
import { cellIdOf, type Cell } from './records'
import type { TakeBody } from './units'

/** What a level shows from a frame of the shot on, until its next exposure: the cell's drawing, or nothing. */
export interface Exposure {
  readonly frame: number
  readonly cell: Cell
}

export type ShownCell = Cell & { readonly drawingId: string }

const isShown = (cell: Cell | undefined): cell is ShownCell => cell !== undefined && cell.drawingId !== null

type Exposed = Pick<TakeBody, 'cells' | 'panels'>
const NONE: readonly Exposure[] = Object.freeze([])
const cache = new WeakMap<TakeBody['cells'], { readonly panels: TakeBody['panels']; readonly byLevel: ReadonlyMap<string, readonly Exposure[]> }>()

/** A level's exposures in time order; worked out once for each frozen pair of collections. */
export function exposuresOf(take: Exposed, levelId: string): readonly Exposure[] {
  let known = cache.get(take.cells)
  if (known === undefined || known.panels !== take.panels) cache.set(take.cells, (known = { panels: take.panels, byLevel: exposed(take) }))
  return known.byLevel.get(levelId) ?? NONE
}

function exposed(take: Exposed): ReadonlyMap<string, readonly Exposure[]> {
  const starts = new Map(placedPanels(take).map(({ panel, startFrame }) => [panel.id, startFrame]))
  const byLevel = new Map<string, Exposure[]>()
  for (const cell of Object.values(take.cells)) {
    const frame = starts.get(cell.panelId)
    // A cell stands for its level and panel under the id that names them.
    if (frame === undefined || cell.id !== cellIdOf(cell.levelId, cell.panelId)) continue
    const list = byLevel.get(cell.levelId)
    if (list === undefined) byLevel.set(cell.levelId, [{ frame, cell }])
    else list.push({ frame, cell })
  }
  for (const list of byLevel.values()) list.sort((a, b) => a.frame - b.frame)
  return byLevel
}

const frameOf = (exposure: Exposure) => exposure.frame

/** The exposure that a level shows at a frame; null before its first. It holds its last one to the end and past it. */
export function exposureAt(exposures: readonly Exposure[], frame: number): Exposure | null {
  return exposures[indexAt(exposures, frame, frameOf)] ?? null
}

/** What a level shows at a frame of the shot; null before its first exposure and where it shows nothing. */
export function shownAt(take: Exposed, levelId: string, frame: number): ShownCell | null {
  const found = exposureAt(exposuresOf(take, levelId), frame)?.cell
  return isShown(found) ? found : null
}

/** What a level shows at the first frame of a panel; past the last panel what it shows there. */
export function shownCell(take: Exposed, level: { readonly id: string }, panelIndex: number): ShownCell | null {
  const panels = placedPanels(take)
  const at = panels[Math.min(panelIndex, panels.length - 1)]
  return at === undefined ? null : shownAt(take, level.id, at.startFrame)
}
