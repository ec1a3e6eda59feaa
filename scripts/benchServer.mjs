import { spawn } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import pg from 'pg'
import { measureBreakdown } from './benchBreakdown.mjs'
import { measureBoards } from './benchBoards.mjs'
import { measureDragging, measureSecondWindow, measureWall } from './benchCamera.mjs'
import { measureDraw } from './benchDraw.mjs'
import { measureFilms } from './benchFilms.mjs'
import { measureKept } from './benchKept.mjs'
import { measureLevels } from './benchLevels.mjs'
import { measureSheet } from './benchSheet.mjs'
import { measureClips, measureClock, measureExport, measureRecording } from './benchSound.mjs'
import { firstPicture, leaveShared } from './benchPage.mjs'
import { measureRenders } from './benchRenders.mjs'
import { measureSets } from './benchSets.mjs'
import { size, SMALL } from './benchSize.mjs'
import { measureFit, measurePlayback, measureStrip } from './benchTiming.mjs'
import { launchChromium } from './browser.mjs'
import { ensureBuild, ENTRY } from './build.mjs'
import { bundle } from './bundle.mjs'
import { removeCluster, startCluster } from './cluster.mjs'
import { largestRenderer } from './memory.mjs'
import { say } from './shell.mjs'

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
const sleep = (ms) => new Promise((resolve) => setTimeout(resolve, ms))
const VISITED = 200

async function freePort() {
  const probe = createServer()
  await new Promise((resolve) => probe.listen(0, '127.0.0.1', resolve))
  const { port } = probe.address()
  await new Promise((resolve) => probe.close(resolve))
  return port
}

/** Each begins from the demo as it was made, or from a generated film. */
const PARTS = {
  acknowledge: acknowledgement,
  upload: uploadMemory,
  windows: twoWindows,
  boards: measureBoards,
  breakdown: measureBreakdown,
  draw: measureDraw,
  camera: measureDragging,
  levels: measureLevels,
  sheet: measureSheet,
  second: measureSecondWindow,
  wall: measureWall,
  strip: measureStrip,
  playback: measurePlayback,
  clips: measureClips,
  clock: measureClock,
  recording: measureRecording,
  export: measureExport,
  long: longFilms,
  sets: measureSets,
  fit: measureFit,
  films: measureFilms,
  kept: measureKept,
  renders: measureRenders,
}
export const SERVER_PARTS = Object.keys(PARTS)

/**
 * Measures the built server on a durable database of its own, and the built application against it. A small run goes
 * through each part once on its smallest size, to see that it still runs; the figures then mean nothing.
 */
