import { watch } from 'vue'
import { useFilmStore } from './film'

/** Clears away what was in hand in the film before: one that is gone over to is as one that is loaded. */
export function withEachFilm(clear: () => void) {
  const film = useFilmStore()
  watch(() => film.projectId, clear)
}
