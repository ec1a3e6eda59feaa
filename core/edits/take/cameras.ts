import type { Preset } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

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
