import type { Optics } from '../../camera/lens'
import type { Anchor } from '../../document/panels'
import { takeLengthFrames } from '../../document/panels'
import type { CameraSpan, SpanEnd } from '../../document/records'
import { placedSpans, targetOf } from '../../document/spans'
import type { TakeBody } from '../../document/units'
import { createTakeStage } from '../../stage/takeStage'
import { withFields, type Draft } from '../change/draft'

/** What of a span lies in a stretch of a shot, to be put elsewhere. Frames are those of the shot that it is from. */
export interface SpanPiece {
  /** With what went before it, where it goes on from that. */
  readonly span: CameraSpan
  readonly first: number
  readonly last: number
  /** Null: it ends with its shot. */
  readonly beyondFrames: number | null
}

/** A stretch of a shot. */
export interface Stretch {
  readonly from: number
  /** Null: the shot's end. */
  readonly to: number | null
  /** Whether the shot that it is put into ends where it does, so that what has no end needs none. */
  readonly endsShot: boolean
  /** Whether it begins where a shot begins, there as here, so that nothing was seen before it. */
  readonly beginsShot: boolean
}

/**
 * The pieces of a take's spans in a stretch of it, doing there what they do: the rest of one that began before goes on from
 * where it is. So does what begins on the stretch's first frame: what was seen of the frame before is not there any more, or
 * another.
 */
export function spanPieces(take: TakeBody, optics: Optics, { from, to, endsShot, beginsShot }: Stretch): readonly SpanPiece[] {
  const end = to ?? takeLengthFrames(take) - 1
  const placed = placedSpans(take).filter(({ first, last }) => first <= end && last >= from)
  if (placed.length === 0 || end < from) return []
  const under = placed.filter(({ first }) => first <= from && !beginsShot)
  const stage = under.length === 0 ? null : createTakeStage(take, optics)
  const begun = new Map(stage === null ? [] : [...new Set(under.map(({ span }) => span.cameraId))].flatMap((cameraId) => stage.workOf(cameraId)?.begunAt(from).map((each) => [each.placed.span.id, each.begun] as const) ?? []))
  return placed.map(({ span, first, last, open, wholeLast }) => {
    const cushions = Math.ceil(span.inFrames + span.outFrames)
    return {
      span: begun.has(span.id) ? ({ ...span, begun: begun.get(span.id) } as CameraSpan) : span,
      first: Math.max(first, from),
      last: Math.min(last, end),
      // One that had no end goes on as if none were near.
      beyondFrames: open ? (endsShot ? null : cushions) : wholeLast - Math.min(last, end),
    }
  })
}

/** What pieces and what belongs to them are called where they are put. */
export interface PieceNames {
  anchorOf(frame: number): Anchor
  /** Of a camera or level that is not there, and its spans stay behind. */
  readonly cameraOf?: (cameraId: string) => string | undefined
  readonly levelOf?: (levelId: string) => string | undefined
  readonly newId: () => string
}

/** Puts pieces, under their ids where those are free. */
export function putPieces(draft: Draft<TakeBody>, pieces: readonly SpanPiece[], { anchorOf, cameraOf = same, levelOf = same, newId }: PieceNames): void {
  for (const { span, first, last, beyondFrames } of pieces) {
    const cameraId = cameraOf(span.cameraId)
    const target = targetOf(span)
    const levelId = target === null ? null : levelOf(target.levelId)
    if (cameraId === undefined || levelId === undefined) continue
    const id = draft.now('spans', span.id) === null ? span.id : newId()
    draft.put('spans', { ...span, ...anchorOf(first), id, cameraId, ...(target === null ? {} : { target: { ...target, levelId } }) } as CameraSpan)
    if (beyondFrames !== null) draft.put('spanEnds', withFields<SpanEnd>({ id, spanId: id, ...anchorOf(last) }, { beyondFrames: beyondFrames === 0 ? undefined : beyondFrames }))
  }
}

const same = (id: string) => id

/** Takes spans out, with their ends. */
export function dropSpans(draft: Draft<TakeBody>, ids: Iterable<string>): void {
  for (const id of ids) draft.drop('spans', id).drop('spanEnds', id)
}

/** Puts pieces in the place of all spans that a take has. */
export function putAllPieces(draft: Draft<TakeBody>, take: TakeBody, pieces: readonly SpanPiece[], names: PieceNames): void {
  dropSpans(draft, Object.keys(take.spans))
  putPieces(draft, pieces, names)
}

/** Spans whose end would come before their start, once panels stand in another order, keep their lengths. */
export function keepSpansWhole(draft: Draft<TakeBody>, take: TakeBody, anchorOf: (take: TakeBody, frame: number) => Anchor): void {
  const before = placedSpans(take).filter(({ open }) => !open)
  if (before.length === 0) return
  const after = draft.value()
  const now = new Map(placedSpans(after).map((placed) => [placed.span.id, placed]))
  for (const { span, first, last } of before) {
    const placed = now.get(span.id)
    const end = draft.now('spanEnds', span.id)
    if (placed?.open !== true || end === null) continue
    draft.put('spanEnds', { ...end, ...anchorOf(after, Math.min(placed.last, placed.first + last - first)) })
  }
}
