import { bestOf, framesMade, openDesk } from './benchPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const PLAYED_MS = 60_000
const LEVELS = 12
const FPS = 24
/** The second window finishes its frames in the same time, or a little more. */
const SECOND_MADE_MS = 20_000
const views = (beside, third) => JSON.stringify({ beside, third, alone: null })

/** The demo's shot 040, with copies of its levels until there are twelve. Nothing of it is kept: each drag is taken back. */
async function openTwelve(browser, address, films, size, beside, third) {
  const { page, context } = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk&shot=040`, { 'rubato.views': views(beside, third) })
  const count = () => page.locator('[data-level]').count()
  while ((await count()) < LEVELS) {
    const before = await count()
    await page.locator('[data-level] b', { hasText: 'Brisket' }).first().click()
    await page.keyboard.press('Control+d')
    await page.waitForFunction((n) => document.querySelectorAll('[data-level]').length > n, before)
  }
  await page.keyboard.press('PageDown')
  await page.waitForTimeout(size(2500, 300))
  return { page, context }
}

/** Dragging in the views of the set. */
export async function measureDragging({ browser, address, films, hold, size }) {
  const pairs = [['plan', 'table'], ['side', 'around'], ['curves', 'table']]
  for (const [beside, third] of size(pairs, pairs.slice(0, 1))) {
    const { page, context } = await openTwelve(browser, address, films, size, beside, third)
    const places = { lens: '[data-test=lens-host]', [beside]: `[data-test=${beside}]`, [third]: `[data-test=${third}]` }
    for (const [name, selector] of Object.entries(places)) {
      if (name === 'table' && beside === 'curves') continue
      const dragged = await bestOf(size(50, Infinity), async () => {
        const box = await page.locator(selector).boundingBox()
        const from = name === 'plan' || name === 'side' ? await cameraAt(page, name, box) : name === 'curves' ? { x: box.x + box.width * 0.3, y: box.y + box.height * 0.5 } : { x: box.x + box.width / 2, y: box.y + box.height / 2 }
        await watchTasks(page)
        await page.mouse.move(from.x, from.y)
        await page.mouse.down()
        for (let i = 1; i <= size(90, 12); i++) {
          await page.mouse.move(from.x + 70 * Math.sin(i / 12), from.y + 25 * Math.sin(i / 7))
          await page.waitForTimeout(16)
        }
        await page.keyboard.press('Escape')
        await page.mouse.up()
        await page.keyboard.press('Escape')
        await page.waitForTimeout(size(700, 100))
        const { most, count } = await longest(page)
        return { value: most, count }
      })
      hold(`longest main-thread task while dragging in the ${name === 'lens' ? 'lens view' : name}, ${beside} and ${third} open, 12 levels, ms`, dragged.value, 50, `${dragged.count} over 50 ms in 90 steps${dragged.told}`)
    }
    await context.close()
  }
}

/** Where the drawn camera is: its knob or body is found by the pointer's cursor. */
async function cameraAt(page, name, box) {
  const middle = box.x + box.width / 2
  // From the middle out: the plan has it there.
  for (let aside = 0; aside < box.width / 2 - 8; aside = aside > 0 ? -aside : 8 - aside) {
    for (let y = box.y + box.height - 8; y > box.y; y -= 6) {
      const x = middle + aside
      await page.mouse.move(x, y)
      const cursor = await page.locator(`[data-test=${name}]`).evaluate((canvas) => canvas.parentElement.style.cursor)
      if (cursor === 'grab') return { x, y }
    }
  }
  throw new Error(`${name}: no camera found`)
}

export async function measureSecondWindow({ browser, address, films, hold, size }) {
  for (const kind of size(['lens', 'table'], ['lens'])) {
    const best = await bestOf(size(1, Infinity), async () => {
      const { page, context } = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk&shot=040`, { 'rubato.loop': 'film', 'rubato.secondView': kind, 'rubato.views': views('plan', null) })
      const opened = context.waitForEvent('page')
      await page.getByRole('button', { name: 'Second window' }).click()
      const second = await opened
      await second.waitForSelector(`[data-test=${kind === 'lens' ? 'lens-host' : 'table'}] canvas`)
      await page.keyboard.press('Control+Home')
      if (size(true, false)) {
        await framesMade(page)
        await page.waitForTimeout(SECOND_MADE_MS)
      }
      for (const [each, selector] of [[page, '[data-test=lens-host]'], [second, kind === 'lens' ? '[data-test=lens-host]' : '[data-test=table]']]) {
        await each.evaluate((chosen) => {
          const log = (window.shownLog = [])
          const host = document.querySelector(chosen)
          new MutationObserver(() => log.push([performance.timeOrigin + performance.now(), Number(host.dataset.frame)])).observe(host, { attributeFilter: ['data-frame'] })
        }, selector)
      }
      await page.keyboard.press('Space')
      await page.waitForTimeout(size(PLAYED_MS, 1500))
      await page.keyboard.press('Space')
      const [first, other] = await Promise.all([page, second].map((each) => each.evaluate(() => window.shownLog)))
      await context.close()
      return apart(first, other)
    })
    hold(`second window to the first for a minute, ${kind}, frames' time apart at most`, best.value, 1, `${best.detail}${best.told}`)
  }
}

