import { chromium } from '@playwright/test'
import { CHROMIUM, CHROMIUM_FLAGS } from './chromiumFlags.mjs'

export { CHROMIUM_FLAGS }

export function launchChromium() {
  return chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_FLAGS })
}
