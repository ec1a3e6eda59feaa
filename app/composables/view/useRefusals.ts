import type { ToastMessageOptions } from 'primevue/toast'
import { useToast } from 'primevue/usetoast'
import { onBeforeUnmount, watch } from 'vue'
import { useFilmStore } from '~/stores/film'

const SHOWN_MS = 6000

/** Tells what was refused, the newest alone, and not past the film that it was of. */
export function useRefusals() {
  const film = useFilmStore()
  const toast = useToast()
  let told: ToastMessageOptions | null = null
  watch(
    () => film.lastRefusal?.number,
    () => {
      if (film.lastRefusal === null) return
      toast.removeAllGroups()
      told = { severity: 'warn', detail: film.lastRefusal.text, life: SHOWN_MS }
      toast.add(told)
    },
  )
  onBeforeUnmount(() => {
    if (told !== null) toast.remove(told)
  })
}
