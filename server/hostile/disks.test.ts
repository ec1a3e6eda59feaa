import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { appendFileSync, chownSync, mkdtempSync, readFileSync, rmSync, statfsSync, statSync } from 'node:fs'
import { connect, createServer, type AddressInfo, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { clusterFolder, removeCluster } from '../../scripts/cluster.mjs'
import { NEW_PROJECT, startTestServer, type TestServer } from '../test/testServer'
import { createTable } from './table'

const MB = 1024 * 1024
const PART = 4 * MB
const FILM = '/api/projects/salt-lantern'
const TAKE = 'take-040-a'
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const table = createTable('disks')

/** A real disk of few megabytes; null where this user may not make one. */
function smallDisk(megabytes: number) {
  const folder = mkdtempSync(join(tmpdir(), 'rubato-disk-'))
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m,mode=755`, 'tmpfs', folder], { stdio: 'ignore' })
  } catch {
    rmSync(folder, { recursive: true })
    return null
  }
  const filler = join(folder, 'filler')
  return {
    folder,
    fill(leaveBytes = 0) {
      const { bavail, bsize } = statfsSync(folder)
      appendFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - leaveBytes)))
    },
    empty: () => rmSync(filler, { force: true }),
    readOnly: (only: boolean) => execFileSync('mount', ['-o', `remount,${only ? 'ro' : 'rw'}`, folder]),
    remove() {
      execFileSync('umount', ['-l', folder])
      rmSync(folder, { recursive: true })
    },
  }
}
type Disk = NonNullable<ReturnType<typeof smallDisk>>
const tried = smallDisk(4)
tried?.remove()
const canMount = tried !== null

const noise = async (side: number) => sharp(Buffer.from(Array.from({ length: side * side * 3 }, (_, i) => (i * 7919 + (i >> 9) * 31 + (i % 1013) * (i >> 5)) % 256)), { raw: { width: side, height: side, channels: 3 } }).png({ compressionLevel: 0 }).toBuffer()

/** An edit of a panel's words. */
async function edit(server: TestServer) {
  const [{ revision, body }] = (await server.ask(`${FILM}/takes?ids=${TAKE}`)).body
  const action = `words ${randomUUID()}`
  const { status, body: said } = await server.post(`${FILM}/edits`, { base: { [`take:${TAKE}`]: revision }, changes: [{ id: randomUUID(), label: 'action', edits: [{ kind: 'x', unit: { kind: 'take', id: TAKE }, changes: { panels: { p1: { before: body.panels.p1, after: { ...body.panels.p1, action } } } } }] }] })
  return { status, code: said?.data?.code as string | undefined, message: said?.message as string | undefined, action }
}
const wordsOf = async (server: TestServer) => (await server.ask(`${FILM}/takes?ids=${TAKE}`)).body[0].body.panels.p1.action

afterAll(() => table.write('disks of 24 and 128 MB'))

describe.skipIf(!canMount)('a disk', () => {
  let disk: Disk
  let server: TestServer
  let shown = ''
  beforeAll(async () => {
    disk = smallDisk(128)!
    server = await startTestServer({ RUBATO_SEED: 'demo', RUBATO_STORAGE_DIR: join(disk.folder, 'blobs'), RUBATO_CACHE_DIR: join(disk.folder, 'cache') })
    shown = (await server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(await noise(700)) })).body.hash
  }, 120_000)
  afterAll(async () => {
    await server.stop()
    disk.remove()
  })

  const begin = async (file: Buffer) => (await server.post('/api/uploads', { kind: 'picture', bytes: file.length })).body.id as string
  const part = (id: string, n: number, file: Buffer) => server.ask(`/api/uploads/${id}/parts/${n}`, { method: 'PUT', body: new Uint8Array(file.subarray(n * PART, (n + 1) * PART)) })

  it('that is full refuses what comes in words, keeps the parts it has, shows pictures as they are, and takes all when there is room', async () => {
    const file = await noise(1800)
    expect(file.length).toBeGreaterThan(2 * PART)
    const id = await begin(file)
    expect((await part(id, 0, file)).status).toBe(204)
    disk.fill(MB)
    const full = await part(id, 1, file)
    expect([full.status, full.body.data.code, full.headers.get('retry-after')]).toEqual([507, 'disk-full', '30'])
    expect(full.body.message).toMatch(/disk is full.*Free some space/)
    expect((await server.ask(`/api/uploads/${id}`)).body.parts).toEqual([0])
    disk.fill()
    const sized = await server.fetchBytes(`/api/pictures/${shown}?side=512`)
    expect(sized.status).toBe(200)
    expect((await sharp(sized.bytes).metadata()).width).toBe(700)
    // Words need the database's disk only.
    expect((await edit(server)).status).toBe(200)
    disk.empty()
    for (const n of [1, 2]) if (n * PART < file.length) expect((await part(id, n, file)).status).toBe(204)
    disk.fill(MB)
    const late = await server.post(`/api/uploads/${id}/finish`, {})
    expect([late.status, late.body.data.code]).toEqual([507, 'disk-full'])
    disk.empty()
    const done = await server.post(`/api/uploads/${id}/finish`, {})
    expect(done.status, JSON.stringify(done.body)).toBe(200)
    expect((await sharp((await server.fetchBytes(`/api/pictures/${shown}?side=512`)).bytes).metadata()).width).toBe(512)
    table.row('a full disk: a part, and the file put together from its parts', '507 and why; all parts stay; taken once there is room', '', true)
  }, 120_000)

  it('that may only be read is told so, what is there is shown, and it goes on when it may be written again', async () => {
    const file = await noise(300)
    const id = await begin(file)
    disk.readOnly(true)
    const refused = await part(id, 0, file)
    expect([refused.status, refused.body.data?.code], JSON.stringify(refused.body)).toEqual([507, 'read-only'])
    expect(refused.body.message).toMatch(/may not write to its storage/)
    expect((await server.fetchBytes(`/api/pictures/${shown}`)).status).toBe(200)
    expect((await server.fetchBytes(`/api/pictures/${shown}?side=256`)).status).toBe(200)
    const health = (await server.ask('/api/health')).body
    expect([health.ok, health.storage === 'ok']).toEqual([false, false])
    expect((await edit(server)).status).toBe(200)
    disk.readOnly(false)
    expect((await part(id, 0, file)).status).toBe(204)
    expect((await server.post(`/api/uploads/${id}/finish`, {})).status).toBe(200)
    expect((await server.ask('/api/health')).body.ok).toBe(true)
    table.row('a disk that may only be read', '507 and why; pictures shown; health says so; goes on by itself', '', true)
  }, 120_000)
})

describe.skipIf(!canMount)('a database', () => {
  let disk: Disk
  let server: TestServer
  beforeAll(async () => {
    disk = smallDisk(24)!
    server = await startTestServer({ RUBATO_SEED: 'demo' })
    const ids = ['-u', '-g'].map((flag) => Number(execFileSync('id', [flag, 'postgres'], { encoding: 'utf8' }).trim()))
    chownSync(disk.folder, ids[0]!, ids[1]!)
    await server.query(`CREATE TABLESPACE small_${process.pid} LOCATION '${disk.folder}'`)
    for (const name of ['journal', 'takes', 'drawings']) await server.query(`ALTER TABLE ${name} SET TABLESPACE small_${process.pid}`)
  }, 120_000)
  afterAll(async () => {
    await server.query(`ALTER TABLE journal SET TABLESPACE pg_default`)
    for (const name of ['takes', 'drawings']) await server.query(`ALTER TABLE ${name} SET TABLESPACE pg_default`)
    await server.query(`DROP TABLESPACE small_${process.pid}`)
    await server.stop()
    disk.remove()
  })

  it('that is full says so, goes on reading, keeps nothing by half, and goes on by itself', async () => {
    const first = await edit(server)
    expect(first.status).toBe(200)
    disk.fill()
    let last = first.action
    let full: Awaited<ReturnType<typeof edit>> | null = null
    // Until the pages that are there already are full too.
    for (let i = 0; i < 2000 && full === null; i++) {
      const each = await edit(server)
      if (each.status === 200) last = each.action
      else full = each
    }
    expect([full?.status, full?.code]).toEqual([507, 'database-full'])
    expect(full?.message).toMatch(/disk is full.*goes on by itself/)
    expect(await wordsOf(server)).toBe(last)
    expect((await server.ask(FILM)).status).toBe(200)
    expect((await server.ask('/api/projects')).status).toBe(200)
    disk.empty()
    const after = await edit(server)
    expect(after.status).toBe(200)
    expect(await wordsOf(server)).toBe(after.action)
    table.row('a full database', '507 and why; read on; nothing by half; goes on by itself', '', true)
  }, 300_000)
})

describe('streams', () => {
  it('of twenty who never read, and of a catch-up on 450 large changes, cost little, and they are let in again', async () => {
    const server = await startTestServer({ RUBATO_SEED: 'none', RUBATO_REQUESTS_PER_MINUTE: '1000000' })
    const { body } = await server.post('/api/projects', NEW_PROJECT)
    const film = body.project.id as string
    const marks = (n: number, round: number) => Object.fromEntries(Array.from({ length: n }, (_, i) => [`m${round}-${i}`, { before: null, after: { id: `m${round}-${i}`, order: `b${10_000 + i}5`, kind: 'stroke', mode: 'ink', points: Array.from({ length: 300 }, (_p, p) => ((i * 31 + p * 17 + round) % 997) / 1000), widthFw: 0.01, colour: '#27241e', opacity: 1 } }]))
    const sockets: Socket[] = []
    const port = Number(new URL(server.address).port)
    const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid()!}/status`, 'utf8'))![1]) / 1024
    const slow = (after: number) => {
      const socket = connect(port, '127.0.0.1')
      socket.on('error', () => undefined)
      socket.write(`GET /api/projects/${film}/live?after=${after}&session=${randomUUID()}&name=Ada HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\n\r\n`)
      socket.pause()
      sockets.push(socket)
    }
    const send = async (round: number) => {
      const { status } = await server.postLines(`/api/projects/${film}/edits`, { author: '', base: { [`drawing:d${round}`]: 0 }, changes: [{ id: randomUUID(), label: 'draw', edits: [{ kind: 'draw', unit: { kind: 'drawing', id: `d${round}` }, changes: { marks: marks(120, round) } }] }] })
      expect(status).toBe(200)
    }
    try {
      for (let i = 0; i < 20; i++) slow(0)
      await send(0)
      const before = memory()
      let most = before
      for (let round = 1; round <= 450; round++) {
        await send(round)
        most = Math.max(most, memory())
      }
      for (const socket of sockets.splice(0)) socket.destroy()
      const whileSent = most - before
      // Who comes back wants all of it at once, and does not read it either.
      for (let i = 0; i < 20; i++) slow(0)
      for (let i = 0; i < 40; i++) {
        await sleep(250)
        most = Math.max(most, memory())
      }
      expect((await server.ask('/api/projects')).status).toBe(200)
      const entries: number[] = []
      for (let after = 0, more = true; more; ) {
        const { status, body: page } = await server.ask(`/api/projects/${film}/changes?after=${after}`)
        expect(status).toBe(200)
        entries.push(...page.entries.map((entry: { seq: number }) => entry.seq))
        after = entries.at(-1) ?? after
        more = page.more
      }
      expect(entries).toHaveLength(451)
      const all = most - before
      table.row('20 streams that never read, while 450 changes of 250 kB come: memory, MB more at most', whileSent.toFixed(0), '≤ 500', whileSent <= 500)
      table.row('the same, and 20 more that want all of it at once', all.toFixed(0), '≤ 500', all <= 500)
      expect(all).toBeLessThan(500)
    } finally {
      for (const socket of sockets) socket.destroy()
      await server.stop()
    }
  }, 300_000)
})

