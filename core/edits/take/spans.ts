import { anchorOfFrame, takeLengthFrames } from '../../document/panels'
import type { CameraSpan, FollowSpan } from '../../document/records'
import { hangingSpan, placedSpans, targetHangs, targetOf } from '../../document/spans'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { dropSpans } from './spanPieces'

type WithoutPlace<S> = S extends CameraSpan ? Omit<S, 'panelId' | 'offsetFrames' | 'begun'> : never
/** A span apart from where it stands. */
export type NewSpan = WithoutPlace<CameraSpan>

/** How a camera follows, aims or is held where nobody has said: frames, fw, fw a frame. */
export const SPAN_DEFAULTS = Object.freeze({
  follow: { u: 0, v: 0, lagFrames: 6, inFrames: 12, outFrames: 12, axes: { x: true, y: false, depth: false }, still: { widthFw: 0.06, heightFw: 0.06 }, lead: { mostFw: 0, atFwPerFrame: 0.01 } } satisfies Partial<FollowSpan>,
  aim: { u: 0, v: 0, lagFrames: 4, inFrames: 12, outFrames: 12 },
  hand: { placeFw: 0.006, rollDegrees: 0.35, turnDegrees: 0, periodFrames: 48, inFrames: 12, outFrames: 12 },
})

function cameraRefusal(take: TakeBody, cameraId: string): Refused | null {
  const camera = Object.hasOwn(take.cameras, cameraId) ? take.cameras[cameraId]! : null
  if (camera === null) return refused({ code: 'missing', what: 'camera', id: cameraId })
  return camera.locked ? refused({ code: 'camera-locked', id: cameraId }) : null
}

function targetRefusal(take: TakeBody, span: CameraSpan | NewSpan): Refused | null {
  const target = targetOf(span as CameraSpan)
  if (target === null) return null
  if (!Object.hasOwn(take.levels, target.levelId)) return refused({ code: 'missing', what: 'level', id: target.levelId })
  return targetHangs(take, target) ? refused({ code: 'target-hangs', id: target.levelId }) : null
}

/** Refused where a camera would go after what hangs on a camera, once a level is carried or turned otherwise. */
export function followedRefusal(after: TakeBody): Refused | null {
  const span = hangingSpan(after)
  return span === null ? null : refused({ code: 'followed-hangs', id: targetOf(span)!.levelId, camera: after.cameras[span.cameraId]?.letter ?? '' })
}

/** Has a camera follow, aim or be held by hand from a frame to a last one, or to the shot's end (null). */
export function addSpan(take: TakeBody, takeId: string, span: NewSpan, first: number, last: number | null): Made {
  const refusal = cameraRefusal(take, span.cameraId) ?? targetRefusal(take, span)
  if (refusal !== null) return refusal
  const draft = new Draft(take)
  return put(draft, take, span as CameraSpan, first, last) ?? made(draft.edit(`${span.kind}-add`, takeRef(takeId)))
}

/** Puts a span with its first frame and its last. */
function put(draft: Draft<TakeBody>, take: TakeBody, span: Omit<CameraSpan, 'panelId' | 'offsetFrames'>, first: number, last: number | null): Refused | null {
  const end = takeLengthFrames(take) - 1
  const from = Math.min(Math.max(0, Math.round(first)), Math.max(0, end))
  const anchor = anchorOfFrame(take, from)
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: '' })
  draft.put('spans', { ...span, ...anchor } as CameraSpan)
  if (last === null) draft.drop('spanEnds', span.id)
  else draft.put('spanEnds', { id: span.id, spanId: span.id, ...anchorOfFrame(take, Math.min(end, Math.max(from, Math.round(last))))! })
  return null
}

function freeSpan(take: TakeBody, spanId: string): CameraSpan | Refused {
  const span = Object.hasOwn(take.spans, spanId) ? take.spans[spanId]! : null
  return span === null ? refused({ code: 'missing', what: 'span', id: spanId }) : (cameraRefusal(take, span.cameraId) ?? span)
}

/** The fields of a span that the artist sets. */
type Settings<S> = S extends CameraSpan ? Partial<Omit<S, 'id' | 'cameraId' | 'kind' | 'panelId' | 'offsetFrames' | 'begun'>> : never
export type SpanSettings = Settings<CameraSpan>

/** Changes how a camera follows, aims or is held. What goes after another point begins anew; else the rest of a longer one still goes on from that. */
export function changeSpan(take: TakeBody, takeId: string, spanId: string, settings: SpanSettings): Made {
  const span = freeSpan(take, spanId)
  if ('ok' in span) return span
  const changed = withFields<CameraSpan>(span, { ...settings, ...('target' in settings || 'axes' in settings ? { begun: undefined } : {}) } as Partial<CameraSpan>)
  const refusal = targetRefusal(take, changed)
  return refusal ?? made(new Draft(take).put('spans', changed).edit('span-change', takeRef(takeId)))
}

/** Gives a span another first frame and another last, null: the shot's end. One that begins elsewhere begins anew. */
export function placeSpan(take: TakeBody, takeId: string, spanId: string, first: number, last: number | null): Made {
  const span = freeSpan(take, spanId)
  if ('ok' in span) return span
  const draft = new Draft(take)
  const now = placedSpans(take, span.cameraId).find((placed) => placed.span.id === spanId)!
  const stays = Math.round(first) === now.first
  const refusal = put(draft, take, stays ? span : withFields<CameraSpan>(span, { begun: undefined }), first, last)
  if (refusal !== null) return refusal
  // Where its end stays, so does what was cut off there.
  if (!now.open && last === now.last) draft.put('spanEnds', take.spanEnds[spanId]!)
  return made(draft.edit('span-place', takeRef(takeId)))
}

export function removeSpans(take: TakeBody, takeId: string, spanIds: readonly string[]): Made {
  const draft = new Draft(take)
  for (const id of spanIds) {
    const span = freeSpan(take, id)
    if ('ok' in span) return span
    dropSpans(draft, [id])
  }
  return made(draft.edit('span-remove', takeRef(takeId)))
}

