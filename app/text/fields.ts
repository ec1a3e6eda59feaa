/** What a record's field is called on the screen, where that is another word. */
const FIELD_WORDS: Readonly<Record<string, string>> = {
  x: 'place',
  y: 'place',
  order: 'place in the order',
  lengthFrames: 'length',
  lengthLocked: 'fermata',
  offsetFrames: 'moment',
  panDegrees: 'pan',
  tiltDegrees: 'tilt',
  rollDegrees: 'roll',
  lensMm: 'lens',
  circledTakeId: 'circled take',
  drawingId: 'drawing shown',
  baseLensMm: 'base lens',
  defaultPanelFrames: 'default panel length',
  pose: 'camera',
  cameraId: 'camera',
  dissolveFrames: 'dissolve',
  sequenceId: 'sequence',
  words: 'words taken',
  manner: 'how it is said',
}

export const fieldWord = (field: string) => FIELD_WORDS[field] ?? field.replace(/([A-Z])/g, ' $1').toLowerCase()

