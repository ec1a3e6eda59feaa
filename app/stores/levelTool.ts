import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { withEachFilm } from './eachFilm'

/** How the move-level tool is set. Nothing here is part of the film. */
export const useLevelToolStore = defineStore('levelTool', () => {
  /** What a drag of a level does: moves it here, pulls a travel out of it, draws its way. */
  const drag = ref<'move' | 'pull' | 'draw'>('move')
  const drawnTiming = useLocalStorage<'even' | 'drawn'>('rubato.drawnTiming', 'even')
  /** A way that is being drawn, px of the lens view. */
  const drawn = shallowRef<readonly { readonly x: number; readonly y: number }[]>([])
  /** So many frames apart the level is seen as it was and will be; 0 for not. */
  const ghostsEvery = useLocalStorage('rubato.levelGhosts', 0)
  /** The next drag draws the line or the outline that copies of the selected level stand along. */
  const laying = ref<'line' | 'region' | null>(null)
  withEachFilm(() => {
    drag.value = 'move'
    drawn.value = []
    laying.value = null
  })
  return { laying, drag, drawnTiming, drawn, ghostsEvery }
})
