import type { Browser } from '@playwright/test'

export declare const CHROMIUM_FLAGS: string[]
export declare function launchChromium(): Promise<Browser>
