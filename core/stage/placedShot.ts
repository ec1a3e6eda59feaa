import type { Shot } from '../document/records'

/** A shot with its place in the film's time. */
export interface PlacedShot {
  readonly shot: Shot
  readonly index: number
  readonly startFrame: number
  readonly lengthFrames: number
}
