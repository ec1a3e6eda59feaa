import { outlineRef, type Outline } from '../../document/units'
import type { Panel } from '../../document/records'
import { Draft } from '../change/draft'
import { isEmpty, type Edit } from '../change/edit'
import type { PanelPlace, Run } from './retime'

/** Panels in film order that taps go through. */
export type TapPanel = PanelPlace & Pick<Panel, 'lengthFrames' | 'lengthLocked'>

/** What taps so far come to, `elapsed` frames after the first panel began. */
export interface Tapped {
  /** Panels that were ended, in order, with their new lengths; those under a fermata passed by with their own. */
  readonly ended: Run['lengths']
  /** Which of `panels` is on now; their number when all have been ended. */
  readonly current: number
  /** When it began, frames from the first panel's start. */
  readonly currentStart: number
}

/**
 * Ends one panel a tap. `taps` are frames from the first panel's start, in order; a panel lasts at least one frame, so
 * a second tap in the same frame ends the next panel one frame on. Panels under a fermata end by themselves: no tap is
 * needed, and one that comes while such a panel is on counts for nothing. Taps after the last panel count for nothing.
 */
export function tapPanels(panels: readonly TapPanel[], taps: readonly number[], elapsed: number): Tapped {
  const ended: (PanelPlace & { readonly lengthFrames: number })[] = []
  let current = 0
  let start = 0
  /** Fermatas that have run out by `frame`. */
  const passHeld = (frame: number) => {
    for (let panel = panels[current]; panel !== undefined && panel.lengthLocked && start + panel.lengthFrames <= frame; panel = panels[++current]) {
      ended.push({ takeId: panel.takeId, panelId: panel.panelId, lengthFrames: panel.lengthFrames })
      start += panel.lengthFrames
    }
  }
  for (const tap of taps) {
    passHeld(tap)
    const panel = panels[current]
    if (panel === undefined) break
    if (panel.lengthLocked) continue
    const lengthFrames = Math.max(1, tap - start)
    ended.push({ takeId: panel.takeId, panelId: panel.panelId, lengthFrames })
    start += lengthFrames
    current++
  }
  passHeld(elapsed)
  return { ended, current, currentStart: start }
}

/**
 * How late someone taps, ms: the middle of how far taps lie from the beats nearest to them, so that a missed beat or a
 * stray tap does not count. Null with fewer than four taps, or where they lie too wide apart to be a habit.
 */
export function reactionMs(beatsMs: readonly number[], tapsMs: readonly number[]): number | null {
  const offsets = tapsMs
    .map((tap) => beatsMs.reduce((best, beat) => (Math.abs(tap - beat) < Math.abs(best) ? tap - beat : best), Infinity))
    .filter(Number.isFinite)
    .sort((a, b) => a - b)
  if (offsets.length < 4) return null
  const middle = offsets[Math.floor(offsets.length / 2)]!
  const spread = offsets.map((offset) => Math.abs(offset - middle)).sort((a, b) => a - b)[Math.floor(offsets.length / 2)]!
  return spread > WIDEST_SPREAD_MS ? null : Math.round(middle)
}

/** Half the taps must lie this near the middle one, ms. */
const WIDEST_SPREAD_MS = 90

/** By how many frames each shot that was tapped through begins later than before: what was tapped up to it, less what it was. */
export function shotShifts(panels: readonly TapPanel[], ended: readonly (PanelPlace & { readonly lengthFrames: number })[], shotOf: (takeId: string) => string | null): ReadonlyMap<string, number> {
  const shifts = new Map<string, number>()
  let shift = 0
  ended.forEach(({ takeId, lengthFrames }, i) => {
    const shotId = shotOf(takeId)
    if (shotId !== null && !shifts.has(shotId)) shifts.set(shotId, shift)
    shift += lengthFrames - panels[i]!.lengthFrames
  })
  return shifts
}

/** Keeps the clips of shots that were tapped through where they were heard: taps follow the sound, and not the sound the taps. */
export function holdSound(outline: Outline, projectId: string, shifts: ReadonlyMap<string, number>): readonly Edit[] {
  const draft = new Draft(outline)
  for (const clip of Object.values(outline.clips)) {
    const shift = clip.shotId === null ? 0 : (shifts.get(clip.shotId) ?? 0)
    if (shift !== 0) draft.put('clips', { ...clip, offsetFrames: clip.offsetFrames - shift })
  }
  const edit = draft.edit('sound-hold', outlineRef(projectId))
  return isEmpty(edit) ? [] : [edit]
}
