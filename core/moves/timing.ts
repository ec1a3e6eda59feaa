import bezierEasing from 'bezier-easing'

/**
 * How a move spends its frames. Cushions are in frames: `leaveFrames` to get up to speed, `arriveFrames` to come to
 * rest. `custom` is a cubic Bézier from (0,0) to (1,1) with x1, x2 in 0…1.
 */
export type Timing =
  | { readonly kind: 'hold' }
  | { readonly kind: 'even' }
  | { readonly kind: 'cushioned'; readonly leaveFrames: number; readonly arriveFrames: number }
  | { readonly kind: 'custom'; readonly x1: number; readonly y1: number; readonly x2: number; readonly y2: number }

/** Solves a timing for a move of `lengthFrames`; the result maps t in 0…1 to the fraction of the way. */
export function createTiming(timing: Timing, lengthFrames: number): (t: number) => number {
  switch (timing.kind) {
    case 'hold':
      return (t) => (t >= 1 ? 1 : 0)
    case 'even':
      return (t) => clamp01(t)
    case 'cushioned':
      return createCushion(timing.leaveFrames, timing.arriveFrames, lengthFrames)
    case 'custom': {
      const curve = bezierEasing(clamp01(timing.x1), timing.y1, clamp01(timing.x2), timing.y2)
      return (t) => curve(clamp01(t))
    }
  }
}

/** Speed ramps evenly up over a, is constant, and ramps evenly down over b; when a + b > 1 both shrink alike. */
function createCushion(leaveFrames: number, arriveFrames: number, lengthFrames: number): (t: number) => number {
  const frames = Math.max(lengthFrames, 1)
  let a = Math.max(0, leaveFrames) / frames
  let b = Math.max(0, arriveFrames) / frames
  if (a + b > 1) {
    const sum = a + b
    a /= sum
    b /= sum
  }
  const speed = 1 / (1 - a / 2 - b / 2)
  return (t) => {
    if (t <= 0) return 0
    if (t >= 1) return 1
    if (t < a) return (speed * t * t) / (2 * a)
    if (t <= 1 - b) return speed * (t - a / 2)
    return 1 - (speed * (1 - t) * (1 - t)) / (2 * b)
  }
}

function clamp01(t: number): number {
  return t < 0 ? 0 : t > 1 ? 1 : t
}
