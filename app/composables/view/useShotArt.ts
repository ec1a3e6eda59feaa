import { computed, ref, watch } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { artAround } from './artAround'

/** What the playhead stands on is loaded with its art, then its neighbours, ahead of where the artist goes. */
export function useShotArt() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const index = computed(() => desk.placedShot?.index ?? 0)
  const wanted = computed<{ readonly index: number; readonly order: readonly number[] }>((before) => ({ index: index.value, order: artAround(index.value, before?.index ?? null) }))
  const takes = computed(() => wanted.value.order.flatMap((i) => film.filmStage.shots[i]?.shot.circledTakeId ?? []))
  const trouble = ref<string | null>(null)
  let newest = 0
  async function load() {
    const mine = ++newest
    trouble.value = null
    const [here, next, ...others] = takes.value
    try {
      await film.ensureTakesWithArt(here === undefined ? [] : [here])
      // Who has stepped on meanwhile wants others.
      if (mine !== newest) return
      // At once, so that one who steps on quickly finds them: the next by itself, as it may be little and the others much.
      await Promise.all([next === undefined ? null : film.ensureTakeWithArt(next), film.ensureTakesWithArt(others)])
    } catch (error) {
      if (mine === newest) trouble.value = (error as Error).message
    }
  }
  watch(() => takes.value.join(), load, { immediate: true })
  return { trouble, load }
}
