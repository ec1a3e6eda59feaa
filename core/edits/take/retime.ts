import { PANEL_FRAMES_RANGE, type Panel } from '../../document/records'
import type { Film } from '../../document/units'
import { shareFrames } from '../../time/share'
import type { Edit } from '../change/edit'
import { followMarks } from '../outline/followMarks'
import { checkLength, setLengths } from './panelLength'
import { made, refused, type Made, type MakeRefusal } from '../change/refusal'

/** A panel of the film. */
export interface PanelPlace {
  readonly takeId: string
  readonly panelId: string
}

/** Push: what comes later moves. Steal: a panel after gives or takes, and the total stays. */
export type TimeMode = 'push' | 'steal'

/** Panels that follow each other, with the lengths they are to have. */
export interface Run {
  readonly lengths: readonly (PanelPlace & { readonly lengthFrames: number })[]
  /** The panel after the run that gives or takes when time is stolen: the next without a fermata. Null for none. */
  readonly giver: PanelPlace | null
}

const panelIn = (film: Film, place: PanelPlace): Panel | undefined => film.takes[place.takeId]?.panels[place.panelId]

/**
 * Gives panels their lengths, in one take or many. Keys keep their place in their panels (`offsetsAfterLength`), and
 * marks on the ruler that of the panel they stand over. Stealing, each run's giver gets the opposite of what the run
 * got: the film's length stays to the frame. A fermata refuses, and so does a giver that would be left with less than
 * a frame.
 */
export function retime(film: Film, projectId: string, runs: readonly Run[], mode: TimeMode): Made {
  const wanted = new Map<string, Map<string, number>>()
  const lengthOf = (place: PanelPlace) => wanted.get(place.takeId)?.get(place.panelId) ?? panelIn(film, place)?.lengthFrames
  const set = (place: PanelPlace, frames: number) => {
    const of = wanted.get(place.takeId) ?? new Map<string, number>()
    wanted.set(place.takeId, of.set(place.panelId, frames))
  }
  const gives: { readonly giver: PanelPlace; readonly by: number }[] = []
  for (const { lengths, giver } of runs) {
    let by = 0
    for (const entry of lengths) {
      const panel = panelIn(film, entry)
      if (panel === undefined) return missing(entry)
      const refusal = checkLength(panel, entry.lengthFrames)
      if (refusal !== null) return refused(refusal)
      by += entry.lengthFrames - panel.lengthFrames
      set(entry, entry.lengthFrames)
    }
    if (mode === 'push' || by === 0) continue
    if (giver === null) return refused({ code: 'nobody-gives' })
    gives.push({ giver, by })
  }
  for (const { giver, by } of gives) {
    const panel = panelIn(film, giver)
    const now = lengthOf(giver)
    if (panel === undefined || now === undefined) return missing(giver)
    if (panel.lengthLocked) return refused({ code: 'length-locked', id: giver.panelId })
    if (now - by < PANEL_FRAMES_RANGE.min) return refused({ code: 'gives-too-little', asked: by, most: now - PANEL_FRAMES_RANGE.min })
    if (now - by > PANEL_FRAMES_RANGE.max) return refused({ code: 'length-out-of-range', received: now - by, ...PANEL_FRAMES_RANGE })
    set(giver, now - by)
  }
  const edits: Edit[] = []
  for (const [takeId, lengths] of wanted) edits.push(setLengths(film.takes[takeId]!, takeId, lengths, mode === 'steal'))
  return made(...followMarks(film, projectId, edits))
}

function missing(place: PanelPlace): Made {
  return refused({ code: 'missing', what: 'panel', id: place.panelId })
}

type Timed = PanelPlace & Pick<Panel, 'lengthFrames' | 'lengthLocked'>

/**
 * Panels one after the other, longer or shorter by `by` frames at their end: the last without a fermata grows; where it
 * would shrink below a frame, the one before gives the rest. Given are the panels that change.
 */
export function trimEnd(panels: readonly Timed[], by: number): { readonly ok: true; readonly lengths: Run['lengths'] } | { readonly ok: false; readonly refusal: MakeRefusal } {
  const free = panels.filter((panel) => !panel.lengthLocked)
  const shortest = panels.reduce((sum, panel) => sum + (panel.lengthLocked ? panel.lengthFrames : 1), 0)
  const total = panels.reduce((sum, panel) => sum + panel.lengthFrames, 0)
  if (free.length === 0) return { ok: false, refusal: { code: 'fit-all-held', asked: total + by, heldFrames: total } }
  if (total + by < shortest) return { ok: false, refusal: { code: 'fit-too-short', asked: total + by, least: shortest } }
  const lengths: (PanelPlace & { readonly lengthFrames: number })[] = []
  let left = by
  for (const { takeId, panelId, lengthFrames } of [...free].reverse()) {
    if (left === 0) break
    const given = Math.max(1 - lengthFrames, left)
    lengths.push({ takeId, panelId, lengthFrames: lengthFrames + given })
    left -= given
  }
  return { ok: true, lengths }
}

/**
 * Panels scaled to `totalFrames` together, to the frame: those under a fermata keep their length, the others share the
 * rest in their proportion (`shareFrames`). Given are the panels that may change.
 */
export function fitLengths(panels: readonly Timed[], totalFrames: number): { readonly ok: true; readonly lengths: Run['lengths'] } | { readonly ok: false; readonly refusal: MakeRefusal } {
  const free = panels.filter((panel) => !panel.lengthLocked)
  const heldFrames = panels.reduce((sum, panel) => sum + (panel.lengthLocked ? panel.lengthFrames : 0), 0)
  if (free.length === 0) return totalFrames === heldFrames ? { ok: true, lengths: [] } : { ok: false, refusal: { code: 'fit-all-held', asked: totalFrames, heldFrames } }
  const shared = shareFrames(free.map((panel) => panel.lengthFrames), totalFrames - heldFrames)
  if (shared === null) return { ok: false, refusal: { code: 'fit-too-short', asked: totalFrames, least: heldFrames + free.length } }
  return { ok: true, lengths: free.map(({ takeId, panelId }, i) => ({ takeId, panelId, lengthFrames: shared[i]! })) }
}

/** How far the end of a panel may be dragged, in frames from where it is. */
export function edgeRange(panel: Pick<Panel, 'lengthFrames' | 'lengthLocked'>, giver: Pick<Panel, 'lengthFrames'> | null, mode: TimeMode): { readonly least: number; readonly most: number } {
  if (panel.lengthLocked) return { least: 0, most: 0 }
  const { min, max } = PANEL_FRAMES_RANGE
  if (mode === 'push') return { least: min - panel.lengthFrames, most: max - panel.lengthFrames }
  if (giver === null) return { least: 0, most: 0 }
  return { least: min - panel.lengthFrames, most: giver.lengthFrames - min }
}
