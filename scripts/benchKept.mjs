import { openBarePage } from './barePage.mjs'
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

/** In the page, before anything of its own: what is sent is counted, and can be kept from being sent. */
function counting() {
  const { fetch } = window
  window.sentBytes = 0
  window.isOffline = false
  window.fetch = (input, init) => {
    if (window.isOffline) return Promise.reject(new TypeError('Failed to fetch'))
    if (/\/(edits|uploads)/.test(String(input))) window.sentBytes += init?.body?.size ?? init?.body?.byteLength ?? 0
    return fetch(input, init)
  }
}

async function offline({ browser, address, ask, hold, size, name, film, before, times }) {
  const page = await openBarePage(browser, `${address}/film/${film}?view=boards`, counting)
  const saving = (text) => page.until((wanted) => document.querySelector('[data-test=save-state]')?.textContent.trim().startsWith(wanted), [text], `“${text}”`, 300_000)
  await page.until(() => document.querySelector('[data-test=panel-card] canvas[width]') !== null, [], 'the boards')
  const shots = async () => Object.keys((await ask(`/api/projects/${film}`)).outline.shots).length
  const settled = async () => {
    let least = size(Infinity, await largestRenderer(browser))
    for (let waited = 0; waited < size(3, 0); waited++) {
      await new Promise((resolve) => setTimeout(resolve, 1500))
      await page.evaluate(() => performance.measureUserAgentSpecificMemory())
      least = Math.min(least, await largestRenderer(browser))
    }
    return least
  }
  const duplicate = () =>
    page.evaluate(() => {
      document.querySelector('[data-test=shot-head]').dispatchEvent(new MouseEvent('mousedown', { bubbles: true, button: 0 }))
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'd', code: 'KeyD', ctrlKey: true, bubbles: true, cancelable: true }))
    })

  for (let made = 0; made < before; made++) {
    const there = await shots()
    await duplicate()
    // A large shot is loaded first.
    for (const until = performance.now() + 180_000; (await shots()) === there; await new Promise((resolve) => setTimeout(resolve, 200))) if (performance.now() > until) throw new Error(`${name}: a shot was not duplicated`)
  }
  await saving('Saved')
  const [count, megabytes] = [await shots(), await settled()]

  await page.evaluate(() => {
    window.sentBytes = 0
    window.isOffline = true
  })
  for (let done = 1; done <= times; done++) {
    await duplicate()
    await saving(`Offline: ${done} change${done === 1 ? '' : 's'} waiting`)
  }
  if ((await shots()) !== count) throw new Error(`${name}: something arrived without a connection`)
  await page.evaluate(() => {
    window.isOffline = false
    window.dispatchEvent(new Event('online'))
  })
  const begun = performance.now()
  await saving('Saved')
  const seconds = (performance.now() - begun) / 1000
  const sentBytes = await page.evaluate(() => window.sentBytes)
  const arrived = (await shots()) - count
  if (arrived !== times) throw new Error(`${name}: ${arrived} of ${times} shots arrived`)
  if (await page.evaluate(() => document.querySelector('[data-test=aside-open]') !== null)) throw new Error(`${name}: something was set aside`)
  const after = await settled()
  hold(`memory of the window after ${name} without a connection, MB more`, after - megabytes, 30, `from ${megabytes.toFixed(0)} to ${after.toFixed(0)} MB; all ${arrived} arrived, ${(sentBytes / 1024 ** 2).toFixed(1)} MB in ${seconds.toFixed(1)} s`)
  await page.close()
}
