import { randomUUID } from 'node:crypto'
import { buffer } from 'node:stream/consumers'
import { drawingsWith, EMPTY_DRAWING, EMPTY_OUTLINE, FORMAT_VERSION, outlineProblems, shorten, takeLengthFrames, takeProblems, UNIT_KINDS, type Breakdown, type Film, type Outline, type SetBody, type TakeBody } from '@rubato/core/document'
import { applyChange, checkEdit, conform, planConform } from '@rubato/core/edits'
import { EDIT_LIST_EXTENSION, readEditList, readTimeline, writeEditList, writeMarks, writeSoundList, writeTimeline } from '@rubato/core/interchange'
import { createFilmStage, cutListOf } from '@rubato/core/stage'
import { timecodeBase } from '@rubato/core/time'
import { inOrder } from '@rubato/core/document'
import { QueryTypes } from 'sequelize'
import yazl from 'yazl'
import { CUT_FORMATS, type CutQuery, type CutTaken, type NewCut } from '#shared/cuts'
import { useDatabase } from '../models/database'
import { breathe } from './breathe'
import { insertFilm } from './films'
import { openProject, projectCard, storedUnits } from './projects'
import { refuse } from './refusals'
import { openVersion, storedVersionUnits } from './versions'

const DAY_SECONDS = 24 * 3600

/** The cut of a film, or of a version of it, as a file. */
export async function cutFile(projectId: string, { as, version, nested, movie }: CutQuery): Promise<{ readonly name: string; readonly type: string; readonly content: string | Buffer }> {
  const { outline, takeLengths } = version === undefined ? await openProject(projectId) : await openVersion(projectId, version)
  const title = Object.values(outline.project)[0]!.title
  const { extension, type } = CUT_FORMATS[as]
  const name = `${title.replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'film'}.${extension}`
  if (as === 'otio') {
    const bodies = <T>(kind: 'take' | 'set' | 'breakdown', ids: readonly string[]) => allOf<T>(kind, ids, (some) => (version === undefined ? storedUnits(kind, projectId, some) : storedVersionUnits(kind, projectId, version, some)))
    const takes = await bodies<TakeBody>('take', Object.keys(outline.takes))
    const sets = await bodies<SetBody>('set', Object.keys(outline.sets))
    const breakdowns = await bodies<Breakdown>('breakdown', ['film'])
    return { name, type, content: writeTimeline({ outline, takes, sets, breakdowns }, { nested: nested === '1', movie: movie ?? null }) }
  }
  const list = cutListOf(outline, createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0))
  if (as === 'marks') return { name, type, content: writeMarks(list) }
  if (as === 'edl') return { name, type, content: writeEditList(list) }
  const zip = new yazl.ZipFile()
  zip.addBuffer(Buffer.from(writeEditList(list)), `pictures.${EDIT_LIST_EXTENSION}`)
  inOrder(outline.lanes).forEach(({ id, name: lane }, i) => zip.addBuffer(Buffer.from(writeSoundList(list, id)), `${String(i + 1).padStart(2, '0')}-${lane.replace(/[^\p{L}\p{N}._-]+/gu, '-')}.${EDIT_LIST_EXTENSION}`))
  zip.end()
  return { name, type, content: await buffer(zip.outputStream) }
}

const AT_ONCE = 100
/** Bodies as they are stored; only those of earlier formats are read anew. */
async function allOf<T>(kind: 'take' | 'set' | 'breakdown', ids: readonly string[], read: (ids: readonly string[]) => Promise<readonly { readonly id: string; readonly format: number; readonly content: string }[]>): Promise<Record<string, T>> {
  const found: Record<string, T> = {}
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    for (const { id, format, content } of await read(ids.slice(at, at + AT_ONCE))) {
      const stored: unknown = JSON.parse(content)
      if (format === FORMAT_VERSION) found[id] = stored as T
      else {
        const opened = UNIT_KINDS[kind].open!(stored, format)
        if (!opened.ok) throw refuse(409, 'damaged', `The ${kind} ${id} can’t be read: it is damaged, or of a newer Rubato. Bring an earlier version of the film back.`)
        found[id] = opened.value as T
      }
    }
    await breathe()
  }
  return found
}

