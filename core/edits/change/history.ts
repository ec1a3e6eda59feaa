import { mergeChanges, type Change } from './change'

/** Where the artist was: given back by undo and redo. */
export interface Whereabouts {
  readonly shotId: string | null
  readonly frame: number
  readonly selection: readonly string[]
}

export interface HistoryEntry {
  readonly change: Change
  readonly before: Whereabouts
  readonly after: Whereabouts
  /** Steps of one gesture share this and become one entry; null never groups. */
  readonly gesture: string | null
}

/** Past newest last, future newest last. Plain data, so it can be kept. */
export interface History {
  readonly past: readonly HistoryEntry[]
  readonly future: readonly HistoryEntry[]
}

export const EMPTY_HISTORY: History = Object.freeze({ past: [], future: [] })
export const HISTORY_LIMIT = 500

/** Adds a step, dropping what could be redone. A step of the newest entry's gesture joins it. */
export function record(history: History, entry: HistoryEntry): History {
  const newest = history.past.at(-1)
  if (newest !== undefined && entry.gesture !== null && newest.gesture === entry.gesture) {
    const joined = { ...newest, change: mergeChanges(newest.change, entry.change), after: entry.after }
    return { past: [...history.past.slice(0, -1), joined], future: [] }
  }
  return { past: [...history.past, entry].slice(-HISTORY_LIMIT), future: [] }
}

/** The entry that undo would take back, and the history after; null when there is none. */
export function stepBack(history: History): { readonly entry: HistoryEntry; readonly history: History } | null {
  const entry = history.past.at(-1)
  if (entry === undefined) return null
  return { entry, history: { past: history.past.slice(0, -1), future: [...history.future, entry] } }
}

/** The entry that redo would do again, and the history after; null when there is none. */
export function stepForward(history: History): { readonly entry: HistoryEntry; readonly history: History } | null {
  const entry = history.future.at(-1)
  if (entry === undefined) return null
  return { entry, history: { past: [...history.past, entry], future: history.future.slice(0, -1) } }
}
