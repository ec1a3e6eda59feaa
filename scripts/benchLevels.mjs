import { bestOf, openDesk } from './benchPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const LEVELS = 12
const STEPS = 90
const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
const views = JSON.stringify({ beside: 'plan', third: 'table', alone: null })

/** A key of one of twelve moving levels is dragged in the lens view, with Plan and Table open. */
export async function measureLevels({ browser, address, films, ask, post, hold, size }) {
  const film = await films.demo()
  const { outline } = await ask(`/api/projects/${film}`)
  const shot = Object.values(outline.shots).find(({ label }) => label === '040')
  const takeId = shot.circledTakeId
  const [{ body, revision }] = await ask(`/api/projects/${film}/takes?ids=${takeId}`)
  // Copies of its levels that show one drawing until there are twelve; each goes its own bent way over the shot.
  const own = Object.values(body.levels)
  const plain = own.filter(({ id, kind }) => kind === 'drawn' && Object.values(body.cells).every(({ levelId, offsetFrames }) => levelId !== id || offsetFrames === undefined))
  const copied = (i) => plain[i % plain.length]
  const levels = Array.from({ length: LEVELS }, (_, i) => (i < own.length ? own[i] : { ...copied(i), id: `copy-${i}`, name: `Copy ${i}` }))
  const changes = { levels: {}, cells: {}, levelKeys: {} }
  const path = { kind: 'bent', leave: { x: 0.1, y: 0.1, depth: 0 }, arrive: { x: -0.1, y: 0.1, depth: 0 } }
  levels.forEach((level, i) => {
    if (i >= own.length) {
      changes.levels[level.id] = { before: null, after: level }
      for (const cell of Object.values(body.cells)) if (cell.levelId === copied(i).id) changes.cells[`${level.id}.${cell.panelId}`] = { before: null, after: { ...cell, id: `${level.id}.${cell.panelId}`, levelId: level.id } }
    }
    ;[['p1', 0], ['p2', 0], ['p3', 30], ['p4', 40]].forEach(([panelId, offsetFrames], n) => {
      const id = `key-${i}-${n}`
      changes.levelKeys[id] = { before: null, after: { id, levelId: level.id, panelId, offsetFrames, of: 'place', value: { x: level.x + 0.1 * n, y: level.y, depth: level.depth }, move: { timing: { kind: 'cushioned', leaveFrames: 6, arriveFrames: 6 }, path, evenness: { kind: 'set' } }, locked: false } }
    })
  })
  await post(`/api/projects/${film}/edits`, { base: { [`take:${takeId}`]: revision }, changes: [{ id: 'bench-levels', label: 'levels', edits: [{ kind: 'bench', unit: { kind: 'take', id: takeId }, changes }] }] })
  const { page, context } = await openDesk(browser, `${address}/film/${film}?view=desk&shot=040`, { 'rubato.views': views })
  await page.locator('[data-level=tilda]').click()
  await page.keyboard.press('m')
  await page.waitForTimeout(size(2500, 500))
  const flag = page.getByLabel('Through the lens').locator('[data-key="2"] .flag')
  await flag.waitFor()
  const dragged = await bestOf(size(50, Infinity), async () => {
    const box = await flag.boundingBox()
    const from = { x: box.x + box.width / 2, y: box.y + 4 }
    await watchTasks(page)
    await page.evaluate(() => {
      const times = (window.frameTimes = [])
      const tick = (at) => (times.push(at), (window.frameTick = requestAnimationFrame(tick)))
      window.frameTick = requestAnimationFrame(tick)
    })
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    for (let i = 1; i <= size(STEPS, 6); i++) {
      await page.mouse.move(from.x + 60 * Math.sin(i / 12), from.y + 25 * Math.sin(i / 7))
      await page.waitForTimeout(16)
    }
    const gaps = await page.evaluate(() => (cancelAnimationFrame(window.frameTick), window.frameTimes.slice(1).map((at, i) => at - window.frameTimes[i])))
    await page.keyboard.press('Escape')
    await page.mouse.up()
    await page.waitForTimeout(size(700, 100))
    const { most, count } = await longest(page)
    return { value: most, count, gap: median(gaps) }
  })
  hold('longest main-thread task while dragging a key of one of 12 moving levels, plan and table open, ms', dragged.value, 50, `${dragged.count} over 50 ms in ${STEPS} steps${dragged.told}`)
  hold('frames shown a second meanwhile, median', 1000 / dragged.gap, 58, 'in the lens view, by the browser’s own frames', true)
  await context.close()
}
