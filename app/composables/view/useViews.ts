import { useLocalStorage } from '@vueuse/core'
import { useFilmStore } from '~/stores/film'

export type ViewKind = 'table' | 'plan' | 'side' | 'around' | 'curves' | 'wall' | 'take' | 'checks'
export type Slot = 'lens' | 'beside' | 'third'

const KINDS: readonly { readonly id: ViewKind; readonly name: string; readonly title: string }[] = [
  { id: 'table', name: 'Table', title: 'The art square on, with the frame of every framing' },
  { id: 'plan', name: 'Plan', title: 'The set from above' },
  { id: 'side', name: 'Side', title: 'The set from the side' },
  { id: 'around', name: 'Around', title: 'Look around the whole set without touching the camera' },
  { id: 'curves', name: 'Curves', title: 'Every value of the camera over time' },
  { id: 'wall', name: 'Wall', title: 'What every camera of the shot sees, side by side, to cut by eye' },
  { id: 'checks', name: 'Checks', title: 'Does the art suffice, how much of it is needed, how fast does it go, how does one picture follow another?' },
  { id: 'take', name: 'Take', title: 'Another take of the shot under the same playhead' },
]

interface Arrangement {
  beside: ViewKind
  third: ViewKind | null
  alone: Slot | null
}

/** Which views stand beside the lens; remembered. */
export function useViews() {
  const film = useFilmStore()
  const arranged = useLocalStorage<Arrangement>('rubato.views', { beside: 'plan', third: null, alone: null }, { mergeDefaults: true })

  const isKind = (kind: ViewKind | null) => KINDS.some(({ id }) => id === kind)
  // Kept by an earlier version, under another name.
  if (!isKind(arranged.value.beside)) arranged.value.beside = 'plan'
  if (arranged.value.third !== null && !isKind(arranged.value.third)) arranged.value.third = null

  function show(kind: ViewKind, slot: 'beside' | 'third' = 'beside') {
    const other = slot === 'beside' ? 'third' : 'beside'
    // Two views of one kind tell nothing more: they change places.
    if (arranged.value[other] === kind && arranged.value[slot] !== null) arranged.value[other] = arranged.value[slot]!
    arranged.value[slot] = kind
  }
  function next() {
    const at = KINDS.findIndex((kind) => kind.id === arranged.value.beside)
    show(KINDS[(at + 1) % KINDS.length]!.id)
  }
  function toggleThird() {
    arranged.value.third = arranged.value.third === null ? (arranged.value.beside === 'table' ? 'plan' : 'table') : null
    if (arranged.value.third === null && arranged.value.alone === 'third') arranged.value.alone = null
  }
  function toggleAlone(slot: Slot) {
    arranged.value.alone = arranged.value.alone === slot ? null : slot
  }
  /** Of the film, or of one of its versions. */
  function openSecond(version: string | null = null) {
    if (film.projectId === null) return
    const opened = window.open(`/film/${film.projectId}/second${version === null ? '' : `?version=${version}`}`, `rubato-second-${version ?? film.projectId}`, 'popup,width=1100,height=760,noopener')
    // With noopener null is all that comes back, whether it opened or not.
    if (opened === null && !('userActivation' in navigator && navigator.userActivation.hasBeenActive)) film.refuse('The browser keeps the second window closed. Allow pop-up windows for this page, then try again.')
  }

  return { KINDS, arranged, show, next, toggleThird, toggleAlone, openSecond }
}
