export {
  cameraCutSchema,
  cameraSchema,
  cellIdOf,
  cellSchema,
  fillSchema,
  framingSchema,
  idSchema,
  levelSchema,
  linkIdOf,
  linkSchema,
  MARK_MEANINGS,
  markSchema,
  moveSchema,
  OUTPUT_PX_RANGE,
  PANEL_FRAMES_RANGE,
  panelSchema,
  passageSchema,
  pictureSchema,
  poseSchema,
  projectSchema,
  rateSchema,
  rulerMarkSchema,
  sequenceSchema,
  shotSchema,
  strokeSchema,
  takeSchema,
  timingSchema,
} from './records'
export type {
  Camera,
  CameraCut,
  Cell,
  Fill,
  Framing,
  Id,
  Level,
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
} from './records'
export {
  drawingSchema,
  EMPTY_DRAWING,
  EMPTY_TAKE,
  FORMAT_VERSION,
  freeze,
  outlineSchema,
  takeBodySchema,
  UNIT_SCHEMAS,
  unitRefSchema,
} from './units'
export type { Drawing, Film, Outline, TakeBody, Unit, UnitKind, UnitRef } from './units'
export { compareOrdered, inOrder, orderAt } from './order'
export {
  anchorOfFrame,
  drawingsOf,
  frameOfAnchor,
  panelAtFrame,
  placedFramings,
  placedPanels,
  rackLevels,
  shownCell,
  takeLengthFrames,
} from './panels'
export type { Anchor, PlacedFraming, PlacedPanel, ShownCell } from './panels'
export { drawingProblems, outlineProblems, takeProblems } from './checkTake'
export type { DocumentProblem } from './checkTake'
export { openDrawing, openTakeBody } from './migrate'
export type { Opened } from './migrate'
