import { inOrder } from '../../document/order'
import type { Sequence } from '../../document/records'
import { outlineRef, type Outline } from '../../document/units'
import { Draft } from '../change/draft'
import { merge } from '../change/edit'
import { made, refused, type Made } from '../change/refusal'
import { removeShots } from './shotMoves'

const missing = (id: string) => refused({ code: 'missing', what: 'sequence', id })

/** The label of the next sequence: 01, 02 … */
function nextSequenceLabel(outline: Outline): string {
  const taken = new Set(Object.values(outline.sequences).map((sequence) => sequence.label))
  let number = Object.keys(outline.sequences).length + 1
  while (taken.has(String(number).padStart(2, '0'))) number++
  return String(number).padStart(2, '0')
}

/** A new sequence after another, or last (null). It has no shots yet. */
export function addSequence(outline: Outline, projectId: string, id: string, afterId: string | null, title: string): Made {
  const sequences = inOrder(outline.sequences)
  const after = afterId === null ? sequences.length - 1 : sequences.findIndex((sequence) => sequence.id === afterId)
  if (afterId !== null && after < 0) return missing(afterId)
  const draft = new Draft(outline)
  const [order] = draft.room('sequences', sequences, after + 1, 1)
  return made(draft.put('sequences', { id, order: order!, label: nextSequenceLabel(outline), title, targetFrames: null }).edit('sequence-add', outlineRef(projectId)))
}

/** Changes a sequence's label, title or target length. */
export function editSequence(outline: Outline, projectId: string, id: string, fields: Partial<Pick<Sequence, 'label' | 'title' | 'targetFrames'>>): Made {
  const sequence = outline.sequences[id]
  if (sequence === undefined) return missing(id)
  if (fields.label !== undefined && Object.values(outline.sequences).some((other) => other.id !== id && other.label === fields.label)) return refused({ code: 'label-taken', label: fields.label })
  return made(new Draft(outline).put('sequences', { ...sequence, ...fields }).edit('sequence-edit', outlineRef(projectId)))
}

/** Moves a sequence, with its shots, before another or to the end (null). */
export function moveSequence(outline: Outline, projectId: string, id: string, beforeId: string | null): Made {
  const sequence = outline.sequences[id]
  if (sequence === undefined) return missing(id)
  if (beforeId === id) return made()
  const rest = inOrder(outline.sequences).filter((each) => each.id !== id)
  const at = beforeId === null ? rest.length : rest.findIndex((each) => each.id === beforeId)
  if (at < 0) return missing(beforeId!)
  const draft = new Draft(outline)
  const [order] = draft.room('sequences', rest, at, 1)
  return made(draft.put('sequences', { ...sequence, order: order! }).edit('sequence-move', outlineRef(projectId)))
}

/** Takes a sequence out with its shots. The film keeps one sequence and one shot. Scenes that became it are free again. */
export function removeSequence(outline: Outline, projectId: string, id: string): Made {
  if (outline.sequences[id] === undefined) return missing(id)
  if (Object.keys(outline.sequences).length === 1) return refused({ code: 'last-sequence' })
  const draft = new Draft(outline).drop('sequences', id)
  for (const passage of Object.values(outline.passages)) if (passage.sequenceId === id) draft.put('passages', { ...passage, sequenceId: null })
  const own = draft.edit('sequence-remove', outlineRef(projectId))
  // Those in the tray go along.
  const shots = Object.values(outline.shots).filter((shot) => shot.sequenceId === id).map((shot) => shot.id)
  if (shots.length === 0) return made(own)
  const removed = removeShots(outline, projectId, shots)
  return removed.ok ? made(merge(removed.edits[0]!, own)!) : removed
}
