import { makeInkFilm } from './benchDraw.mjs'
import { largestRenderer } from './memory.mjs'

const SHOTS = 200
/** The boards are full, and what is kept of small pictures too. */
const FILLED_SHOTS = 24
/** A shot whose copy is a change of 40 MB; of several the window would not hold all at once. */
const HEAVY_STROKES = 45_000

/** What is done without a connection arrives when it is back, and the window's memory returns to what it was. */
export async function measureKept({ browser, address, ask, films, hold, size }) {
  await offline({ browser, address, ask, hold, size, name: `${size(SHOTS, 3)} shots duplicated one by one`, film: await films.demo(), before: size(FILLED_SHOTS, 1), times: size(SHOTS, 3) })
  const heavy = await makeInkFilm(address, size(HEAVY_STROKES, 50))
  await offline({ browser, address, ask, hold, size, name: 'one change of 40 MB', film: heavy, before: 1, times: 1 })
}

async function offline({ browser, address, ask, hold, size, name, film, before, times }) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  // The browser's own record of requests has not all bodies.
  await page.addInitScript(() => {
    const { fetch } = window
    window.sentBytes = 0
    window.fetch = (input, init) => {
      if (/\/(edits|uploads)/.test(String(input))) window.sentBytes += init?.body?.size ?? init?.body?.byteLength ?? 0
      return fetch(input, init)
    }
  })
  await page.goto(`${address}/film/${film}?view=boards`)
  await page.waitForSelector('[data-test=panel-card] canvas[width]')
  const head = page.locator('[data-test=shot-head]')
  const saved = page.locator('[data-test=save-state]', { hasText: /^Saved/ })
  const waiting = (count) => page.locator('[data-test=save-state]', { hasText: `Offline: ${count} change${count === 1 ? '' : 's'} waiting` }).waitFor({ timeout: 120_000 })
  const shots = async () => Object.keys((await ask(`/api/projects/${film}`)).outline.shots).length
  const settled = async () => {
    let least = Infinity
    for (let waited = 0; waited < size(3, 1); waited++) {
      await page.waitForTimeout(1500)
      await page.evaluate(() => performance.measureUserAgentSpecificMemory())
      least = Math.min(least, await largestRenderer(browser))
    }
    return least
  }
  const duplicate = () => page.keyboard.press('Control+d')

  for (let made = 0; made < before; made++) {
    const there = await shots()
    await head.first().click()
    await duplicate()
    // A large shot is loaded first.
    for (const until = performance.now() + 180_000; (await shots()) === there; await page.waitForTimeout(200)) if (performance.now() > until) throw new Error(`${name}: a shot was not duplicated`)
  }
  await saved.waitFor({ timeout: 120_000 })
  const [count, megabytes] = [await shots(), await settled()]

  await page.evaluate(() => (window.sentBytes = 0))
  await context.setOffline(true)
  for (let done = 1; done <= times; done++) {
    await head.first().click()
    await duplicate()
    await waiting(done)
  }
  if ((await shots()) !== count) throw new Error(`${name}: something arrived without a connection`)
  await context.setOffline(false)
  const begun = performance.now()
  await saved.waitFor({ timeout: 300_000 })
  const seconds = (performance.now() - begun) / 1000
  const sentBytes = await page.evaluate(() => window.sentBytes)
  const arrived = (await shots()) - count
  if (arrived !== times) throw new Error(`${name}: ${arrived} of ${times} shots arrived`)
  if ((await page.locator('[data-test=aside-open]').count()) > 0) throw new Error(`${name}: something was set aside`)
  const after = await settled()
  hold(`memory of the window after ${name} without a connection, MB more`, after - megabytes, 30, `from ${megabytes.toFixed(0)} to ${after.toFixed(0)} MB; all ${arrived} arrived, ${(sentBytes / 1024 ** 2).toFixed(1)} MB in ${seconds.toFixed(1)} s`)
  await context.close()
}
