import type { CameraPose } from '../../camera/pose'
import { cameraKeys, FRAMINGS, placedKeys, type KeyRecord } from '../../document/keys'
import type { MoveSpec } from '../../moves/move'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { refused, made, type Made } from '../change/refusal'
import { freeKey, lockedKey, missingKey, ownerRefusal, putKey, putKeyRecord, setValue } from './keys'

/** Writes a framing at a frame of the shot, as `putKey`. */
export function keyFraming(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, newId: string): Made {
  return putKey(take, takeId, cameraKeys(cameraId), frame, pose, newId)
}

/**
 * Reframes without keying: with no framing the shot gets its one framing, on its first frame; with one, that one is
 * changed. On the exact frame of a framing it changes that framing. Between framings it is refused: that takes Key.
 */
export function reframe(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, newId: string): Made {
  const owner = cameraKeys(cameraId)
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  const placed = placedKeys(take, owner)
  if (placed.length === 0) return putKey(take, takeId, owner, 0, pose, newId)
  const here = placed.length === 1 ? placed[0] : placed.find((entry) => entry.frame === frame)
  return here === undefined ? refused({ code: 'between-keys' }) : setValue(take, takeId, owner, here.record, pose)
}

/** Puts a framing elsewhere, wherever the playhead stands. */
export function setFramingPose(take: TakeBody, takeId: string, framingId: string, pose: CameraPose): Made {
  if (take.framings[framingId] === undefined) return missingKey(framingId)
  const found = freeKey(take, framingId)
  return 'ok' in found ? found : setValue(take, takeId, cameraKeys(found.owner.id), found.record, pose)
}

/** Keys a framing that counter-zooms: the moves on both its sides keep the plane's size all the way. */
export function keyCounterZoom(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, planeDepth: number, newId: string): Made {
  const keyed = keyFraming(take, takeId, cameraId, frame, pose, newId)
  if (!keyed.ok) return keyed
  const draft = new Draft(take)
  const before = placedKeys(take, cameraKeys(cameraId)).filter((entry) => entry.frame < frame).at(-1)?.record
  const evenness = { kind: 'screen', subjectDepth: planeDepth } as const
  const even = (record: KeyRecord): KeyRecord => ({ ...record, move: { ...record.move, path: { kind: 'straight' }, evenness } })
  if (before?.locked === true && !isEvenAt(before.move, planeDepth)) return lockedKey(FRAMINGS, before.id)
  if (before !== undefined && !before.locked) putKeyRecord(draft, FRAMINGS, even(before))
  for (const edit of keyed.edits) for (const { after } of Object.values(edit.changes.framings ?? {})) if (after !== null) putKeyRecord(draft, FRAMINGS, even(after as unknown as KeyRecord))
  return made(draft.edit('framing-key', takeRef(takeId)))
}

/** Whether a move keeps a plane's size as a counter-zoom does. */
function isEvenAt({ path, evenness }: MoveSpec, planeDepth: number): boolean {
  return path.kind === 'straight' && evenness.kind === 'screen' && evenness.subjectDepth === planeDepth
}
