import { existsSync } from 'node:fs'
import { chromium } from '@playwright/test'
import { CHROMIUM, CHROMIUM_FLAGS, HEADLESS_CHROMIUM } from './chromiumFlags.mjs'

export { CHROMIUM_FLAGS }

/** `lean`: the one without windows, where it is there, which takes less; what is measured is measured in an artist's own. */
export function launchChromium({ lean = false } = {}) {
  return chromium.launch({ executablePath: lean && existsSync(HEADLESS_CHROMIUM) ? HEADLESS_CHROMIUM : CHROMIUM, args: CHROMIUM_FLAGS })
}
