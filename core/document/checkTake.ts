import { anchoredIn, missingOwner } from './anchored'
import { carriersOf } from './carriers'
import { isInOrder } from './order'
import { targetHangs, targetOf } from './spans'
import { cellIdOf, isHalfReference, levelDrawingIdOf, linkIdOf, PIECES_MOST, SET_SHOWN, SHOTS_MAX, TAKE_FRAMES_MAX, transitionIdOf } from './records'
import type { Drawing, Outline, SetBody, TakeBody } from './units'

/** What rounding may leave a clip longer than its recording. */
const CLIP_SLACK_SECONDS = 1e-3

/** Something a unit's records say of each other that cannot be. `path` leads to the record. */
export interface DocumentProblem {
  readonly code: 'id-mismatch' | 'missing-panel' | 'missing-level' | 'missing-camera' | 'missing-span' | 'missing-air' | 'target-hangs' | 'offset-past-panel' | 'missing-sequence' | 'missing-shot' | 'missing-take' | 'missing-passage' | 'missing-lane' | 'clip-past-recording' | 'project-count' | 'out-of-order' | 'take-too-long' | 'too-many-shots' | 'not-a-reference' | 'missing-carrier' | 'carrier-circle' | 'carriers-too-deep' | 'not-a-drawing' | 'missing-piece' | 'piece-on-camera' | 'too-many-pieces'
  readonly path: readonly string[]
}

/** Records that are not called what they are kept under. */
export function idProblems(unit: object): DocumentProblem[] {
  const problems: DocumentProblem[] = []
  for (const [collection, records] of Object.entries(unit as Record<string, Record<string, { id: string }>>)) {
    if (Array.isArray(records)) continue
    for (const id of Object.keys(records)) if (records[id]!.id !== id) problems.push({ code: 'id-mismatch', path: [collection, id] })
  }
  return problems
}

const MISSING = { cameras: 'missing-camera', levels: 'missing-level', spans: 'missing-span', air: 'missing-air' } as const

/** Checks what the schema can't: ids match their keys, keys stand in panels that exist and inside their length. */
export function takeProblems(take: TakeBody): DocumentProblem[] {
  const problems = idProblems(take)
  let frames = 0
  for (const panel of Object.values(take.panels)) frames += panel.lengthFrames
  if (frames > TAKE_FRAMES_MAX) problems.push({ code: 'take-too-long', path: ['panels'] })
  for (const each of anchoredIn(take)) {
    const { collection, record } = each
    const path = [collection, record.id]
    const panel = Object.hasOwn(take.panels, record.panelId) ? take.panels[record.panelId] : undefined
    if (panel === undefined) problems.push({ code: 'missing-panel', path })
    else if (record.offsetFrames >= panel.lengthFrames) problems.push({ code: 'offset-past-panel', path })
    const missing = missingOwner(take, each)
    if (missing !== null) problems.push({ code: MISSING[missing], path })
  }
  for (const span of Object.values(take.spans)) {
    const target = targetOf(span)
    if (target === null) continue
    const path = ['spans', span.id]
    if (!Object.hasOwn(take.levels, target.levelId)) problems.push({ code: 'missing-level', path })
    else if (targetHangs(take, target)) problems.push({ code: 'target-hangs', path })
  }
  for (const { id, spanId } of Object.values(take.spanEnds)) if (id !== spanId) problems.push({ code: 'id-mismatch', path: ['spanEnds', id] })
  for (const level of Object.values(take.levels)) {
    const path = ['levels', level.id]
    if (isHalfReference(level)) problems.push({ code: 'not-a-reference', path })
    const { problem } = carriersOf(take, level)
    if (problem !== null) problems.push({ code: problem, path })
  }
  for (const cell of Object.values(take.cells)) {
    const path = ['cells', cell.id]
    const offset = cell.offsetFrames ?? 0
    if (cell.id !== cellIdOf(cell.levelId, cell.panelId, offset)) problems.push({ code: 'id-mismatch', path })
    if (!Object.hasOwn(take.levels, cell.levelId)) problems.push({ code: 'missing-level', path })
    else if (cell.drawingId !== null && (cell.drawingId === SET_SHOWN) !== (take.levels[cell.levelId]!.kind === 'set')) problems.push({ code: 'not-a-drawing', path })
    if (!Object.hasOwn(take.panels, cell.panelId)) problems.push({ code: 'missing-panel', path })
    else if (offset >= take.panels[cell.panelId]!.lengthFrames) problems.push({ code: 'offset-past-panel', path })
  }
  for (const { id, levelId, drawingId } of Object.values(take.levelDrawings)) {
    const path = ['levelDrawings', id]
    if (id !== levelDrawingIdOf(levelId, drawingId)) problems.push({ code: 'id-mismatch', path })
    if (!Object.hasOwn(take.levels, levelId)) problems.push({ code: 'missing-level', path })
  }
  return problems
}

