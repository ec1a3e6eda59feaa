import type { CameraPose } from '../../camera/pose'
import { liveCameraAt, liveSpans } from '../../document/liveCamera'
import { inOrder } from '../../document/order'
import { anchorOfFrame, placedInTime, takeLengthFrames } from '../../document/panels'
import type { CameraCut, Preset } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'
import { putKeyRecord } from './keys'
import { FRAMINGS } from '../../document/keys'
import { dropSpans } from './spanPieces'
import { CUSHIONED_MOVE } from '../../moves/move'

export function lockCamera(take: TakeBody, takeId: string, cameraId: string, locked: boolean): Made {
  const camera = take.cameras[cameraId]
  if (camera === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  return made(new Draft(take).put('cameras', { ...camera, locked }).edit('camera-lock', takeRef(takeId)))
}

/** Keeps a framing on a number key, in the place of what was there. */
export function setPreset(take: TakeBody, takeId: string, preset: Preset): Made {
  return made(new Draft(take).put('presets', preset).edit('preset-set', takeRef(takeId)))
}

export function removePreset(take: TakeBody, takeId: string, id: string): Made {
  if (take.presets[id] === undefined) return refused({ code: 'missing', what: 'preset', id })
  return made(new Draft(take).drop('presets', id).edit('preset-remove', takeRef(takeId)))
}

/** The longest dissolve that a cut can have, frames. */
const DISSOLVE_MOST = 100_000
/** The most cameras that a shot has. */
const CAMERAS_MOST = 26

/** Puts another camera into a shot, with the next letter, and one framing: `pose` at a frame, so that it is locked off at it. */
export function addCamera(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, newId: () => string): Made {
  const cameras = inOrder(take.cameras)
  const taken = new Set(cameras.map(({ letter }) => letter))
  const letter = Array.from({ length: CAMERAS_MOST }, (_, i) => String.fromCharCode(65 + i)).find((each) => !taken.has(each))
  const [anchor, held] = [anchorOfFrame(take, frame), FRAMINGS.held(pose)]
  if (letter === undefined) return refused({ code: 'too-many-cameras', most: CAMERAS_MOST })
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: '' })
  if (held === null) return refused({ code: 'pose-not-finite' })
  const draft = new Draft(take)
  const [order] = draft.room('cameras', cameras, cameras.length, 1)
  draft.put('cameras', { id: cameraId, order: order!, letter, locked: false })
  putKeyRecord(draft, FRAMINGS, { id: newId(), ...anchor, ...FRAMINGS.fieldsOf(cameraId, held), move: CUSHIONED_MOVE, locked: false })
  return made(draft.edit('camera-add', takeRef(takeId)))
}

/** Takes a camera out, with its framings, its spans, and its cuts: where it was live, the one before it is. */
export function removeCamera(take: TakeBody, takeId: string, cameraId: string, newId: () => string): Made {
  const camera = Object.hasOwn(take.cameras, cameraId) ? take.cameras[cameraId]! : null
  if (camera === null) return refused({ code: 'missing', what: 'camera', id: cameraId })
  if (camera.locked) return refused({ code: 'camera-locked', id: cameraId })
  const rest = inOrder(take.cameras).filter(({ id }) => id !== cameraId)
  if (rest.length === 0) return refused({ code: 'last-camera' })
  const draft = new Draft(take).drop('cameras', cameraId)
  for (const framing of Object.values(take.framings)) if (framing.cameraId === cameraId) draft.drop('framings', framing.id)
  for (const tried of Object.values(take.tries)) if (tried.cameraId === cameraId) draft.drop('tries', tried.id)
  dropSpans(draft, Object.values(take.spans).flatMap((span) => (span.cameraId === cameraId ? [span.id] : [])))
  const spans = liveSpans(take)
  // What is live instead where this one was: the one before, and at the beginning the first that is left.
  const left = spans.filter((span) => span.cameraId !== cameraId)
  const opening = spans[0]?.cameraId === cameraId ? rest[0]!.id : (spans[0]?.cameraId ?? rest[0]!.id)
  writeLive(draft, take, [{ from: 0, cameraId: opening, dissolveFrames: 0 }, ...left.filter(({ from }) => from > 0)], newId)
  return made(draft.edit('camera-remove', takeRef(takeId)))
}

/** What is live from a frame on. */
export interface LiveFrom {
  readonly from: number
  readonly cameraId: string
  readonly dissolveFrames: number
}

/** Has the cuts say so, with as few as do: those that are there already stay, under their ids. `spans` begin with frame 0. */
function writeLive(draft: Draft<TakeBody>, take: TakeBody, spans: readonly LiveFrom[], newId: () => string): void {
  const told = spans.filter(({ cameraId }, i) => i === 0 || cameraId !== spans[i - 1]!.cameraId)
  const cuts = placedInTime(take, Object.values(take.cuts))
  const free = new Map(cuts.map(({ record }) => [record.id, record]))
  const first = inOrder(draft.value().cameras)[0]?.id
  // Where nothing is cut to, and the shot begins on its first camera, nothing need be said.
  const needed = told.length === 1 && told[0]!.cameraId === first ? [] : told
  for (const { from, cameraId, dissolveFrames } of needed) {
    const there = cuts.find(({ record, frame }) => frame === from && free.has(record.id))?.record
    if (there !== undefined) free.delete(there.id)
    const put: CameraCut = { id: there?.id ?? newId(), ...anchorOfFrame(take, from)!, cameraId, dissolveFrames }
    draft.put('cuts', put)
  }
  for (const id of free.keys()) draft.drop('cuts', id)
}

