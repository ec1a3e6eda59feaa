import type { Optics } from '../../camera/lens'
import { posesEqual, type CameraPose } from '../../camera/pose'
import { placedFramings, takeLengthFrames, type Anchor, type PlacedFraming } from '../../document/panels'
import type { Framing } from '../../document/records'
import type { TakeBody } from '../../document/units'
import { excerptOf, HOLD_MOVE, looseMove, type ExcerptKey } from '../../moves/excerpt'
import { createCameraTrack } from '../../moves/cameraTrack'
import { POSES } from '../../moves/poses'
import { withFields, type Draft } from '../change/draft'

/** What a camera shows in a stretch of a shot, to be put elsewhere. Frames are those of the shot that it is from. */
export type SpanKeys = readonly ExcerptKey<CameraPose, PlacedFraming>[]

/** The framings that show from `from` to `to` (null: the shot's end) what a camera shows there; empty where it has none. */
export function cameraSpan(take: TakeBody, cameraId: string, optics: Optics, from: number, to: number | null): SpanKeys {
  return excerptOf(createCameraTrack(placedFramings(take, cameraId), optics), POSES, from, to ?? takeLengthFrames(take) - 1, to === null)
}

/** The same with a framing on its first frame, so that nothing before it reaches into it; of a camera with none, `rest`. */
export function startingAt(span: SpanKeys, frame: number, rest: CameraPose): SpanKeys {
  const [first] = span
  if (first?.frame === frame) return span
  return [{ frame, value: first?.value ?? rest, move: HOLD_MOVE, of: null }, ...span]
}

/** The same, to be left by a jump. */
export function leftByJump(span: SpanKeys): SpanKeys {
  return span.map((each, i) => (i === span.length - 1 ? { ...each, move: HOLD_MOVE } : each))
}

/** Whether all of these show one pose, and nothing else. */
export function allAlike(spans: readonly SpanKeys[]): boolean {
  const poses = spans.flat().map(({ value }) => value)
  return poses.every((pose) => posesEqual(pose, poses[0]!))
}

/**
 * The same with each framing only once: where a camera was settling across a cut, what lies before it and what lies after
 * both end in the same framing, and the second is a new one. `seen` has the ids that stand already.
 */
export function once(span: SpanKeys, seen: Set<string> = new Set()): SpanKeys {
  return span.map((each) => {
    const id = each.of?.framing.id
    if (id === undefined) return each
    if (seen.has(id)) return { ...each, of: null }
    seen.add(id)
    return each
  })
}

/** A framing of a span as a record. One that is new has an id from `newId`; `fresh` gives all new ones, and unlocks them. */
export function framingOf({ of, value, move }: SpanKeys[number], cameraId: string, anchor: Anchor, newId: () => string, fresh = false): Framing {
  const plain = { cameraId, ...anchor, pose: { ...value }, move }
  if (of === null) return { id: newId(), locked: false, ...plain }
  return fresh ? withFields({ ...of.framing, ...plain, id: newId(), locked: false }, {}) : { ...of.framing, ...plain }
}

/** Puts a span in the place of all that a camera has; what it had and is not in the span goes. */
export function putSpan(draft: Draft<TakeBody>, take: TakeBody, cameraId: string, span: SpanKeys, anchorOf: (frame: number) => Anchor, newId: () => string): void {
  const stays = new Set(span.flatMap(({ of }) => of?.framing.id ?? []))
  for (const framing of Object.values(take.framings)) if (framing.cameraId === cameraId && !stays.has(framing.id)) draft.drop('framings', framing.id)
  for (const each of once(span)) draft.put('framings', framingOf(each, cameraId, anchorOf(each.frame), newId))
}

/**
 * Makes sure that a camera's last framing, once it has others after it, goes there straight: what it led to is gone, and
 * how it went there must not come alive. To be called when all else is in the draft.
 */
export function tidyLoose(draft: Draft<TakeBody>, take: TakeBody): Draft<TakeBody> {
  const loose = Object.keys(take.cameras).flatMap((cameraId) => {
    const last = placedFramings(take, cameraId).at(-1)?.framing
    return last === undefined || looseMove(last.move) === last.move ? [] : [last]
  })
  if (loose.length === 0) return draft
  const value = draft.value()
  for (const { id } of loose) {
    const now = value.framings[id]
    // A move that the edit itself gave it is meant.
    if (now === undefined || now.move !== take.framings[id]!.move) continue
    if (placedFramings(value, now.cameraId).at(-1)?.framing.id !== id) draft.put('framings', { ...now, move: looseMove(now.move) })
  }
  return draft
}
