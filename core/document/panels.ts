import { indexAt } from '../time/indexAt'
import { inOrder } from './order'
import { SET_SHOWN, type Camera, type Framing, type Level, type Panel } from './records'
import type { TakeBody } from './units'

/** A panel with its place in the shot's time. */
export interface PlacedPanel {
  readonly panel: Panel
  readonly index: number
  readonly startFrame: number
}

/** A moment as panels keep it. */
export interface Anchor {
  readonly panelId: string
  readonly offsetFrames: number
}

const cache = new WeakMap<TakeBody['panels'], readonly PlacedPanel[]>()

/** Panels in order with their first frames, solved once for each frozen collection. */
export function placedPanels(take: Pick<TakeBody, 'panels'>): readonly PlacedPanel[] {
  const known = cache.get(take.panels)
  if (known !== undefined) return known
  let startFrame = 0
  const placed = inOrder(take.panels).map((panel, index) => {
    const entry = { panel, index, startFrame }
    startFrame += panel.lengthFrames
    return entry
  })
  cache.set(take.panels, placed)
  return placed
}

export function takeLengthFrames(take: Pick<TakeBody, 'panels'>): number {
  const last = placedPanels(take).at(-1)
  return last === undefined ? 0 : last.startFrame + last.panel.lengthFrames
}

const startOf = (placed: PlacedPanel) => placed.startFrame

/** The panel showing at a frame of the shot; before the first it is the first, after the last the last. */
export function panelAtFrame(take: Pick<TakeBody, 'panels'>, frame: number): PlacedPanel | null {
  const panels = placedPanels(take)
  return panels[Math.max(0, indexAt(panels, frame, startOf))] ?? null
}

export function anchorOfFrame(take: Pick<TakeBody, 'panels'>, frame: number): Anchor | null {
  const placed = panelAtFrame(take, frame)
  if (placed === null) return null
  const offset = Math.min(placed.panel.lengthFrames - 1, Math.max(0, Math.round(frame) - placed.startFrame))
  return { panelId: placed.panel.id, offsetFrames: offset }
}

export function frameOfAnchor(take: Pick<TakeBody, 'panels'>, anchor: Anchor): number {
  const placed = placedPanels(take).find((entry) => entry.panel.id === anchor.panelId)
  return (placed?.startFrame ?? 0) + anchor.offsetFrames
}

/** The camera that a take without camera cuts is seen through: the first. Null where it has none. */
export function firstCamera(take: Pick<TakeBody, 'cameras'>): Camera | null {
  return inOrder(take.cameras)[0] ?? null
}

/** Anchored records in time order, with their frames; at one frame, in id order, and the last of them wins. */
export function placedInTime<R extends Anchor & { readonly id: string }>(take: Pick<TakeBody, 'panels'>, records: readonly R[]): readonly { readonly record: R; readonly frame: number }[] {
  const starts = new Map(placedPanels(take).map((entry) => [entry.panel.id, entry.startFrame]))
  return records
    .map((record) => ({ record, frame: (starts.get(record.panelId) ?? 0) + record.offsetFrames }))
    .sort((a, b) => a.frame - b.frame || (a.record.id < b.record.id ? -1 : 1))
}

export interface PlacedFraming {
  readonly framing: Framing
  /** Frames from the shot's start. */
  readonly frame: number
}

/** One camera's framings in time order; at one frame, in id order, and the last of them wins. */
export function placedFramings(take: TakeBody, cameraId: string): readonly PlacedFraming[] {
  const own = Object.values(take.framings).filter((framing) => framing.cameraId === cameraId)
  return placedInTime(take, own).map(({ record: framing, frame }) => ({ framing, frame }))
}

/** Whether what is shown is a drawing: neither nothing nor a set. */
export const isDrawing = (shown: string | null): shown is string => shown !== null && shown !== SET_SHOWN

/** Every drawing that a take shows, each once. What lies under its plan is not among them: no picture has it. */
export function drawingsOf(take: Pick<TakeBody, 'cells'>): string[] {
  return [...new Set(Object.values(take.cells).flatMap(({ drawingId }) => (isDrawing(drawingId) ? [drawingId] : [])))]
}

/** Where a take names drawings. All of them go with it: what it shows, what its levels have, and what lies under its plan. */
export const DRAWING_COLLECTIONS = ['cells', 'levelDrawings', 'grounds'] as const
export type NamesDrawings = Pick<TakeBody, (typeof DRAWING_COLLECTIONS)[number]>

export function drawingsWith(take: NamesDrawings): string[] {
  return [...new Set(DRAWING_COLLECTIONS.flatMap((collection) => Object.values<{ readonly drawingId: string | null }>(take[collection] ?? {}).flatMap(({ drawingId }) => (isDrawing(drawingId) ? [drawingId] : []))))]
}

/** The levels in rack order, near first among equals. */
export function rackLevels(take: Pick<TakeBody, 'levels'>): readonly Level[] {
  return inOrder(take.levels)
}