const isCamera = (take: TakeBody, cameraId: string) => Object.hasOwn(take.cameras, cameraId)

/** Makes a camera live from a frame on, up to the next cut; a dissolve there already stays. */
export function cutTo(take: TakeBody, takeId: string, frame: number, cameraId: string, newId: () => string): Made {
  if (!isCamera(take, cameraId)) return refused({ code: 'missing', what: 'camera', id: cameraId })
  const spans = liveSpans(take)
  const at = Math.min(Math.max(0, Math.round(frame)), Math.max(0, takeLengthFrames(take) - 1))
  const there = spans.find(({ from }) => from === at)
  const draft = new Draft(take)
  writeLive(draft, take, [...spans.filter(({ from }) => from !== at), { from: at, cameraId, dissolveFrames: at === 0 ? 0 : (there?.dissolveFrames ?? 0) }].sort((a, b) => a.from - b.from), newId)
  return made(draft.edit('camera-cut', takeRef(takeId)))
}

/** Moves a cut, between those before and after it. The first frame's stays. */
export function moveCut(take: TakeBody, takeId: string, fromFrame: number, toFrame: number, newId: () => string): Made {
  const spans = liveSpans(take)
  const i = spans.findIndex(({ from }) => from === fromFrame)
  if (i < 1) return refused({ code: 'missing', what: 'cut', id: '' })
  const [low, high] = [spans[i - 1]!.from + 1, (spans[i + 1]?.from ?? takeLengthFrames(take)) - 1]
  const from = Math.min(high, Math.max(low, Math.round(toFrame)))
  const draft = new Draft(take)
  const cut = placedInTime(take, Object.values(take.cuts)).find(({ frame }) => frame === fromFrame)!.record
  draft.put('cuts', { ...cut, ...anchorOfFrame(take, from)! })
  writeLiveAfter(draft, spans.map((span, n) => (n === i ? { ...span, from } : span)), newId)
  return made(draft.edit('camera-cut-move', takeRef(takeId)))
}

/** The same, of what the draft is by now. */
const writeLiveAfter = (draft: Draft<TakeBody>, spans: readonly LiveFrom[], newId: () => string) => writeLive(draft, draft.value(), spans, newId)

/** Takes cuts out: the camera before each goes on. Of the first frame, what comes next is what the shot begins with. */
export function removeCuts(take: TakeBody, takeId: string, frames: readonly number[], newId: () => string): Made {
  const spans = liveSpans(take)
  const rest = spans.filter(({ from }) => !frames.includes(from))
  if (rest.length === spans.length) return refused({ code: 'missing', what: 'cut', id: '' })
  const draft = new Draft(take)
  const first = inOrder(take.cameras)[0]!.id
  const [next] = rest
  writeLive(draft, take, next?.from === 0 ? rest : [{ from: 0, cameraId: next?.cameraId ?? first, dissolveFrames: 0 }, ...rest.slice(1)], newId)
  return made(draft.edit('camera-cut-remove', takeRef(takeId)))
}

/** How long the camera before a cut dissolves into the one after, frames; 0: it cuts. */
export function dissolveCut(take: TakeBody, takeId: string, frame: number, dissolveFrames: number, newId: () => string): Made {
  const spans = liveSpans(take)
  const i = spans.findIndex(({ from }) => from === frame)
  if (i < 1) return refused({ code: 'missing', what: 'cut', id: '' })
  const frames = Math.min(takeLengthFrames(take), DISSOLVE_MOST, Math.max(0, Math.round(dissolveFrames)))
  const draft = new Draft(take)
  writeLive(draft, take, spans.map((span, n) => (n === i ? { ...span, dissolveFrames: frames } : span)), newId)
  return made(draft.edit('camera-dissolve', takeRef(takeId)))
}

/** What was cut live over a stretch, `to` its last frame, in the place of what was there; after it the film goes on with what it had. */
export function cutLive(take: TakeBody, takeId: string, stretch: { readonly from: number; readonly to: number }, cuts: readonly { readonly frame: number; readonly cameraId: string }[], newId: () => string): Made {
  const lost = cuts.find(({ cameraId }) => !isCamera(take, cameraId))
  if (lost !== undefined) return refused({ code: 'missing', what: 'camera', id: lost.cameraId })
  const spans = liveSpans(take)
  const { from, to } = stretch
  const inside = cuts.filter(({ frame }) => frame >= from && frame <= to).map(({ frame, cameraId }): LiveFrom => ({ from: frame, cameraId, dissolveFrames: 0 }))
  const after = spans.filter((span) => span.from > to)
  const goesOn = to + 1 < takeLengthFrames(take) && after[0]?.from !== to + 1 ? liveCameraAt(spans, to + 1) : null
  const before = spans.filter((span) => span.from < from)
  const opening: LiveFrom[] = before.length === 0 && inside[0]?.from !== 0 ? [{ from: 0, cameraId: liveCameraAt(spans, 0)!, dissolveFrames: 0 }] : []
  const draft = new Draft(take)
  writeLive(draft, take, [...before, ...opening, ...inside, ...(goesOn === null ? [] : [{ from: to + 1, cameraId: goesOn, dissolveFrames: 0 }]), ...after], newId)
  return made(draft.edit('camera-cut-live', takeRef(takeId)))
}
