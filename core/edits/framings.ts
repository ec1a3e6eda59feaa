import type { CameraPose } from '../camera/pose'
import { anchorOfFrame, placedFramings, takeLengthFrames } from '../document/panels'
import type { Framing } from '../document/records'
import type { TakeBody } from '../document/units'
import { CUSHIONED_MOVE, type MoveSpec } from '../moves/move'
import { Draft } from './draft'
import { made, refused, type Made } from './refusal'

const unitOf = (takeId: string) => ({ kind: 'take', id: takeId }) as const

/**
 * Writes a framing at a frame of the shot: the one already there is changed, else a new one takes `newId`. A new
 * framing between two others splits their move and leaves as that move did.
 */
export function keyFraming(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, newId: string): Made {
  const camera = take.cameras[cameraId]
  if (camera === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  if (camera.locked) return refused({ code: 'camera-locked', id: cameraId })
  const anchor = anchorOfFrame(take, frame)
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: '' })
  const placed = placedFramings(take, cameraId)
  const here = placed.find((entry) => entry.frame === frame)
  if (here !== undefined) return poseFraming(take, takeId, here.framing, pose)
  const before = placed.filter((entry) => entry.frame < frame).at(-1)
  const framing: Framing = {
    id: newId,
    cameraId,
    ...anchor,
    pose: { ...pose },
    move: before?.framing.move ?? CUSHIONED_MOVE,
    locked: false,
  }
  return made(new Draft(take).put('framings', framing).edit('framing-key', unitOf(takeId)))
}

function poseFraming(take: TakeBody, takeId: string, framing: Framing, pose: CameraPose): Made {
  if (framing.locked) return refused({ code: 'framing-locked', id: framing.id })
  return made(new Draft(take).put('framings', { ...framing, pose: { ...pose } }).edit('framing-key', unitOf(takeId)))
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
  return made(new Draft(take).put('framings', { ...framing, ...fields }).edit('framing-edit', unitOf(takeId)))
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
  return made(new Draft(take).put('framings', { ...framing, ...anchor }).edit('framing-move', unitOf(takeId)))
}

export function removeFramings(take: TakeBody, takeId: string, framingIds: readonly string[]): Made {
  const draft = new Draft(take)
  for (const id of framingIds) {
    const framing = take.framings[id]
    if (framing === undefined) return refused({ code: 'missing', what: 'framing', id })
    if (framing.locked) return refused({ code: 'framing-locked', id })
    if (take.cameras[framing.cameraId]?.locked) return refused({ code: 'camera-locked', id: framing.cameraId })
    draft.drop('framings', id)
  }
  return made(draft.edit('framing-remove', unitOf(takeId)))
}
