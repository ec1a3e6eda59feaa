import { shownInFilm, shownInTake, type Shown, type StageOf } from '@rubato/core/stage'
import type { MovieRequest } from './messages'

const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)

/** A movie's size; even, as video wants it. */
export function moviePixels({ project, size }: Pick<MovieRequest, 'project' | 'size'>): { readonly widthPx: number; readonly heightPx: number } {
  return { widthPx: even(project.widthPx * size), heightPx: even(project.heightPx * size) }
}

export function movieFrames({ span }: Pick<MovieRequest, 'span'>): number {
  return Math.max(0, span.end - span.start)
}

/** What is on the screen at a frame of a request. Throws where the request has no shot there. */
export function movieShown({ shots, transitions, alone = null }: Pick<MovieRequest, 'shots' | 'transitions' | 'alone'>, frame: number, stageOf: StageOf): Shown {
  const placed = shots.find((shot) => (alone === null ? frame >= shot.placed.startFrame && frame < shot.placed.startFrame + shot.placed.lengthFrames : shot.placed.shot.id === alone))?.placed ?? null
  if (alone !== null && placed !== null) return shownInTake(placed.shot.circledTakeId, frame, stageOf(placed.shot.circledTakeId))
  const shown = shownInFilm(transitions, placed, frame, stageOf)
  if (shown === null) throw new Error(`movieShown: there is no shot at frame ${frame}`)
  return shown
}