/** Four cameras of one shot playing side by side, each at a quarter of the view: what is dropped once the art is there. */
export async function measureWall({ browser, address, films, hold, size }) {
  const best = await bestOf(size(0, Infinity), async () => {
    const { page, context } = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk&shot=060`, { 'rubato.loop': 'shot', 'rubato.views': JSON.stringify({ beside: 'wall', third: null, alone: 'beside' }) })
    const pictures = page.locator('[data-test=wall] canvas')
    for (const key of ['Alt+Shift+N', 'Alt+Shift+N']) {
      await page.locator('body').press(key)
      await page.waitForTimeout(500)
    }
    await page.waitForFunction(() => document.querySelectorAll('[data-test=wall] [data-frame]').length === 4)
    const play = async (ms) => {
      await page.keyboard.press('Space')
      await page.waitForTimeout(ms)
      await page.keyboard.press('Space')
      return page.locator('[data-test=meter]').innerText()
    }
    await play(size(8000, 500))
    const told = await play(size(20_000, 500))
    const box = await pictures.first().boundingBox()
    await context.close()
    return { value: Number(/^(\d+) dropped/.exec(told)[1]), detail: `${told}; each ${Math.round(box.width)} px wide` }
  })
  hold('frames dropped in 20 s of four cameras side by side', best.value, 0, `${best.detail}${best.told}`)
}

/** How long after (or before) the first window the second shows each frame that the first shows, in frames of its time. */
function apart(first, other) {
  const length = Math.max(...first.map(([, frame]) => frame)) + 1
  /** Frames counted on through the loop's seams; one that is drawn again, as the last when playback stops, is not a new one. */
  const unrolled = (log) => {
    let turns = 0
    return log
      .filter(([, frame], i) => i === 0 || frame !== log[i - 1][1])
      .map(([at, frame], i, shown) => {
        if (i > 0 && frame < shown[i - 1][1] - length / 2) turns++
        return [at, frame + turns * length]
      })
  }
  const [one, two] = [unrolled(first), unrolled(other)]
  const lags = []
  let from = 0
  for (const [at, frame] of one) {
    while (from < two.length && two[from][1] < frame) from++
    if (from === two.length) break
    lags.push((Math.abs(two[from][0] - at) / 1000) * FPS)
  }
  const settled = lags.slice(2).sort((a, b) => a - b)
  const part = (share) => settled[Math.floor((settled.length - 1) * share)].toFixed(2)
  return { value: settled.at(-1), detail: `${first.length} and ${other.length} frames shown; half within ${part(0.5)}, 99 of 100 within ${part(0.99)}; ${settled.filter((lag) => lag > 1).length} of ${settled.length} more than one` }
}
