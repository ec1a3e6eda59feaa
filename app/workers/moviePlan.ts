import { takeLengthFrames } from '@rubato/core/document'
import type { MovieRequest } from './messages'

const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)

/** A movie's size; even, as video wants it. */
export function moviePixels({ project, size }: MovieRequest): { readonly widthPx: number; readonly heightPx: number } {
  return { widthPx: even(project.widthPx * size), heightPx: even(project.heightPx * size) }
}

export function movieFrames({ shots }: MovieRequest): number {
  return shots.reduce((sum, shot) => sum + takeLengthFrames(shot.body), 0)
}
