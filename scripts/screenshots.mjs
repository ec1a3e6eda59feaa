import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { launchChromium } from './browser.mjs'
import { ROOT, say } from './shell.mjs'

const address = process.env.RUBATO_ADDRESS ?? `http://127.0.0.1:${process.env.RUBATO_PORT ?? 3400}`
const folder = join(ROOT, 'docs', 'screenshots')
mkdirSync(folder, { recursive: true })

/** Those that are named; all, where none is. */
const named = process.argv.slice(2)
const browser = await launchChromium()
async function shot(name, path, act = async () => undefined, night = false) {
  if (named.length > 0 && !named.includes(name)) return
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: night ? 'dark' : 'light' })
  const page = await context.newPage()
  await page.goto(address + path)
  await page.waitForTimeout(6000)
  await act(page)
  await page.waitForTimeout(1500)
  await page.screenshot({ path: join(folder, `${name}.png`) })
  await context.close()
  say(`  ${name}.png`)
}
const toFrame = async (page, frame) => {
  const pane = page.locator('[data-test=strip]')
  const box = await pane.boundingBox()
  const [scale, first] = await pane.evaluate((element) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
  await page.mouse.click(box.x + (frame + 0.4 - first) * scale, box.y + 10)
}

await shot('home', '/')
await shot('boards', '/film/salt-lantern?view=boards&shot=030', async (page) => {
  await page.waitForTimeout(2500)
  await page.locator('[data-panel=p3][data-take=take-040-a]').click()
})
await shot('breakdown', '/film/salt-lantern?view=breakdown&shot=040', async (page) => page.locator('[data-test=work-table] canvas[width]').nth(8).waitFor())
await shot('desk', '/film/salt-lantern?shot=040', async (page) => {
  await toFrame(page, 88 + 126)
  await page.locator('[data-level=tilda]').click()
})
/** The Desk with other views beside the lens than the usual. */
const arranged = (beside, third, act, alone = null) => async (page) => {
  await page.evaluate((views) => localStorage.setItem('rubato.views', views), JSON.stringify({ beside, third, alone }))
  await page.reload()
  await page.waitForTimeout(5000)
  await toFrame(page, 88 + 126)
  await act?.(page)
}
await shot('table', '/film/salt-lantern?shot=040', arranged('plan', 'table', async (page) => page.locator('[data-level=sea]').click()))
await shot('curves', '/film/salt-lantern?shot=040', arranged('curves', null, undefined, 'beside'))
await shot('around', '/film/salt-lantern?shot=040', arranged('side', 'around'))
await shot('cameras', '/film/salt-lantern?shot=060', async (page) => {
  await page.evaluate((views) => localStorage.setItem('rubato.views', views), JSON.stringify({ beside: 'wall', third: null, alone: null }))
  await page.reload()
  await page.waitForTimeout(5000)
  const pane = page.locator('[data-test=strip]')
  const box = await pane.boundingBox()
  const [scale, first] = await pane.evaluate((element) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
  await page.mouse.click(box.x + (430 + 130 - first) * scale, box.y + 141)
  await toFrame(page, 430 + 84)
  await page.waitForTimeout(2500)
})
await shot(
  'desk-night',
  '/film/salt-lantern?shot=050',
  async (page) => {
    await toFrame(page, 88 + 204 + 100)
    await page.keyboard.press('Alt+Shift+Z')
    await page.keyboard.press('Alt+Shift+I')
    await page.waitForTimeout(3000)
  },
  true,
)
await shot('sets', '/film/salt-lantern?view=sets&shot=040', async (page) => page.locator('[data-test=set-shot]').nth(1).hover())
await shot('draw', '/film/salt-lantern?view=draw&shot=040', async (page) => {
  await page.locator('[data-test=ribbon-panel][aria-label^="Panel 3"]').first().click()
  await page.locator('[data-draw-level=tilda]').click()
})
await shot('checks', '/film/salt-lantern?shot=040', async (page) => {
  await page.evaluate(() => localStorage.setItem('rubato.check', 'speed'))
  await arranged('checks', null, undefined, 'beside')(page)
})
await shot('timing', '/film/salt-lantern?shot=040', async (page) => {
  // Frames are finished meanwhile; then a selection, a range, and an edge that is being dragged.
  await page.waitForTimeout(16_000)
  const at = async (frame, y) => {
    const pane = page.locator('[data-test=strip]')
    const box = await pane.boundingBox()
    const [scale, first] = await pane.evaluate((element) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
    return { x: box.x + (frame - first) * scale, y: box.y + y }
  }
  const [from, to] = [await at(88 + 20, 90), await at(88 + 130, 90)]
  await page.mouse.click(from.x, from.y)
  await page.keyboard.press('Alt+i')
  await page.keyboard.down('Shift')
  await page.mouse.click(to.x, to.y)
  await page.keyboard.up('Shift')
  await page.keyboard.press('End')
  await page.keyboard.press('Alt+o')
  const [edge, there] = [await at(88 + 204 + 66, 90), await at(88 + 204 + 54, 90)]
  await page.mouse.move(edge.x, edge.y)
  await page.mouse.down()
  await page.mouse.move(there.x, there.y, { steps: 6 })
  await page.keyboard.down('Alt')
  await page.mouse.move(there.x - 1, there.y)
})
await shot('sound', '/film/salt-lantern?shot=050', async (page) => {
  // The strip higher, a clip chosen and its end being dragged.
  const splitter = page.locator('.desk > .splits > .splitpanes__splitter')
  const box = await splitter.boundingBox()
  await page.mouse.move(box.x + 300, box.y)
  await page.mouse.down()
  await page.mouse.move(box.x + 300, box.y - 90, { steps: 5 })
  await page.mouse.up()
  await page.waitForTimeout(800)
  const pane = page.locator('[data-test=strip]')
  const [scale, first] = await pane.evaluate((element) => [Number(element.dataset.pxPerFrame), Number(element.dataset.firstFrame)])
  const left = (await pane.boundingBox()).x
  const lane = await page.locator('[data-test=lane-head]').nth(1).boundingBox()
  const x = (frame) => left + (frame - first) * scale
  await page.mouse.click(x(88 + 60), lane.y + 24)
  await page.mouse.move(x(88 + 10 + 156), lane.y + 24)
  await page.mouse.down()
  await page.mouse.move(x(88 + 10 + 140), lane.y + 24, { steps: 6 })
})
await shot('hand-over', '/film/salt-lantern?shot=040', async (page) => {
  await page.getByRole('button', { name: 'Hand over…' }).click()
  for (const name of ['timecode', 'shot']) await page.getByRole('dialog').getByLabel(name, { exact: true }).check()
  await page.waitForSelector('[data-test=handover-preview][data-ready=true]')
})
/** The film's cut as somebody elsewhere would send it back. */
async function changedCut() {
  const timeline = await fetch(`${address}/api/projects/salt-lantern/cut?as=otio`).then((response) => response.json())
  const [pictures] = timeline.tracks.children
  const [lamp, run, rail, room, kite] = pictures.children.filter(({ OTIO_SCHEMA }) => OTIO_SCHEMA !== 'Transition.1')
  run.source_range.start_time.value += 8
  run.source_range.duration.value -= 20
  rail.source_range.duration.value += 24
  const storm = { ...kite, OTIO_SCHEMA: 'Clip.1', name: 'Storm', metadata: {}, markers: [], children: [], source_range: { ...kite.source_range, duration: { ...kite.source_range.duration, value: 60 } } }
  pictures.children = [room, lamp, run, rail, storm]
  return Buffer.from(JSON.stringify(timeline))
}
await shot('conform', '/film/salt-lantern?shot=040', async (page) => {
  const chooser = page.waitForEvent('filechooser')
  await page.waitForTimeout(500)
  await page.keyboard.press('Control+Shift+E')
  await (await chooser).setFiles({ name: 'Salt-Lantern-cut-2.otio', mimeType: 'application/json', buffer: await changedCut() })
  await page.getByTestId('cut-strips').or(page.locator('[data-test=cut-strips]')).first().waitFor()
})
await shot('sheet', '/film/salt-lantern?view=draw&shot=040', async (page) => {
  await page.locator('[data-draw-level=tilda]').click()
  await page.keyboard.press('v')
  const box = await page.locator('[data-test=exposure-sheet]').boundingBox()
  await page.mouse.move(box.x + 300, box.y + 300)
  await page.mouse.wheel(0, 20 * 78)
  await page.waitForTimeout(300)
  // Tilda's column, a few frames of her stride.
  const x = box.x + 116 + 92 * 5 + 46 - (await page.locator('[data-test=exposure-sheet]').evaluate((element) => element.scrollLeft))
  await page.mouse.move(x, box.y + 34 + 20 * 8.5)
  await page.mouse.down()
  await page.mouse.move(x, box.y + 34 + 20 * 15.5, { steps: 4 })
  await page.mouse.up()
  await page.waitForTimeout(400)
})
// Last, since it changes the film.
await shot('levels', '/film/salt-lantern?shot=040', async (page) => {
  await page.locator('[data-level=goose]').click()
  await page.keyboard.press('m')
  const box = await page.locator('[data-handle=pivot]').boundingBox()
  const from = { x: box.x + box.width / 2, y: box.y + box.height / 2 }
  await page.keyboard.down('w')
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  for (let i = 1; i <= 20; i++) await page.mouse.move(from.x + i * 16, from.y - 110 * Math.sin((i / 20) * Math.PI))
  await page.mouse.up()
  await page.keyboard.up('w')
  await page.waitForTimeout(4000)
  await toFrame(page, 88 + 36)
  const every = page.getByRole('textbox', { name: 'every' })
  await every.fill('8')
  await every.press('Enter')
  await page.evaluate(() => document.activeElement.blur())
})
await shot('by-hand', '/film/salt-lantern?shot=030', async (page) => {
  await page.locator('[data-test=takes-open]').click()
  await page.getByRole('button', { name: 'Circle take B' }).click()
  await page.waitForTimeout(2500)
  await page.keyboard.press('Escape')
  await toFrame(page, 70)
  await page.keyboard.press('Alt+Shift+A')
  await page.waitForTimeout(2500)
  await page.keyboard.press('Alt+Shift+Y')
})
await browser.close()
