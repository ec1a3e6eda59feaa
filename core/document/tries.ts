import { placedPanels } from './panels'
import type { Try } from './records'
import type { TakeBody } from './units'

/** A try with the frame of the shot that it begins on. */
export interface PlacedTry {
  readonly tried: Try
  readonly from: number
}

/** A take's tries, in the order they were made. */
export function placedTries(take: Pick<TakeBody, 'panels' | 'tries'>): readonly PlacedTry[] {
  const starts = new Map(placedPanels(take).map(({ panel, startFrame }) => [panel.id, startFrame]))
  return Object.values(take.tries)
    .map((tried) => ({ tried, from: (starts.get(tried.panelId) ?? 0) + tried.offsetFrames }))
    .sort((a, b) => a.tried.number - b.tried.number || (a.tried.id < b.tried.id ? -1 : 1))
}
