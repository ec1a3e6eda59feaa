import type { Transition } from '../document/records'
import type { Outline } from '../document/units'
import type { SoundCrossing } from '../sound/placedClips'
import { indexAt } from '../time/indexAt'
import { secondsOfFrames, type Rate } from '../time/rate'
import type { PlacedShot } from './placedShot'

/** A transition at its frames of the film; it lasts from `from` to `to`, exclusive. */
export interface PlacedTransition {
  readonly transition: Transition
  readonly from: number
  readonly to: number
  /** The cut, or the film's end that it stands at. */
  readonly cutFrame: number
  /** The shot that goes; null at the film's start. */
  readonly before: PlacedShot | null
  /** The shot that comes; null at the film's end. */
  readonly after: PlacedShot | null
}

/** How many frames of a transition lie before its cut, and after it. */
export function partsOf({ at, place, lengthFrames }: Pick<Transition, 'at' | 'place' | 'lengthFrames'>): { readonly before: number; readonly after: number } {
  if (at === 'start') return { before: 0, after: lengthFrames }
  if (at === 'end' || place === 'before') return { before: lengthFrames, after: 0 }
  if (place === 'after') return { before: 0, after: lengthFrames }
  const before = Math.floor(lengthFrames / 2)
  return { before, after: lengthFrames - before }
}

/** Which transition stands at a shot's start and which at its end. */
function endsOf(transitions: Outline['transitions'], shots: readonly PlacedShot[], index: number): { readonly head: Transition | undefined; readonly tail: Transition | undefined } {
  const next = shots[index + 1]
  const head = index === 0 ? transitions['film-start'] : transitions[shots[index]!.shot.id]
  return { head, tail: next === undefined ? transitions['film-end'] : transitions[next.shot.id] }
}

/**
 * How many frames a shot gives to the transitions at its ends. Where they ask for more than it has they share what there
 * is in their proportion, so that they never lie over each other.
 */
export function sharedFrames(lengthFrames: number, headFrames: number, tailFrames: number): { readonly head: number; readonly tail: number } {
  const asked = headFrames + tailFrames
  if (asked <= lengthFrames) return { head: headFrames, tail: tailFrames }
  const head = Math.floor((lengthFrames * headFrames) / asked)
  return { head, tail: Math.min(tailFrames, lengthFrames - head) }
}

/** The film's transitions, first to last. One whose shot has nothing before it, or which has no frame left, does nothing. */
export function placeTransitions(transitions: Outline['transitions'], shots: readonly PlacedShot[], placeOf: (shotId: string) => PlacedShot | null): readonly PlacedTransition[] {
  const given = (index: number) => {
    const { head, tail } = endsOf(transitions, shots, index)
    return sharedFrames(shots[index]!.lengthFrames, head === undefined ? 0 : partsOf(head).after, tail === undefined ? 0 : partsOf(tail).before)
  }
  const placed: PlacedTransition[] = []
  for (const transition of Object.values(transitions)) {
    const index = transition.at === 'cut' ? (placeOf(transition.id)?.index ?? 0) : transition.at === 'start' ? 0 : shots.length
    if (shots.length === 0 || (transition.at === 'cut' && index === 0)) continue
    const before = index === 0 ? null : shots[index - 1]!
    const after = index === shots.length ? null : shots[index]!
    const cutFrame = after?.startFrame ?? before!.startFrame + before!.lengthFrames
    const from = cutFrame - (before === null ? 0 : given(index - 1).tail)
    const to = cutFrame + (after === null ? 0 : given(index).head)
    if (to > from) placed.push({ transition, from, to, cutFrame, before, after })
  }
  return placed.sort((a, b) => a.from - b.from)
}

/** How many frames the transition at a place may have at most, so that the shots on both sides keep to themselves. */
export function mostTransitionFrames(transitions: Outline['transitions'], shots: readonly PlacedShot[], wanted: Pick<Transition, 'at' | 'place'>, index: number): number {
  const free = (at: number, side: 'head' | 'tail') => {
    const shot = shots[at]
    if (shot === undefined) return 0
    const ends = endsOf(transitions, shots, at)
    const other = side === 'head' ? ends.tail : ends.head
    return shot.lengthFrames - (other === undefined ? 0 : side === 'head' ? partsOf(other).before : partsOf(other).after)
  }
  const [tail, head] = [Math.max(0, free(index - 1, 'tail')), Math.max(0, free(index, 'head'))]
  if (wanted.at === 'start' || wanted.place === 'after') return head
  if (wanted.at === 'end' || wanted.place === 'before') return tail
  return Math.min(2 * tail + 1, 2 * head)
}

/**
 * How much of a transition is over at a frame. Between shots both are to be seen in every frame; into a colour the last
 * frame, and out of one the first, is the colour itself.
 */
export function transitionShare({ transition, from, to }: PlacedTransition, frame: number): number {
  const length = to - from
  if (transition.at === 'start') return (frame - from) / length
  if (transition.at === 'end') return (frame - from + 1) / length
  return (frame - from + 1) / (length + 1)
}

/** The transition that a frame of the film lies in; null for none. `transitions` are in order. */
export function transitionAt(transitions: readonly PlacedTransition[], frame: number): PlacedTransition | null {
  const found = transitions[indexAt(transitions, frame, (placed) => placed.from)]
  return found !== undefined && frame < found.to ? found : null
}

/** Where the sound crosses over along with the picture. */
export function soundCrossings(transitions: readonly PlacedTransition[], rate: Rate): SoundCrossing[] {
  return transitions.flatMap(({ transition, from, to, before, after }) =>
    transition.soundToo
      ? [{ kind: transition.at, outShotId: before?.shot.id ?? null, inShotId: after?.shot.id ?? null, fromSeconds: secondsOfFrames(from, rate), toSeconds: secondsOfFrames(to, rate) }]
      : [],
  )
}
