import { defineNuxtPlugin } from '#imports'

/**
 * The library takes a choice of a list as it is pressed, and the list is going while the button is still down: what is let go
 * over is whatever lies behind, and a popover around the list took that for a press outside it and closed.
 */
export default defineNuxtPlugin(() => {
  let list: Element | null = null
  const forget = () => (list = null)
  window.addEventListener('pointerdown', ({ target }) => (list = target instanceof Element ? target.closest('.p-select-overlay') : null), true)
  window.addEventListener(
    'click',
    (event) => {
      if (list !== null && !list.contains(event.target as Node)) event.stopImmediatePropagation()
    },
    true,
  )
  // The click comes right after, before any timer; where the list is gone by then, none comes.
  window.addEventListener('pointerup', () => setTimeout(forget), true)
  // It may have been let go of outside the window.
  for (const other of ['pointercancel', 'keydown']) window.addEventListener(other, forget, true)
})
