import { EMPTY_TAKE, FORMAT_VERSION, type Clip, type Lane, type Link, type MarkMeaning, type Outline, type Passage, type Project, type RulerMark, type Sequence, type SetName, type Shot, type Take, type Transition } from '@rubato/core/document'
import type { ChangeSet } from '@rubato/core/edits'
import { literal, type Transaction } from 'sequelize'
import type { ClipRow, LaneRow, LinkRow, Models, PassageRow, ProjectRow, RulerMarkRow, SequenceRow, SetNameRow, ShotRow, TakeRow, TransitionRow } from '../models/models'

/** Only what is there: a record without a field is not one with nothing in it. */
function given<T extends Record<string, unknown>>(fields: T): { [K in keyof T]?: NonNullable<T[K]> } {
  return Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== null)) as { [K in keyof T]?: NonNullable<T[K]> }
}

export function projectOfRow(row: ProjectRow): Project {
  return {
    id: row.id,
    title: row.title,
    rate: { numerator: row.rateNumerator, denominator: row.rateDenominator },
    widthPx: row.widthPx,
    heightPx: row.heightPx,
    filmBackMm: row.filmBackMm,
    baseLensMm: row.baseLensMm,
    defaultPanelFrames: row.defaultPanelFrames,
    ...given({ targetFrames: row.targetFrames, startTimecodeFrames: row.startTimecodeFrames, dropFrame: row.dropFrame, metresPerFw: row.metresPerFw }),
  }
}

export function rowOfProject(project: Project) {
  const { rate, targetFrames = null, startTimecodeFrames = null, dropFrame = null, metresPerFw = null, ...rest } = project
  return { ...rest, targetFrames, startTimecodeFrames, dropFrame, metresPerFw, rateNumerator: rate.numerator, rateDenominator: rate.denominator }
}

const sequenceOfRow = (row: SequenceRow): Sequence => ({
  id: row.id,
  order: row.position,
  label: row.label,
  title: row.title,
  targetFrames: row.targetFrames,
})

const shotOfRow = (row: ShotRow): Shot => ({
  id: row.id,
  sequenceId: row.sequenceId,
  order: row.position,
  label: row.label,
  title: row.title,
  circledTakeId: row.circledTakeId,
  ...given({ targetFrames: row.targetFrames, inTray: row.inTray, startsAt: row.startsAt, againOf: row.againOf }),
})

const takeOfRow = (row: TakeRow): Take => ({ id: row.id, shotId: row.shotId, order: row.position, letter: row.letter, ...given({ name: row.name }) })

const passageOfRow = (row: PassageRow): Passage => ({
  id: row.id,
  order: row.position,
  kind: row.kind as Passage['kind'],
  speaker: row.speaker,
  manner: row.manner,
  text: row.text,
  sequenceId: row.sequenceId,
})

const linkOfRow = (row: LinkRow): Link => ({ id: row.id, passageId: row.passageId, takeId: row.takeId, panelId: row.panelId, words: row.words })

const rulerMarkOfRow = (row: RulerMarkRow): RulerMark => ({ id: row.id, shotId: row.shotId, offsetFrames: row.offsetFrames, name: row.name, meaning: row.meaning as MarkMeaning })

const laneOfRow = (row: LaneRow): Lane => ({ id: row.id, order: row.position, name: row.name, kind: row.kind as Lane['kind'], gainDb: row.gainDb, muted: row.muted, soloed: row.soloed })

const clipOfRow = (row: ClipRow): Clip => ({
  id: row.id,
  laneId: row.laneId,
  shotId: row.shotId,
  offsetFrames: row.offsetFrames,
  assetHash: row.assetHash,
  name: row.name,
  sourceSeconds: row.sourceSeconds,
  fromSeconds: row.fromSeconds,
  lengthSeconds: row.lengthSeconds,
  gainDb: row.gainDb,
  fadeInSeconds: row.fadeInSeconds,
  fadeOutSeconds: row.fadeOutSeconds,
  speaker: row.speaker,
  line: row.line,
  passageId: row.passageId,
  panelId: row.panelId,
})

const transitionOfRow = (row: TransitionRow): Transition => ({
  id: row.id,
  at: row.at as Transition['at'],
  kind: row.kind as Transition['kind'],
  lengthFrames: row.lengthFrames,
  place: row.place as Transition['place'],
  angleDegrees: row.angleDegrees,
  softness: row.softness,
  colour: row.colour,
  soundToo: row.soundToo,
})

const setOfRow = (row: SetNameRow): SetName => ({ id: row.id, order: row.position, name: row.name, stands: row.stands as SetName['stands'] })

const byId = <T extends { readonly id: string }>(records: readonly T[]) => Object.fromEntries(records.map((record) => [record.id, record]))

