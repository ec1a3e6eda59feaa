import type {} from '@nuxt/nitro-server'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { rubatoTheme } from './app/theme'
import { workerFiles } from './scripts/workers.mjs'
import { contentPolicy, SECURITY_HEADERS } from './server/edge/headers'

// Named one by one, or the development server finds them one by one and reloads each time.
const icons = [...readFileSync(new URL('app/icons/index.ts', import.meta.url), 'utf8').matchAll(/'(lucide-vue-next[^']+)'/g)].map((found) => found[1]!)

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  buildDir: process.env.RUBATO_BUILD_DIR ?? '.nuxt',
  telemetry: false,
  // Nothing reads them, and they are a tenth of a build.
  sourcemap: { server: false },
  devtools: { enabled: false },
  experimental: { viteEnvironmentApi: true, appManifest: false },
  modules: ['@pinia/nuxt', '@primevue/nuxt-module'],
  // Only what is used: with all of them come the styles of all, and their `:has()` rules are looked at with every change of the page.
  primevue: { components: { include: ['Column', 'DataTable', 'Dialog', 'InputText', 'Menu', 'Popover', 'ProgressBar', 'Select', 'Toast'] }, directives: { include: [] }, importPT: { as: 'dialogFocus', from: '~/dialogFocus' }, options: { theme: { preset: rubatoTheme, options: { darkModeSelector: '.night', cssLayer: false } } } },
  css: ['~/styles/fonts.css', '~/styles/main.css'],
  // What a file uses it imports: nothing comes by its name alone.
  components: { dirs: [] },
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
  // Files are answered before any middleware; the middleware and the page's own policy come after and win.
  routeRules: { '/**': { headers: { ...SECURITY_HEADERS, 'Content-Security-Policy': contentPolicy(null) } } },
  hooks: {
    // What opens files is a program of its own beside the server.
    'nitro:init': (nitro) => {
      nitro.hooks.hook('compiled', async () => {
        if (nitro.options.dev) return
        const { bundleFileJob } = await import('./scripts/bundle.mjs')
        await bundleFileJob(join(nitro.options.output.serverDir, 'jobs', 'fileJob.mjs'))
      })
    },
  },
  nitro: { externals: { inline: [join(import.meta.dirname, 'scripts')], traceInclude: ['./node_modules/sharp/dist/index.mjs'], external: ['playwright-core'] }, preset: 'node-server', compressPublicAssets: { gzip: true, brotli: false }, errorHandler: '~~/server/error', imports: { autoImport: false }, typescript: { strict: true } },
  vite: {
    server: { headers: SECURITY_HEADERS },
    worker: { format: 'es' },
    plugins: [workerFiles('/_nuxt/')],
    optimizeDeps: { include: ['d3-contour', 'fast-deep-equal', 'three', 'zod', 'perfect-freehand', 'fflate', 'mediabunny', 'splitpanes', '@vueuse/core', ...icons] },
    build: { chunkSizeWarningLimit: 1500 },
  },
  typescript: {
    strict: true,
    tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true }, include: ['../shared/**/*', '../demo/**/*'] },
  },
})
