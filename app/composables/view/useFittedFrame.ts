import { useElementSize } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import { useFilmStore } from '~/stores/film'
import type { ViewBox } from '~/viewport/composition'

const MOST_RATIO = 1.5

/** The whole frame as large as it goes in an element: its size in CSS px, and the view that is drawn; null while there is no room. */
export function useFittedFrame(around: Readonly<Ref<HTMLElement | null>>) {
  const film = useFilmStore()
  const room = useElementSize(around)
  const size = computed(() => {
    const aspect = film.optics?.aspect ?? 16 / 9
    const width = Math.max(16, Math.round(Math.min(room.width.value, room.height.value * aspect)))
    return { width, height: Math.round(width / aspect) }
  })
  const box = (): ViewBox | null => {
    if (room.width.value === 0) return null
    const ratio = Math.min(MOST_RATIO, window.devicePixelRatio || 1)
    return { widthPx: Math.max(1, Math.round(size.value.width * ratio)), heightPx: Math.max(1, Math.round(size.value.height * ratio)), frameLeftPx: 0, frameTopPx: 0, frameWidthPx: size.value.width * ratio }
  }
  return { size, box }
}
