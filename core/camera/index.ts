export {
  DEFAULT_FILM_BACK_MM,
  fieldAngleDegrees,
  FOCAL_LENGTH_RANGE_MM,
  lensRatio,
  TRADE_FOCAL_LENGTHS_MM,
} from './lens'
export type { Optics } from './lens'
export { heldPose, POSE_LIMITS, posesEqual, untouchedPose } from './pose'
export type { CameraPose } from './pose'
export { basisOf, inFrame, lensOf, meetPlane, NEAREST_Z, project, rayThrough, unproject } from './projection'
export type { CameraBasis, Lens, Projected } from './projection'
export { operatedBy } from './hand'
export type { HandStep } from './hand'
export { slidePoint, slidePose, truckPose, turnPose, zoomPose } from './drag'
export { counterTruck, counterZoom } from './counterZoom'
export { frameThis } from './frameThis'
export type { FramedThis } from './frameThis'
export { screenMotion } from './screenMotion'
export { alongAxes, placeSeeing, ratioHolding, turnSeeing } from './placing'
export type { FreeAxes } from './placing'
export { groundLines, horizonLine, SET_DIRECTIONS, snappedToSet, vanishingPoint } from './ground'
export type { Reach, Segment } from './ground'
