import type { UNIT_SCHEMAS } from '@rubato/core/document'

type Schemas = typeof UNIT_SCHEMAS
/** Every collection there is: one that is new needs its words. */
type Collection = { [Kind in keyof Schemas]: keyof Schemas[Kind] }[keyof Schemas]

/** What the records of a collection are called on the screen. */
const THINGS: Readonly<Record<Collection, readonly [one: string, many: string]>> = {
  project: ['the film’s settings', 'the film’s settings'],
  sequences: ['sequence', 'sequences'],
  shots: ['shot', 'shots'],
  takes: ['take', 'takes'],
  panels: ['panel', 'panels'],
  levels: ['level', 'levels'],
  passages: ['passage of the script', 'passages of the script'],
  links: ['link to the script', 'links to the script'],
  rulerMarks: ['mark on the ruler', 'marks on the ruler'],
  lanes: ['sound lane', 'sound lanes'],
  clips: ['sound clip', 'sound clips'],
  transitions: ['transition', 'transitions'],
  cells: ['drawing shown', 'drawings shown'],
  levelDrawings: ['name of a drawing', 'names of drawings'],
  cameras: ['camera', 'cameras'],
  framings: ['framing', 'framings'],
  levelKeys: ['key of a level', 'keys of levels'],
  meant: ['finding that is meant so', 'findings that are meant so'],
  air: ['haze or soft focus', 'haze and soft focus'],
  airKeys: ['key of haze or focus', 'keys of haze or focus'],
  cuts: ['camera cut', 'camera cuts'],
  spans: ['stretch of the camera', 'stretches of the camera'],
  tries: ['try by hand', 'tries by hand'],
  samples: ['what a hand did', 'what hands did'],
  spanEnds: ['end of a stretch of the camera', 'ends of stretches of the camera'],
  presets: ['framing on a key', 'framings on keys'],
  grounds: ['floor plan', 'floor plans'],
  sets: ['set', 'sets'],
  pieces: ['piece of a set', 'pieces of sets'],
  art: ['drawing of a piece', 'drawings of pieces'],
  work: ['entry of the breakdown', 'entries of the breakdown'],
  columns: ['column of the breakdown', 'columns of the breakdown'],
  weights: ['what counts in the breakdown', 'what counts in the breakdown'],
  marks: ['mark of a drawing', 'marks of drawings'],
}

/** One and many of a collection's records; a name that this version does not know stands for itself. */
export function thingWords(collection: string): readonly [one: string, many: string] {
  return Object.hasOwn(THINGS, collection) ? THINGS[collection as Collection] : [collection, collection]
}
