import type { RulerMark } from '../../document/records'
import { outlineRef, type Outline } from '../../document/units'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

const missing = (id: string) => refused({ code: 'missing', what: 'mark', id })

/** Puts a mark on the ruler, over a frame of a shot. */
export function addRulerMark(outline: Outline, projectId: string, mark: RulerMark): Made {
  if (outline.shots[mark.shotId] === undefined) return refused({ code: 'missing', what: 'shot', id: mark.shotId })
  return made(new Draft(outline).put('rulerMarks', mark).edit('mark-add', outlineRef(projectId)))
}

/** Renames a mark, moves it, or changes what it means. */
export function editRulerMark(outline: Outline, projectId: string, id: string, fields: Partial<Omit<RulerMark, 'id'>>): Made {
  const mark = outline.rulerMarks[id]
  if (mark === undefined) return missing(id)
  if (fields.shotId !== undefined && outline.shots[fields.shotId] === undefined) return refused({ code: 'missing', what: 'shot', id: fields.shotId })
  return made(new Draft(outline).put('rulerMarks', { ...mark, ...fields }).edit('mark-edit', outlineRef(projectId)))
}

export function removeRulerMark(outline: Outline, projectId: string, id: string): Made {
  if (outline.rulerMarks[id] === undefined) return missing(id)
  return made(new Draft(outline).drop('rulerMarks', id).edit('mark-remove', outlineRef(projectId)))
}
