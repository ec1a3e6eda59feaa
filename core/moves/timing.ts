import { easeCurve } from './easeCurve'

/** Gets up to speed and comes to rest, over so many frames; see `Timing`. */
export interface CushionedTiming {
  readonly kind: 'cushioned'
  readonly leaveFrames: number
  readonly arriveFrames: number
  readonly settleFrames?: number | undefined
}

export interface CustomTiming {
  readonly kind: 'custom'
  readonly x1: number
  readonly y1: number
  readonly x2: number
  readonly y2: number
}

/**
 * How a move spends its frames. Cushions are in frames: `leaveFrames` to get up to speed, `arriveFrames` to come to
 * rest; with `settleFrames` the arrival tails off that long past the move's last frame, without overshoot. `custom` is
 * a cubic Bézier from (0,0) to (1,1) with x1, x2 in 0…1. A `part` is what a longer move of `ofFrames` did from
 * `fromFrame` to `toFrame`: what is left of a move that was keyed or cut in a cushion. Frames past `ofFrames` are its settle.
 */
export type Timing =
  | { readonly kind: 'hold' }
  | { readonly kind: 'even' }
  | CushionedTiming
  | CustomTiming
  | {
      readonly kind: 'part'
      readonly of: CushionedTiming | CustomTiming
      readonly ofFrames: number
      readonly fromFrame: number
      readonly toFrame: number
      readonly settleFrames?: number | undefined
    }

/** The frames that a move goes on for past its last one. */
export function settleOf(timing: Timing): number {
  return timing.kind === 'cushioned' || timing.kind === 'part' ? (timing.settleFrames ?? 0) : 0
}

export function withoutSettle<T extends Timing>(timing: T): T {
  if (settleOf(timing) === 0) return timing
  const { settleFrames: _, ...rest } = timing as T & { readonly settleFrames?: number }
  return rest as unknown as T
}

/**
 * Solves a timing for a move of `lengthFrames`; the result maps t, 0…1 over those frames, to the fraction of the way.
 * One that settles arrives at t = 1 + settle / length; `mostSettleFrames` is the room it has.
 */
export function createTiming(timing: Timing, lengthFrames: number, mostSettleFrames = Infinity): (t: number) => number {
  switch (timing.kind) {
    case 'hold':
      return (t) => (t >= 1 ? 1 : 0)
    case 'even':
      return (t) => clamp01(t)
    case 'cushioned':
      return createCushion(timing, Math.min(settleOf(timing), mostSettleFrames), lengthFrames)
    case 'custom': {
      const curve = easeCurve(clamp01(timing.x1), timing.y1, clamp01(timing.x2), timing.y2)
      return (t) => curve(clamp01(t))
    }
    case 'part': {
      const { of, ofFrames, fromFrame, toFrame } = timing
      const whole = createTiming(of, ofFrames)
      const [low, high] = [whole(fromFrame / ofFrames), whole(toFrame / ofFrames)]
      const end = 1 + Math.max(0, Math.min(settleOf(timing), mostSettleFrames)) / Math.max(lengthFrames, 1)
      return (t) => {
        if (t <= 0) return 0
        if (t >= end) return 1
        // It ends where it began: there is no way to be shared out.
        if (Math.abs(high - low) < 1e-12) return t / end
        return (whole((fromFrame + ((toFrame - fromFrame) * t) / end) / ofFrames) - low) / (high - low)
      }
    }
  }
}

/** A value at frames since a way began; with `goesOn` before it began and past its end too. */
export type Way<V> = (frame: number, goesOn?: boolean) => V

/** So near an end its speed is taken, frames; below so much of the mean speed it rests there. */
const END_FRAMES = 1e-3
const RESTS_BELOW = 1e-2

/**
 * How much of the way is gone at a frame of a move: 0 at or before its first, 1 when it has come to rest. With `goesOn` it has
 * come, and goes on, at the speed that it has at its ends; a cushion or a settle brings it to rest. What takes a frame at
 * most is a cut and goes nowhere.
 */
export function createProgress(timing: Timing, lengthFrames: number, mostSettleFrames: number): (frame: number, goesOn?: boolean) => number {
  const key = `${lengthFrames} ${mostSettleFrames} ${JSON.stringify(timing)}`
  if (latest?.key !== key) latest = { key, progress: progressOf(timing, lengthFrames, mostSettleFrames) }
  return latest.progress
}

/** What is keyed together goes together: place, turn, size and opacity of a level ask for one frame of one move one after the other. */
let latest: { readonly key: string; readonly progress: (frame: number, goesOn?: boolean) => number } | null = null

function progressOf(timing: Timing, lengthFrames: number, mostSettleFrames: number): (frame: number, goesOn?: boolean) => number {
  const solved = createTiming(timing, lengthFrames, mostSettleFrames)
  const end = lengthFrames + Math.min(settleOf(timing), mostSettleFrames)
  const isCut = timing.kind === 'hold' || lengthFrames <= 1
  const speed = (share: number) => (Math.abs(share / END_FRAMES) * lengthFrames < RESTS_BELOW ? 0 : share / END_FRAMES)
  let [asked, gave] = [NaN, 0]
  return (frame, goesOn = false) => {
    if (frame === asked) return gave
    if (lengthFrames <= 0 || frame >= end) return goesOn && !isCut && frame > end ? 1 + (frame - end) * speed(1 - solved((end - END_FRAMES) / lengthFrames)) : 1
    if (frame <= 0) return goesOn && !isCut && frame < 0 ? frame * speed(solved(END_FRAMES / lengthFrames)) : 0
    asked = frame
    return (gave = solved(frame / lengthFrames))
  }
}

/** A cushion's ramps as they are on a move's length: they share it where it is too short for both. */
export function rampsOf(timing: CushionedTiming, lengthFrames: number): { readonly leave: number; readonly arrive: number } {
  const frames = Math.max(lengthFrames, 1)
  const [leave, arrive] = [Math.max(0, timing.leaveFrames), Math.max(0, timing.arriveFrames)]
  const factor = Math.min(1, frames / (leave + arrive || 1))
  return { leave: leave * factor, arrive: arrive * factor }
}

/**
 * Speed ramps evenly up over a, is constant, and ramps down over b; when a + b > 1 both shrink alike. With a settle of
 * s past the end the ramp down takes b + s = T and follows (1 − x)^e, e = 1 + s/T: evenly without a settle, ever more
 * gently with one. The way's whole length gives the speed: v = 1 / (1 − a/2 − b + T/(e + 1)).
 */
function createCushion(timing: CushionedTiming, settleFrames: number, lengthFrames: number): (t: number) => number {
  const frames = Math.max(lengthFrames, 1)
  const { leave, arrive } = rampsOf(timing, lengthFrames)
  const [a, b] = [leave / frames, arrive / frames]
  const s = Math.max(0, settleFrames) / frames
  const ramp = b + s
  const power = ramp === 0 ? 1 : 1 + s / ramp
  const speed = 1 / (1 - a / 2 - b + ramp / (power + 1))
  return (t) => {
    if (t <= 0) return 0
    if (t >= 1 + s) return 1
    if (t < a) return (speed * t * t) / (2 * a)
    if (t <= 1 - b) return speed * (t - a / 2)
    const left = (1 + s - t) / ramp
    return 1 - (speed * ramp * (power === 1 ? left * left : left ** (power + 1))) / (power + 1)
  }
}

function clamp01(t: number): number {
  return t < 0 ? 0 : t > 1 ? 1 : t
}
