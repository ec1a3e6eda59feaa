import { defineConfig } from '@playwright/test'
import { existsSync } from 'node:fs'
import { CHROMIUM, CHROMIUM_FLAGS, HEADLESS_CHROMIUM } from './scripts/chromiumFlags.mjs'

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
    launchOptions: { executablePath: existsSync(HEADLESS_CHROMIUM) ? HEADLESS_CHROMIUM : CHROMIUM, args: CHROMIUM_FLAGS },
    trace: 'off',
  },
})
