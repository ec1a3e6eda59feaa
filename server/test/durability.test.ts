import { EMPTY_DRAWING, orderOfNumber, type Film } from '@rubato/core/document'
import { applyChange, type Edit } from '@rubato/core/edits'
import { createHash } from 'node:crypto'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { backUp } from '../../scripts/backup.mjs'
import { removeCluster, startCluster } from '../../scripts/cluster.mjs'
import { createServerProcess, NEW_PROJECT } from './testServer'

const KILLS = Number(process.env.RUBATO_KILLS ?? 3)
const WRITERS = Number(process.env.RUBATO_KILL_WRITERS ?? 2)
const SEED = Number(process.env.RUBATO_KILL_SEED ?? 20261123)
const CLUSTER = { name: `kills-${process.pid}`, port: 54_395 }

function createRandom(seed: number) {
  let state = seed >>> 0
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
}

const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/**
 * Edits one film as fast as it is answered. Batch n sets the panel's action, the sequence's title and adds a mark, in
 * three changes: a half batch would show as three that disagree.
 */
async function createWriter(address: string) {
  const ask = async (path: string, value?: unknown) => {
    const init = value === undefined ? {} : { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(value) }
    const response = await fetch(address + path, { ...init, signal: AbortSignal.timeout(5000) })
    if (!response.ok) throw Object.assign(new Error(`${path}: ${response.status} ${await response.text()}`), { status: response.status })
    return response.json()
  }
  const { project } = await ask('/api/projects', NEW_PROJECT)
  const { outline } = await ask(`/api/projects/${project.id}`)
  const takeId = Object.keys(outline.takes)[0]!
  const [{ body }] = await ask(`/api/projects/${project.id}/takes?ids=${takeId}`)
  const panel = Object.values<{ id: string; action: string }>(body.panels)[0]!
  const sequence = Object.values<{ id: string; title: string }>(outline.sequences)[0]!
  const edited = (record: object, field: string, from: string, to: string) => ({ before: { ...record, [field]: from }, after: { ...record, [field]: to } })
  const word = (n: number) => (n === 0 ? '' : `edit ${n}`)
  const mark = (n: number) => ({ id: `m${n}`, order: orderOfNumber(n), kind: 'stroke', mode: 'ink', points: [0, 0, 0.5, n / 1e4, 0.1, 0.5], widthFw: 0.004, colour: '#27241e', opacity: 1 })
  const batch = (n: number) => ({
    base: { [`take:${takeId}`]: n, [`outline:${project.id}`]: n, 'drawing:d': n - 1 },
    changes: [
      { id: `${project.id}-${n}-a`, label: 'action', edits: [{ kind: 'x', unit: { kind: 'take', id: takeId }, changes: { panels: { [panel.id]: edited(panel, 'action', word(n - 1), word(n)) } } }] },
      { id: `${project.id}-${n}-b`, label: 'mark', edits: [{ kind: 'x', unit: { kind: 'drawing', id: 'd' }, changes: { marks: { [`m${n}`]: { before: null, after: mark(n) } } } }] },
      { id: `${project.id}-${n}-c`, label: 'title', edits: [{ kind: 'x', unit: { kind: 'outline', id: project.id }, changes: { sequences: { [sequence.id]: edited(sequence, 'title', word(n - 1), word(n)) } } }] },
    ],
  })
  let acknowledged = 0
  let running = true
  const failures: Error[] = []
  const work = (async () => {
    while (running) {
      try {
        await ask(`/api/projects/${project.id}/edits`, batch(acknowledged + 1))
        acknowledged++
      } catch (error) {
        const { status } = error as { status?: number }
        // Refused would mean that the server has lost or doubled something: no answer, or a failing database, does not.
        if (status !== undefined && status < 500) {
          failures.push(error as Error)
          return
        }
        await sleep(50)
      }
    }
  })()
  return {
    projectId: project.id as string,
    takeId,
    panelId: panel.id,
    /** As it was before anything was done to it. */
    begun: { outline, takes: { [takeId]: body }, drawings: { d: EMPTY_DRAWING } } as Film,
    acknowledged: () => acknowledged,
    async stop() {
      running = false
      await work
      if (failures.length > 0) throw failures[0]!
    },
    failures,
  }
}

