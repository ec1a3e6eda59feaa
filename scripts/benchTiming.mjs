import { bestOf, cacheState, framesMade, openDesk, playTasks, zoomTasks } from './benchPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
const STEPS = 80
const PLAYED_MS = 60_000
const BUDGET_MB = 256

/** A place on the strip by the film's frame. */
async function place(page, frame, y) {
  const pane = page.locator('[data-test=strip]')
  const box = await pane.boundingBox()
  const [scale, first] = await pane.evaluate((element) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
  return { x: box.x + (frame - first) * scale, y: box.y + y }
}

/** The main thread's own time for each step of a drag, ms: all its tasks, from a trace. */
async function dragSteps(browser, page, from, to, steps) {
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(from.x + 8, from.y)
  await browser.startTracing(page, { categories: ['devtools.timeline', 'toplevel'] })
  for (let i = 1; i <= steps; i++) {
    await page.mouse.move(from.x + ((to.x - from.x) * i) / steps, from.y)
    await page.waitForTimeout(16)
  }
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString())
  await page.keyboard.press('Escape')
  await page.mouse.up()
  const moves = traceEvents.filter((event) => event.name === 'EventDispatch' && event.args.data.type === 'pointermove')
  const main = moves[0]
  const tasks = traceEvents.filter((event) => event.pid === main.pid && event.tid === main.tid && event.dur !== undefined && event.name === (traceEvents.some((each) => each.name === 'RunTask' && each.tid === main.tid) ? 'RunTask' : 'ThreadControllerImpl::RunTask'))
  return tasks.reduce((sum, task) => sum + (task.tdur ?? task.dur), 0) / 1000 / moves.length
}

/** The strip on a long film. */
export async function measureStrip({ browser, address, films, hold, size }) {
  const enough = size(50, Infinity)
  const pages = {}
  for (const each of ['small', 'large']) {
    const { page, context } = await openDesk(browser, `${address}/film/${await films[each]()}?view=desk`)
    // The third shot across the strip, as one would work on it.
    for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+PageDown')
    await page.keyboard.press('z')
    await page.waitForTimeout(size(6000, 800))
    pages[each] = { page, context }
  }
  const steps = { small: [], large: [] }
  for (const mode of ['Push', 'Steal']) {
    for (let round = 0; round < size(4, 1); round++) {
      for (const each of ['small', 'large']) {
        const { page } = pages[each]
        await page.bringToFront()
        await page.getByRole('radio', { name: mode }).click()
        const ms = await dragSteps(browser, page, await place(page, 480 + 72, 90), await place(page, 480 + 72 + 20, 90), size(STEPS, 6))
        if (round >= size(1, 0)) steps[each].push(ms)
      }
    }
  }
  hold('strip, a step of dragging an edge, 1,000-shot film / 10-shot film', median(steps.large) / median(steps.small), 1.5, `the main thread’s own time, ${median(steps.large).toFixed(2)} / ${median(steps.small).toFixed(2)} ms; medians of six drags of ${STEPS} steps, Push and Steal`)
  await pages.small.context.close()

  const { page, context } = pages.large
  await page.bringToFront()
  await watchTasks(page)
  for (const mode of ['Push', 'Steal']) {
    await page.getByRole('radio', { name: mode }).click()
    const [from, to] = [await place(page, 480 + 72, 90), await place(page, 480 + 72 + 20, 90)]
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: size(60, 6) })
    await page.mouse.up()
    await page.waitForTimeout(size(800, 200))
    await page.keyboard.press('Control+z')
    await page.waitForTimeout(size(800, 200))
  }
  const dragged = await longest(page)
  hold('strip, longest main-thread task while dragging edges of a 1,000-shot film, ms', dragged.most, 50, `${dragged.count} over 50 ms, two drags of 60 steps and their undo`)

  const zoomed = await bestOf(enough, () => zoomTasks(page, size(45, 5)))
  hold('strip, longest main-thread task while zooming a 1,000-shot film, ms', zoomed.value, 50, `${zoomed.count} over 50 ms in 135 steps of the wheel, from a shot to all 10,000 panels and back${zoomed.told}`)

  await page.getByRole('combobox', { name: 'What playback goes round in' }).selectOption('off')
  const played = await bestOf(enough, () => playTasks(page, size(25_000, 800)))
  hold('strip, longest main-thread task while playing a 1,000-shot film, ms', played.value, 50, `${played.count} over 50 ms in 25 s, all of the film in view; ${played.title}${played.told}`)
  await context.close()
}

