import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

/** What is being done with what lies under the plan. */
export const useUnderlayStore = defineStore('underlay', () => {
  const pencil = ref(false)
  const bringing = shallowRef<{ readonly share: number; readonly cancel: () => void } | null>(null)
  return { pencil, bringing }
})
