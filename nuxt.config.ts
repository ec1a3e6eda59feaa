import type {} from '@nuxt/nitro-server'
import { readFileSync } from 'node:fs'
import { rubatoTheme } from './app/theme'

// Named one by one, or the development server finds them one by one and reloads each time.
const icons = [...readFileSync(new URL('app/icons/index.ts', import.meta.url), 'utf8').matchAll(/'(lucide-vue-next[^']+)'/g)].map((found) => found[1]!)

const headers = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'no-referrer',
}
const contentPolicy = [
  "default-src 'self'",
  "script-src 'self' 'unsafe-inline'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' blob: data:",
  "font-src 'self' data:",
  "connect-src 'self' blob:",
  "worker-src 'self' blob:",
  "object-src 'none'",
  "base-uri 'self'",
  "frame-ancestors 'none'",
].join('; ')

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  experimental: { viteEnvironmentApi: true, appManifest: false },
  modules: ['@pinia/nuxt', '@primevue/nuxt-module'],
  primevue: { options: { theme: { preset: rubatoTheme, options: { darkModeSelector: '.night', cssLayer: false } } } },
  css: ['~/styles/fonts.css', '~/styles/main.css'],
  components: [{ path: '~/components', pathPrefix: false }],
  imports: { autoImport: false },
  build: { transpile: ['@rubato/core'] },
  app: {
    head: {
      title: 'Rubato',
      htmlAttrs: { lang: 'en' },
      meta: [
        { name: 'viewport', content: 'width=device-width, initial-scale=1' },
        { name: 'description', content: 'Storyboards timed into animatics, with real camera moves over levels set in depth.' },
      ],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
    },
  },
  routeRules: { '/**': { headers: { ...headers, 'Content-Security-Policy': contentPolicy } } },
  nitro: { preset: 'node-server', imports: { autoImport: false }, typescript: { strict: true } },
  vite: {
    server: { headers },
    worker: { format: 'es' },
    optimizeDeps: { include: ['three', 'zod', 'perfect-freehand', 'fflate', 'mediabunny', 'splitpanes', 'bezier-easing', '@vueuse/core', ...icons] },
    build: { chunkSizeWarningLimit: 1500 },
  },
  typescript: {
    strict: true,
    tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true }, include: ['../shared/**/*', '../demo/**/*'] },
  },
})
