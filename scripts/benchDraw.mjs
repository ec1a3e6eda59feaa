import { randomUUID } from 'node:crypto'
import { openPage } from './benchPage.mjs'

const percentile = (values, part) => [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * part))]
const median = (values) => percentile(values, 0.5)
const [WIDTH_PX, HEIGHT_PX] = [4000, 2250]
const STROKES_DRAWN = 8
const MOVES = 40

let seed = 5
const random = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32

const DIGITS = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz'
/** Keys of an order that stand as the numbers do. */
const orderKey = (n) => `d${[238328, 3844, 62, 1].map((place) => DIGITS[Math.floor(n / place) % 62]).join('')}`

/** A hand's stroke somewhere on the level: some 40 points over about a tenth of its width. */
function stroke(order) {
  let [x, y, angle] = [random() - 0.5, (random() - 0.5) * 0.56, random() * 6.28]
  const points = []
  for (let i = 0; i < 40; i++) {
    points.push(Number(x.toFixed(5)), Number(y.toFixed(5)), Number((0.3 + 0.4 * random()).toFixed(3)))
    angle += (random() - 0.5) * 0.5
    x = Math.max(-0.5, Math.min(0.5, x + 0.003 * Math.cos(angle)))
    y = Math.max(-0.28, Math.min(0.28, y + 0.003 * Math.sin(angle)))
  }
  return { id: `m${order}`, order: orderKey(order), kind: 'stroke', mode: 'ink', points, widthFw: 0.0026, colour: '#27241e', opacity: 1 }
}

