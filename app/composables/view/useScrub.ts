import type { Gesture, Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** One number being scrubbed: a gesture that its field begins, follows and ends. */
export function useScrub() {
  const film = useFilmStore()
  let gesture: Gesture | null = null
  return {
    begin: (label: string) => void (gesture = film.beginGesture(label)),
    update: (make: Make) => void gesture?.update(make),
    commit() {
      gesture?.commit()
      gesture = null
    },
    cancel() {
      gesture?.abandon()
      gesture = null
    },
  }
}
