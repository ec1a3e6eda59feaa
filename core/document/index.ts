export {
  cameraCutSchema,
  cameraSchema,
  cellAt,
  cellIdOf,
  cellSchema,
  clipSchema,
  fillSchema,
  framingSchema,
  idSchema,
  laneSchema,
  levelDrawingIdOf,
  levelSchema,
  linkIdOf,
  linkSchema,
  MARK_MEANINGS,
  markSchema,
  moveSchema,
  OUTPUT_PX_RANGE,
  METRES_PER_FW_RANGE,
  PANEL_FRAMES_RANGE,
  panelSchema,
  passageSchema,
  pictureSchema,
  poseSchema,
  projectSchema,
  rateSchema,
  recordIdSchema,
  rulerMarkSchema,
  isInFilm,
  sequenceSchema,
  shotSchema,
  strokeSchema,
  SHOTS_MAX,
  TAKE_FRAMES_MAX,
  takeSchema,
  timingSchema,
  transitionIdOf,
  transitionSchema,
} from './records'
export { HAND_MOST, LAG_MOST, spanEndSchema, spanSchema } from './records'
export { placedSpans, spansOn, spanWeight, targetHangs, targetOf } from './spans'
export type { PlacedSpan } from './spans'
export type {
  AimSpan,
  Camera,
  CameraSpan,
  FollowSpan,
  HandSpan,
  SpanEnd,
  SpanTarget,
  CameraCut,
  Carrier,
  GroundPlan,
  Preset,
  Cell,
  Clip,
  Arrow,
  Fill,
  WordFont,
  Words,
  Framing,
  Id,
  Lane,
  Level,
  LevelFields,
  LevelDrawing,
  LevelKey,
  ReferenceLevel,
  Link,
  Mark,
  MarkMeaning,
  Panel,
  Passage,
  Picture,
  Project,
  RulerMark,
  Sequence,
  Shot,
  Stroke,
  Take,
  Transition,
} from './records'
export {
  drawingRef,
  drawingSchema,
  EMPTY_DRAWING,
  EMPTY_OUTLINE,
  EMPTY_TAKE,
  FORMAT_VERSION,
  freeze,
  outlineRef,
  outlineSchema,
  takeBodySchema,
  takeRef,
  UNIT_SCHEMAS,
} from './units'
export type { Drawing, Film, LevelOwner, Outline, TakeBody, TryBody, Unit, UnitKind, UnitRef } from './units'
export { placedTries } from './tries'
export { setBodySchema, tryBodySchema } from './units'
export { MOST_LETTERS, REPEATS_MOST, WORD_FONTS } from './records'
export type { PlacedTry } from './tries'
export { compareOrdered, FIRST_ORDER, inOrder, isOrderKey, orderKeys, orderOfNumber, roomAt } from './order'
export type { Ordered, Room } from './order'
export { ANCHORED, anchoredIn } from './anchored'
export { bodyKinds, loadedUnit, UNIT_KINDS, unitIn, unitRefSchema, unitsOf, withUnit, withUnits } from './unitKinds'
export type { BodyKind, UnitKindEntry } from './unitKinds'
export type { Anchored, AnchoredCollection, AnchoredRecord } from './anchored'
export {
  anchorOfFrame,
  drawingsOf,
  drawingsWith,
  firstCamera,
  frameOfAnchor,
  isDrawing,
  panelAtFrame,
  placedFramings,
  placedInTime,
  placedPanels,
  rackLevels,
  takeLengthFrames,
} from './panels'
export type { Anchor, PlacedFraming, PlacedPanel } from './panels'
export { carriageIn, carriedBy, carrierOf, CARRIERS_DEEP, carriersFirst, carriersOf } from './carriers'
export type { CarrierProblem, SeenLevels } from './carriers'
export { liveCameraAt, liveSpans } from './liveCamera'
export type { LiveSpan } from './liveCamera'
export { exposureAt, exposuresOf, namedDrawings, shownAt, shownCell, shownOver } from './exposures'
export type { Exposure, NamedDrawing, ShownCell } from './exposures'
export { holdable, isHoldable, pieces, shorten, textSchema } from './text'
export { labelBetween } from './labels'
export { newLevel } from './newLevel'
export { levelWorkId, setWorkId, shotWorkId, WORK_COLUMNS_MOST, WORK_LETTERS, WORK_STATES } from './records'
export type { Work, WorkColumn, WorkFields, WorkState, WorkWeight, WorkWeights } from './records'
export { BREAKDOWN_ID, BREAKDOWN_REF, breakdownSchema, EMPTY_BREAKDOWN } from './units'
export type { Breakdown } from './units'
export { FOCUS_RANGE, HAZE_MOST, SET_SHOWN, SHADOW_MOST, showsNothing } from './records'
export type { AirKey, AirRecord, Meant } from './records'
export type { Piece, PieceArt, SetLevel, SetName } from './records'
export { isSetLevel, pieceLevelId, pieceOf, piecesOf, setDrawings, setsIn, unfolded, unfoldSome, wholeOf } from './sets'
export type { SetOf } from './sets'
export { EMPTY_SET, setRef } from './units'
export type { SetBody } from './units'
export { hasStandIns, withoutStandIns } from './standIns'
export { opticsOf, opticsOfFilm } from './optics'
export { drawingProblems, outlineProblems, setProblems, takeProblems } from './checkTake'
export type { DocumentProblem } from './checkTake'
export { keptSince, openDrawing, openTakeBody, storedOutlineSchema } from './migrate'
export type { Opened } from './migrate'
export { AIR_KEYS, AIR_OWNERS, airKeys, airOwner, airSaid, cameraKeys, FRAMINGS, KEY_KINDS, keyIn, keysOfLevel, LEVEL_KEYS, levelKeys, levelOwner, levelOwners, valuesSaid, keyOwners, keyTrack, placedKeys, trackKeys } from './keys'
export type { AnyKeyKind, AnyKeyOwner, KeyKind, KeyOwner, KeyRecord, PlacedKey } from './keys'