/** Makes a film of a cut: of one that was written here the film that it was, as far as it was cut anew since; of any other empty shots of its lengths. */
export async function filmOfCut({ fileName, text, rate, widthPx, heightPx }: NewCut): Promise<CutTaken> {
  const isList = fileName.toLowerCase().endsWith(`.${EDIT_LIST_EXTENSION}`)
  const read = isList ? readEditList(text, rate) : readTimeline(text)
  if (!read.ok) throw refuse(422, 'bad-cut', `${fileName} can’t be taken in. ${read.why} Nothing was made.`)
  const { list, film } = read
  if (list.pictures.length === 0) throw refuse(422, 'bad-cut', `${fileName} can’t be taken in. There are no pictures in it. Nothing was made.`)
  const notes = [...read.notes]
  const title = shorten(list.title.trim() || fileName.replace(/\.[^.]+$/, ''), 200) || 'Film'
  const id = randomUUID()
  const known = film === null ? null : await knownFilm(film, id, notes)
  const project = { id, title, rate: list.rate, widthPx, heightPx, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: Math.round(2 * (list.rate.numerator / list.rate.denominator)), startTimecodeFrames: Math.min(list.startFrame, DAY_SECONDS * timecodeBase(list.rate)), ...(list.drop ? { dropFrame: true } : {}) }
  const sequence = { id: randomUUID(), order: 'a0', label: '01', title: '', targetFrames: null }
  const base: Film = known ?? { outline: { ...EMPTY_OUTLINE, project: { [id]: project }, sequences: { [sequence.id]: sequence } }, takes: {}, drawings: {} }
  const plan = planConform(base.outline, createFilmStage(base.outline, (takeId) => ((take) => (take === undefined ? 0 : takeLengthFrames(take)))(base.takes[takeId])), list)
  const made = conform(base, id, plan, new Set(plan.lines.map((line) => line.id)), randomUUID)
  const applied = made.ok && made.edits.every((edit) => checkEdit(edit) === null) ? applyChange(base, made) : null
  const isWhole = applied?.ok === true && outlineProblems(applied.value.outline).length === 0 && Object.values(applied.value.takes).every((take) => takeProblems(take).length === 0)
  if (!applied?.ok || !isWhole) throw refuse(422, 'bad-cut', `${fileName} can’t be taken in: something in it is longer than a film can hold. Nothing was made.`)
  if (plan.unknownSounds.length > 0) notes.push(`${plan.unknownSounds.length === 1 ? 'One sound is' : `${plan.unknownSounds.length} sounds are`} not here: a cut holds no recordings. Bring them in on the Desk.`)
  const { sequelize, models } = await useDatabase()
  await sequelize.transaction(async (transaction) => {
    await insertFilm(models, applied.value, transaction)
    const hashes = [...new Set(Object.values(applied.value.outline.clips).map(({ assetHash }) => assetHash))]
    if (hashes.length > 0) await sequelize.query('INSERT INTO project_assets (project_id, hash) SELECT $1, unnest($2::text[])', { bind: [id, hashes], transaction })
  })
  return { card: await projectCard(id), notes }
}

/** The film that a cut was written from, under a new id, without what this server does not have. */
async function knownFilm(film: { readonly outline: Outline; readonly takes: Readonly<Record<string, TakeBody>>; readonly sets?: Film['sets']; readonly breakdowns?: Film['breakdowns'] }, id: string, notes: string[]): Promise<Film | null> {
  const { sequelize } = await useDatabase()
  const project = Object.values(film.outline.project)[0]
  const isWhole = project !== undefined && outlineProblems(film.outline).length === 0 && Object.keys(film.outline.takes).every((takeId) => film.takes[takeId] !== undefined && takeProblems(film.takes[takeId]).length === 0)
  if (!isWhole) {
    notes.push('What Rubato wrote beside the cut does not fit together: only the cut itself was taken.')
    return null
  }
  const wanted = [...new Set(Object.values(film.outline.clips).map(({ assetHash }) => assetHash))]
  const there = new Set((await sequelize.query<{ hash: string }>("SELECT hash FROM assets WHERE hash = ANY($1) AND kind = 'sound'", { bind: [wanted], type: QueryTypes.SELECT })).map(({ hash }) => hash))
  const clips = Object.fromEntries(Object.entries(film.outline.clips).filter(([, { assetHash }]) => there.has(assetHash)))
  const lost = Object.keys(film.outline.clips).length - Object.keys(clips).length
  if (lost > 0) notes.push(`${lost === 1 ? 'One clip is' : `${lost} clips are`} left out: the recordings are not on this server. Bring them in on the Desk.`)
  notes.push('A cut holds no art: the levels are there, their drawings are empty. A film’s own file (Save as a file) has everything.')
  // Empty, but there: what is cut in two has its art copied.
  const drawings = Object.fromEntries([...new Set(Object.values(film.takes).flatMap(drawingsWith))].map((drawingId) => [drawingId, EMPTY_DRAWING]))
  return { outline: { ...film.outline, clips, project: { [id]: { ...project, id } } }, takes: film.takes, drawings, sets: film.sets ?? {}, breakdowns: film.breakdowns ?? {} }
}
