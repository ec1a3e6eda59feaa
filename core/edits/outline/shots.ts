import { labelBetween } from '../../document/labels'
import { FIRST_ORDER, inOrder } from '../../document/order'
import { isInFilm, type Project, type Sequence, type Shot } from '../../document/records'
import { takeRef, outlineRef, EMPTY_OUTLINE, EMPTY_TAKE, type Film, type Outline, type TakeBody } from '../../document/units'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

/** A sequence's shots in order, without those in the tray. */
export function shotsOf(outline: Outline, sequenceId: string): readonly Shot[] {
  return inOrder(outline.shots).filter((shot) => shot.sequenceId === sequenceId && isInFilm(shot))
}

/** The labels that shots of the film have; one in the tray claims none. */
export const labelsTaken = (outline: Outline): Set<string> => new Set(Object.values(outline.shots).flatMap((shot) => (isInFilm(shot) ? [shot.label] : [])))

/** A shot's record for another that is made of a part of it: that has a time of its own, and no cut asked for it. */
export function ofItsOwn({ startsAt: _, againOf: __, ...shot }: Shot): Shot {
  return shot
}

/** The place after a shot, in a draft of the outline. */
export function placeAfter(draft: Draft<Outline>, outline: Outline, shot: Shot) {
  const there = shotsOf(outline, shot.sequenceId)
  const after = there.indexOf(shot) + 1
  const [order] = draft.room('shots', there, after, 1)
  return { order: order!, label: labelBetween(shot.label, there[after]?.label ?? null, labelsTaken(outline)) }
}

/** The last label before a sequence that has no shots yet, so that numbers go on. */
export function lastLabelBefore(outline: Outline, sequenceId: string): string | null {
  let last: string | null = null
  for (const sequence of inOrder(outline.sequences)) {
    if (sequence.id === sequenceId) return last
    last = shotsOf(outline, sequence.id).at(-1)?.label ?? last
  }
  return last
}

/** A new shot with one take: one panel, camera A, no framing, no levels. It stands after `afterShotId`, or last. */
export function addShot(
  film: Film,
  projectId: string,
  sequenceId: string,
  afterShotId: string | null,
  ids: { readonly shot: string; readonly take: string; readonly panel: string; readonly camera: string },
  lengthFrames: number,
): Made {
  const shots = shotsOf(film.outline, sequenceId)
  const after = afterShotId === null ? shots.length - 1 : shots.findIndex((shot) => shot.id === afterShotId)
  if (afterShotId !== null && after < 0) return refused({ code: 'missing', what: 'shot', id: afterShotId })
  const taken = labelsTaken(film.outline)
  const label = labelBetween(shots[after]?.label ?? (shots.length === 0 ? lastLabelBefore(film.outline, sequenceId) : null), shots[after + 1]?.label ?? null, taken)
  const outlineDraft = new Draft(film.outline)
  const [order] = outlineDraft.room('shots', shots, after + 1, 1)
  const outline = outlineDraft
    .put('shots', { id: ids.shot, sequenceId, order: order!, label, title: '', circledTakeId: ids.take })
    .put('takes', { id: ids.take, shotId: ids.shot, order: FIRST_ORDER, letter: 'A' })
    .edit('shot-add', outlineRef(projectId))
  const body = new Draft<TakeBody>(EMPTY_TAKE)
    .put('panels', { id: ids.panel, order: FIRST_ORDER, lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' })
    .put('cameras', { id: ids.camera, order: FIRST_ORDER, letter: 'A', locked: false })
    .edit('shot-add', takeRef(ids.take))
  return made(outline, body)
}

/** How many shots the film has, without those in the tray. */
export const inFilm = (outline: Outline): number => Object.values(outline.shots).filter(isInFilm).length

/** Takes a shot out with its takes. Their bodies stay with the server until nothing, undo included, needs them. */
export function removeShot(outline: Outline, projectId: string, shotId: string): Made {
  const shot = outline.shots[shotId]
  if (shot === undefined) return refused({ code: 'missing', what: 'shot', id: shotId })
  if (isInFilm(shot) && inFilm(outline) === 1) return refused({ code: 'last-shot' })
  const draft = new Draft(outline).drop('shots', shotId)
  for (const take of Object.values(outline.takes)) if (take.shotId === shotId) draft.drop('takes', take.id)
  for (const link of Object.values(outline.links)) if (outline.takes[link.takeId]?.shotId === shotId) draft.drop('links', link.id)
  for (const mark of Object.values(outline.rulerMarks)) if (mark.shotId === shotId) draft.drop('rulerMarks', mark.id)
  // Its clips stay: without their shot they are in the tray.
  if (outline.transitions[shotId] !== undefined) draft.drop('transitions', shotId)
  return made(draft.edit('shot-remove', outlineRef(projectId)))
}

/** Renames or relabels a shot, or gives it a target length. A label already used in the film is refused. */
export function editShot(outline: Outline, projectId: string, shotId: string, fields: Partial<Pick<Shot, 'label' | 'title' | 'targetFrames'>>): Made {
  const shot = outline.shots[shotId]
  if (shot === undefined) return refused({ code: 'missing', what: 'shot', id: shotId })
  const { label } = fields
  if (label !== undefined && Object.values(outline.shots).some((other) => other.id !== shotId && isInFilm(other) && other.label === label)) {
    return refused({ code: 'label-taken', label })
  }
  return made(new Draft(outline).put('shots', withFields(shot, fields)).edit('shot-edit', outlineRef(projectId)))
}

/** Changes a project's settings. */
export function editProject(outline: Outline, projectId: string, fields: Partial<Omit<Project, 'id'>>): Made {
  const project = outline.project[projectId]
  if (project === undefined) throw new Error(`editProject: the outline holds no project ${projectId}`)
  return made(new Draft(outline).put('project', withFields(project, fields)).edit('project-edit', outlineRef(projectId)))
}

/** The outline of a new film: one sequence, ready for its first shot. */
export function newOutline(project: Project, sequence: Sequence): Outline {
  return { ...EMPTY_OUTLINE, project: { [project.id]: project }, sequences: { [sequence.id]: sequence } }
}