/** All panels of a film of 1,000 shots fitted to another length, through the interface. */
export async function measureFit({ browser, address, films, hold, size }) {
  const { page, context } = await openDesk(browser, `${address}/film/${await films.large()}?view=desk`)
  await page.waitForTimeout(size(3000, 300))
  await page.getByRole('radio', { name: 'Push' }).click()
  await page.evaluate(() => document.activeElement.blur())
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Control+a')
  const panels = size(10_000, 40)
  await page.getByRole('group', { name: new RegExp(`^${panels} panels`) }).waitFor({ timeout: 120_000 })
  await page.waitForTimeout(size(3000, 300))
  const field = page.locator('[data-test=fit]')
  const times = []
  for (let round = 0; round < size(7, 2); round++) {
    const before = Number(await field.inputValue())
    await field.fill(round % 2 === 0 ? '*1.25' : '*0.8')
    // The script of Enter by itself, and with what follows up to the next frame's end.
    times.push(
      await field.evaluate(async (input) => {
        const begun = performance.now()
        input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
        const script = performance.now() - begun
        await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)))
        return { script, shown: performance.now() - begun }
      }),
    )
    const after = Number(await field.inputValue())
    if (Math.abs(after / before - (round % 2 === 0 ? 1.25 : 0.8)) > 0.01) throw new Error(`fitted from ${before} to ${after}`)
    await page.locator('[data-test=save-state]', { hasText: /^Saved/ }).waitFor({ timeout: 120_000 })
    await page.waitForTimeout(size(2000, 200))
  }
  const of = (kind) => median(times.map((each) => each[kind]))
  hold('fit all panels of a 1,000-shot film, script, ms', of('script'), 60, `${panels} panels; median of ${times.length}, ${times.map((each) => each.script.toFixed(0)).join(', ')}; on the screen after ${of('shown').toFixed(0)} ms`)
  await context.close()
}

const framesOf = async (page) => {
  const title = await page.locator('[data-test=meter]').getAttribute('title')
  const [dropped, total, finished] = /^(\d+) of (\d+).*; (\d+) came finished/.exec(title).slice(1).map(Number)
  return { dropped, total, finished }
}

/** Playback of the demo. */
export async function measurePlayback({ browser, address, films, hold, size }) {
  let most = 0
  const qualities = [['full', '1'], ['half', '0.5'], ['quarter', '0.25']]
  for (const [name, quality] of size(qualities, qualities.slice(1, 2))) {
    const { page, context } = await openDesk(browser, `${address}/film/${await films.demo()}?view=desk&shot=030`, { 'rubato.playQuality': quality, 'rubato.loop': 'film' })
    const play = async () => {
      await page.keyboard.press('Space')
      await page.waitForTimeout(size(PLAYED_MS, 1000))
      await page.keyboard.press('Space')
      return framesOf(page)
    }
    await page.keyboard.press('Control+Home')
    const cold = await play()
    hold(`playback of the demo for a minute at ${name}, cold, frames dropped`, cold.dropped, Math.ceil(cold.total * 0.05), `of ${cold.total}; ${cold.finished} finished meanwhile`)
    if (size(true, false)) await framesMade(page)
    await page.waitForTimeout(size(1500, 100))
    const limit = name === 'full' ? 0 : 3
    const warm = await bestOf(size(limit, Infinity), async () => {
      await page.keyboard.press('Control+Home')
      const { dropped, total, finished } = await play()
      return { value: dropped, total, finished }
    })
    hold(`playback of the demo for a minute at ${name}, warm, frames dropped`, warm.value, limit, `of ${warm.total}; ${warm.finished} from the cache${warm.told}`)
    most = Math.max(most, Number(/([\d.]+) MB/.exec(await cacheState(page))[1]))
    await context.close()
  }
  hold('finished frames kept, MB', most, BUDGET_MB, 'the most over these, all of the demo')
}
