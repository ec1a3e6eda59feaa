import type { Optics } from '../../camera/lens'
import { posesEqual, type CameraPose } from '../../camera/pose'
import { FRAMINGS, cameraKeys, keyTrack, type KeyOwner } from '../../document/keys'
import { anchorOfFrame, takeLengthFrames } from '../../document/panels'
import { placedSpans, type PlacedSpan } from '../../document/spans'
import { takeRef, type TakeBody } from '../../document/units'
import { excerptOf, HOLD_MOVE } from '../../moves/excerpt'
import { CUSHIONED_MOVE } from '../../moves/move'
import { POSE_FIELDS } from '../../moves/poses'
import { changedBy, inTurn } from '../../stage/cameraWork'
import { fitFramings } from '../../stage/fitFramings'
import { artDepths, type ArtReach } from '../../stage/pictureShift'
import { createTakeStage } from '../../stage/takeStage'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'
import { ownerRefusal } from './keys'
import { putSpan, startingAt, type SpanKeys } from './keySpans'
import { dropSpans } from './spanPieces'

/** What baking goes by. */
export interface Baking {
  readonly optics: Optics
  /** How far the picture may be off at any frame, px of the output. */
  readonly tolerancePx: number
  readonly outputWidthPx: number
  readonly reaches?: ReadonlyMap<string, ArtReach>
  readonly told?: (share: number) => boolean
}

/** What the camera's poses became. */
export interface Baked {
  readonly made: Made
  readonly framings: number
  /** The farthest that the picture is off at any frame but those around locked framings, px. */
  readonly mostPx: number
  /** Framings inside that are locked, and stay. */
  readonly locked: number
  /** The spans that went, those that came before a chosen one too. */
  readonly spanIds: readonly string[]
}

/** A locked framing is gone over to and left in so many frames. */
const AROUND_LOCKED = 6

/**
 * Writes what spans make of one camera as framings, as few as keep every picture within the tolerance, in the place of the spans
 * and of the framings over that while. What comes before one of them at a frame is written along with it. Locked
 * framings stay as they are, and the camera goes over to each and back. Null where it was told to give up.
 */
export function bakeSpans(take: TakeBody, takeId: string, spanIds: readonly string[], baking: Baking, newId: () => string): Baked | null {
  const none = (refusal: Made): Baked => ({ made: refusal, framings: 0, mostPx: 0, locked: 0, spanIds: [] })
  const asked = spanIds.map((id) => (Object.hasOwn(take.spans, id) ? take.spans[id]! : null))
  const missing = asked.indexOf(null)
  if (missing >= 0 || asked.length === 0) return none(refused({ code: 'missing', what: 'span', id: spanIds[missing] ?? '' }))
  const { cameraId } = asked[0]!
  const owner = cameraKeys(cameraId)
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return none(refusal)
  const all = placedSpans(take, cameraId)
  const going = withUnder(all, all.filter(({ span }) => spanIds.includes(span.id)))
  const [from, to] = [Math.min(...going.map(({ first }) => first)), Math.max(...going.map(({ last }) => last))]
  const goes = new Set(going.map(({ span }) => span.id))
  const poses = posesWith(take, cameraId, goes, baking.optics, from, to)
  const written = writePoses(take, owner, poses, from, baking, newId)
  if (written === null) return null
  dropSpans(written.draft, goes)
  return { made: made(written.draft.edit('spans-bake', takeRef(takeId))), framings: written.framings, mostPx: written.mostPx, locked: written.locked, spanIds: [...goes] }
}

/**
 * Writes where a hand had the camera, pose by pose from a frame on, as framings in the place of those over that while; before it
 * and after it nothing changes, and locked framings stay. Past the shot's end there is nothing to write. Refused where spans
 * work on the camera meanwhile: framings are what those go by. Null where it was told to give up.
 */
export function bakeOperated(take: TakeBody, takeId: string, cameraId: string, from: number, operated: readonly CameraPose[], baking: Baking, newId: () => string): Baked | null {
  const none = (refusal: Made): Baked => ({ made: refusal, framings: 0, mostPx: 0, locked: 0, spanIds: [] })
  const owner = cameraKeys(cameraId)
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return none(refusal)
  const poses = operated.slice(0, Math.max(0, takeLengthFrames(take) - from))
  if (poses.length === 0) return none(refused({ code: 'nothing-to-paste' }))
  if (!poses.every((pose) => POSE_FIELDS.every((field) => Number.isFinite(pose[field])))) return none(refused({ code: 'pose-not-finite' }))
  const under = placedSpans(take, cameraId).filter(({ first, last }) => first <= from + poses.length - 1 && last >= from)
  if (under.length > 0) return none(refused({ code: 'spans-work-there', id: under[0]!.span.id }))
  const written = writePoses(take, owner, poses, from, baking, newId)
  if (written === null) return null
  return { made: made(written.draft.edit('operate', takeRef(takeId))), framings: written.framings, mostPx: written.mostPx, locked: written.locked, spanIds: [] }
}

