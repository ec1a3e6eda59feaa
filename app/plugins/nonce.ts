import { defineNuxtPlugin } from '#imports'

/** Styles that components put into the page carry the nonce that the server gave this answer. */
export default defineNuxtPlugin({
  name: 'nonce',
  enforce: 'post',
  setup(nuxtApp) {
    const nonce = document.querySelector<HTMLElement>('meta[property=csp-nonce]')?.nonce
    const primevue = nuxtApp.vueApp.config.globalProperties.$primevue as { config: { csp?: { nonce?: string } } } | undefined
    if (nonce && primevue !== undefined) primevue.config.csp = { nonce }
  },
})
