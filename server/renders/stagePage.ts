import type { Browser, BrowserContext, Page } from 'playwright-core'
import type { PageJob } from '#shared/renders'
import { CHROMIUM, CHROMIUM_FLAGS } from '../../scripts/chromiumFlags.mjs'
import { COOKIE, makePass } from '../edge/access'

const READY_MS = 60_000

/** Rubato's own page in a Chromium of this worker, that paints what it is given to. Kept warm between jobs. */
export interface StagePage {
  /** Done when all has been handed in. A page that fails, or is left, is replaced by another for the next job. */
  run(job: PageJob, signal: AbortSignal): Promise<void>
  close(): Promise<void>
}

export function createStagePage(address: string, secret: string): StagePage {
  let browser: Browser | null = null
  let page: Page | null = null

  async function ready(): Promise<Page> {
    if (page !== null && !page.isClosed()) return page
    if (browser?.isConnected() !== true) {
      // Only workers need it, and it is large.
      const { chromium } = await import('playwright-core')
      browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_FLAGS }).catch((error: Error) => {
        throw new Error(/ENOENT|doesn't exist|not exist/.test(error.message) ? 'Chromium is not installed where this worker runs. Install Debian’s package chromium, then try again.' : `Chromium did not start: ${error.message.split('\n')[0]}`)
      })
    }
    const context: BrowserContext = await browser.newContext()
    await context.addCookies([{ name: COOKIE, value: makePass(secret), url: address }])
    const made = await context.newPage()
    await made.goto(`${address}/work`, { timeout: READY_MS })
    await made.waitForFunction(() => 'rubatoWork' in globalThis, null, { timeout: READY_MS })
    return (page = made)
  }

  async function leave() {
    const left = page
    page = null
    await left?.context().close().catch(() => undefined)
  }

  return {
    async run(job, signal) {
      signal.throwIfAborted()
      const at = await ready()
      let gone = (_: Error) => {}
      const broke = new Promise<never>((_, reject) => (gone = reject))
      const crashed = () => gone(new Error('The page that paints ran out of memory, or broke off.'))
      const aborted = () => gone(signal.reason as Error)
      at.once('crash', crashed)
      at.once('close', crashed)
      signal.addEventListener('abort', aborted, { once: true })
      try {
        const done = at.evaluate((asked) => (globalThis as unknown as { rubatoWork(job: PageJob): Promise<string | null> }).rubatoWork(asked), job)
        done.catch(() => undefined)
        const why = await Promise.race([done, broke])
        if (why !== null) throw new Error(why)
      } catch (error) {
        at.off('close', crashed)
        await leave()
        throw error
      } finally {
        at.off('crash', crashed)
        at.off('close', crashed)
        signal.removeEventListener('abort', aborted)
      }
    },
    async close() {
      const left = browser
      page = null
      browser = null
      await left?.close().catch(() => undefined)
    },
  }
}
