import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { zipSync } from 'fflate'
import sharp from 'sharp'
import { openPage } from './benchPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
const LAYERS = 30
const PICTURES = 100
/** While workers and the server fill both cores: an answer within this is still felt as one. */
const FREE_MS = 200

/** The board page in the browser: first picture, scrolling, bringing in, printing. */
export async function measureBoards({ browser, address, films, hold, size }) {
  const ids = { small: await films.small(), large: await films.large() }
  const painted = '[data-test=panel-card] canvas[width]'
  const open = (id) => openPage(browser, `${address}/film/${id}?view=boards`, (page) => page.waitForFunction((selector) => [...document.querySelectorAll(selector)].some((canvas) => canvas.width > 150 && canvas.width < 300), painted))
  const times = { small: [], large: [] }
  for (let round = 0; round < size(6, 1); round++) {
    for (const each of ['small', 'large']) {
      const { context, ms } = await open(ids[each])
      await context.close()
      if (round >= size(1, 0)) times[each].push(ms)
    }
  }
  hold('boards, first picture, 10,000 panels / 100 panels', median(times.large) / median(times.small), 1.5, `medians of 5: ${median(times.large).toFixed(0)} / ${median(times.small).toFixed(0)} ms`)

  const { page, context } = await open(ids.large)
  await page.waitForTimeout(size(3000, 300))
  await watchTasks(page)
  const box = await page.locator('[data-test=board-page]').boundingBox()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  for (let i = 0; i < size(120, 10); i++) {
    await page.mouse.wheel(0, 400)
    await page.waitForTimeout(50)
  }
  await page.waitForTimeout(size(1500, 200))
  const scrolled = await longest(page)
  hold('boards, longest main-thread task while scrolling 10,000 panels, ms', scrolled.most, 50, `${scrolled.count} over 50 ms in 120 steps of the wheel, 48,000 px`)

  await printBoards(page, hold, size(30, 2))
  await context.close()
  const small = await open(ids.small)
  await bringIn(small.page, hold, size)
  await small.context.close()
}

async function printBoards(page, hold, shots) {
  // Shots of ten panels are chosen by their names.
  const last = `[data-test=shot-head][data-shot="${String(shots * 10).padStart(3, '0')}"]`
  await page.locator('[data-test=board-page]').evaluate((element) => (element.scrollTop = 0))
  await page.waitForTimeout(800)
  await page.locator('[data-test=shot-head]').first().click()
  for (;;) {
    const at = await page.locator(last).count()
    if (at > 0) break
    await page.mouse.wheel(0, 900)
    await page.waitForTimeout(120)
  }
  await page.locator(last).click({ modifiers: ['Shift'] })
  await page.getByRole('button', { name: 'Print boards…' }).click()
  await page.waitForTimeout(500)
  await watchTasks(page)
  await page.getByRole('button', { name: 'Print', exact: true }).click()
  await page.waitForSelector('[data-test=printed]', { timeout: 300_000 })
  const said = (await page.locator('[data-test=printed]').textContent()).trim()
  if (!said.startsWith(`${shots * 10} panels`)) throw new Error(`not ${shots * 10} panels were printed: ${said}`)
  const { most, count } = await longest(page)
  hold(`print of ${shots * 10} panels, longest main-thread task, ms`, most, FREE_MS, `${said} ${count} tasks over 50 ms`)
  await page.getByRole('button', { name: 'Close', exact: true }).last().click()
}

async function bringIn(page, hold, size) {
  const [layerCount, pictureCount] = [size(LAYERS, 2), size(PICTURES, 2)]
  const noise = async (widthPx, heightPx, seed) => {
    // Lines and flats with some grain, about as heavy as painted art.
    const raw = Buffer.alloc(widthPx * heightPx * 4)
    for (let y = 0; y < heightPx; y++) for (let x = 0; x < widthPx; x++) raw.writeUInt32LE(((x * 7 + y * 13 + seed * 31) % 97 < 3 ? 0xff1e2427 : 0xffe6eff3 + (((x >> 4) * (y >> 4) + seed) % 7)) >>> 0, (y * widthPx + x) * 4)
    return sharp(raw, { raw: { width: widthPx, height: heightPx, channels: 4 } }).png().toBuffer()
  }
  const layers = await Promise.all(Array.from({ length: layerCount }, (_, i) => noise(2000, 1200, i)))
  const xml = `<?xml version="1.0"?><image w="2000" h="1200"><stack>${layers.map((_, i) => `<layer name="Layer ${i}" src="data/${i}.png"/>`).join('')}</stack></image>`
  const ora = Buffer.from(zipSync({ mimetype: [Buffer.from('image/openraster'), { level: 0 }], 'stack.xml': Buffer.from(xml), ...Object.fromEntries(layers.map((bytes, i) => [`data/${i}.png`, [bytes, { level: 0 }]])) }))
  const pictures = await Promise.all(Array.from({ length: pictureCount }, async (_, i) => ({ name: `${i + 1}.png`, buffer: await noise(1280, 720, 1000 + i) })))
  const folder = mkdtempSync(join(tmpdir(), 'rubato-bench-bring-'))
  const run = async (files, name) => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Bring in…' }).click()
    const dialog = await chooser
    await watchTasks(page)
    let begun = performance.now()
    // As paths: the browser opens them itself, and no test tool's work is counted.
    await dialog.setFiles(files.map(({ name, buffer }) => (writeFileSync(join(folder, name), buffer), join(folder, name))))
    await page.waitForSelector('[data-test=outcome]', { timeout: 300_000 })
    const looked = performance.now() - begun
    begun = performance.now()
    await page.locator('[data-test=bring-in]').getByRole('button', { name: 'Bring in', exact: true }).click()
    await page.waitForSelector('[data-test=bring-in]', { state: 'detached', timeout: 300_000 })
    const brought = performance.now() - begun
    await page.waitForTimeout(size(4000, 300))
    const { most, count } = await longest(page)
    const megabytes = files.reduce((sum, file) => sum + file.buffer.length, 0) / 1024 ** 2
    hold(`bring in ${name}, longest main-thread task, ms`, most, FREE_MS, `${megabytes.toFixed(0)} MB looked at in ${(looked / 1000).toFixed(1)} s, brought in in ${(brought / 1000).toFixed(1)} s; ${count} tasks over 50 ms`)
  }
  await run([{ name: 'set.ora', buffer: ora }], `a layered file of ${layerCount} layers, 2000 × 1200`)
  await run(pictures, `${pictureCount} PNGs`)
  rmSync(folder, { recursive: true, force: true })
}
