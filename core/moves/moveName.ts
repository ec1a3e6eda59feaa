import type { CameraPose } from '../camera/pose'
import { turnBetween } from './angles'
import type { MoveSpec } from './move'

/** Less than this is not worth a word. */
const LEAST_FW = 0.005
const LEAST_DEGREES = 0.25
const LEAST_RATIO = 0.005
const ARC_DEGREES = 3

/**
 * What a move does, in the trade's words: "truck in 32 %, pan right". Truck is how much nearer the camera comes to
 * `subjectDepth`, in percent of its distance; zoom is the growth of the lens. A hold that jumps, or framings a frame
 * apart, are a "cut"; an arc is a bent path that turns the camera as it goes.
 */
export function moveName(from: CameraPose, to: CameraPose, spec: MoveSpec, lengthFrames = Infinity, subjectDepth = 0): string {
  const parts: string[] = []
  const before = subjectDepth - from.depth
  const after = subjectDepth - to.depth
  if (before > 0 && after > 0 && Math.abs(after / before - 1) >= LEAST_RATIO) {
    const change = after / before - 1
    parts.push(`truck ${change < 0 ? 'in' : 'out'} ${Math.max(1, Math.round(Math.abs(change) * 100))} %`)
  }
  const lens = to.focalLengthMm / from.focalLengthMm - 1
  if (Math.abs(lens) >= LEAST_RATIO) parts.push(`zoom ${lens > 0 ? 'in' : 'out'} ${Math.max(1, Math.round(Math.abs(lens) * 100))} %`)
  if (Math.abs(to.x - from.x) >= LEAST_FW) parts.push(to.x > from.x ? 'travel right' : 'travel left')
  if (Math.abs(to.y - from.y) >= LEAST_FW) parts.push(to.y > from.y ? 'pedestal up' : 'pedestal down')
  const pan = turnBetween(from.panDegrees, to.panDegrees)
  if (Math.abs(pan) >= LEAST_DEGREES) parts.push(pan > 0 ? 'pan right' : 'pan left')
  const tilt = turnBetween(from.tiltDegrees, to.tiltDegrees)
  if (Math.abs(tilt) >= LEAST_DEGREES) parts.push(tilt > 0 ? 'tilt up' : 'tilt down')
  const roll = turnBetween(from.rollDegrees, to.rollDegrees)
  if (Math.abs(roll) >= LEAST_DEGREES) parts.push(roll > 0 ? 'roll clockwise' : 'roll anticlockwise')
  if (parts.length === 0) return 'hold'
  if (spec.timing.kind === 'hold' || lengthFrames <= 1) return `cut: ${parts.join(', ')}`
  if (spec.path.kind === 'bent' && Math.abs(pan) >= ARC_DEGREES) return `arc ${pan > 0 ? 'left' : 'right'} ${Math.round(Math.abs(pan))}°${parts.filter((part) => !/^(pan|travel|truck)/.test(part)).map((part) => `, ${part}`).join('')}`
  return parts.join(', ')
}