/** Few framings through poses from a frame on, in the place of a camera's over that while. Null where it was told to give up. */
function writePoses(take: TakeBody, owner: KeyOwner<CameraPose>, poses: readonly CameraPose[], from: number, baking: Baking, newId: () => string) {
  const to = from + poses.length - 1
  const track = keyTrack(take, owner, baking.optics)
  const rest = owner.kind.rest(take, owner.id, baking.optics)!
  const framedAt = (frame: number) => track.at(frame) ?? rest
  const locked = track.keys.filter(({ frame, of }) => frame >= from && frame <= to && of.record.locked)
  const standing = new Set(locked.flatMap(({ frame }) => [frame - AROUND_LOCKED, frame + AROUND_LOCKED].map((each) => Math.min(to, Math.max(from, each)) - from)))
  const fitted = fitFramings(poses, { optics: baking.optics, depths: artDepths(take, baking.reaches), limit: baking.tolerancePx / baking.outputWidthPx, standing, ...(baking.told === undefined ? {} : { told: baking.told }) })
  if (fitted === null) return null
  const near = (frame: number) => locked.some((each) => Math.abs(each.frame - frame) < AROUND_LOCKED)
  const found: SpanKeys<CameraPose>[number][] = fitted.framings.filter(({ frame }) => !near(frame + from)).map(({ frame, pose, move }) => ({ frame: frame + from, value: pose, move: near(frame + from + 1) || locked.some((each) => each.frame === frame + from + AROUND_LOCKED) ? CUSHIONED_MOVE : move, of: null }))
  const baked = [...found, ...locked.map(({ frame, value, move, of }) => ({ frame, value, move, of }))].sort((a, b) => a.frame - b.frame)
  const lastFrame = takeLengthFrames(take) - 1
  const before = from === 0 ? [] : startingAt(excerptOf(track, FRAMINGS.values, 0, from - 1, false), 0, framedAt(0))
  // Where it comes in at once the framings are left by a jump.
  const comesIn = from > 0 && posesEqual(poses[0]!, framedAt(from), 1e-9)
  const ahead = comesIn ? startingAt(excerptOf(track, FRAMINGS.values, 0, from, false), 0, framedAt(0)).filter(({ frame }) => frame < from) : before.map((each, i) => (i === before.length - 1 ? { ...each, move: HOLD_MOVE } : each))
  const goesOut = to < lastFrame && posesEqual(poses.at(-1)!, framedAt(to), 1e-9)
  const after = to >= lastFrame ? [] : startingAt(excerptOf(track, FRAMINGS.values, goesOut ? to : to + 1, lastFrame, true), goesOut ? to : to + 1, rest)
  const body = baked.filter(({ frame }) => !goesOut || frame < to).map((each, i, list) => (!goesOut && after.length > 0 && i === list.length - 1 ? { ...each, move: HOLD_MOVE } : each))
  const draft = new Draft(take)
  putSpan(draft, take, owner, [...ahead, ...body, ...after], (frame) => anchorOfFrame(take, frame)!, newId)
  return { draft, framings: body.length, mostPx: fitted.most * baking.outputWidthPx, locked: locked.length }
}

/** With all that comes before one of them at any of its frames: that goes by what the framings say, which would be another. */
function withUnder(all: readonly PlacedSpan[], chosen: readonly PlacedSpan[]): readonly PlacedSpan[] {
  const order = [...all].sort(inTurn)
  const going = new Set(chosen)
  for (const over of [...order].reverse()) {
    if (!going.has(over)) continue
    for (const each of order.slice(0, order.indexOf(over))) if (each.first <= over.last && each.last >= over.first) going.add(each)
  }
  return [...going]
}

/** What the framings alone would have to say for the camera to go as it does, without those spans. */
function posesWith(take: TakeBody, cameraId: string, goes: ReadonlySet<string>, optics: Optics, from: number, to: number): readonly CameraPose[] {
  const stage = createTakeStage(take, optics)
  const stays = createTakeStage({ ...take, spans: Object.fromEntries(Object.entries(take.spans).filter(([id]) => !goes.has(id))) }, optics)
  const fields = new Set([...goes].flatMap((id) => changedBy(take.spans[id]!)))
  return Array.from({ length: to - from + 1 }, (_, i) => {
    const framed = stage.framedPoseOf(cameraId, from + i)
    const [whole, without] = [stage.poseOf(cameraId, from + i), stays.poseOf(cameraId, from + i)]
    const pose = { ...framed }
    for (const field of fields) pose[field] = framed[field] + (whole[field] - without[field])
    return pose
  })
}