/** The database keeps count, so the model doesn't have it. */
export const PANEL_COUNT: [ReturnType<typeof literal>, string] = [literal('panel_count'), 'panelCount']

/** Reads a project's outline and its takes' lengths; no bodies. */
export async function readOutline(models: Models, project: ProjectRow, transaction?: Transaction) {
  const where = { projectId: project.id }
  const options = { where, transaction: transaction ?? null }
  // One after the other inside a transaction: it has one connection.
  const sequences = await models.SequenceRow.findAll(options)
  const shots = await models.ShotRow.findAll(options)
  const passages = await models.PassageRow.findAll(options)
  const links = await models.LinkRow.findAll(options)
  const rulerMarks = await models.RulerMarkRow.findAll(options)
  const lanes = await models.LaneRow.findAll(options)
  const clips = await models.ClipRow.findAll(options)
  const transitions = await models.TransitionRow.findAll(options)
  const sets = await models.SetNameRow.findAll(options)
  const takes = await models.TakeRow.findAll({
    ...options,
    where: { ...where, removedAt: null },
    attributes: ['projectId', 'id', 'shotId', 'position', 'letter', 'name', 'lengthFrames', PANEL_COUNT],
  })
  const outline: Outline = {
    project: { [project.id]: projectOfRow(project) },
    sequences: byId(sequences.map(sequenceOfRow)),
    shots: byId(shots.map(shotOfRow)),
    takes: byId(takes.map(takeOfRow)),
    passages: byId(passages.map(passageOfRow)),
    links: byId(links.map(linkOfRow)),
    rulerMarks: byId(rulerMarks.map(rulerMarkOfRow)),
    lanes: byId(lanes.map(laneOfRow)),
    clips: byId(clips.map(clipOfRow)),
    transitions: byId(transitions.map(transitionOfRow)),
    sets: byId(sets.map(setOfRow)),
  }
  return { outline, takeLengths: Object.fromEntries(takes.map((row) => [row.id, row.lengthFrames])), takePanels: Object.fromEntries(takes.map((row) => [row.id, row.get('panelCount') as number])) }
}

function columnsOf(record: object): Record<string, unknown> {
  const { order, ...rest } = record as { readonly order?: string }
  return order === undefined ? rest : { ...rest, position: order }
}

const MODELS = { sequences: 'SequenceRow', shots: 'ShotRow', passages: 'PassageRow', links: 'LinkRow', rulerMarks: 'RulerMarkRow', lanes: 'LaneRow', clips: 'ClipRow', transitions: 'TransitionRow', sets: 'SetNameRow' } as const
/** Rows in one statement: each has a parameter for every column, and a statement at most 65,535. */
const AT_ONCE = 2000

/** Writes the rows that a change of the outline touches, and no others; many in one statement. */
export async function writeOutlineChanges(models: Models, project: ProjectRow, changes: ChangeSet, transaction: Transaction) {
  const projectId = project.id
  for (const [collection, records] of Object.entries(changes)) {
    const gone = Object.entries(records).filter(([, { after }]) => after === null).map(([id]) => id)
    const put = Object.values(records).flatMap(({ after }) => (after === null ? [] : [after]))
    if (collection === 'project') {
      for (const record of put) project.set(rowOfProject(record as Project))
    } else if (collection === 'takes') {
      if (gone.length > 0) await models.TakeRow.update({ removedAt: new Date() }, { where: { projectId, id: gone }, transaction })
      // A take that was taken out comes back with its body.
      const empty = { lengthFrames: 0, format: FORMAT_VERSION, body: EMPTY_TAKE, revision: 0, removedAt: null }
      for (const part of portions(put)) await models.TakeRow.bulkCreate(part.map((record) => ({ name: null, ...columnsOf(record), projectId, ...empty })) as never, { updateOnDuplicate: ['shotId', 'position', 'letter', 'name', 'removedAt'], transaction })
    } else {
      const model = models[MODELS[collection as keyof typeof MODELS]] as typeof models.ShotRow
      if (gone.length > 0) await model.destroy({ where: { projectId, id: gone }, transaction })
      const columns = Object.keys(model.getAttributes()).filter((name) => name !== 'projectId' && name !== 'id')
      for (const part of portions(put)) await model.bulkCreate(part.map((record) => ({ ...(collection === 'shots' ? { targetFrames: null, inTray: null, startsAt: null, againOf: null } : {}), ...columnsOf(record), projectId })) as never, { updateOnDuplicate: columns as never, transaction })
    }
  }
}

function portions<T>(all: readonly T[]): readonly (readonly T[])[] {
  return Array.from({ length: Math.ceil(all.length / AT_ONCE) }, (_, i) => all.slice(i * AT_ONCE, (i + 1) * AT_ONCE))
}
