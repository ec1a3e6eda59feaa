import vue from '@vitejs/plugin-vue'
import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url))
const alias = { '~~': at('.'), '~': at('app'), '#shared': at('shared') }

const unit = { setupFiles: ['core/laws.ts'], testTimeout: 60_000 }
/** They add kinds of their own to the application's tables. */
const MADE_UP = ['core/**/madeUp*.test.ts']
/** What puts something in the place of a module, the clock or the browser's own needs modules of its own. */
const STANDS_IN = /\bvi\.|\bglobalThis\b/
const ofApp = readdirSync(at('app'), { recursive: true, encoding: 'utf8' }).flatMap((name) => (name.endsWith('.test.ts') ? [`app/${name.replaceAll('\\', '/')}`] : []))
const apart = ofApp.filter((path) => STANDS_IN.test(readFileSync(at(path), 'utf8')))

export default defineConfig({
  test: {
    // One of two cores would be idle otherwise.
    maxWorkers: '100%',
    projects: [
      {
        plugins: [vue()],
        resolve: { alias },
        // Nothing here leaves anything behind, so what one file has read in the next need not read again.
        test: { ...unit, name: 'unit', isolate: false, include: ['core/**/*.test.ts', 'demo/**/*.test.ts', 'shared/**/*.test.ts', 'scripts/**/*.test.ts', 'server/edge/**/*.test.ts', 'server/services/**/*.test.ts', ...ofApp], exclude: [...MADE_UP, ...apart] },
      },
      {
        plugins: [vue()],
        resolve: { alias },
        test: { ...unit, name: 'unit-apart', include: [...apart, ...MADE_UP] },
      },
      {
        resolve: { alias },
        test: {
          name: 'server',
          include: ['server/test/**/*.test.ts', ...(process.env.RUBATO_HOSTILE ? ['server/hostile/**/*.test.ts'] : [])],
          // They wait for servers, databases and files: a slow machine is no fault.
          testTimeout: 180_000,
          hookTimeout: 180_000,
          expect: { poll: { timeout: 30_000 } },
        },
      },
    ],
  },
})
