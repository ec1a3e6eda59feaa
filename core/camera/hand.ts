import { slidePose, truckPose, turnPose, zoomPose } from './drag'
import type { Optics } from './lens'
import type { CameraPose } from './pose'

/** What a hand does to a camera in a moment; all at once. What is left out it does not do. */
export interface HandStep {
  /** The camera goes with the hand, so far in the picture as it is seen at the distance it acts at, fw: right and up. */
  readonly slideU?: number
  readonly slideV?: number
  /** It turns with the hand, so far in the picture, fw. */
  readonly turnU?: number
  readonly turnV?: number
  /** How many times e as large what lies at that distance becomes: by coming nearer, and by the lens. */
  readonly truck?: number
  readonly zoom?: number
  /** Clockwise, as its operator sees it. */
  readonly rollDegrees?: number
}

/** The pose after a moment of a hand; `z` is the distance at which it acts, fw along the lens. */
export function operatedBy(pose: CameraPose, optics: Optics, z: number, { slideU = 0, slideV = 0, turnU = 0, turnV = 0, truck = 0, zoom = 0, rollDegrees = 0 }: HandStep): CameraPose {
  let now = pose
  if (slideU !== 0 || slideV !== 0) now = slidePose(now, optics, -slideU, -slideV, z)
  if (turnU !== 0 || turnV !== 0) now = turnPose(now, optics, -turnU, -turnV)
  if (truck !== 0) now = truckPose(now, z, Math.exp(truck))
  if (zoom !== 0) now = zoomPose(now, Math.exp(zoom))
  return rollDegrees === 0 ? now : { ...now, rollDegrees: now.rollDegrees + rollDegrees }
}
