import type { Optics } from '../camera/lens'
import { posesEqual, type CameraPose } from '../camera/pose'
import { flipped, type Keyable, type KeyedField, type Mix } from './keyable'
import { createMove } from './move'

export type PoseField = keyof CameraPose
export const POSE_FIELDS: readonly PoseField[] = Object.freeze(['x', 'y', 'depth', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'focalLengthMm'])

/** Something of each field. */
export const byField = <T>(of: (field: PoseField) => T): Record<PoseField, T> => ({ x: of('x'), y: of('y'), depth: of('depth'), panDegrees: of('panDegrees'), tiltDegrees: of('tiltDegrees'), rollDegrees: of('rollDegrees'), focalLengthMm: of('focalLengthMm') })

/** A place in fw, a turn in degrees, a lens in mm. */
const LEAST: Readonly<Record<PoseField, number>> = { x: 1e-3, y: 1e-3, depth: 1e-3, panDegrees: 0.05, tiltDegrees: 0.05, rollDegrees: 0.05, focalLengthMm: 0.05 }

/** Where a camera is, how it is turned, and its lens. */
export const POSES: Keyable<CameraPose, PoseField> = Object.freeze({
  fields: POSE_FIELDS.map((name): KeyedField<CameraPose, PoseField> => ({ name, of: (pose) => pose[name], least: LEAST[name], turns: name.endsWith('Degrees') })),
  equal: posesEqual,
  placeOf: ({ x, y, depth }: CameraPose) => ({ x, y, depth }),
  turnOf: (pose: CameraPose, field: 'panDegrees' | 'tiltDegrees' | 'rollDegrees') => pose[field],
  mirrored: (pose: CameraPose) => ({ ...pose, x: flipped(pose.x), panDegrees: flipped(pose.panDegrees), rollDegrees: flipped(pose.rollDegrees) }),
})

/** How poses mix: a move's evenness on screen hangs on the optics. */
export const poseMix = (optics: Optics): Mix<CameraPose> => (from, to, spec, lengthFrames, mostSettleFrames) => createMove(from, to, spec, lengthFrames, optics, mostSettleFrames)
