import { spawn, spawnSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { createServer } from 'node:net'
import { openDesk } from './benchPage.mjs'
import { ENTRY } from './build.mjs'

const sleep = (ms) => new Promise((resolve) => setTimeout(resolve, ms))
const NOTHING_WRITTEN = { timecode: false, label: false, panel: false, take: false, version: false, date: false, captions: false, text: '', at: {}, size: 0.032 }
const UNDRESSED = { tone: 'drawn', aspect: null, border: 0, safe: false, mark: '', slate: 0, card: { text: '', frames: 0 } }

async function freePort() {
  const probe = createServer()
  await new Promise((resolve) => probe.listen(0, '127.0.0.1', resolve))
  const { port } = probe.address()
  await new Promise((resolve) => probe.close(resolve))
  return String(port)
}

/** One worker of the server's against the page's own export, two against one, and the encoder alone. */
export async function measureRenders({ browser, address, films, ask, post, hold, cluster, storage, size }) {
  const film = await films.demo()
  const part = 0.25
  const of = size({ kind: 'film' }, { kind: 'shots', from: '030', to: '030' })
  const workers = []
  const addWorker = async () => {
    const port = await freePort()
    const child = spawn(process.execPath, [ENTRY], { env: { ...process.env, RUBATO_DATABASE_URL: cluster.url, RUBATO_STORAGE_DIR: storage, RUBATO_WORKER: '1', RUBATO_SECRET: randomBytes(24).toString('hex'), RUBATO_SEED: 'none', PORT: port, NITRO_PORT: port, HOST: '127.0.0.1', RUBATO_REQUESTS_PER_MINUTE: '1000000' }, stdio: ['ignore', 'ignore', 'inherit'] })
    workers.push(child)
    for (let tries = 0; tries < 300 && !(await fetch(`http://127.0.0.1:${port}/api/health`).then((response) => response.ok, () => false)); tries++) await sleep(100)
  }
  const rendered = async (priority = 0) => {
    const begun = performance.now()
    const { id } = await post(`/api/projects/${film}/renders`, { format: 'mp4', of, each: 'whole', handles: 0, look: { size: part, sound: false, burnIn: NOTHING_WRITTEN, dress: UNDRESSED, standIns: false, depth: null, clear: false, trim: false }, priority, author: '' })
    for (;;) {
      const render = (await ask(`/api/projects/${film}/renders`)).find((each) => each.id === id)
      if (render.state === 'done') return { fps: render.frames / ((performance.now() - begun) / 1000), frames: render.frames }
      if (render.state !== 'running') throw new Error(render.why)
      await sleep(200)
    }
  }
  try {
    await addWorker()
    // Chromium starts, and the film comes from the server: once, not for each render.
    const warm = async () => void (size(true, false) && (await rendered()))
    await warm()
    const one = await rendered()
    const { page, context } = await openDesk(browser, `${address}/film/${film}?view=desk&shot=030`)
    const here = async () => {
      await page.getByRole('button', { name: 'Hand over…' }).click()
      const dialog = page.getByRole('dialog')
      await dialog.getByRole('combobox', { name: 'What' }).click()
      await page.getByRole('option', { name: size('Whole film', /^Shot /) }).click()
      await dialog.getByRole('combobox', { name: 'Size' }).click()
      await page.getByRole('option', { name: '320 × 180' }).click()
      await dialog.getByRole('checkbox', { name: /the film’s, mixed/ }).setChecked(false)
      const begun = performance.now()
      const download = page.waitForEvent('download', { timeout: 600_000 })
      await dialog.getByRole('button', { name: 'Make it' }).click()
      await download
      return one.frames / ((performance.now() - begun) / 1000)
    }
    const own = await here()
    await context.close()
    hold('a render by one worker / the page’s own export', one.fps / own, 0.8, `${one.fps.toFixed(1)} / ${own.toFixed(1)} frames/s, ${one.frames} frames at ${part} of 1280 px, MP4 by ffmpeg against WebM`, true)
    await addWorker()
    await warm()
    const two = await rendered()
    const encodeBegun = performance.now()
    spawnSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', `testsrc2=s=${1280 * part}x${720 * part}:r=24:d=${(one.frames / 24).toFixed(3)}`, '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '15', '-bf', '0', '-f', 'null', '-'])
    const encoded = one.frames / ((performance.now() - encodeBegun) / 1000)
    hold('a render by two workers / by one', two.fps / one.fps, 1, `${two.fps.toFixed(1)} / ${one.fps.toFixed(1)} frames/s, on the cores of one machine; the encoder alone ${encoded.toFixed(0)}`, true)
  } finally {
    for (const worker of workers) worker.kill('SIGKILL')
  }
}
