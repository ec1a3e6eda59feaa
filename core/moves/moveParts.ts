import type { CameraPose } from '../camera/pose'
import { turnBetween } from './angles'
import type { LevelValues } from './levelValues'
import type { MoveSpec } from './move'

/** Less than this is not worth a word. */
const LEAST_FW = 0.005
const LEAST_DEGREES = 0.25
const LEAST_RATIO = 0.005
const ARC_DEGREES = 3

/** One thing that a camera does in a move. */
export type MovePart =
  /** How much nearer the camera comes to its subject, or how much its lens grows, in whole percent. */
  | { readonly does: 'truck' | 'zoom'; readonly way: 'in' | 'out'; readonly percent: number }
  | { readonly does: 'travel' | 'pan'; readonly way: 'left' | 'right' }
  | { readonly does: 'pedestal' | 'tilt'; readonly way: 'up' | 'down' }
  | { readonly does: 'roll'; readonly way: 'clockwise' | 'anticlockwise' }
  | { readonly does: 'arc'; readonly way: 'left' | 'right'; readonly degrees: number }

export interface MoveParts {
  /** A hold that jumps, or framings a frame apart, are a cut. */
  readonly kind: 'hold' | 'cut' | 'move'
  readonly parts: readonly MovePart[]
}

/**
 * What a move does. Truck is how much nearer the camera comes to `subjectDepth`, in percent of its distance; zoom is the
 * growth of the lens; an arc is a bent path that turns the camera as it goes.
 */
export function movePartsOf(from: CameraPose, to: CameraPose, spec: MoveSpec, lengthFrames = Infinity, subjectDepth = 0): MoveParts {
  const parts: MovePart[] = []
  const percent = (ratio: number) => Math.max(1, Math.round(Math.abs(ratio) * 100))
  const [before, after] = [subjectDepth - from.depth, subjectDepth - to.depth]
  const nearer = before > 0 && after > 0 ? after / before - 1 : 0
  if (Math.abs(nearer) >= LEAST_RATIO) parts.push({ does: 'truck', way: nearer < 0 ? 'in' : 'out', percent: percent(nearer) })
  const lens = to.focalLengthMm / from.focalLengthMm - 1
  if (Math.abs(lens) >= LEAST_RATIO) parts.push({ does: 'zoom', way: lens > 0 ? 'in' : 'out', percent: percent(lens) })
  if (Math.abs(to.x - from.x) >= LEAST_FW) parts.push({ does: 'travel', way: to.x > from.x ? 'right' : 'left' })
  if (Math.abs(to.y - from.y) >= LEAST_FW) parts.push({ does: 'pedestal', way: to.y > from.y ? 'up' : 'down' })
  const pan = turnBetween(from.panDegrees, to.panDegrees)
  if (Math.abs(pan) >= LEAST_DEGREES) parts.push({ does: 'pan', way: pan > 0 ? 'right' : 'left' })
  const tilt = turnBetween(from.tiltDegrees, to.tiltDegrees)
  if (Math.abs(tilt) >= LEAST_DEGREES) parts.push({ does: 'tilt', way: tilt > 0 ? 'up' : 'down' })
  const roll = turnBetween(from.rollDegrees, to.rollDegrees)
  if (Math.abs(roll) >= LEAST_DEGREES) parts.push({ does: 'roll', way: roll > 0 ? 'clockwise' : 'anticlockwise' })
  if (parts.length === 0) return { kind: 'hold', parts }
  if (spec.timing.kind === 'hold' || lengthFrames <= 1) return { kind: 'cut', parts }
  if (spec.path.kind === 'bent' && Math.abs(pan) >= ARC_DEGREES) {
    const beside = parts.filter(({ does }) => does !== 'pan' && does !== 'travel' && does !== 'truck')
    return { kind: 'move', parts: [{ does: 'arc', way: pan > 0 ? 'left' : 'right', degrees: Math.round(Math.abs(pan)) }, ...beside] }
  }
  return { kind: 'move', parts }
}

/** One thing that a level does on its way from a key to the next. */
export type LevelPart =
  | { readonly does: 'go'; readonly way: 'left' | 'right' | 'up' | 'down' | 'nearer' | 'farther'; readonly fw: number }
  | { readonly does: 'turn'; readonly way: 'clockwise' | 'anticlockwise' | 'left' | 'right' | 'up' | 'down'; readonly degrees: number }
  /** So many times the size. */
  | { readonly does: 'grow' | 'shrink'; readonly factor: number }
  | { readonly does: 'fade'; readonly way: 'in' | 'out' }

/** What a level does between two of its states. Of its way the longest direction is told. */
export function levelPartsOf(from: LevelValues, to: LevelValues): readonly LevelPart[] {
  const parts: LevelPart[] = []
  const by = { x: to.place.x - from.place.x, y: to.place.y - from.place.y, depth: to.place.depth - from.place.depth }
  const far = Math.max(Math.abs(by.x), Math.abs(by.y), Math.abs(by.depth))
  if (far >= LEAST_FW) {
    const way = far === Math.abs(by.x) ? (by.x > 0 ? 'right' : 'left') : far === Math.abs(by.y) ? (by.y > 0 ? 'up' : 'down') : by.depth > 0 ? 'farther' : 'nearer'
    parts.push({ does: 'go', way, fw: Math.hypot(by.x, by.y, by.depth) })
  }
  const ways = { rollDegrees: ['anticlockwise', 'clockwise'], panDegrees: ['left', 'right'], tiltDegrees: ['down', 'up'] } as const
  for (const field of ['rollDegrees', 'panDegrees', 'tiltDegrees'] as const) {
    const degrees = turnBetween(from.turn[field], to.turn[field])
    if (Math.abs(degrees) >= LEAST_DEGREES) parts.push({ does: 'turn', way: ways[field][degrees > 0 ? 1 : 0], degrees: Math.abs(degrees) })
  }
  const factor = to.size / from.size
  if (Math.abs(factor - 1) >= LEAST_RATIO) parts.push({ does: factor > 1 ? 'grow' : 'shrink', factor })
  if (Math.abs(to.opacity - from.opacity) >= LEAST_RATIO) parts.push({ does: 'fade', way: to.opacity > from.opacity ? 'in' : 'out' })
  return parts
}
