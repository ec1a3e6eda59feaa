import { mixAt, transitionAt, type FilmPicture } from '@rubato/core/stage'
import type { MovieRequest } from './messages'

const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)

/** A movie's size; even, as video wants it. */
export function moviePixels({ project, size }: Pick<MovieRequest, 'project' | 'size'>): { readonly widthPx: number; readonly heightPx: number } {
  return { widthPx: even(project.widthPx * size), heightPx: even(project.heightPx * size) }
}

export function movieFrames({ span }: Pick<MovieRequest, 'span'>): number {
  return Math.max(0, span.end - span.start)
}

/** What is on the screen at a frame of the film. Throws where the request has no shot there. */
export function moviePicture({ shots, transitions }: Pick<MovieRequest, 'shots' | 'transitions'>, frame: number): FilmPicture {
  const at = transitionAt(transitions, frame)
  if (at !== null) return mixAt(at, frame)
  const shot = shots.find(({ placed }) => frame >= placed.startFrame && frame < placed.startFrame + placed.lengthFrames)
  if (shot === undefined) throw new Error(`moviePicture: there is no shot at frame ${frame}`)
  return { kind: 'shot', of: { placed: shot.placed, frame: frame - shot.placed.startFrame } }
}
