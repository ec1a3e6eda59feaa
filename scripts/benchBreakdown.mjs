import { openPage } from './benchPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]

/** The breakdown of 2,000 shots beside that of 100; and how long it takes to work one shot out. */
export async function measureBreakdown({ browser, address, ask, films, hold, size }) {
  const ids = { few: await films.hundred(), many: await films.twoThousand() }
  const worked = {}
  for (const [each, id] of Object.entries(ids)) {
    const begun = performance.now()
    const { missing } = await ask(`/api/projects/${id}/facts`)
    for (let at = 0; at < missing.length; at += 40) await ask(`/api/projects/${id}/facts?ids=${missing.slice(at, at + 40).join(',')}`)
    worked[each] = (performance.now() - begun) / Math.max(1, missing.length)
  }
  hold('breakdown, a shot worked out, 2,000 shots / 100', worked.many / worked.few, 1.5, `${worked.many.toFixed(1)} / ${worked.few.toFixed(1)} ms a shot of 240 frames`)
  // What is to be made stands there in px, and its first picture.
  const shown = (page) => page.waitForFunction(() => /\d × \d/.test(document.querySelector('[data-test=work-table] .rows')?.textContent ?? '') && document.querySelector('[data-test=work-table] .rows canvas[width]') !== null, null, { polling: 50 })
  const open = (id) => openPage(browser, `${address}/film/${id}?view=breakdown`, shown)
  const times = { few: [], many: [] }
  for (let round = 0; round < size(6, 1); round++) {
    for (const each of ['few', 'many']) {
      const { context, ms } = await open(ids[each])
      await context.close()
      if (round >= size(1, 0)) times[each].push(ms)
    }
  }
  hold('breakdown opens, 2,000 shots / 100', median(times.many) / median(times.few), 1.5, `medians of ${times.many.length}: ${median(times.many).toFixed(0)} / ${median(times.few).toFixed(0)} ms, to the first picture`)
  const { page, context } = await open(ids.many)
  await page.waitForTimeout(size(3000, 300))
  await watchTasks(page)
  const box = await page.locator('[data-test=work-table] .rows').first().boundingBox()
  await page.mouse.move(box.x + 300, box.y + 100)
  for (let i = 0; i < size(80, 8); i++) {
    await page.mouse.wheel(0, 500)
    await page.waitForTimeout(60)
  }
  await page.waitForTimeout(size(1000, 200))
  const scrolled = await longest(page)
  hold('breakdown, longest main-thread task while scrolling 6,000 rows, ms', scrolled.most, 200, `${scrolled.count} over 50 ms in 80 steps of the wheel`)
  await context.close()
}
