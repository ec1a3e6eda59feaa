import { spawn } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { launchChromium } from './browser.mjs'
import { ENTRY } from './build.mjs'
import { bundle } from './bundle.mjs'
import { removeCluster, startCluster } from './cluster.mjs'
import { largestRenderer } from './memory.mjs'
const folder = mkdtempSync(join(tmpdir(), 'zmem-'))
const cluster = await startCluster({ name: `bench-${process.pid}`, port: 54_396 })
const port = 3456
const address = `http://127.0.0.1:${port}`
const server = spawn(process.execPath, [ENTRY], { env: { ...process.env, RUBATO_DATABASE_URL: cluster.url, RUBATO_STORAGE_DIR: join(folder, 'blobs'), RUBATO_SEED: 'demo', PORT: String(port), HOST: '127.0.0.1', RUBATO_REQUESTS_PER_MINUTE: '10000000' }, stdio: ['ignore', 'ignore', 'inherit'] })
try {
  for (let i = 0; i < 200; i++) { if (await fetch(address + '/api/health').then((r) => r.ok).catch(() => false)) break; await new Promise((r) => setTimeout(r, 100)) }
  writeFileSync(join(folder, 'longFilm.mjs'), await bundle('bench/longFilm.ts', 'esm', 'node'))
  const { longFilmArchive } = await import(pathToFileURL(join(folder, 'longFilm.mjs')).href)
  const made = longFilmArchive(1000)
  await new Promise((r) => setTimeout(r, 600))
  const response = await fetch(address + '/api/archives', { method: 'POST', body: made })
  const { project } = await response.json()
  const browser = await launchChromium()
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  if (process.env.NOFRAMES) await page.route('**/frames.worker*', (r) => r.abort())
  await page.goto(`${address}/film/${project.id}`)
  await page.waitForSelector('[data-test=lens-host][data-resampling]', { state: 'attached' })
  await page.waitForTimeout(3000)
  const cdp = await context.newCDPSession(page)
  const tell = async (when) => {
    const { usedSize, totalSize } = await cdp.send('Runtime.getHeapUsage')
    console.log(when, 'renderer', (await largestRenderer(browser)).toFixed(0), 'main heap', (usedSize / 1e6).toFixed(0), (totalSize / 1e6).toFixed(0), 'workers', page.workers().map((w) => w.url().split('/').at(-1).slice(0, 14)).join(' '))
  }
  await tell('opened')
  await page.evaluate(() => document.activeElement.blur())
  for (let i = 1; i <= 200; i++) {
    await page.keyboard.press('Shift+PageDown')
    await page.waitForTimeout(120)
    if (i % 50 === 0) { await page.waitForTimeout(2000); await tell(i) }
  }
  await page.waitForTimeout(3000)
  await tell('rest')
  const root = await browser.newBrowserCDPSession()
  const events = []
  root.on('Tracing.dataCollected', ({ value }) => events.push(...value))
  await root.send('Tracing.start', { transferMode: 'ReportEvents', traceConfig: { includedCategories: ['disabled-by-default-memory-infra'], excludedCategories: ['*'] } })
  console.log(await root.send('Tracing.requestMemoryDump', { levelOfDetail: 'detailed' }))
  const ended = new Promise((r) => root.once('Tracing.tracingComplete', r))
  await root.send('Tracing.end')
  await ended
  const byPid = {}
  for (const e of events) if (e.args?.dumps?.allocators) byPid[e.pid] = { ...(byPid[e.pid] ?? {}), ...e.args.dumps.allocators }
  for (const [pid, all] of Object.entries(byPid)) {
    const rows = Object.entries(all).map(([name, d]) => [name, parseInt(d.attrs?.effective_size?.value ?? d.attrs?.size?.value ?? '0', 16) / 1e6]).filter(([name, mb]) => mb > 8 && name.split('/').length <= 3)
    if (rows.length > 0) console.log('pid', pid, rows.sort((a, b) => b[1] - a[1]).slice(0, 24).map(([n, mb]) => `${n} ${mb.toFixed(0)}`).join('\n   '))
  }
  for (const w of page.workers()) {
    try { console.log('  ', w.url().split('/').at(-1), await w.evaluate(() => [performance.memory?.usedJSHeapSize / 1e6, performance.memory?.totalJSHeapSize / 1e6])) } catch (e) { console.log(String(e)) }
  }
  await cdp.send('HeapProfiler.collectGarbage')
  await page.waitForTimeout(1000)
  await tell('collected')
  await browser.close()
} finally {
  server.kill('SIGKILL')
  removeCluster(cluster)
}
