/** Frames that playback keeps to, `end` exclusive. */
export interface PlaySpan {
  readonly start: number
  readonly end: number
}

/**
 * The frame that is due so many frames after `origin`, the way it plays (`direction`). Where it goes round it goes on at
 * the other end; else it is null once the span is over. An origin outside the span counts as at its near end.
 */
export function frameDue(origin: number, steps: number, direction: 1 | -1, span: PlaySpan, goesRound: boolean): number | null {
  const length = Math.max(1, span.end - span.start)
  const into = Math.min(length - 1, Math.max(0, origin - span.start)) + direction * Math.max(0, steps)
  if (into >= 0 && into < length) return span.start + into
  return goesRound ? span.start + (((into % length) + length) % length) : null
}

/** Frames that were due between two shown ones and were not: what speed leaves out by design does not count. */
export function framesMissed(stepsBefore: number, stepsNow: number, speed: number): number {
  return Math.max(0, stepsNow - stepsBefore - 1 - Math.max(0, Math.ceil(Math.abs(speed)) - 1))
}

/**
 * The step to draw now: the one that will be due when the drawing is seen, but none is passed over whose time it still is.
 * `last` is the step drawn before, `due` the one that is due now, `seen` the one due when the drawing will be seen; all in
 * frames from the playback's start, `due` ≤ `seen`.
 */
export function stepToDraw(last: number, due: number, seen: number): number {
  return Math.max(due, Math.min(last + 1, seen))
}
