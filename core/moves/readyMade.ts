import { basisOf } from '../camera/projection'
import type { CameraPose } from '../camera/pose'
import { add, dot, scale, subtract, type Point3 } from '../geometry/point'
import type { Keyed } from './keyed'
import type { MoveSpec } from './move'
import type { Path } from './path'
import type { Timing } from './timing'

export const READY_MADE = Object.freeze(['push-in', 'pull-out', 'drift', 'whip-pan', 'reveal', 'arc'] as const)
export type ReadyMadeKind = (typeof READY_MADE)[number]

/** What a ready-made move is made from. */
export interface ReadyMade {
  readonly kind: ReadyMadeKind
  /**
   * How much: for a push-in and a pull-out the change of distance in percent, for a drift its way in fw, for a whip pan
   * and an arc degrees (positive: the camera looks right; it goes round to the right), for a reveal how far off to the
   * side it begins, in fw (negative: from the left).
   */
  readonly amount: number
  /** Frames from the first framing to the last, at least 1. */
  readonly lengthFrames: number
  /** What the camera is about: the subject's point in the set. */
  readonly subject: Point3
}

/** Amounts that can be asked for, and what is offered first. */
export const READY_MADE_AMOUNTS: Readonly<Record<ReadyMadeKind, { readonly min: number; readonly max: number; readonly usual: number }>> = Object.freeze({
  'push-in': { min: 1, max: 95, usual: 25 },
  'pull-out': { min: 1, max: 900, usual: 35 },
  drift: { min: -5, max: 5, usual: 0.06 },
  'whip-pan': { min: -180, max: 180, usual: 40 },
  reveal: { min: -20, max: 20, usual: 0.6 },
  arc: { min: -360, max: 360, usual: 30 },
})

/** A whip pan takes this many frames of its time, and its end trembles out over as many. */
const WHIP_FRAMES = 7
const WHIP_SETTLE_FRAMES = 4
/** An arc is drawn by Bézier curves of at most this angle each; they leave the circle by less than 3·10⁻⁵ of its radius. */
const ARC_STEP_DEGREES = 45
const STRAIGHT: Path = Object.freeze({ kind: 'straight' })

/** The framings of a ready-made move that begins with `pose` (a reveal ends with it), counted from its first frame. */
export function readyMadeMove(pose: CameraPose, made: ReadyMade): readonly Keyed<CameraPose>[] {
  const length = Math.max(1, Math.round(made.lengthFrames))
  const { amount, subject } = made
  const { forward, right } = basisOf(pose)
  // The camera's distance from what it is about, along its axis.
  const distance = Math.max(0.05, dot(subtract(subject, pose), forward))
  const onScreen: MoveSpec['evenness'] = subject.depth > pose.depth ? { kind: 'screen', subjectDepth: subject.depth } : { kind: 'set' }
  const between = (to: CameraPose, timing: Timing, evenness: MoveSpec['evenness'] = { kind: 'set' }): readonly Keyed<CameraPose>[] => {
    const move: MoveSpec = { timing, path: STRAIGHT, evenness }
    return [
      { frame: 0, value: pose, move },
      { frame: length, value: to, move },
    ]
  }
  switch (made.kind) {
    case 'push-in':
      return between(movedBy(pose, scale(forward, (distance * amount) / 100)), cushions(length, 0.12, 0.4), onScreen)
    case 'pull-out':
      return between(movedBy(pose, scale(forward, (-distance * amount) / 100)), cushions(length, 0.25, 0.35), onScreen)
    case 'drift':
      return between(movedBy(pose, scale(right, amount)), { kind: 'even' })
    case 'whip-pan': {
      const whip = Math.min(length, WHIP_FRAMES)
      const to = { ...pose, panDegrees: pose.panDegrees + amount }
      const move: MoveSpec = { timing: { kind: 'cushioned', leaveFrames: 2, arriveFrames: 1, settleFrames: WHIP_SETTLE_FRAMES }, path: STRAIGHT, evenness: { kind: 'set' } }
      const arrive = Math.max(whip, length - WHIP_SETTLE_FRAMES)
      return [...(arrive > whip ? [{ frame: 0, value: pose, move: still() }] : []), { frame: arrive - whip, value: pose, move }, { frame: arrive, value: to, move: still() }]
    }
    case 'reveal': {
      const move: MoveSpec = { timing: cushions(length, 0.1, 0.55), path: STRAIGHT, evenness: { kind: 'set' } }
      return [
        { frame: 0, value: movedBy(pose, add(scale(right, amount), scale(forward, distance * 0.15))), move },
        { frame: length, value: pose, move },
      ]
    }
    case 'arc':
      return arcMove(pose, subject, amount, length)
  }
}

const still = (): MoveSpec => ({ timing: { kind: 'even' }, path: STRAIGHT, evenness: { kind: 'set' } })

function cushions(length: number, leave: number, arrive: number): Timing {
  return { kind: 'cushioned', leaveFrames: Math.round(length * leave), arriveFrames: Math.round(length * arrive) }
}

function movedBy(pose: CameraPose, by: Point3): CameraPose {
  const { x, y, depth } = add(pose, by)
  return { ...pose, x, y, depth }
}

/**
 * Round the subject, level with where the camera is, always turned to it as it is now. By θ to the right the camera's
 * place about the subject and its pan turn by −θ. Each piece of angle φ has handles of ⁴⁄₃·tan(φ/4) of the radius.
 */
function arcMove(pose: CameraPose, subject: Point3, degrees: number, length: number): readonly Keyed<CameraPose>[] {
  const pieces = Math.max(1, Math.min(Math.ceil(Math.abs(degrees) / ARC_STEP_DEGREES - 1e-9), length))
  const step = degrees / pieces
  const phi = (step * Math.PI) / 180
  const from = { x: pose.x - subject.x, depth: pose.depth - subject.depth }
  const reach = (4 / 3) * Math.tan(phi / 4)
  const frames = Array.from({ length: pieces + 1 }, (_, i) => Math.round((length * i) / pieces))
  return frames.map((frame, i) => {
    const angle = phi * i
    // Counter-clockwise in x, depth: from in front of the subject to its right.
    const about = { x: from.x * Math.cos(angle) - from.depth * Math.sin(angle), depth: from.x * Math.sin(angle) + from.depth * Math.cos(angle) }
    const next = { x: from.x * Math.cos(angle + phi) - from.depth * Math.sin(angle + phi), depth: from.x * Math.sin(angle + phi) + from.depth * Math.cos(angle + phi) }
    const leave = { x: -about.depth * reach, y: 0, depth: about.x * reach }
    const arrive = { x: next.depth * reach, y: 0, depth: -next.x * reach }
    const cushion = Math.round(length * 0.15)
    // Only its beginning and its end are soft: in between it goes round evenly.
    const timing: Timing = pieces === 1 ? { kind: 'cushioned', leaveFrames: cushion, arriveFrames: cushion } : { kind: 'cushioned', leaveFrames: i === 0 ? cushion : 0, arriveFrames: i === pieces - 1 ? cushion : 0 }
    return {
      frame,
      value: { ...pose, x: subject.x + about.x, depth: subject.depth + about.depth, panDegrees: pose.panDegrees - step * i },
      move: { timing: i === pieces ? { kind: 'even' } : timing, path: i === pieces ? STRAIGHT : { kind: 'bent', leave, arrive }, evenness: { kind: 'set' } },
      ...(pieces > 1 && i > 0 && i < pieces ? { smooth: true } : {}),
    }
  })
}
