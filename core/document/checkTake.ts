import { anchoredIn, cameraOfAnchored } from './anchored'
import { isInOrder } from './order'
import { cellIdOf, linkIdOf, transitionIdOf } from './records'
import type { Drawing, Outline, TakeBody } from './units'

/** What rounding may leave a clip longer than its recording. */
export const CLIP_SLACK_SECONDS = 1e-3

/** Something a unit's records say of each other that cannot be. `path` leads to the record. */
export interface DocumentProblem {
  readonly code: 'id-mismatch' | 'missing-panel' | 'missing-level' | 'missing-camera' | 'offset-past-panel' | 'missing-sequence' | 'missing-shot' | 'missing-take' | 'missing-passage' | 'missing-lane' | 'clip-past-recording' | 'project-count' | 'out-of-order'
  readonly path: readonly string[]
}

function idProblems(unit: object): DocumentProblem[] {
  const problems: DocumentProblem[] = []
  for (const [collection, records] of Object.entries(unit as Record<string, Record<string, { id: string }>>)) {
    if (Array.isArray(records)) continue
    for (const [id, record] of Object.entries(records)) {
      if (record.id !== id) problems.push({ code: 'id-mismatch', path: [collection, id] })
    }
  }
  return problems
}

/** Checks what the schema can't: ids match their keys, keys stand in panels that exist and inside their length. */
export function takeProblems(take: TakeBody): DocumentProblem[] {
  const problems = idProblems(take)
  for (const { collection, record } of anchoredIn(take)) {
    const path = [collection, record.id]
    const panel = take.panels[record.panelId]
    if (panel === undefined) problems.push({ code: 'missing-panel', path })
    else if (record.offsetFrames >= panel.lengthFrames) problems.push({ code: 'offset-past-panel', path })
    if (cameraOfAnchored(take, record) === null) problems.push({ code: 'missing-camera', path })
  }
  for (const cell of Object.values(take.cells)) {
    const path = ['cells', cell.id]
    if (cell.id !== cellIdOf(cell.levelId, cell.panelId)) problems.push({ code: 'id-mismatch', path })
    if (take.levels[cell.levelId] === undefined) problems.push({ code: 'missing-level', path })
    if (take.panels[cell.panelId] === undefined) problems.push({ code: 'missing-panel', path })
  }
  return problems
}

export function drawingProblems(drawing: Drawing): DocumentProblem[] {
  return isInOrder(drawing.marks) ? [] : [{ code: 'out-of-order', path: ['marks', drawing.marks[0]!.id] }]
}

export function outlineProblems(outline: Outline): DocumentProblem[] {
  const problems = idProblems(outline)
  if (Object.keys(outline.project).length !== 1) problems.push({ code: 'project-count', path: ['project'] })
  for (const shot of Object.values(outline.shots)) {
    if (outline.sequences[shot.sequenceId] === undefined) problems.push({ code: 'missing-sequence', path: ['shots', shot.id] })
    if (outline.takes[shot.circledTakeId]?.shotId !== shot.id) problems.push({ code: 'missing-take', path: ['shots', shot.id] })
  }
  for (const take of Object.values(outline.takes)) {
    if (outline.shots[take.shotId] === undefined) problems.push({ code: 'missing-shot', path: ['takes', take.id] })
  }
  for (const passage of Object.values(outline.passages)) {
    if (passage.sequenceId !== null && outline.sequences[passage.sequenceId] === undefined) problems.push({ code: 'missing-sequence', path: ['passages', passage.id] })
  }
  for (const mark of Object.values(outline.rulerMarks)) {
    if (outline.shots[mark.shotId] === undefined) problems.push({ code: 'missing-shot', path: ['rulerMarks', mark.id] })
  }
  for (const clip of Object.values(outline.clips)) {
    const path = ['clips', clip.id]
    if (outline.lanes[clip.laneId] === undefined) problems.push({ code: 'missing-lane', path })
    if (clip.fromSeconds + clip.lengthSeconds > clip.sourceSeconds + CLIP_SLACK_SECONDS) problems.push({ code: 'clip-past-recording', path })
  }
  for (const transition of Object.values(outline.transitions)) {
    const path = ['transitions', transition.id]
    if (transition.at === 'cut' && outline.shots[transition.id] === undefined) problems.push({ code: 'missing-shot', path })
    if (transition.at !== 'cut' && transition.id !== transitionIdOf({ at: transition.at })) problems.push({ code: 'id-mismatch', path })
  }
  for (const link of Object.values(outline.links)) {
    const path = ['links', link.id]
    if (link.id !== linkIdOf(link.passageId, link.panelId)) problems.push({ code: 'id-mismatch', path })
    if (outline.passages[link.passageId] === undefined) problems.push({ code: 'missing-passage', path })
    if (outline.takes[link.takeId] === undefined) problems.push({ code: 'missing-take', path })
  }
  return problems
}
