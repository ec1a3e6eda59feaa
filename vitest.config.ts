import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url))
const alias = { '~~': at('.'), '~': at('app'), '#shared': at('shared') }

const unit = { setupFiles: ['core/laws.ts'], testTimeout: 60_000 }
/** They add kinds of their own to the application's tables. */
const MADE_UP = ['core/**/madeUp*.test.ts']

export default defineConfig({
  test: {
    // One of two cores would be idle otherwise.
    maxWorkers: '100%',
    projects: [
      {
        resolve: { alias },
        // Nothing here leaves anything behind, so what one file has read in the next need not read again.
        test: { ...unit, name: 'unit', isolate: false, include: ['core/**/*.test.ts', 'demo/**/*.test.ts', 'shared/**/*.test.ts', 'scripts/**/*.test.ts', 'server/edge/**/*.test.ts', 'server/services/**/*.test.ts'], exclude: MADE_UP },
      },
      {
        plugins: [vue()],
        resolve: { alias },
        test: { ...unit, name: 'unit-apart', include: ['app/**/*.test.ts', ...MADE_UP] },
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