export function setProblems(set: SetBody): DocumentProblem[] {
  const problems = idProblems(set)
  if (Object.keys(set.pieces).length > PIECES_MOST) problems.push({ code: 'too-many-pieces', path: ['pieces'] })
  for (const piece of Object.values(set.pieces)) {
    const path = ['pieces', piece.id]
    if (piece.carrier?.kind === 'camera') problems.push({ code: 'piece-on-camera', path })
    const { problem } = carriersOf({ levels: set.pieces }, piece)
    if (problem !== null) problems.push({ code: problem, path })
  }
  for (const { id } of Object.values(set.art)) if (!Object.hasOwn(set.pieces, id)) problems.push({ code: 'missing-piece', path: ['art', id] })
  return problems
}

export function drawingProblems(drawing: Drawing): DocumentProblem[] {
  return isInOrder(drawing.marks) ? [] : [{ code: 'out-of-order', path: ['marks', drawing.marks[0]!.id] }]
}

export function outlineProblems(outline: Outline): DocumentProblem[] {
  const problems = idProblems(outline)
  if (Object.keys(outline.project).length !== 1) problems.push({ code: 'project-count', path: ['project'] })
  if (Object.keys(outline.shots).length > SHOTS_MAX) problems.push({ code: 'too-many-shots', path: ['shots'] })
  for (const shot of Object.values(outline.shots)) {
    if (!Object.hasOwn(outline.sequences, shot.sequenceId)) problems.push({ code: 'missing-sequence', path: ['shots', shot.id] })
    if (!Object.hasOwn(outline.takes, shot.circledTakeId) || outline.takes[shot.circledTakeId]!.shotId !== shot.id) problems.push({ code: 'missing-take', path: ['shots', shot.id] })
  }
  for (const take of Object.values(outline.takes)) {
    if (!Object.hasOwn(outline.shots, take.shotId)) problems.push({ code: 'missing-shot', path: ['takes', take.id] })
  }
  for (const passage of Object.values(outline.passages)) {
    if (passage.sequenceId !== null && !Object.hasOwn(outline.sequences, passage.sequenceId)) problems.push({ code: 'missing-sequence', path: ['passages', passage.id] })
  }
  for (const mark of Object.values(outline.rulerMarks)) {
    if (!Object.hasOwn(outline.shots, mark.shotId)) problems.push({ code: 'missing-shot', path: ['rulerMarks', mark.id] })
  }
  for (const clip of Object.values(outline.clips)) {
    const path = ['clips', clip.id]
    if (!Object.hasOwn(outline.lanes, clip.laneId)) problems.push({ code: 'missing-lane', path })
    if (clip.fromSeconds + clip.lengthSeconds > clip.sourceSeconds + CLIP_SLACK_SECONDS) problems.push({ code: 'clip-past-recording', path })
  }
  for (const transition of Object.values(outline.transitions)) {
    const path = ['transitions', transition.id]
    if (transition.at === 'cut' && !Object.hasOwn(outline.shots, transition.id)) problems.push({ code: 'missing-shot', path })
    if (transition.at !== 'cut' && transition.id !== transitionIdOf({ at: transition.at })) problems.push({ code: 'id-mismatch', path })
  }
  for (const link of Object.values(outline.links)) {
    const path = ['links', link.id]
    if (link.id !== linkIdOf(link.passageId, link.panelId)) problems.push({ code: 'id-mismatch', path })
    if (!Object.hasOwn(outline.passages, link.passageId)) problems.push({ code: 'missing-passage', path })
    if (!Object.hasOwn(outline.takes, link.takeId)) problems.push({ code: 'missing-take', path })
  }
  return problems
}
