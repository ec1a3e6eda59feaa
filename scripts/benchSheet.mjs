import { bestOf, openDesk } from './benchPage.mjs'
import { longest, watchTasks } from './longTasks.mjs'

const LEVELS = 100
const LENGTH = 10_000
/** So many of them change on 2s throughout; the others every two seconds. */
const DENSE = 5
const DRAWINGS = 8
const SCROLLS = 60
const CELLS_A_LINE = 5000

/** The sheet of a shot of 10,000 frames and 100 levels is scrolled down, up and across, and a drawing is typed into it. */
export async function measureSheet({ browser, address, ask, post, hold, size }) {
  const card = await post('/api/projects', { title: 'Sheet', rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 })
  const film = card.project.id
  const { outline } = await ask(`/api/projects/${film}`)
  const takeId = Object.keys(outline.takes)[0]
  const [{ body, revision }] = await ask(`/api/projects/${film}/takes?ids=${takeId}`)
  const levels = size(LEVELS, 6)
  const length = size(LENGTH, 500)
  const changes = { panels: {}, levels: {}, cells: {}, levelDrawings: {} }
  for (const panel of Object.values(body.panels)) changes.panels[panel.id] = { before: panel, after: { ...panel, lengthFrames: length } }
  const panelId = Object.keys(body.panels)[0]
  for (const level of Object.values(body.levels)) changes.levels[level.id] = { before: level, after: null }
  const drawings = []
  for (let i = 0; i < levels; i++) {
    const id = `l${i}`
    changes.levels[id] = { before: null, after: { id, order: `a${String.fromCharCode(65 + Math.floor(i / 26))}${String.fromCharCode(65 + (i % 26))}`, name: `Level ${i}`, kind: 'drawn', x: 0, y: 0, depth: i / 20, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: i < 8, locked: false } }
    for (let n = 0; n < DRAWINGS; n++) {
      const drawingId = `d${i}-${n}`
      changes.levelDrawings[`${id}.${drawingId}`] = { before: null, after: { id: `${id}.${drawingId}`, levelId: id, drawingId, name: String(n + 1) } }
      drawings.push({ kind: 'mark-add', unit: { kind: 'drawing', id: drawingId }, changes: { marks: { m: { before: null, after: { id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[-0.1, -0.1, 0.1, -0.1, 0.1, 0.1]], colour: '#27241e', opacity: 1 } } } } })
    }
    const step = i < DENSE ? 2 : 48
    for (let frame = 0; frame < length; frame += step) {
      const cellId = frame === 0 ? `${id}.${panelId}` : `${id}.${panelId}.${frame}`
      changes.cells[cellId] = { before: null, after: { id: cellId, levelId: id, panelId, ...(frame === 0 ? {} : { offsetFrames: frame }), drawingId: `d${i}-${(frame / step) % DRAWINGS}` } }
    }
  }
  const base = { [`take:${takeId}`]: revision, ...Object.fromEntries(drawings.map(({ unit }) => [`drawing:${unit.id}`, 0])) }
  const { cells, ...rest } = changes
  const parts = []
  for (let at = 0; at < Object.keys(cells).length; at += CELLS_A_LINE) parts.push({ more: { cells: Object.fromEntries(Object.entries(cells).slice(at, at + CELLS_A_LINE)) } })
  const lines = [{ base }, { id: 'bench-sheet', label: 'sheet' }, { kind: 'bench', unit: { kind: 'take', id: takeId }, changes: rest }, ...parts, ...drawings]
  await ask(`/api/projects/${film}/edits`, { method: 'POST', headers: { 'content-type': 'application/x-ndjson' }, body: lines.map((line) => JSON.stringify(line)).join('\n') })
  const { page, context } = await openDesk(browser, `${address}/film/${film}?view=desk`)
  await page.locator('[data-level=l0]').click()
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  await page.keyboard.press('v')
  await page.waitForTimeout(size(3000, 300))
  const box = await page.locator('[data-test=exposure-sheet]').boundingBox()
  const scrolled = await bestOf(size(50, Infinity), async () => {
    await page.mouse.move(box.x + 320, box.y + 300)
    await watchTasks(page)
    for (const [dx, dy] of [[0, 900], [0, -500], [700, 0], [-400, 60]]) {
      for (let i = 0; i < size(SCROLLS, 3); i++) {
        await page.mouse.wheel(dx, dy)
        await page.waitForTimeout(16)
      }
    }
    await page.waitForTimeout(400)
    const { most, count } = await longest(page)
    return { value: most, count }
  })
  hold('longest main-thread task while scrolling a sheet of 10,000 frames and 100 levels, ms', scrolled.value, 50, `${scrolled.count} over 50 ms in ${SCROLLS * 4} steps${scrolled.told}`)
  const typed = await bestOf(size(100, Infinity), async () => {
    await page.mouse.click(box.x + 160, box.y + 200)
    await page.waitForTimeout(300)
    await watchTasks(page)
    for (let i = 0; i < size(8, 2); i++) {
      await page.keyboard.press(String((i % DRAWINGS) + 1))
      await page.keyboard.press('Enter')
      await page.waitForTimeout(200)
    }
    const { most, count } = await longest(page)
    return { value: most, count }
  })
  hold('longest main-thread task while drawings are typed into it, ms', typed.value, 100, `${typed.count} over 50 ms in 8${typed.told}`)
  await context.close()
}
