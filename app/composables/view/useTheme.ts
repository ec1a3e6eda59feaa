import { usePreferredDark, useLocalStorage } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

export type ThemeChoice = 'system' | 'day' | 'night'

/** Day or night desk: the system's, or the artist's own choice. */
export function useTheme() {
  const choice = useLocalStorage<ThemeChoice>('rubato.theme', 'system')
  const systemNight = usePreferredDark()
  const night = computed(() => choice.value === 'night' || (choice.value === 'system' && systemNight.value))
  watchEffect(() => document.documentElement.classList.toggle('night', night.value))
  return { choice, night }
}
