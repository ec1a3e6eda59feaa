import { ref } from 'vue'
import { saveFile } from '~/composables/handover/useWordsOut'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useMovieOut } from './useMovieOut'

const isMaking = ref(false)

/** The panel at the playhead as a file of layers, to be painted elsewhere and dropped again. */
export function usePanelOut() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { stagesOf } = useMovieOut()

  async function save(): Promise<void> {
    const [placed, panel] = [desk.placedShot, desk.placedPanel]
    if (placed === null || panel === null) return film.refuse('There is no panel here. Go to one in the film, then save it as layers.')
    if (isMaking.value) return film.refuse('A panel is being saved as layers already. Wait until it is.')
    isMaking.value = true
    try {
      const { name, file } = await stagesOf([placed], 'ora', new AbortController().signal, () => undefined, panel.panel.id)
      saveFile(name, file)
    } catch (error) {
      film.refuse(`The panel could not be saved as layers. ${(error as Error).message}`)
    }
    isMaking.value = false
  }
  return { save }
}
