import { randomUUID } from 'node:crypto'
import { drawingsWith, shorten, type Drawing, type Film, type Outline, type SetBody, type TakeBody } from '@rubato/core/document'
import { conformSteps, neededFor, planConform, type Change, type CutLine, type CutPlan } from '@rubato/core/edits'
import { EDIT_LIST_EXTENSION, readEditList, readTimeline } from '@rubato/core/interchange'
import { createFilmStage } from '@rubato/core/stage'
import type { Transaction } from 'sequelize'
import type { ConformAsk, Conformed } from '#shared/cuts'
import { useDatabase } from '../models/database'
import { breathe } from './breathe'
import { applyInTransaction, lockProject } from './editBatches'
import { projectOfRow, readOutline } from './outlineRows'
import { liveProject, loadUnits } from './projects'
import { refuse } from './refusals'
import { inFilmTurn } from './turns'
import { keepVersion } from './versions'

/** What a cut that came back would change in a film; with `take` those lines are taken, as one change, after a version is kept. */
export async function conformFilm(projectId: string, { fileName, text, take, author }: ConformAsk): Promise<Conformed> {
  const { sequelize, models } = await useDatabase()
  const project = projectOfRow(await liveProject(projectId))
  const bad = (why: string) => refuse(422, 'bad-cut', `${fileName} can’t be taken in. ${why} Nothing has been changed.`)
  const read = fileName.toLowerCase().endsWith(`.${EDIT_LIST_EXTENSION}`) ? readEditList(text, project.rate, project.startTimecodeFrames ?? 0) : readTimeline(text)
  if (!read.ok) throw bad(read.why)
  const { list, notes } = read
  if (list.rate.numerator !== project.rate.numerator || list.rate.denominator !== project.rate.denominator) throw bad('It is made for another number of frames a second than the film.')
  const planOf = ({ outline, takeLengths }: { readonly outline: Outline; readonly takeLengths: Readonly<Record<string, number>> }) => planConform(outline, createFilmStage(outline, (takeId) => takeLengths[takeId] ?? 0), list)
  if (take === undefined) {
    const there = await readOutline(models, await liveProject(projectId))
    const plan = planOf(there)
    return { lines: plan.lines.map((line) => told(line, plan, there.outline)), notes, taken: 0, keptAs: null }
  }
  return inFilmTurn(projectId, () =>
    sequelize.transaction(async (transaction) => {
      const row = await lockProject(projectId, transaction)
      const there = await readOutline(models, row, transaction)
      const plan = planOf(there)
      const chosen = new Set(take === 'all' ? plan.lines.map(({ id }) => id) : take)
      const lines = plan.lines.map((line) => told(line, plan, there.outline))
      if (!plan.lines.some(({ id }) => chosen.has(id))) return { lines, notes, taken: 0, keptAs: null }
      const steps = conformSteps(await filmFor(projectId, there.outline, plan, chosen, transaction), projectId, plan, chosen, randomUUID)
      let step = steps.next()
      for (; step.done !== true; step = steps.next()) await breathe()
      if (!step.value.ok) throw bad(`A line of it can’t be taken (${step.value.refusal.code}).`)
      const keptAs = await keepVersion(row, `Before it was conformed to ${shorten(fileName, 80)}`, author, 'before', transaction)
      const change: Change = { id: randomUUID(), label: `conform to ${shorten(fileName, 120)}`, edits: step.value.edits }
      await applyInTransaction(row, { changes: [change], base: null, author }, transaction)
      return { lines, notes, taken: plan.lines.filter(({ id }) => chosen.has(id)).length, keptAs }
    }),
  )
}

/** The film with what the lines that are taken cut into or copy. */
async function filmFor(projectId: string, outline: Outline, plan: CutPlan, chosen: ReadonlySet<string>, transaction: Transaction): Promise<Film> {
  const { shotIds, art } = neededFor(plan, chosen)
  const takesOf = (ids: readonly string[]) => ids.flatMap((id) => outline.shots[id]?.circledTakeId ?? [])
  const load = async <U>(kind: 'take' | 'drawing' | 'set', ids: readonly string[]) => Object.fromEntries((await loadUnits(kind, projectId, ids, transaction)).map(({ id, unit }) => [id, unit as U]))
  const takes = await load<TakeBody>('take', takesOf(shotIds))
  const shown = [...new Set(takesOf(art).flatMap((id) => (takes[id] === undefined ? [] : drawingsWith(takes[id]))))]
  const found = await load<Drawing>('drawing', shown)
  // One that nobody has drawn in yet has no row.
  const drawings = Object.fromEntries(shown.map((id) => [id, found[id] ?? { marks: [] }]))
  return { outline, takes, drawings, sets: await load<SetBody>('set', Object.keys(outline.sets)) }
}

/** A line in few words, as a terminal shows it. */
function told(line: CutLine, { list, shots }: CutPlan, outline: Outline): Conformed['lines'][number] {
  const labelOf = (id: string | null | undefined) => outline.shots[id ?? '']?.label ?? ''
  const signed = (count: number) => `${count > 0 ? '+' : ''}${count}`
  const of = (about: string, says: string) => ({ id: line.id, kind: line.kind, about, says })
  switch (line.kind) {
    case 'ends':
      return of(labelOf(line.shotId), `head ${signed(line.ends.head)} f, tail ${signed(line.ends.tail)} f, lasts ${line.lengthFrames} f`)
    case 'new':
      return of(list.pictures[line.index]!.label, `${list.pictures[line.index]!.lengthFrames} f, after ${labelOf(shots[line.index - 1]) || 'the beginning'}`)
    case 'again':
      return of(labelOf(line.shotId), `once more, after ${labelOf(shots[line.index - 1]) || 'the beginning'}`)
    case 'transition':
      return of(labelOf(shots[line.index]), line.wanted === null ? 'a plain cut' : `${line.wanted.kind} of ${line.wanted.before + line.wanted.after} f`)
    case 'sound':
      return of(outline.clips[line.clipId]?.name ?? '', Object.keys(line.fields).join(', '))
    case 'unheard':
      return of(outline.clips[line.clipId]?.name ?? '', 'into the tray')
    case 'mark':
      return of(line.mark.name, `frame ${line.mark.frame}`)
    default:
      return of(labelOf(line.shotId), line.kind === 'dropped' ? 'into the tray' : line.kind === 'returned' ? 'out of the tray' : `after ${labelOf(shots[shots.indexOf(line.shotId) - 1]) || 'the beginning'}`)
  }
}
