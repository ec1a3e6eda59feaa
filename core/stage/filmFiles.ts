import type { FilmSpan, FilmStage } from './filmStage'

/** What of a film is handed over; shots by their labels, from one to another. */
export type FilmPart = { readonly kind: 'film' } | { readonly kind: 'span'; readonly start: number; readonly end: number } | { readonly kind: 'shots'; readonly from: string; readonly to: string }

/** One file's frames. */
export interface FilmFile {
  /** Alone: without its neighbours and transitions, in frames of its own, which may lie past its ends. Null: `span` is of the film. */
  readonly shotId: string | null
  readonly label: string | null
  readonly span: FilmSpan
}

/** The frames of a part, cut off at the film's ends; null where a label is of no shot in the film. */
export function spanOfPart(film: FilmStage, part: FilmPart): FilmSpan | null {
  if (part.kind === 'film') return { start: 0, end: film.lengthFrames }
  if (part.kind === 'span') return { start: Math.max(0, part.start), end: Math.min(film.lengthFrames, part.end) }
  const [from, to] = [part.from, part.to].map((label) => film.shots.find(({ shot }) => shot.label === label))
  if (from === undefined || to === undefined) return null
  const [first, last] = from.index <= to.index ? [from, to] : [to, from]
  return { start: first.startFrame, end: last.startFrame + last.lengthFrames }
}

/** The files that a span is handed over as: one, or each shot that it touches, whole, with `handles` frames more on each side. */
export function filmFiles(film: FilmStage, span: FilmSpan, each: 'whole' | 'shot', handles = 0): readonly FilmFile[] {
  if (each === 'whole') return span.end > span.start ? [{ shotId: null, label: null, span }] : []
  return film.shots
    .filter(({ startFrame, lengthFrames }) => lengthFrames > 0 && startFrame < span.end && startFrame + lengthFrames > span.start)
    .map(({ shot, lengthFrames }) => ({ shotId: shot.id, label: shot.label, span: { start: -handles, end: lengthFrames + handles } }))
}

/**
 * Pieces of a file for several to make: cut where shots are cut, as far as that gives at least `least` frames and at most `most`; a
 * longer shot is cut evenly. Together they are the file.
 */
export function filePieces(film: FilmStage, { shotId, span }: FilmFile, least: number, most: number): readonly FilmSpan[] {
  const cuts = shotId !== null ? [] : film.shots.map(({ startFrame }) => startFrame).filter((frame) => frame > span.start && frame < span.end)
  const pieces: FilmSpan[] = []
  let start = span.start
  for (const end of [...cuts, span.end]) {
    if (end !== span.end && end - start < least) continue
    const shares = Math.ceil((end - start) / most)
    const length = end - start
    for (let share = 0; share < shares; share++) pieces.push({ start: start + Math.floor((length * share) / shares), end: start + Math.floor((length * (share + 1)) / shares) })
    start = end
  }
  return pieces
}
