import type { Transition } from '../../document/records'
import { outlineRef, type Outline } from '../../document/units'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'


/**
 * Puts a transition in, or changes the one at its place. `most` is how many frames the shots beside it have room for
 * (`mostTransitionFrames` of the stage); more is refused. Nothing else is touched.
 */
export function putTransition(outline: Outline, projectId: string, transition: Transition, most: number): Made {
  if (transition.at === 'cut' && outline.shots[transition.id] === undefined) return refused({ code: 'missing', what: 'shot', id: transition.id })
  if (!(transition.lengthFrames <= most)) return refused({ code: 'transition-too-long', asked: transition.lengthFrames, most })
  return made(new Draft(outline).put('transitions', transition).edit('transition-put', outlineRef(projectId)))
}

export function removeTransition(outline: Outline, projectId: string, id: string): Made {
  if (outline.transitions[id] === undefined) return refused({ code: 'missing', what: 'transition', id })
  return made(new Draft(outline).drop('transitions', id).edit('transition-remove', outlineRef(projectId)))
}