export async function measureServer(hold, only = SERVER_PARTS) {
  const wanted = SERVER_PARTS.filter((name) => only.includes(name))
  if (wanted.length === 0) return
  await ensureBuild()
  const folder = mkdtempSync(join(tmpdir(), 'rubato-bench-server-'))
  const cluster = await startCluster({ name: `bench-${process.pid}`, port: 54_396 })
  const port = await freePort()
  const address = `http://127.0.0.1:${port}`
  const server = spawn(process.execPath, [ENTRY], { env: { ...process.env, RUBATO_DATABASE_URL: cluster.url, RUBATO_STORAGE_DIR: join(folder, 'blobs'), RUBATO_SEED: 'demo', PORT: String(port), HOST: '127.0.0.1', RUBATO_REQUESTS_PER_MINUTE: '10000000' }, stdio: ['ignore', 'ignore', 'inherit'] })
  const ask = async (path, init) => {
    const response = await fetch(address + path, init)
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`)
    return response.status === 204 ? null : response.json()
  }
  let browser = null
  try {
    for (let tries = 0; tries < 200 && !(await ask('/api/health').catch(() => null)); tries++) await sleep(100)
    const post = (path, value) => ask(path, { method: 'POST', body: JSON.stringify(value) })
    const demoArchive = await fetch(`${address}/api/projects/salt-lantern/archive`).then((response) => response.arrayBuffer())
    writeFileSync(join(folder, 'longFilm.mjs'), await bundle('bench/longFilm.ts', 'esm', 'node'))
    const { longFilmArchive } = await import(pathToFileURL(join(folder, 'longFilm.mjs')).href)
    const takeIn = async (body) => (await ask('/api/archives', { method: 'POST', body })).project.id
    const made = new Map()
    /** Made when it is first wanted, and then the same film. */
    const film = async (name, shots, clips, sets) => {
      if (!made.has(name)) {
        const archive = longFilmArchive(shots, clips, sets)
        // Making it took longer than an idle connection is kept: its end must be heard of first.
        await sleep(500)
        made.set(name, await takeIn(archive))
      }
      return made.get(name)
    }
    const films = { small: () => film('small', size(10, 2)), large: () => film('large', size(1000, 4)), hundred: () => film('hundred', size(100, 3)), twoThousand: () => film('twoThousand', size(2000, 5)), sets: () => film('sets', size(1000, 103), 0, size(40, 4)), sound: () => film('sound', size(1000, 4), size(500, 2)), demo: () => takeIn(demoArchive) }
    browser = await launchChromium({ lean: SMALL })
    for (const name of wanted) {
      const begun = performance.now()
      const run = () => PARTS[name]({ browser, address, storage: join(folder, 'blobs'), films, post, ask, hold, cluster, server, size })
      try {
        await run().catch(async (error) => {
          if (!SMALL) throw error
          say(`again ${name}: ${error.stack}`)
        leaveShared()
          await run()
        })
      } catch (error) {
        throw new Error(`benchmark ${name}: ${error.message}`, { cause: error })
      }
      say(`  ${name}  ${((performance.now() - begun) / 1000).toFixed(1)} s`)
    }
  } finally {
    await browser?.close()
    server.kill('SIGKILL')
    removeCluster(cluster)
    rmSync(folder, { recursive: true, force: true })
  }
}

async function acknowledgement({ ask, post, cluster, hold, size }) {
  const rounds = size(520, 30)
  const id = 'salt-lantern'
  const [{ body, revision }] = await ask(`/api/projects/${id}/takes?ids=take-040-a`)
  const client = new pg.Client(cluster.url)
  await client.connect()
  const panel = body.panels.p1
  const word = (n) => ({ ...panel, action: n === 0 ? panel.action : `Action ${n}` })
  const edits = (n) => [{ kind: 'x', unit: { kind: 'take', id: 'take-040-a' }, changes: { panels: { p1: { before: word(n - 1), after: word(n) } } } }]
  // The bare one works on a take of its own, so that neither waits for the other.
  await client.query(`CREATE TABLE bare_takes AS SELECT * FROM takes WHERE id = 'take-040-a'`)
  await client.query('CREATE TABLE bare_journal (LIKE journal INCLUDING ALL)')
  const served = []
  const bare = []
  for (let n = 1; n <= rounds; n++) {
    let begun = performance.now()
    await post(`/api/projects/${id}/edits`, { base: { 'take:take-040-a': revision + n - 1 }, changes: [{ id: `bench-change-${n}`, label: 'action', edits: edits(n) }] })
    const took = performance.now() - begun
    begun = performance.now()
    await client.query('BEGIN')
    await client.query('UPDATE bare_takes SET body = $1, revision = $2 WHERE id = $3', [JSON.stringify({ ...body, panels: { ...body.panels, p1: word(n) } }), n, 'take-040-a'])
    await client.query('INSERT INTO bare_journal (project_id, change_id, label, edits, revisions, created_at) VALUES ($1, $2, $3, $4, $5, now())', [id, `bare-${n}`, 'action', JSON.stringify(edits(n)), '{}'])
    await client.query('COMMIT')
    if (n <= 20) continue
    served.push(took)
    bare.push(performance.now() - begun)
  }
  await client.end()
  hold('acknowledge an edit / the bare transaction', median(served) / median(bare), 3, `medians of ${served.length}: ${median(served).toFixed(2)} / ${median(bare).toFixed(2)} ms, fsync on`)
}

async function uploadMemory({ ask, post, server, hold }) {
  const peak = () => Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))[1]) / 1024
  const bytes = 60 * 1024 * 1024
  const before = peak()
  const upload = await post('/api/uploads', { kind: 'picture', bytes })
  for (let part = 0; part * upload.partBytes < bytes; part++) await ask(`/api/uploads/${upload.id}/parts/${part}`, { method: 'PUT', body: new Uint8Array(Math.min(upload.partBytes, bytes - part * upload.partBytes)) })
  // Noise is no picture: that is found out only when all of it has been put together.
  await post(`/api/uploads/${upload.id}/finish`, {}).catch((error) => {
    if (!String(error.message).includes('not-a-picture')) throw error
  })
  hold('server memory for a 60 MB upload, MB more', peak() - before, 100, 'of the peak resident size')
}

async function twoWindows({ browser, address, films, hold, size }) {
  const rounds = size(20, 2)
  const demo = await films.demo()
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const [a, b] = [await context.newPage(), await context.newPage()]
  const field = '[data-test=panel-length] input'
  for (const page of [a, b]) {
    await page.goto(`${address}/film/${demo}`)
    await page.waitForSelector(field)
    await page.waitForTimeout(size(3000, 300))
  }
  const times = []
  for (let i = 0; i <= rounds; i++) {
    const value = String(50 + i)
    const seen = b.evaluate(
      ([selector, wanted]) =>
        new Promise((resolve) => {
          const timer = setInterval(() => {
            if (document.querySelector(selector).value !== wanted) return
            clearInterval(timer)
            resolve(Date.now())
          }, 2)
        }),
      [field, value],
    )
    await a.fill(field, value)
    const sent = await a.evaluate((selector) => {
      const input = document.querySelector(selector)
      const at = Date.now()
      input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
      return at
    }, field)
    const took = (await seen) - sent
    if (i > 0) times.push(took)
    await sleep(100)
  }
  await context.close()
  hold('a change shows in another window, ms', median(times), 300, `median of ${times.length}, ${Math.min(...times)} to ${Math.max(...times)}`)
}

async function longFilms({ browser, address, ask, films, post, hold, size }) {
  const ids = { small: await films.small(), large: await films.large() }
  const open = (id) => firstPicture(browser, `${address}/film/${id}`)
  const times = { small: [], large: [] }
  for (let round = 0; round < size(6, 1); round++) {
    for (const each of ['small', 'large']) {
      const { context, ms } = await open(ids[each])
      await context.close()
      if (round >= size(1, 0)) times[each].push(ms)
    }
  }
  hold('first picture, 1,000-shot film / 10-shot film', median(times.large) / median(times.small), 2, `medians of 5: ${median(times.large).toFixed(0)} / ${median(times.small).toFixed(0)} ms`)

  const take = size('t5', 't1')
  const served = { small: [], large: [] }
  const now = {}
  for (const each of ['small', 'large']) {
    // Other benchmarks may have worked on the film before.
    const [{ body, revision }] = await ask(`/api/projects/${ids[each]}/takes?ids=${take}`)
    now[each] = { panel: body.panels.p0, revision }
  }
  for (let n = 1; n <= size(220, 22); n++) {
    for (const each of ['small', 'large']) {
      const { panel: before, revision } = now[each]
      const after = { ...before, action: `Edit ${n}` }
      const begun = performance.now()
      await post(`/api/projects/${ids[each]}/edits`, { base: { [`take:${take}`]: revision }, changes: [{ id: randomUUID(), label: 'action', edits: [{ kind: 'x', unit: { kind: 'take', id: take }, changes: { panels: { p0: { before, after } } } }] }] })
      if (n > 20) served[each].push(performance.now() - begun)
      now[each] = { panel: after, revision: revision + 1 }
    }
  }
  const pages = { small: await open(ids.small), large: await open(ids.large) }
  const shown = { small: [], large: [] }
  for (const { page } of Object.values(pages)) await page.waitForTimeout(size(3000, 300))
  const field = '[data-test=panel-length] input'
  for (let n = 0; n < size(44, 6); n++) {
    for (const each of ['small', 'large']) {
      const { page } = pages[each]
      await page.fill(field, String(30 + n))
      // The script that an edit runs, up to the next frame's end.
      const took = await page.evaluate(async (selector) => {
        const input = document.querySelector(selector)
        const begun = performance.now()
        input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
        await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)))
        return performance.now() - begun
      }, field)
      if (n >= 4) shown[each].push(took)
      await page.waitForTimeout(60)
    }
  }
  hold('an edit acknowledged, 1,000-shot film / 10-shot film', median(served.large) / median(served.small), 1.2, `medians of 200: ${median(served.large).toFixed(2)} / ${median(served.small).toFixed(2)} ms`)
  hold('an edit on the screen, 1,000-shot film / 10-shot film', median(shown.large) / median(shown.small), 1.2, `medians of 40: ${median(shown.large).toFixed(1)} / ${median(shown.small).toFixed(1)} ms`)
  await pages.small.context.close()

  const { page, context } = pages.large
  // Keys typed into a field are the field's.
  await page.evaluate(() => document.activeElement.blur())
  const visits = size(VISITED, 3)
  for (let i = 0; i < visits; i++) {
    await page.keyboard.press('Shift+PageDown')
    await page.waitForTimeout(120)
  }
  await page.waitForTimeout(size(3000, 300))
  const visited = await page.evaluate(() => Number(document.querySelector('[data-test=timecode]')?.value?.split(':').slice(0, 3).reduce((sum, part) => sum * 60 + Number(part), 0)))
  const memory = await largestRenderer(browser)
  if (visited < visits * 9) throw new Error(`the playhead is at second ${visited}: the shots were not visited`)
  hold('memory of the tab after 200 shots, MB', memory, 350, `the renderer’s own memory, the playhead at second ${visited}`)
  // The engine gives the room of short-lived objects back when it has been idle for some seconds; what is there then stays.
  await page.waitForTimeout(size(12_000, 300))
  hold('memory of the tab some seconds after that, MB', await largestRenderer(browser), 350, 'fifteen seconds after the last of the 200 shots')
  await context.close()
}
