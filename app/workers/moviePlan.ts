import { takeLengthFrames } from '@rubato/core/document'
import type { MovieRequest, MovieShot } from './messages'

const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)

/** A movie's size; even, as video wants it. */
export function moviePixels({ project, size }: MovieRequest): { readonly widthPx: number; readonly heightPx: number } {
  return { widthPx: even(project.widthPx * size), heightPx: even(project.heightPx * size) }
}

/** Which frames of a shot are made. */
export function framesOfShot({ body, frames }: MovieShot): { readonly from: number; readonly to: number } {
  const length = takeLengthFrames(body)
  return frames === undefined ? { from: 0, to: length } : { from: Math.max(0, frames.from), to: Math.min(length, frames.to) }
}

export function movieFrames({ shots }: MovieRequest): number {
  return shots.reduce((sum, shot) => sum + Math.max(0, framesOfShot(shot).to - framesOfShot(shot).from), 0)
}
