import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { NO_BURN_IN, UNDRESSED, type Render, type RenderAsk } from '#shared/renders'
import { startTestServer, startTestWorker, type ServerProcess, type TestServer } from './testServer'

/** The long form has thirty kills instead of two. */
const KILLS = Number(process.env.RUBATO_KILLS ?? 2)
const QUICK = { RUBATO_WORKER_SILENT_SECONDS: '3' }
const FILM = '/api/projects/salt-lantern'
let server: TestServer
const workers: ServerProcess[] = []
beforeAll(async () => {
  server = await startTestServer({ RUBATO_SEED: 'demo', ...QUICK })
})
afterEach(async () => {
  for (const worker of workers.splice(0)) await worker.stop()
})
afterAll(() => server?.stop())

const newWorker = async () => {
  const worker = await startTestWorker(server, QUICK)
  workers.push(worker)
  return worker
}
const LOOK: RenderAsk['look'] = { size: 0.25, sound: true, burnIn: NO_BURN_IN, dress: UNDRESSED, standIns: false, depth: null, clear: false, trim: false }
const shots = (from: string, to = from): RenderAsk['of'] => ({ kind: 'shots', from, to })
const asked = (more: Partial<RenderAsk>): RenderAsk => ({ format: 'png', of: shots('030'), each: 'whole', handles: 0, look: LOOK, priority: 0, author: '', ...more })
const ask = async (more: Partial<RenderAsk>) => (await server.post(`${FILM}/renders`, asked(more))).body as { id: string; message?: string; data?: { code: string } }
const list = async () => (await server.ask(`${FILM}/renders`)).body as Render[]
const one = async (id: string) => (await list()).find((render) => render.id === id)
async function ended(id: string, seconds = 300): Promise<Render> {
  for (let tries = 0; tries < seconds * 4; tries++) {
    const render = await one(id)
    if (render !== undefined && render.state !== 'running') return render
    await new Promise((resolve) => setTimeout(resolve, 250))
  }
  throw new Error(`still running: ${JSON.stringify(await one(id))}`)
}
const fileOf = async (id: string, number = 0) => (await server.fetchBytes(`${FILM}/renders/${id}/files/${number}`)).bytes
/** Of the pictures in a zip, in order; when it was packed does not matter. */
const hashOf = (bytes: Uint8Array) => Object.entries(unzipSync(bytes)).reduce((hash, [name, file]) => hash.update(name).update(file), createHash('sha256')).digest('hex')
const blobs = () => readdirSync(server.storage, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile() && /^[0-9a-f]{64}$/.test(entry.name)).map(({ name }) => name)
const lengthOf = async (label: string) => {
  const { outline, takeLengths } = (await server.ask(FILM)).body as { outline: { shots: Record<string, { label: string; circledTakeId: string }> }; takeLengths: Record<string, number> }
  return takeLengths[Object.values(outline.shots).find((shot) => shot.label === label)!.circledTakeId]!
}