describe('./start', () => {
  const name = `hostile-${process.pid}`
  const folder = mkdtempSync(join(tmpdir(), 'rubato-start-'))
  const running: ChildProcess[] = []
  let port = 0
  let said = ''
  const start = () => {
    const child = spawn(process.execPath, ['scripts/start.mjs', '--empty'], { env: { ...process.env, RUBATO_PORT: String(port), RUBATO_CLUSTER: name, RUBATO_STORAGE_DIR: join(folder, 'blobs'), RUBATO_CACHE_DIR: join(folder, 'cache') } })
    child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()))
    child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()))
    running.push(child)
    return child
  }
  const ended = (child: ChildProcess) => new Promise<number | null>((resolve) => (child.exitCode !== null || child.signalCode !== null ? resolve(child.exitCode) : child.once('exit', (code) => resolve(code))))
  const health = () => fetch(`http://127.0.0.1:${port}/api/health`, { signal: AbortSignal.timeout(2000) }).then((answer) => answer.json() as Promise<{ ok: boolean; database: string }>, () => null)
  const until = async (what: string, held: () => Promise<boolean> | boolean, seconds = 60) => {
    for (let waited = 0; waited < seconds * 4; waited++) {
      if (await held()) return
      await sleep(250)
    }
    throw new Error(`${what}: not within ${seconds} s\n${said}`)
  }
  const postmaster = () => Number(readFileSync(join(clusterFolder(name), 'data', 'postmaster.pid'), 'utf8').split('\n')[0])
  const children = (pid: number) => execFileSync('pgrep', ['-P', String(pid)], { encoding: 'utf8' }).trim().split('\n').map(Number)

  beforeAll(async () => {
    const probe = createServer()
    await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve))
    port = (probe.address() as AddressInfo).port
    await new Promise((resolve) => probe.close(resolve))
  })
  afterAll(async () => {
    for (const child of running) child.kill('SIGTERM')
    await Promise.all(running.map(ended))
    const there = clusterFolder(name)
    removeCluster({ folder: there, data: join(there, 'data') })
    rmSync(folder, { recursive: true, force: true })
  }, 120_000)

  it('starts its database and its server again when they have died, is started twice without harm, and leaves no orphan', async () => {
    const child = start()
    await until('ready', async () => (await health())?.ok === true, 120)
    const made = await fetch(`http://127.0.0.1:${port}/api/projects`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ ...NEW_PROJECT, title: 'Kept' }) })
    expect(made.status).toBe(200)
    const titles = async () => ((await (await fetch(`http://127.0.0.1:${port}/api/projects`)).json()) as { projects?: { title: string }[] } & { title: string }[])
    const first = postmaster()
    process.kill(first, 'SIGKILL')
    await until('the database again', async () => said.includes('database does not answer') && (await health())?.ok === true)
    expect(postmaster()).not.toBe(first)
    expect(JSON.stringify(await titles())).toContain('Kept')
    const server = children(child.pid!).find((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('.output'))!
    process.kill(server, 'SIGKILL')
    await until('the server again', async () => said.includes('it is started again') && (await health())?.ok === true)
    const again = start()
    expect(await ended(again)).toBe(0)
    expect(said).toContain('already running')
    expect((await health())?.ok).toBe(true)
    const left = children(child.pid!).filter((pid) => statSync(`/proc/${pid}`, { throwIfNoEntry: false }) !== undefined)
    child.kill('SIGKILL')
    await until('no server left', async () => (await health()) === null, 20)
    // What has ended and was not waited for has no command line any more.
    await until('no process left', () => left.every((pid) => statSync(`/proc/${pid}`, { throwIfNoEntry: false }) === undefined || readFileSync(`/proc/${pid}/cmdline`, 'utf8') === ''), 20)
    table.row('`./start`: its database killed, its server killed, started twice, killed itself', 'both started again, nothing lost; the second says so and ends; no server left', '', true)
  }, 300_000)
})
