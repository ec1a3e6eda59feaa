import { carrierOf } from './carriers'
import { placedInTime, takeLengthFrames } from './panels'
import type { CameraSpan, Level, SpanTarget } from './records'
import type { TakeBody } from './units'

/** A span with its frames of the shot. */
export interface PlacedSpan<S extends CameraSpan = CameraSpan> {
  readonly span: S
  /** The first frame that it acts on, and the last. One whose end would come before its start ends with its shot. */
  readonly first: number
  readonly last: number
  /** Whether it ends with the shot, having no end of its own. */
  readonly open: boolean
  /** Where it would begin and end if nothing had been cut off; its cushions are counted from there. An open one's is never. */
  readonly wholeFirst: number
  readonly wholeLast: number
}

type SpansIn = Pick<TakeBody, 'panels' | 'spans' | 'spanEnds'>

/** The spans of one camera, or of all, by their first frames. */
export function placedSpans(take: SpansIn, cameraId: string | null = null): readonly PlacedSpan[] {
  const own = Object.values(take.spans).filter((span) => cameraId === null || span.cameraId === cameraId)
  if (own.length === 0) return NONE
  const ends = new Map(placedInTime(take, Object.values(take.spanEnds)).map(({ record, frame }) => [record.spanId, { frame, beyond: record.beyondFrames ?? 0 }]))
  const lastFrame = Math.max(0, takeLengthFrames(take) - 1)
  return placedInTime(take, own).map(({ record: span, frame: first }) => {
    const wholeFirst = first - (span.begun?.frames ?? 0)
    const end = ends.get(span.id)
    return end === undefined || end.frame < first ? { span, first, last: lastFrame, open: true, wholeFirst, wholeLast: Infinity } : { span, first, last: end.frame, open: false, wholeFirst, wholeLast: end.frame + end.beyond }
  })
}

const NONE: readonly PlacedSpan[] = Object.freeze([])

/**
 * How much of a span is seen at one of its frames, 0…1: over its cushions it comes in and goes out, each with even ramps of
 * speed, so that nothing starts or stops hard. Cushions that are longer than the span together share it.
 */
export function spanWeight({ span: { inFrames, outFrames }, wholeFirst, wholeLast }: PlacedSpan, frame: number): number {
  const length = wholeLast - wholeFirst
  const factor = Math.min(1, length / (inFrames + outFrames || 1))
  return Math.min(ramp(frame - wholeFirst, inFrames * factor), ramp(wholeLast - frame, outFrames * factor))
}

function ramp(frames: number, over: number): number {
  if (frames >= over) return 1
  const t = frames / over
  return t <= 0 ? 0 : t < 0.5 ? 2 * t * t : 1 - 2 * (1 - t) * (1 - t)
}

/** Whether where a level stands hangs on a camera: it travels with one, or is carried by something that turns to it. */
function placeHangs(take: Pick<TakeBody, 'levels'>, level: Level): boolean {
  const carrier = carrierOf(take, level)
  if (carrier === null) return false
  if (carrier.kind === 'camera') return true
  const on = take.levels[carrier.levelId]!
  return placeHangs(take, on) || (carrier.turn && turnHangs(take, on))
}

function turnHangs(take: Pick<TakeBody, 'levels'>, level: Level): boolean {
  if (level.facing !== undefined) return true
  const carrier = carrierOf(take, level)
  return carrier !== null && (carrier.kind === 'camera' || (carrier.turn && turnHangs(take, take.levels[carrier.levelId]!)))
}

/** Whether a point hangs on a camera, so that none can follow it or aim at it. */
export function targetHangs(take: Pick<TakeBody, 'levels'>, { levelId, at }: SpanTarget): boolean {
  const level = Object.hasOwn(take.levels, levelId) ? take.levels[levelId]! : null
  if (level === null) return false
  const { x, y } = level.pivot ?? MIDDLE
  return placeHangs(take, level) || (at !== undefined && (at.x !== x || at.y !== y) && turnHangs(take, level))
}

const MIDDLE = Object.freeze({ x: 0, y: 0 })

export const targetOf = (span: CameraSpan): SpanTarget | null => (span.kind === 'hand' ? null : span.target)

/** The spans whose point is one of a level. */
export const spansOn = (take: Pick<TakeBody, 'spans'>, levelId: string): readonly CameraSpan[] => Object.values(take.spans).filter((span) => targetOf(span)?.levelId === levelId)

/** A span whose point hangs on a camera; null where there is none. */
export const hangingSpan = (take: Pick<TakeBody, 'levels' | 'spans'>): CameraSpan | null =>
  Object.values(take.spans).find((span) => {
    const target = targetOf(span)
    return target !== null && targetHangs(take, target)
  }) ?? null
