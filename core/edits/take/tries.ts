import { anchorOfFrame, takeLengthFrames } from '../../document/panels'
import { takeRef, tryRef, type TakeBody } from '../../document/units'
import { packSamples, SAMPLES_MOST, type OperatedSample } from '../../moves/operated'
import { POSE_FIELDS } from '../../moves/poses'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

/** Keeps what a hand did with a camera from a frame on as a try beside the take. The picture is not touched. */
export function addTry(take: TakeBody, takeId: string, ids: { readonly tried: string; readonly samples: string }, cameraId: string, from: number, lastFrame: number, samples: readonly OperatedSample[]): Made {
  if (take.cameras[cameraId] === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  const anchor = anchorOfFrame(take, from)
  if (anchor === null || from >= takeLengthFrames(take)) return refused({ code: 'missing', what: 'panel', id: '' })
  if (samples.length === 0 || samples.length > SAMPLES_MOST) return refused({ code: 'try-too-long', received: samples.length, most: SAMPLES_MOST })
  if (!samples.every(({ at, pose }) => Number.isFinite(at) && POSE_FIELDS.every((field) => Number.isFinite(pose[field])))) return refused({ code: 'pose-not-finite' })
  const number = 1 + Math.max(0, ...Object.values(take.tries).map((each) => each.number))
  const record = { id: ids.tried, cameraId, ...anchor, number, lastFrame: Math.max(1, Math.round(lastFrame)), samplesId: ids.samples }
  const packed = { id: ids.samples, ...packSamples(samples) }
  return made(
    new Draft(take).put('tries', record).edit('try-add', takeRef(takeId)),
    { kind: 'try-add', unit: tryRef(ids.samples), changes: { samples: { [ids.samples]: { before: null, after: packed } } } },
  )
}

/** Takes a try away. Its samples stay with the server, for undo and for takes that were copied from this one. */
export function removeTry(take: TakeBody, takeId: string, id: string): Made {
  if (take.tries[id] === undefined) return refused({ code: 'missing', what: 'try', id })
  return made(new Draft(take).drop('tries', id).edit('try-remove', takeRef(takeId)))
}