/** What else goes on meanwhile: pictures come in, versions are kept, films are taken out as files, backups are made. */
function createOthers(address: () => string, projectIds: readonly string[], place: () => { readonly databaseUrl: string; readonly storage: string }) {
  const folder = mkdtempSync(join(tmpdir(), 'rubato-kills-'))
  const pictures: string[] = []
  const versions: { readonly id: string; readonly projectId: string }[] = []
  const failures: string[] = []
  let [backups, films] = [0, 0]
  let running = true
  const over = async (work: (n: number) => Promise<void>) => {
    for (let n = 0; running; n++) {
      await work(n).catch((error: { status?: number; message: string }) => {
        if (error.status !== undefined && error.status < 500 && error.status !== 429) failures.push(error.message)
      })
      await sleep(20)
    }
  }
  const ask = async (path: string, init: RequestInit = {}) => {
    const response = await fetch(address() + path, { ...init, signal: AbortSignal.timeout(5000) })
    if (!response.ok) throw Object.assign(new Error(`${path}: ${response.status} ${await response.text()}`), { status: response.status })
    return response
  }
  const film = (n: number) => projectIds[n % projectIds.length]!
  const works = [
    over(async (n) => {
      const picture = await sharp({ create: { width: 8 + (n % 90), height: 8 + Math.floor(n / 90), channels: 3, background: '#2a6a99' } }).png().toBuffer()
      pictures.push(((await (await ask('/api/pictures', { method: 'POST', body: new Uint8Array(picture) })).json()) as { hash: string }).hash)
    }),
    over(async (n) => {
      const { id } = (await (await ask(`/api/projects/${film(n)}/versions`, { method: 'POST', body: JSON.stringify({ name: `before kill ${n}` }) })).json()) as { id: string }
      versions.push({ id, projectId: film(n) })
      await sleep(150)
    }),
    over(async (n) => {
      await (await ask(`/api/projects/${film(n)}/archive`)).arrayBuffer()
      films++
    }),
    over(async (n) => {
      const file = join(folder, `${n}.tar`)
      await backUp({ ...place(), file }).then(() => backups++, () => expect(existsSync(file)).toBe(false))
      rmSync(file, { force: true })
    }),
  ]
  return {
    pictures,
    versions,
    failures,
    counts: () => ({ pictures: pictures.length, versions: versions.length, films, backups }),
    async stop() {
      running = false
      await Promise.all(works)
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

test(`every acknowledged edit is there after ${KILLS} kills of server and database, and no half batch`, { timeout: 60_000 + KILLS * 20_000 }, async () => {
  const random = createRandom(SEED)
  let cluster = await startCluster(CLUSTER)
  const storage = mkdtempSync(join(tmpdir(), 'rubato-blobs-'))
  const server = await createServerProcess({ RUBATO_DATABASE_URL: cluster.url, RUBATO_STORAGE_DIR: storage })
  const state = async ({ projectId, takeId, panelId }: Awaited<ReturnType<typeof createWriter>>) => {
    const client = new pg.Client(cluster.url)
    await client.connect()
    try {
      const { rows } = await client.query(
        `SELECT (SELECT body->'panels'->$3->>'action' FROM takes WHERE project_id = $1 AND id = $2) AS action,
                (SELECT title FROM sequences WHERE project_id = $1) AS title,
                (SELECT count(*)::int FROM drawings, jsonb_array_elements(content->'marks') WHERE project_id = $1 AND id = 'd') AS marks,
                (SELECT count(*)::int FROM journal WHERE project_id = $1) AS journal,
                (SELECT revision FROM takes WHERE project_id = $1 AND id = $2) AS revision`,
        [projectId, takeId, panelId],
      )
      return rows[0] as { action: string; title: string; marks: number; journal: number; revision: number }
    } finally {
      await client.end()
    }
  }
  try {
    await server.start()
    const writers = await Promise.all(Array.from({ length: WRITERS }, () => createWriter(server.address)))
    const others = createOthers(() => server.address, writers.map((writer) => writer.projectId), () => ({ databaseUrl: cluster.url, storage }))
    for (let kill = 0; kill < KILLS; kill++) {
      await sleep(100 + random() * 600)
      const which = random()
      const before = writers.map((writer) => writer.acknowledged())
      if (which < 0.65) process.kill(Number(readFileSync(join(cluster.data, 'postmaster.pid'), 'utf8').split('\n')[0]), 'SIGKILL')
      if (which > 0.35) await server.kill()
      const acknowledged = writers.map((writer) => writer.acknowledged())
      cluster = await startCluster(CLUSTER)
      for (const [i, writer] of writers.entries()) {
        const found = await state(writer)
        const n = found.marks
        expect(n, `kill ${kill}: marks against ${acknowledged[i]} acknowledged`).toBeGreaterThanOrEqual(Math.max(before[i]!, acknowledged[i]!))
        // More may come in at any moment where the server lives on; all five are read in one statement.
        expect(found).toEqual({ action: n === 0 ? '' : `edit ${n}`, title: n === 0 ? '' : `edit ${n}`, marks: n, journal: 3 * n, revision: n + 1 })
        expect(writer.failures).toEqual([])
      }
      if (which > 0.35) await server.start()
    }
    const goal = writers.map((writer) => writer.acknowledged() + 3)
    for (let tries = 0; tries < 200 && writers.some((writer, i) => writer.acknowledged() < goal[i]!); tries++) await sleep(100)
    for (const [i, writer] of writers.entries()) {
      expect(writer.acknowledged()).toBeGreaterThanOrEqual(goal[i]!)
      await writer.stop()
      expect((await state(writer)).marks).toBe(writer.acknowledged())
    }
    await others.stop()
    expect(others.failures).toEqual([])
    const { pictures, versions, films, backups } = others.counts()
    expect({ pictures: pictures > 0, versions: versions > 0, films: films > 0 }, JSON.stringify(others.counts())).toEqual({ pictures: true, versions: true, films: true })
    for (const hash of others.pictures) {
      const response = await fetch(`${server.address}/api/pictures/${hash}`)
      expect([response.status, createHash('sha256').update(Buffer.from(await response.arrayBuffer())).digest('hex')]).toEqual([200, hash])
    }
    const client = new pg.Client(cluster.url)
    await client.connect()
    const { rows: kept } = await client.query<{ id: string }>('SELECT id FROM versions')
    expect(others.versions.filter(({ id }) => !kept.some((row) => row.id === id))).toEqual([])
    // What the journal says, done again from the beginning, is what there is.
    for (const { projectId, takeId, begun } of writers) {
      const { rows: journal } = await client.query<{ edits: readonly Edit[] }>('SELECT edits FROM journal WHERE project_id = $1 ORDER BY seq', [projectId])
      let film = begun
      for (const { edits } of journal) {
        const applied = applyChange(film, { edits })
        if (!applied.ok) throw new Error(`the journal of ${projectId} can't be done again: ${JSON.stringify(applied.refusal)}`)
        film = applied.value
      }
      const ask = async (path: string) => (await (await fetch(`${server.address}/api/projects/${projectId}${path}`)).json()) as never
      const { outline } = (await ask('')) as { outline: Film['outline'] }
      const [take] = (await ask(`/takes?ids=${takeId}`)) as [{ body: object }]
      const [drawing] = (await ask('/drawings?ids=d')) as [{ drawing: object }]
      expect({ outline, take: take.body, drawing: drawing.drawing }).toEqual({ outline: film.outline, take: film.takes[takeId], drawing: film.drawings.d })
    }
    await client.end()
    console.info(`${KILLS} kills, ${WRITERS} writers: ${writers.reduce((sum, writer) => sum + writer.acknowledged(), 0)} edits acknowledged, ${pictures} pictures, ${versions} versions, ${films} films as files, ${backups} backups`)
  } finally {
    await server.kill()
    removeCluster(cluster)
    rmSync(storage, { recursive: true, force: true })
  }
})
