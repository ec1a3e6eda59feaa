import type { Shown } from '@rubato/core/edits'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { withEachFilm } from './eachFilm'

/** The sheet of exposures: what is chosen in it and how it is written in. Of this window, not of the film. */
export const useSheetStore = defineStore('sheet', () => {
  /** Chosen frames of the selected level, `from` up to but not with `to`; the cursor is at one of their ends. */
  const span = ref<{ from: number; to: number; cursor: number } | null>(null)
  /** How many frames each drawing that is typed lasts. */
  const each = ref<1 | 2 | 3 | 4>(2)
  /** What is being typed; null for nothing. */
  const typed = ref<string | null>(null)
  /** Frames that were copied, with the level that they are of. */
  const copied = shallowRef<{ readonly levelId: string; readonly shown: readonly Shown[] } | null>(null)
  withEachFilm(() => {
    span.value = typed.value = copied.value = null
    each.value = 2
  })
  return { span, each, typed, copied }
})
