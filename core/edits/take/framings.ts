import { heldPose, type CameraPose } from '../../camera/pose'
import { anchorOfFrame, placedFramings, takeLengthFrames, type PlacedFraming } from '../../document/panels'
import type { Framing } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { looseMove, splitMoveAt } from '../../moves/excerpt'
import { joinedSpec } from '../../moves/keyed'
import { CUSHIONED_MOVE, type MoveSpec } from '../../moves/move'
import { framingKeys } from '../../moves/cameraTrack'
import { POSES } from '../../moves/poses'
import { tidyLoose } from './cameraSpans'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'


/**
 * Writes a framing at a frame of the shot: the one already there is changed, else a new one takes `newId`. A new framing
 * between two others divides their move there: with the pose that the camera has, no frame looks otherwise. Refused while
 * the camera is still settling, where a framing would break that off.
 */
export function keyFraming(take: TakeBody, takeId: string, cameraId: string, frame: number, asked: CameraPose, newId: string): Made {
  const pose = heldPose(asked)
  if (pose === null) return refused({ code: 'pose-not-finite' })
  const camera = take.cameras[cameraId]
  if (camera === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  if (camera.locked) return refused({ code: 'camera-locked', id: cameraId })
  const anchor = anchorOfFrame(take, frame)
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: '' })
  const placed = placedFramings(take, cameraId)
  const here = placed.find((entry) => entry.frame === frame)
  if (here !== undefined) return poseFraming(take, takeId, here.framing, pose)
  const draft = new Draft(take)
  const move = divideMove(draft, placed, frame)
  if ('ok' in move) return move
  draft.put('framings', { id: newId, cameraId, ...anchor, pose: { ...pose }, move, locked: false })
  return made(draft.edit('framing-key', takeRef(takeId)))
}

/** Divides the move across a frame for a framing to be put there; the result is the move that leaves it. */
export function divideMove(draft: Draft<TakeBody>, placed: readonly PlacedFraming[], frame: number): MoveSpec | Extract<Made, { readonly ok: false }> {
  const found = splitMoveAt(framingKeys(placed), POSES, frame)
  if (found.kind === 'settling') return { ok: false, refusal: { code: 'still-settling', restsAtFrame: found.restsAtFrame } }
  if (found.before === null) return CUSHIONED_MOVE
  const { framing } = placed[found.before]!
  if (found.kind === 'at-rest') {
    const move = looseMove(framing.move)
    draft.put('framings', { ...framing, move })
    return move
  }
  // The lock is on what the framing shows; the way on is the same way, told in two pieces.
  draft.put('framings', { ...framing, move: found.first })
  return found.second
}

function poseFraming(take: TakeBody, takeId: string, framing: Framing, asked: CameraPose): Made {
  const pose = heldPose(asked)
  if (pose === null) return refused({ code: 'pose-not-finite' })
  if (framing.locked) return refused({ code: 'framing-locked', id: framing.id })
  return made(new Draft(take).put('framings', { ...framing, pose: { ...pose } }).edit('framing-key', takeRef(takeId)))
}

/**
 * Reframes without keying: with no framing the shot gets its one framing, on its first frame; with one, that one is
 * changed. On the exact frame of a framing it changes that framing. Between framings it is refused: that takes Key.
 */
export function reframe(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, newId: string): Made {
  const camera = take.cameras[cameraId]
  if (camera === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  if (camera.locked) return refused({ code: 'camera-locked', id: cameraId })
  const placed = placedFramings(take, cameraId)
  if (placed.length === 0) return keyFraming(take, takeId, cameraId, 0, pose, newId)
  if (placed.length === 1) return poseFraming(take, takeId, placed[0]!.framing, pose)
  const here = placed.find((entry) => entry.frame === frame)
  return here === undefined ? refused({ code: 'between-keys' }) : poseFraming(take, takeId, here.framing, pose)
}

/** Puts a framing elsewhere, wherever the playhead stands. */
export function setFramingPose(take: TakeBody, takeId: string, framingId: string, pose: CameraPose): Made {
  const framing = take.framings[framingId]
  if (framing === undefined) return refused({ code: 'missing', what: 'framing', id: framingId })
  if (take.cameras[framing.cameraId]?.locked) return refused({ code: 'camera-locked', id: framing.cameraId })
  return poseFraming(take, takeId, framing, pose)
}

/** Changes the move that leaves a framing, or its lock. */
export function editFraming(take: TakeBody, takeId: string, framingId: string, fields: { readonly move?: MoveSpec; readonly locked?: boolean }): Made {
  const framing = take.framings[framingId]
  if (framing === undefined) return refused({ code: 'missing', what: 'framing', id: framingId })
  if (framing.locked && fields.locked === undefined) return refused({ code: 'framing-locked', id: framingId })
  if (fields.move !== undefined && take.cameras[framing.cameraId]?.locked) return refused({ code: 'camera-locked', id: framing.cameraId })
  return made(new Draft(take).put('framings', { ...framing, ...fields }).edit('framing-edit', takeRef(takeId)))
}

/** Moves a framing in time. It stops a frame short of its neighbours and stays inside the shot. */
export function moveFraming(take: TakeBody, takeId: string, framingId: string, frame: number): Made {
  const framing = take.framings[framingId]
  if (framing === undefined) return refused({ code: 'missing', what: 'framing', id: framingId })
  if (framing.locked) return refused({ code: 'framing-locked', id: framingId })
  if (take.cameras[framing.cameraId]?.locked) return refused({ code: 'camera-locked', id: framing.cameraId })
  const placed = placedFramings(take, framing.cameraId)
  const index = placed.findIndex((entry) => entry.framing.id === framingId)
  const from = (placed[index - 1]?.frame ?? -1) + 1
  const to = Math.max(from, (placed[index + 1]?.frame ?? takeLengthFrames(take)) - 1)
  const anchor = anchorOfFrame(take, Math.min(to, Math.max(from, Math.round(frame))))
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: framing.panelId })
  return made(tidyLoose(new Draft(take).put('framings', { ...framing, ...anchor }), take).edit('framing-move', takeRef(takeId)))
}

/** Takes framings out. The moves on both sides of one become one: it leaves as the first did and arrives as the second. */
export function removeFramings(take: TakeBody, takeId: string, framingIds: readonly string[]): Made {
  const draft = new Draft(take)
  const going = new Set(framingIds)
  for (const id of framingIds) {
    const framing = take.framings[id]
    if (framing === undefined) return refused({ code: 'missing', what: 'framing', id })
    if (framing.locked) return refused({ code: 'framing-locked', id })
    if (take.cameras[framing.cameraId]?.locked) return refused({ code: 'camera-locked', id: framing.cameraId })
    draft.drop('framings', id)
  }
  for (const cameraId of new Set(framingIds.map((id) => take.framings[id]!.cameraId))) {
    const placed = placedFramings(take, cameraId)
    for (const [i, { framing }] of placed.entries()) {
      if (going.has(framing.id) || framing.locked || !going.has(placed[i + 1]?.framing.id ?? '')) continue
      const run = placed.slice(i + 1)
      const end = run.findIndex((entry) => !going.has(entry.framing.id))
      // What is last leads nowhere: its move stays for whatever comes.
      if (end < 0) continue
      draft.put('framings', { ...framing, move: run.slice(0, end).reduce<MoveSpec>((move, entry) => joinedSpec(move, entry.framing.move), framing.move) })
    }
  }
  return made(tidyLoose(draft, take).edit('framing-remove', takeRef(takeId)))
}
