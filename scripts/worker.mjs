import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { createServer } from 'node:net'
import { ENTRY } from './build.mjs'
import { ensureChromium, ensureFfmpeg } from './install.mjs'
import { say, step } from './shell.mjs'

const AGAIN_MS = 2000

const freePort = () =>
  new Promise((resolve, reject) => {
    const probe = createServer().on('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address()
      probe.close(() => resolve(port))
    })
  })

/** What workers paint and encode with. */
export async function ensureWorkerPrograms() {
  await step('Chromium', ensureChromium)
  await step('ffmpeg', ensureFfmpeg)
}

/**
 * A worker of the render queue: a server of its own that only it and its own page speak to. Begun again when it ends by itself.
 * `env` has the database and the store. Gives back what ends it.
 */
export function keepWorker(env) {
  let child = null
  let stopping = false
  let timer
  const launch = async () => {
    const port = String(await freePort())
    if (stopping) return
    child = spawn(process.execPath, [ENTRY], {
      env: { ...env(), HOST: '127.0.0.1', NITRO_HOST: '127.0.0.1', PORT: port, NITRO_PORT: port, NUXT_TELEMETRY_DISABLED: '1', RUBATO_WORKER: '1', RUBATO_SECRET: randomBytes(24).toString('base64url'), RUBATO_SEED: 'none', RUBATO_REQUESTS_PER_MINUTE: '1000000' },
      // With a channel: it ends when this does.
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    })
    child.once('exit', (code, signal) => {
      child = null
      if (stopping) return
      say(`A render worker ended with ${code ?? signal}; it is started again. What it was making is made again.`)
      timer = setTimeout(() => void launch(), AGAIN_MS)
    })
  }
  void launch()
  return async () => {
    stopping = true
    clearTimeout(timer)
    const left = child
    if (left === null) return
    const ended = new Promise((resolve) => left.once('exit', resolve))
    left.kill('SIGTERM')
    const late = setTimeout(() => left.kill('SIGKILL'), 5000)
    await ended
    clearTimeout(late)
  }
}
