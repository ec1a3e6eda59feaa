import { indexAt } from '../time/indexAt'
import { placedPanels } from './panels'
import { cellIdOf, type Cell, type LevelDrawing } from './records'
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
    const start = starts.get(cell.panelId)
    const offset = cell.offsetFrames ?? 0
    // A cell stands for its level and place under the id that names them.
    if (start === undefined || cell.id !== cellIdOf(cell.levelId, cell.panelId, offset)) continue
    const list = byLevel.get(cell.levelId)
    if (list === undefined) byLevel.set(cell.levelId, [{ frame: start + offset, cell }])
    else list.push({ frame: start + offset, cell })
  }
  for (const list of byLevel.values()) list.sort((a, b) => a.frame - b.frame)
  return byLevel
}

const frameOf = (exposure: Exposure) => exposure.frame

/** The exposure that a level shows at a frame; null before its first. It holds its last one to the end and past it. */
export function exposureAt(exposures: readonly Exposure[], frame: number): Exposure | null {
  const at = indexAt(exposures, frame, frameOf)
  return at < 0 ? null : exposures[at]!
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

/** What a level shows at each of some frames. */
export function shownOver(take: Exposed, levelId: string, fromFrame: number, frames: number): readonly (string | null)[] {
  const exposures = exposuresOf(take, levelId)
  let at = indexAt(exposures, fromFrame, frameOf)
  return Array.from({ length: frames }, (_, i) => {
    while (exposures[at + 1] !== undefined && exposures[at + 1]!.frame <= fromFrame + i) at++
    return exposures[at]?.cell.drawingId ?? null
  })
}

/** A drawing of a level, and what it is called in the sheet. */
export interface NamedDrawing {
  readonly drawingId: string
  readonly name: string
  /** The name is kept; else it is the next free number, in the order in which drawings are first shown. */
  readonly kept: boolean
}

const byName = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
const named = new WeakMap<TakeBody['cells'], { readonly records: TakeBody['levelDrawings']; readonly panels: TakeBody['panels']; readonly byLevel: Map<string, readonly NamedDrawing[]> }>()

/** The drawings of a level by name, those that are not shown too. */
export function namedDrawings(take: Exposed & Pick<TakeBody, 'levelDrawings'>, levelId: string): readonly NamedDrawing[] {
  let known = named.get(take.cells)
  if (known === undefined || known.records !== take.levelDrawings || known.panels !== take.panels) named.set(take.cells, (known = { records: take.levelDrawings, panels: take.panels, byLevel: new Map() }))
  const found = known.byLevel.get(levelId)
  if (found !== undefined) return found
  const kept = Object.values<LevelDrawing>(take.levelDrawings).filter((record) => record.levelId === levelId)
  const all = new Map<string, NamedDrawing>(kept.map(({ drawingId, name }) => [drawingId, { drawingId, name, kept: true }]))
  let next = nextNumber(kept.map(({ name }) => name))
  for (const { cell } of exposuresOf(take, levelId)) {
    if (cell.drawingId !== null && !all.has(cell.drawingId)) all.set(cell.drawingId, { drawingId: cell.drawingId, name: String(next++), kept: false })
  }
  const sorted = Object.freeze([...all.values()].sort((a, b) => byName.compare(a.name, b.name) || (a.drawingId < b.drawingId ? -1 : 1)))
  known.byLevel.set(levelId, sorted)
  return sorted
}

/** One past the greatest number among names. */
export const nextNumber = (names: readonly string[]): number => 1 + Math.max(0, ...names.flatMap((name) => (/^\d{1,9}$/.test(name) ? [Number(name)] : [])))
