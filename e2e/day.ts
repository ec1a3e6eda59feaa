import type { Browser, Page } from '@playwright/test'
import { goOn, setWays } from '../scripts/inPage.mjs'

/** Tests that one page serves, one after another, before it is let go. */
const TESTS = 40
/** What these change outlasts a test, so its page serves no other. */
const LASTING = ['route', 'addInitScript', 'setViewportSize', 'emulateMedia', 'exposeFunction', 'exposeBinding'] as const
const LISTENED = ['download', 'response', 'request', 'framenavigated', 'pageerror', 'console', 'dialog', 'filechooser'] as const

type Ways = Readonly<Record<string, string>>

/** Pages that stand in the application with nothing of a test in them, and may go on as by a link. */
const resting = new WeakSet<Page>()

/** Goes to an address of the application: within it where the page rests there, else by loading it. */
export async function arrive(page: Page, address: string) {
  // To the film that is open already there is no link.
  if (!resting.delete(page) || new URL(page.url()).pathname === new URL(address).pathname) return void (await page.goto(address))
  await goOn(page, address)
}

const readWays = (page: Page): Promise<Ways> => page.evaluate(() => ({ ...localStorage }))

/** An artist's ways, set before a film is opened. */
export const keepWays = (page: Page, ways: Readonly<Record<string, unknown>>) =>
  setWays(page, Object.fromEntries(Object.entries(ways).map(([key, value]) => [key, typeof value === 'string' ? value : JSON.stringify(value)])))

/** A page in which film after film is opened, as in an artist's day. */
export class Day {
  readonly #browser: Browser
  readonly #origin: string
  #page: Page | null = null
  #tests = 0
  /** The usual ways: what a browser that never saw the application keeps when all views were looked at. */
  #usual: Ways = {}

  constructor(browser: Browser, origin: string) {
    this.#browser = browser
    this.#origin = origin
  }

  /** Looks at every view once, so that the usual of each is known. */
  async learn(films: readonly string[], views: readonly string[]) {
    const page = await this.page()
    for (const [i, view] of views.entries()) {
      await arrive(page, `${this.#origin}/film/${films[i % films.length]!}?view=${view}`)
      await page.locator(`.${view}`).waitFor()
      await page.getByTestId('save-state').waitFor()
      resting.add(page)
    }
    this.#usual = await readWays(page)
  }

  async page(): Promise<Page> {
    if (this.#page !== null) return this.#page
    const context = await this.#browser.newContext({ viewport: { width: 1280, height: 800 } })
    const page = await context.newPage()
    const spend = () => (this.#tests = TESTS)
    for (const name of LASTING) {
      const own = page[name] as (...args: unknown[]) => Promise<never>
      Object.assign(page, { [name]: (...args: unknown[]) => (spend(), own.apply(page, args)) })
    }
    const goto = page.goto.bind(page)
    page.goto = (...args) => (resting.delete(page), goto(...args))
    context.on('page', (other) => void other.on('pageerror', spend))
    await page.goto(`${this.#origin}/work`)
    await page.getByRole('status').waitFor()
    this.#tests = 0
    resting.add(page)
    return (this.#page = page)
  }

  /** Clears a test away; a page that can't be made as before is let go. */
  async rest(passed: boolean) {
    const page = this.#page
    if (page === null) return
    this.#tests += 1
    if (!passed || this.#tests >= TESTS || page.isClosed() || new URL(page.url()).origin !== this.#origin) return this.end()
    try {
      for (const other of page.context().pages()) if (other !== page) await other.close()
      for (const event of LISTENED) page.removeAllListeners(event)
      await page.mouse.move(0, 0)
      if (!(await page.evaluate(() => 'useNuxtApp' in window)) || !(await this.#asUsual(page))) return await this.end()
      resting.add(page)
    } catch {
      await this.end()
    }
  }

  /** Sets the artist's ways back. False: something was kept whose usual value is not known. */
  async #asUsual(page: Page) {
    const kept = Object.entries(await readWays(page)).filter(([key]) => key.startsWith('rubato.') && !(key in this.#usual))
    // What is no object is as it was once it is gone; an object may have been changed in place.
    if (kept.some(([, value]) => /^[[{]/.test(value))) return false
    await setWays(page, { ...this.#usual, ...Object.fromEntries(kept.map(([key]) => [key, null])) })
    return true
  }

  async end() {
    const page = this.#page
    this.#page = null
    await page?.context().close()
  }
}
