import { defineConfig } from '@playwright/test'
import { CHROMIUM_FLAGS } from './scripts/browser.mjs'

export default defineConfig({
  testDir: 'e2e',
  testMatch: '**/*.spec.ts',
  timeout: 90_000,
  expect: { timeout: 15_000 },
  fullyParallel: false,
  workers: 2,
  retries: process.env.CI ? 1 : 0,
  globalSetup: './e2e/setup.ts',
  outputDir: 'test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    browserName: 'chromium',
    testIdAttribute: 'data-test',
    launchOptions: { executablePath: '/usr/bin/chromium', args: CHROMIUM_FLAGS },
    trace: 'off',
  },
})
