import { computed, ref, watch } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** What the playhead stands on is loaded with its art, then its neighbours. */
export function useShotArt() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const wanted = computed(() => {
    const index = desk.placedShot?.index ?? 0
    return [index, index + 1, index - 1, index + 2].flatMap((i) => film.filmStage.shots[i]?.shot.circledTakeId ?? [])
  })
  const trouble = ref<string | null>(null)
  async function load() {
    trouble.value = null
    try {
      for (const takeId of wanted.value) await film.ensureTakeWithArt(takeId)
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }
  watch(() => wanted.value.join(), load, { immediate: true })
  return { trouble, load }
}
