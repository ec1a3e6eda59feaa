import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url))
const alias = { '~~': at('.'), '~': at('app'), '#shared': at('shared') }

export default defineConfig({
  test: {
    projects: [
      {
        plugins: [vue()],
        resolve: { alias },
        test: { name: 'unit', setupFiles: ['core/laws.ts'], include: ['core/**/*.test.ts', 'app/**/*.test.ts', 'demo/**/*.test.ts', 'shared/**/*.test.ts', 'scripts/**/*.test.ts', 'server/edge/**/*.test.ts', 'server/services/**/*.test.ts'], testTimeout: 60_000 },
      },
      {
        resolve: { alias },
        test: {
          name: 'server',
          include: ['server/test/**/*.test.ts', ...(process.env.RUBATO_HOSTILE ? ['server/hostile/**/*.test.ts'] : [])],
          fileParallelism: false,
          // They wait for servers, databases and files: a slow machine is no fault.
          testTimeout: 180_000,
          hookTimeout: 180_000,
          expect: { poll: { timeout: 30_000 } },
        },
      },
    ],
  },
})
