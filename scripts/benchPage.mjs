import { size, SMALL } from './benchSize.mjs'
import { goOn, setWays } from './inPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const MOST_ROUNDS = 3

/**
 * The best of up to three rounds, the first that holds ending it: a machine shared with others is taken away for seconds at
 * a time, which no page can do anything about. All rounds are told.
 */
export async function bestOf(limit, round) {
  const rounds = []
  while (rounds.length < MOST_ROUNDS) {
    rounds.push(await round())
    if (rounds.at(-1).value <= limit) break
  }
  const best = [...rounds].sort((a, b) => a.value - b.value)[0]
  return { ...best, told: rounds.length === 1 ? '' : `; rounds ${rounds.map((each) => Number(each.value.toFixed(1))).join(', ')}` }
}

/** What a small run goes on in, from film to film as by links: nothing is timed then, and loading the application would be most of it. */
let shared = null
/** After something went wrong in it. */
export const leaveShared = () => (shared = null)

/** The Desk of a film in a window of its own; in a small run in the one that all share. */
export const openDesk = (browser, url, kept = {}) => openPage(browser, url, deskShown, kept)

/**
 * A page of the application in a window of its own, with the ways that were `kept`, and how long it was until what `shown`
 * waits for was there; in a small run in the window that all share.
 */
export async function openPage(browser, url, shown, kept = {}) {
  const shares = SMALL && shared?.busy !== true && shared?.page.isClosed() !== true
  const { page, context, go } = shares ? await sharedWindow(browser, url, kept) : await windowAlone(browser, kept)
  const begun = performance.now()
  await go(url)
  await shown(page)
  return { page, context, ms: performance.now() - begun }
}

async function sharedWindow(browser, url, kept) {
  shared ??= { ...(await atRest(browser, new URL(url).origin)), kept: {} }
  const { page, context, kept: before } = shared
  Object.assign(shared, { kept, busy: true })
  await setWays(page, { ...Object.fromEntries(Object.keys(before).map((key) => [key, null])), ...kept })
  return {
    page,
    async go(to) {
      await goOn(page, to)
      await page.waitForURL((now) => now.pathname === new URL(to).pathname)
    },
    // Parts close what they opened; this stays open for the next.
    context: Object.assign(Object.create(context), {
      async close() {
        for (const other of context.pages()) if (other !== page) await other.close()
        // No film goes on behind the next part: its frames would be finished to the last.
        await goOn(page, `${new URL(page.url()).origin}/work`)
        await page.waitForURL('**/work')
        if (shared !== null) shared.busy = false
      },
    }),
  }
}

const deskShown = async (page) => {
  await page.waitForSelector('[data-test=strip]')
  await page.waitForFunction(() => document.querySelectorAll('[data-level]').length > 0)
}

/** A window that stands in the application with no film. */
async function atRest(browser, origin) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })
  const page = await context.newPage()
  await page.goto(`${origin}/work`)
  await page.getByRole('status').waitFor()
  return { context, page }
}

async function windowAlone(browser, kept) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })
  await context.addInitScript((values) => Object.entries(values).forEach(([key, value]) => localStorage.setItem(key, value)), kept)
  const page = await context.newPage()
  return { context, page, go: (url) => page.goto(url, { waitUntil: 'commit' }) }
}

/** The longest task while the wheel zooms the strip from a shot to the whole film, and back and out again. */
export async function zoomTasks(page, steps = 45) {
  await watchTasks(page)
  const box = await page.locator('[data-test=strip]').boundingBox()
  await page.mouse.move(box.x + box.width / 2, box.y + 90)
  await page.keyboard.down('Control')
  for (const way of [1, -1, 1]) {
    for (let i = 0; i < steps; i++) {
      await page.mouse.wheel(0, way * 120)
      await page.waitForTimeout(25)
    }
  }
  await page.keyboard.up('Control')
  await page.waitForTimeout(size(2500, 100))
  const { most, count } = await longest(page)
  return { value: most, count }
}

/** The longest task while the film plays from its start, and what the meter says of it. */
export async function playTasks(page, ms = 25_000) {
  await page.keyboard.press('Control+Home')
  await page.waitForTimeout(size(2000, 200))
  await watchTasks(page)
  await page.keyboard.press('Space')
  await page.waitForTimeout(ms)
  await page.keyboard.press('Space')
  const { most, count } = await longest(page)
  return { value: most, count, title: await page.locator('[data-test=meter]').getAttribute('title') }
}

/** Long enough for all of the demo's frames to be finished. */
const MADE_WITHIN_MS = 120_000

/** What the Desk says of its finished frames. */
export async function cacheState(page) {
  await page.getByRole('button', { name: 'timecode' }).click()
  const text = await page.locator('[data-test=cache-state]').innerText()
  await page.keyboard.press('Escape')
  return text
}

/** Waits until no more frames are being finished: what is measured then is not their work, and not their memory. */
export async function framesMade(page) {
  if (SMALL) return void (await cacheState(page))
  for (let waited = 0; waited < MADE_WITHIN_MS; waited += 1000) {
    await page.waitForTimeout(1000)
    if (!(await cacheState(page)).includes('making')) return
  }
}

/** A film, opened: how long until its first picture is drawn. */
export const firstPicture = (browser, url) => openPage(browser, url, (page) => page.waitForSelector('[data-test=lens-host][data-resampling]', { state: 'attached' }))
