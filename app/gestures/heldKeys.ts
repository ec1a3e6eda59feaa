import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { isTyping } from '~/commands/command'

/** Whether a letter is being held, with nothing else. */
export function useHeldKey(letter: string) {
  const held = ref(false)
  useEventListener(window, 'keydown', (event) => {
    if (event.key.toLowerCase() === letter && !event.ctrlKey && !event.metaKey && !event.altKey && !event.shiftKey && !isTyping(event.target)) held.value = true
  })
  useEventListener(window, 'keyup', (event) => {
    if (event.key.toLowerCase() === letter) held.value = false
  })
  useEventListener(window, 'blur', () => (held.value = false))
  return held
}
