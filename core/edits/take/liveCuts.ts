import { liveCameraAt, liveSpans } from '../../document/liveCamera'
import { placedPanels, type PlacedPanel } from '../../document/panels'
import type { TakeBody } from '../../document/units'
import type { Draft } from '../change/draft'

/** The camera that is live where each panel begins. */
export function liveInPanels(take: TakeBody): ReadonlyMap<string, string | null> {
  const spans = liveSpans(take)
  return new Map(placedPanels(take).map(({ panel, startFrame }) => [panel.id, liveCameraAt(spans, startFrame)]))
}

/**
 * Puts the camera cuts without which panels would begin on another camera than they should; null: any. To be called when
 * all else is in the draft.
 */
export function keepLive(draft: Draft<TakeBody>, wanted: (panelId: string) => string | null, newId: () => string): Draft<TakeBody> {
  const value = draft.value()
  if (Object.keys(value.cameras).length < 2) return draft
  const panels = placedPanels(value)
  const cutTo = (panelId: string, cameraId: string) => draft.put('cuts', { id: newId(), panelId, offsetFrames: 0, cameraId, dissolveFrames: 0 })
  let spans = liveSpans(value)
  const isWrong = ({ panel, startFrame }: PlacedPanel) => wanted(panel.id) !== null && wanted(panel.id) !== liveCameraAt(spans, startFrame)
  for (const placed of panels) {
    if (!isWrong(placed)) continue
    cutTo(placed.panel.id, wanted(placed.panel.id)!)
    spans = liveSpans(draft.value())
    // The first cut of all says what the shot begins with.
    const [first] = panels
    if (first === undefined || first === placed || !isWrong(first)) continue
    cutTo(first.panel.id, wanted(first.panel.id)!)
    spans = liveSpans(draft.value())
  }
  return draft
}
