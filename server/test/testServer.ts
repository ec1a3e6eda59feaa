import { spawn, type ChildProcess } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { headLine, LINES_TYPE, linesOfChange } from '#shared/changeLines'
import type { Batch } from '#shared/edits'

const base = () => {
  const url = process.env.RUBATO_TEST_DATABASE_URL
  if (!url) throw new Error('RUBATO_TEST_DATABASE_URL is not set: run ./test server')
  return url
}

export async function freePort(): Promise<number> {
  const probe = createServer()
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve))
  const { port } = probe.address() as AddressInfo
  await new Promise((resolve) => probe.close(resolve))
  return port
}

/** A batch as it is sent. */
export const inLines = (batch: Batch) => `${[headLine(batch), ...batch.changes.flatMap((change) => [...linesOfChange(change)])].join('\n')}\n`

export interface TestServer extends ServerProcess {
  readonly databaseUrl: string
  readonly storage: string
  ask(path: string, init?: RequestInit): Promise<{ status: number; body: any; headers: Headers }> // eslint-disable-line @typescript-eslint/no-explicit-any
  fetchBytes(path: string): Promise<{ status: number; bytes: Buffer; headers: Headers }>
  post(path: string, value: unknown): ReturnType<TestServer['ask']>
  /** A batch as lines. */
  postLines(path: string, batch: Batch): ReturnType<TestServer['ask']>
  query(sql: string): Promise<any[]> // eslint-disable-line @typescript-eslint/no-explicit-any
  kill(): Promise<void>
  start(): Promise<void>
  stop(): Promise<void>
}

export interface ServerProcess {
  readonly address: string
  readonly pid: () => number | null
  start(): Promise<void>
  /** SIGKILL: nothing is put in order first. */
  kill(): Promise<void>
  stop(): Promise<void>
}

/** The built server, as a process that can be killed and started again at the same address. */
export async function createServerProcess(env: Record<string, string>): Promise<ServerProcess> {
  const port = await freePort()
  const address = `http://127.0.0.1:${port}`
  let child: ChildProcess | null = null
  const ended = () => new Promise<void>((resolve) => (child === null || child.exitCode !== null || child.signalCode !== null ? resolve() : child.once('exit', () => resolve())))
  const end = async (signal: NodeJS.Signals) => {
    child?.kill(signal)
    await ended()
  }
  return {
    address,
    pid: () => child?.pid ?? null,
    async start() {
      child = spawn(process.execPath, ['.output/server/index.mjs'], { env: { ...process.env, PORT: String(port), NITRO_PORT: String(port), HOST: '127.0.0.1', ...env }, stdio: ['ignore', 'ignore', 'inherit'] })
      let health: { ok: boolean } | null = null
      for (let tries = 0; tries < 900; tries++) {
        health = await fetch(`${address}/api/health`).then((r) => r.json() as Promise<{ ok: boolean }>).catch(() => null)
        if (health?.ok) return
        await new Promise((resolve) => setTimeout(resolve, 100))
      }
      throw new Error(`the server did not get ready: ${JSON.stringify(health)}`)
    },
    kill: () => end('SIGKILL'),
    stop: () => end('SIGTERM'),
  }
}

/** Who has worked for seconds hears first that the server let its idle connection go, and does not ask on that. */
const heard = () => new Promise<void>((resolve) => setTimeout(() => setImmediate(resolve)))

/** An empty database of its own. */
export async function makeDatabase() {
  const name = `test_${randomUUID().replaceAll('-', '')}`
  const admin = new pg.Client(base())
  await admin.connect()
  await admin.query(`CREATE DATABASE ${name}`)
  return {
    url: base().replace(/\/[^/]+$/, `/${name}`),
    async drop() {
      await admin.query(`DROP DATABASE ${name} WITH (FORCE)`)
      await admin.end()
    },
  }
}

/** The built server on a database and a folder of its own. */
export async function startTestServer(env: Record<string, string> = {}): Promise<TestServer> {
  const database = await makeDatabase()
  const databaseUrl = database.url
  const storage = mkdtempSync(join(tmpdir(), 'rubato-blobs-'))
  const running = await createServerProcess({ RUBATO_DATABASE_URL: databaseUrl, RUBATO_STORAGE_DIR: storage, RUBATO_CACHE_DIR: `${storage}-cache`, ...env })
  const client = new pg.Client(databaseUrl)
  await client.connect()
  const { address } = running
  const server: TestServer = {
    address,
    pid: running.pid,
    databaseUrl,
    storage,
    async ask(path, init) {
      await heard()
      const response = await fetch(address + path, init)
      const text = await response.text()
      let body: unknown = text
      try {
        body = JSON.parse(text)
      } catch {
        // Not every answer is JSON.
      }
      return { status: response.status, body, headers: response.headers }
    },
    async fetchBytes(path) {
      await heard()
      const response = await fetch(address + path)
      return { status: response.status, bytes: Buffer.from(await response.arrayBuffer()), headers: response.headers }
    },
    post: (path, value) => server.ask(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(value) }),
    postLines: (path, batch) => server.ask(path, { method: 'POST', headers: { 'Content-Type': LINES_TYPE }, body: inLines(batch) }),
    query: async (sql) => (await client.query(sql)).rows,
    start: running.start,
    kill: running.kill,
    async stop() {
      await running.stop()
      await client.end()
      await database.drop()
      for (const folder of [storage, `${storage}-cache`]) rmSync(folder, { recursive: true, force: true })
    },
  }
  await server.start()
  return server
}

/** A worker of the render queue on a database and a store. */
export async function startTestWorker({ databaseUrl, storage }: { readonly databaseUrl: string; readonly storage: string }, env: Record<string, string> = {}): Promise<ServerProcess> {
  const worker = await createServerProcess({ RUBATO_DATABASE_URL: databaseUrl, RUBATO_STORAGE_DIR: storage, RUBATO_CACHE_DIR: `${storage}-cache`, RUBATO_WORKER: '1', RUBATO_SECRET: randomUUID(), RUBATO_REQUESTS_PER_MINUTE: '1000000', ...env })
  await worker.start()
  return worker
}

/** A picture of one red pixel. */
export const PNG = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==', 'base64')

export const NEW_PROJECT = Object.freeze({
  title: 'Test film',
  rate: { numerator: 24, denominator: 1 },
  widthPx: 1280,
  heightPx: 720,
  filmBackMm: 36,
  baseLensMm: 50,
  defaultPanelFrames: 48,
})
