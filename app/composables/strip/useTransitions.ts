import { transitionIdOf, type Transition } from '@rubato/core/document'
import { putTransition, removeTransition } from '@rubato/core/edits'
import { mostTransitionFrames, partsOf, type PlacedTransition } from '@rubato/core/stage'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'

const USUAL_FRAMES = 12

/** Transitions: put in at a cut, changed, taken out. */
export function useTransitions() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sound = useSoundStore()
  const stage = () => film.filmStage

  /** The place in the order of shots that a transition stands at: before the first is 0. */
  const indexOf = ({ at, id }: Pick<Transition, 'at' | 'id'>) => (at === 'start' ? 0 : at === 'end' ? stage().shots.length : (stage().placeOf(id)?.index ?? -1))
  const most = (transition: Pick<Transition, 'at' | 'id' | 'place'>) => {
    const index = indexOf(transition)
    return index < 0 || (transition.at === 'cut' && index === 0) ? 0 : mostTransitionFrames(film.outline.transitions, stage().shots, transition, index)
  }

  const selected = computed<Transition | null>(() => (sound.transitionId === null ? null : (film.outline.transitions[sound.transitionId] ?? null)))
  const placed = computed<PlacedTransition | null>(() => stage().transitions.find((each) => each.transition.id === sound.transitionId) ?? null)
  const nameOf = ({ at, kind }: Pick<Transition, 'at' | 'kind'>) => (at === 'start' ? 'fade in' : at === 'end' ? 'fade out' : { dissolve: 'dissolve', wipe: 'wipe', colour: 'through a colour' }[kind])

  /** The cut nearest to a frame, the film's ends among them. */
  function nearestPlace(frame: number): Pick<Transition, 'at' | 'id'> | null {
    const { shots, lengthFrames } = stage()
    const here = stage().shotAt(frame)
    if (here === null || shots.length === 0) return null
    const start = here.startFrame
    const end = start + here.lengthFrames
    const atStart = frame - start <= end - frame
    if (atStart) return here.index === 0 ? { at: 'start', id: transitionIdOf({ at: 'start' }) } : { at: 'cut', id: transitionIdOf({ at: 'cut', shotId: here.shot.id }) }
    const next = shots[here.index + 1]
    return next === undefined || end >= lengthFrames ? { at: 'end', id: transitionIdOf({ at: 'end' }) } : { at: 'cut', id: transitionIdOf({ at: 'cut', shotId: next.shot.id }) }
  }

  /** A transition at the cut nearest to the playhead; where one is, it is chosen. */
  function putHere() {
    const place = nearestPlace(desk.playhead)
    if (place === null || film.project === null) return film.refuse('There is no shot to put a transition at. Add one first.')
    if (film.outline.transitions[place.id] !== undefined) return sound.chooseTransition(place.id)
    const room = most({ ...place, place: 'centre' })
    const transition: Transition = { ...place, kind: place.at === 'cut' ? 'dissolve' : 'colour', lengthFrames: Math.max(1, Math.min(USUAL_FRAMES, room)), place: 'centre', angleDegrees: 0, softness: 0.15, colour: '#000000', soundToo: place.at !== 'cut' }
    if (film.perform(nameOf(transition), (f) => putTransition(f.outline, film.project!.id, transition, room))) sound.chooseTransition(place.id)
  }

  function change(id: string, fields: Partial<Omit<Transition, 'id' | 'at'>>, gesture: string | null = null): boolean {
    const transition = film.outline.transitions[id]
    if (transition === undefined) return false
    const next = { ...transition, ...fields }
    return film.perform(`${nameOf(next)}`, (f) => putTransition(f.outline, film.project!.id, next, most(next)), gesture)
  }

  function remove(id: string) {
    const transition = film.outline.transitions[id]
    if (transition !== undefined && film.perform(`delete ${nameOf(transition)}`, (f) => removeTransition(f.outline, film.project!.id, id))) sound.chooseTransition(null)
  }

  /** The length that a transition has when one of its ends is at a frame. */
  function lengthAt(transition: Transition, cutFrame: number, end: 'from' | 'to', frame: number): number {
    const part = Math.max(0, end === 'from' ? cutFrame - frame : frame - cutFrame)
    const { before, after } = partsOf({ ...transition, lengthFrames: 2 })
    return Math.max(1, before === 1 && after === 1 ? 2 * part : part)
  }

  return { selected, placed, nameOf, most, putHere, change, remove, lengthAt }
}