async function json(address, path, value) {
  const response = await fetch(address + path, value === undefined ? undefined : { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(value) })
  if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`)
  return response.json()
}

/** A film 4000 × 2250 with one level, on which so many strokes lie. */
/** Strokes in one request: what goes up as plain JSON may not be larger than 1 MB. */
const AT_ONCE = 800

export async function makeInkFilm(address, strokes) {
  const card = await json(address, '/api/projects', { title: `${strokes} strokes`, rate: { numerator: 24, denominator: 1 }, widthPx: WIDTH_PX, heightPx: HEIGHT_PX, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 })
  const id = card.project.id
  const { outline } = await json(address, `/api/projects/${id}`)
  const takeId = Object.keys(outline.takes)[0]
  const [{ body }] = await json(address, `/api/projects/${id}/takes?ids=${takeId}`)
  const panelId = Object.keys(body.panels)[0]
  const level = { id: 'ink', order: 'a1', name: 'Ink', kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, figure: true }
  const cell = { id: `ink.${panelId}`, levelId: 'ink', panelId, drawingId: 'd' }
  const levels = Object.fromEntries(Object.values(body.levels).map((each) => [each.id, { before: each, after: null }]))
  const edits = [{ kind: 'setup', unit: { kind: 'take', id: takeId }, changes: { levels: { ...levels, ink: { before: null, after: level } }, cells: { [cell.id]: { before: null, after: cell } } } }]
  await json(address, `/api/projects/${id}/edits`, { changes: [{ id: randomUUID(), label: 'level', edits }], base: { [`take:${takeId}`]: 1 } })
  for (let done = 0, revision = 0; done < strokes; done += AT_ONCE, revision++) {
    const marks = Object.fromEntries(Array.from({ length: Math.min(AT_ONCE, strokes - done) }, (_, i) => [`m${done + i + 1}`, { before: null, after: stroke(done + i + 1) }]))
    await json(address, `/api/projects/${id}/edits`, { changes: [{ id: randomUUID(), label: 'strokes', edits: [{ kind: 'setup', unit: { kind: 'drawing', id: 'd' }, changes: { marks } }] }], base: { 'drawing:d': revision } })
  }
  return id
}

/**
 * Script times of input events, ms of the main thread's own time: each event's listeners and the microtasks that follow,
 * from a trace. The wall's time would count the server and the compositor too, which share two cores with the page.
 */
async function traced(browser, page, work) {
  await browser.startTracing(page, { categories: ['devtools.timeline', 'toplevel'] })
  await work()
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString())
  const dispatches = traceEvents.filter((event) => event.name === 'EventDispatch' && event.dur !== undefined)
  const found = { move: [], up: [], key: [] }
  const sorts = { pointermove: 'move', pointerup: 'up', keydown: 'key' }
  const main = dispatches.find((event) => event.args.data.type === 'pointermove' || event.args.data.type === 'keydown')
  const threads = traceEvents.filter((event) => main !== undefined && event.tid === main.tid && event.pid === main.pid && event.dur !== undefined)
  const micro = threads.filter((event) => event.name === 'RunMicrotasks')
  const tasks = threads.filter((event) => event.name === 'RunTask' || event.name === 'ThreadControllerImpl::RunTask')
  for (const event of dispatches) {
    const sort = sorts[event.args.data.type]
    if (sort === undefined || event.tid !== main?.tid) continue
    const task = tasks.find((each) => each.ts <= event.ts && each.ts + each.dur >= event.ts + event.dur)
    const end = task === undefined ? event.ts + event.dur + 20_000 : task.ts + task.dur
    const after = micro.filter((each) => each.ts >= event.ts + event.dur && each.ts < end).reduce((sum, each) => sum + (each.tdur ?? each.dur), 0)
    found[sort].push(((event.tdur ?? event.dur) + after) / 1000)
  }
  return found
}

/** Draws, undoes and redoes on a level with so many strokes; script times by kind of event. */
async function drawOn(browser, address, id, zoomed, strokes, settleMs) {
  const { page, context } = await openPage(browser, `${address}/film/${id}?view=draw`, (at) => at.locator('[data-test=paper-host][data-resampling=exact]').waitFor({ timeout: 60_000, state: 'attached' }))
  await page.waitForTimeout(settleMs)
  if (zoomed) {
    await page.keyboard.press('Shift+Z')
    await page.waitForTimeout(settleMs)
  }
  const box = await page.locator('[data-test=paper]').boundingBox()
  const hand = async (n) => {
    const [x, y] = [box.x + box.width * (0.3 + 0.05 * (n % 8)), box.y + box.height * (0.35 + 0.1 * (n % 3))]
    await page.mouse.move(x, y)
    await page.mouse.down()
    for (let i = 1; i <= MOVES; i++) await page.mouse.move(x + i * 2.2, y + 26 * Math.sin(i / 7))
    await page.mouse.up()
    await page.waitForTimeout(120)
  }
  await hand(0)
  await page.waitForTimeout(500)
  const drawn = await traced(browser, page, async () => {
    for (let n = 1; n <= strokes; n++) await hand(n)
  })
  const press = async (keys) => {
    await page.keyboard.press(keys)
    await page.waitForTimeout(60)
  }
  const undone = await traced(browser, page, async () => {
    for (let n = 0; n < strokes; n++) await press('Control+z')
  })
  const redone = await traced(browser, page, async () => {
    for (let n = 0; n < strokes; n++) await press('Control+Shift+z')
  })
  await context.close()
  // Of a chord only the last key does anything.
  const strong = (keys) => [...keys].sort((a, b) => b - a).slice(0, strokes)
  return { move: drawn.move, up: drawn.up, undo: strong(undone.key), redo: strong(redone.key) }
}

/** Drawing on a level of 4000 × 2250 with fifty strokes and with five thousand. */
export async function measureDraw({ browser, address, hold, size }) {
  const films = { few: await makeInkFilm(address, 50), many: await makeInkFilm(address, size(5000, 100)) }
  const times = { few: { move: [], up: [], undo: [], redo: [] }, many: { move: [], up: [], undo: [], redo: [] } }
  for (const zoomed of size([false, true], [false])) {
    for (const each of size(['few', 'many', 'few', 'many'], ['few', 'many'])) {
      const found = await drawOn(browser, address, films[each], zoomed, size(STROKES_DRAWN, 2), size(5000, 300))
      for (const sort of Object.keys(found)) times[each][sort].push(...found[sort])
    }
  }
  const told = (sort) => `p95 ${percentile(times.many[sort], 0.95).toFixed(2)} / ${percentile(times.few[sort], 0.95).toFixed(2)} ms, medians ${median(times.many[sort]).toFixed(2)} / ${median(times.few[sort]).toFixed(2)} ms, ${times.many[sort].length} events each`
  hold('script of a pointer move while drawing on 5,000 strokes, p95 ms', percentile(times.many.move, 0.95), 8, told('move'))
  hold('the same, 5,000 strokes / 50 strokes', percentile(times.many.move, 0.95) / percentile(times.few.move, 0.95), 1.3, 'p95 of both')
  hold('script of lifting the pen, 5,000 / 50', median(times.many.up) / median(times.few.up), 1.3, told('up'))
  hold('script of undoing a stroke, 5,000 strokes, p95 ms', percentile(times.many.undo, 0.95), 8, told('undo'))
  hold('script of undoing a stroke, 5,000 / 50', median(times.many.undo) / median(times.few.undo), 1.3, told('undo'))
  hold('script of redoing a stroke, 5,000 strokes, p95 ms', percentile(times.many.redo, 0.95), 8, told('redo'))
  hold('script of redoing a stroke, 5,000 / 50', median(times.many.redo) / median(times.few.redo), 1.3, told('redo'))
}
