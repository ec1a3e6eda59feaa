/** Film frames along x. */
export interface StripScale {
  readonly pxPerFrame: number
  /** The frame at the left edge; may be a fraction. */
  readonly firstFrame: number
  readonly widthPx: number
}

const PX_PER_FRAME_RANGE = Object.freeze({ min: 0.002, max: 40 })

export const xOfFrame = (scale: StripScale, frame: number) => (frame - scale.firstFrame) * scale.pxPerFrame
export const frameOfX = (scale: StripScale, x: number) => scale.firstFrame + x / scale.pxPerFrame

/** Zooms by `factor`, keeping what is under `x` there. */
export function zoomedAt(scale: StripScale, x: number, factor: number): StripScale {
  const { min, max } = PX_PER_FRAME_RANGE
  const pxPerFrame = Math.min(max, Math.max(min, scale.pxPerFrame * factor))
  return { ...scale, pxPerFrame, firstFrame: frameOfX(scale, x) - x / pxPerFrame }
}

/** Kept so that the film stays in view, with a little room at its end. */
export function keptInView(scale: StripScale, lengthFrames: number): StripScale {
  const shown = scale.widthPx / scale.pxPerFrame
  const most = Math.max(0, lengthFrames + 20 / scale.pxPerFrame - shown)
  return { ...scale, firstFrame: Math.min(most, Math.max(0, scale.firstFrame)) }
}

/** A scale that shows `lengthFrames` from `firstFrame` across the whole width. */
export function fitted(firstFrame: number, lengthFrames: number, widthPx: number): StripScale {
  const { min, max } = PX_PER_FRAME_RANGE
  return { firstFrame, widthPx, pxPerFrame: Math.min(max, Math.max(min, (widthPx - 16) / Math.max(1, lengthFrames))) }
}

/** Ruler steps in frames that come out round in timecode and at least `leastPx` apart. */
export function rulerStep(pxPerFrame: number, framesPerSecond: number, leastPx: number): number {
  const second = Math.round(framesPerSecond)
  const steps = [1, 2, 4, 6, Math.round(second / 2), second, 2 * second, 5 * second, 10 * second, 30 * second, 60 * second, 120 * second, 300 * second, 600 * second]
  return steps.find((step) => step * pxPerFrame >= leastPx) ?? 3600 * second
}