describe('a render on the server', () => {
  it('waits until there is a worker, and is of the film as it was when it was asked for', async () => {
    const { id } = await ask({ of: shots('030') })
    expect(await one(id)).toMatchObject({ state: 'running', workers: 0, atWork: 0, doneFrames: 0, about: '030' })
    // Another length of the film changes nothing of what was asked.
    const length = await lengthOf('030')
    await server.ask(FILM, { method: 'PATCH', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ title: 'Another name' }) })
    await newWorker()
    const done = await ended(id)
    expect(done).toMatchObject({ state: 'done', frames: length, doneFrames: length, files: [{ name: 'Salt-Lantern-030.zip' }] })
    const entries = unzipSync(await fileOf(id))
    expect(Object.keys(entries)).toHaveLength(length)
    expect(Object.keys(entries)[3]).toBe('Salt-Lantern-030_0003.png')
    // Asked for again, the version is the same one.
    const versions = async () => ((await server.ask(`${FILM}/versions`)).body as { reason: string }[]).filter(({ reason }) => reason === 'out').length
    const before = await versions()
    const again = (await server.post(`${FILM}/renders/${id}/again`, {})).body as { id: string }
    expect([hashOf(await (await ended(again.id), fileOf(again.id))), await versions()]).toEqual([hashOf(await fileOf(id)), before])
    await server.ask(FILM, { method: 'PATCH', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ title: 'Salt Lantern' }) })
  }, 900_000)

  it('is a movie with every frame in its place, and each shot in a file of its own with handles', async () => {
    await newWorker()
    const { id } = await ask({ format: 'mp4', of: shots('030', '040'), each: 'shot', handles: 5 })
    const other = await ask({ format: 'mov', of: shots('030') })
    const done = await ended(id)
    expect(done.files.map(({ name }) => name)).toEqual(['Salt-Lantern-030.mp4', 'Salt-Lantern-040.mp4'])
    for (const [number, label] of ['030', '040'].entries()) {
      const path = join(server.storage, `probe-${label}.mp4`)
      writeFileSync(path, await fileOf(id, number))
      const times = execFileSync('ffprobe', ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pts', '-of', 'csv=p=0', path]).toString().trim().split('\n').map((line) => parseInt(line))
      expect(times).toEqual(Array.from({ length: (await lengthOf(label)) + 10 }, (_, i) => i))
      expect(execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'stream=codec_name', '-of', 'csv=p=0', path]).toString().trim().split('\n')).toEqual(['h264', 'aac'])
    }
    expect((await ended(other.id)).state).toBe('done')
    const mov = join(server.storage, 'probe.mov')
    writeFileSync(mov, await fileOf(other.id))
    const keys = execFileSync('ffprobe', ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=flags', '-of', 'csv=p=0', mov]).toString().trim().split('\n')
    expect([keys.length, keys.every((flags) => flags.startsWith('K'))]).toEqual([await lengthOf('030'), true])
  }, 900_000)

  it('ends when it is cancelled, leaves nothing behind, and goes after what is before it', async () => {
    const last = await ask({ of: shots('040'), priority: -1 })
    const usual = await ask({ of: shots('040') })
    const first = await ask({ of: shots('030'), priority: 1 })
    await newWorker()
    expect((await ended(first.id)).state).toBe('done')
    expect([(await one(usual.id))!.state, (await one(last.id))!.doneFrames]).toEqual(['running', 0])
    for (let tries = 0; (await one(usual.id))!.atWork === 0 && tries < 100; tries++) await new Promise((resolve) => setTimeout(resolve, 100))
    for (const { id } of [usual, last]) expect((await server.ask(`${FILM}/renders/${id}`, { method: 'DELETE' })).status).toBe(204)
    expect([(await one(usual.id))!.state, (await one(last.id))!.state]).toEqual(['cancelled', 'cancelled'])
    // The worker leaves what is not wanted any more, and takes the next.
    const next = await ask({ of: shots('030') })
    expect((await ended(next.id)).state).toBe('done')
    for (const { id } of await list()) await server.ask(`${FILM}/renders/${id}`, { method: 'DELETE' })
    const left = (await server.query('SELECT hash FROM render_pieces UNION SELECT hash FROM render_files')) as { hash: string | null }[]
    expect(left).toEqual([])
    const kept = ((await server.query('SELECT hash FROM assets')) as { hash: string }[]).map(({ hash }) => hash)
    expect(blobs().filter((hash) => !kept.includes(hash))).toEqual([])
  }, 900_000)

  it('that can’t be made says why, and what is asked for wrongly is refused', async () => {
    expect((await ask({ of: shots('030', '999') })).message).toContain('There is no shot 999')
    expect((await ask({ of: { kind: 'span', start: 90_000, end: 90_001 } })).message).toContain('There are no frames')
    expect((await server.post(`${FILM}/renders`, { ...asked({}), format: 'webm' })).status).toBe(422)
    expect((await server.post(`${FILM}/renders`, { ...asked({}), handles: 9999 })).status).toBe(422)
    expect((await server.ask(`${FILM}/renders/nothing`, { method: 'DELETE' })).status).toBe(404)
    expect((await server.ask('/api/stage/nothing/frame', { method: 'PUT' })).status).toBe(404)
    // What it is made of has gone: it is tried some times, then said.
    const { id } = await ask({ of: shots('030') })
    await server.query(`UPDATE renders SET ask = jsonb_set(ask, '{version}', '"gone"') WHERE id = '${id}'`)
    await newWorker()
    expect(await ended(id)).toMatchObject({ state: 'failed', why: expect.stringContaining('There is no version') })
  }, 900_000)

  it(`is whole and right though workers are killed ${KILLS} times`, async () => {
    await newWorker()
    const whole = await ask({ of: shots('040') })
    const right = hashOf(await (await ended(whole.id), fileOf(whole.id)))
    await newWorker()
    const ids: string[] = []
    for (let i = 0; i < Math.max(2, KILLS / 4); i++) ids.push((await ask({ of: shots('040') })).id)
    let seed = 7
    const random = () => (seed = (seed * 48_271) % 0x7fffffff) / 0x7fffffff
    for (let kill = 0; kill < KILLS; kill++) {
      await new Promise((resolve) => setTimeout(resolve, 500 + random() * 5000))
      const worker = workers[kill % 2]!
      await worker.kill()
      await worker.start()
    }
    for (const id of ids) {
      const render = await ended(id, 900)
      expect([render.state, render.files.length]).toEqual(['done', 1])
      expect(hashOf(await fileOf(id))).toBe(right)
    }
    const states = await server.query(`SELECT DISTINCT p.state FROM render_pieces p JOIN renders r ON r.id = p.render_id WHERE r.id IN (${ids.map((id) => `'${id}'`).join(', ')})`)
    expect(states).toEqual([{ state: 'done' }])
  }, 1_800_000)
})
