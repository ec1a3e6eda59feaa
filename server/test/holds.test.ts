import { spawn } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync, zipSync, strToU8, type Unzipped } from 'fflate'
import pg from 'pg'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from 'vitest'
import { createServerProcess, NEW_PROJECT, PNG } from './testServer'
import { startWatchedServer, type WatchedServer } from './watched'

const FILM = '/api/projects/salt-lantern'
const TAKE = 'take-040-a'

describe('what a server is asked', () => {
  let server: WatchedServer
  beforeAll(async () => {
    server = await startWatchedServer({ RUBATO_SEED: 'demo' })
    await server.ask(FILM)
    // Starting takes a while, and nobody waits for it.
    await server.heldMs()
  })
  afterAll(() => server.stop())

  const take = async () => (await server.ask(`${FILM}/takes?ids=${TAKE}`)).body[0]
  const change = (edits: unknown[], id = randomUUID()) => ({ id, label: 'x', edits })
  const edit = (unit: object, changes: object) => ({ kind: 'x', unit, changes })
  const send = async (changes: unknown[], base?: Record<string, number>) => server.post(`${FILM}/edits`, { base: base ?? { [`take:${TAKE}`]: (await take()).revision }, changes })
  const outline = async () => (await server.ask(FILM)).body

  it.each(['\0', 'a\ud83d', '\udc00b'])('with a character that can’t be kept in its text is refused by its change, and the film goes on (%j)', async (text) => {
    const { body, revision } = await take()
    const before = body.panels.p1
    const bad = change([edit({ kind: 'take', id: TAKE }, { panels: { p1: { before, after: { ...before, action: `Tilda ${text}` } } } })])
    const answer = await send([bad])
    expect([answer.status, answer.body.data.code, answer.body.data.changeId]).toEqual([422, 'invalid-edit', bad.id])
    const good = { ...before, action: `Tilda ${randomUUID()}` }
    expect((await send([change([edit({ kind: 'take', id: TAKE }, { panels: { p1: { before, after: good } } })])])).status).toBe(200)
    expect((await take()).revision).toBe(revision + 1)
    for (const [path, value] of [['versions', { name: text }], ['here', { session: 'a-session', name: text, shotId: null }]] as const) expect((await server.post(`${FILM}/${path}`, value)).status, path).toBe(422)
    expect((await server.ask(FILM, { method: 'PATCH', body: JSON.stringify({ title: `Salt ${text}` }) })).status).toBe(422)
  })

  it.each(['constructor', 'toString', 'valueOf', 'hasOwnProperty', '__proto__'])('with %s for a collection, a record, a unit or a reference is refused, and everything loads as before', async (name) => {
    const { body } = await take()
    const panel = { ...body.panels.p1, id: name }
    const raw = (changes: string, unit = `{"kind":"take","id":"${TAKE}"}`) => `{"base":{"take:${TAKE}":0},"changes":[{"id":"${randomUUID()}","label":"x","edits":[{"kind":"x","unit":${unit},"changes":${changes}}]}]}`
    const requests = [
      raw(`{"${name}":{"p1":{"before":null,"after":{"id":"p1"}}}}`),
      raw(`{"panels":{"${name}":{"before":null,"after":${JSON.stringify(panel)}}}}`),
      raw('{"marks":{}}', `{"kind":"drawing","id":"${name}"}`),
      raw(`{"shots":{"new":{"before":null,"after":{"id":"new","sequenceId":"${name}","order":"a9","label":"999","title":"","circledTakeId":"${name}"}}}}`, '{"kind":"outline","id":"salt-lantern"}'),
    ]
    for (const text of requests) {
      const { status } = await server.ask(`${FILM}/edits`, { method: 'POST', body: text })
      expect([409, 422], text).toContain(status)
    }
    expect((await take()).body).toEqual(body)
    expect((await server.ask(`${FILM}/takes?ids=${name}`)).status).not.toBe(500)
  })

  it('to put in what can’t be is told so, never failed at', async () => {
    const { outline: now, outlineRevision } = await outline()
    const base = { 'outline:salt-lantern': outlineRevision, 'take:new-take': 0, [`take:${TAKE}`]: (await take()).revision }
    const project = now.project['salt-lantern']
    const panel = (await take()).body.panels.p1
    const once = randomUUID()
    const asked: readonly (readonly [string, unknown[]])[] = [
      ['another film’s record in place of this one’s', [change([edit({ kind: 'outline', id: 'salt-lantern' }, { project: { 'salt-lantern': { before: project, after: null }, other: { before: null, after: { ...project, id: 'other' } } } })])]],
      ['a record under another’s id', [change([edit({ kind: 'take', id: TAKE }, { panels: { p1: { before: panel, after: { ...panel, id: 'p2' } } } })])]],
      ['a take that is taken out and filled at once', [change([edit({ kind: 'outline', id: 'salt-lantern' }, { takes: { 'new-take': { before: null, after: null } } }), edit({ kind: 'take', id: 'new-take' }, { panels: { p1: { before: null, after: panel } } })])]],
      ['one id for two changes', [change([edit({ kind: 'take', id: TAKE }, {})], once), change([edit({ kind: 'take', id: TAKE }, {})], once)]],
      ['a drawing named ..', [change([edit({ kind: 'drawing', id: '..' }, { marks: {} })])]],
      ['a take of three years', [change([edit({ kind: 'take', id: TAKE }, { panels: Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`long${i}`, { before: null, after: { ...panel, id: `long${i}`, lengthFrames: 1_000_000 } }])) })])]],
    ]
    for (const [what, changes] of asked) {
      const { status, body } = await send(changes, base)
      expect([404, 409, 422], `${what}: ${status} ${JSON.stringify(body)}`).toContain(status)
    }
    expect((await outline()).outline).toEqual(now)
  })

  it('of many units at once is answered as of few, whatever else is being written', async () => {
    const { body } = await server.post('/api/projects', { ...NEW_PROJECT, title: 'Crowded' })
    const id = body.project.id
    const stroke = { id: 'm', order: 'a1', kind: 'stroke', mode: 'ink', points: [0, 0, 1, 0.1, 0.1, 1], widthFw: 0.01, colour: '#000000', opacity: 1 }
    const write = (from: number, count: number, seq: number) => {
      const ids = Array.from({ length: count }, (_, i) => `d${from + i}`)
      const mark = { ...stroke, id: `m${seq}` }
      return server.post(`/api/projects/${id}/edits`, { base: Object.fromEntries(ids.map((each) => [`drawing:${each}`, seq])), changes: [change(ids.map((each) => edit({ kind: 'drawing', id: each }, { marks: { [mark.id]: { before: null, after: mark } } })))] })
    }
    for (let seq = 0; seq < 3; seq++) {
      const answers = await Promise.all(Array.from({ length: 6 }, (_, i) => write(i * 90, 90, seq)))
      expect(answers.map(({ status, body: said }) => `${status} ${said.message ?? ''}`.trim())).toEqual(Array(6).fill('200'))
    }
  })

  it('by someone who guesses the secret waits longer and longer, on every server of the database', async () => {
    const guarded = { RUBATO_DATABASE_URL: server.databaseUrl, RUBATO_STORAGE_DIR: server.storage, RUBATO_SECRET: 'a secret of some length', RUBATO_SEED: 'none' }
    const [a, b] = [await createServerProcess(guarded), await createServerProcess(guarded)]
    await Promise.all([a.start(), b.start()])
    try {
      const guess = (at: string, secret: string) => fetch(`${at}/api/sign-in`, { method: 'POST', body: JSON.stringify({ secret }) })
      const statuses: number[] = []
      for (let i = 0; i < 12; i++) statuses.push((await guess(i % 2 === 0 ? a.address : b.address, `wrong ${i}`)).status)
      expect(statuses.slice(0, 5)).toEqual([401, 401, 401, 401, 401])
      expect(statuses.slice(6).every((status) => status === 429)).toBe(true)
      const waiting = await guess(b.address, 'a secret of some length')
      expect([waiting.status, Number(waiting.headers.get('retry-after')) > 0]).toEqual([429, true])
      await new Promise((resolve) => setTimeout(resolve, 2500))
      expect((await guess(b.address, 'a secret of some length')).status).toBe(204)
      const health = await (await fetch(`${a.address}/api/health`)).json()
      expect(health).toEqual({ ok: true, server: 'ok', database: 'ok', storage: 'ok' })
    } finally {
      await Promise.all([a.stop(), b.stop()])
    }
  })

  it('by a page of another port is not taken, whatever it may read', async () => {
    const ask = (origin: string) => fetch(`${server.address}/api/projects`, { method: 'POST', headers: { Origin: origin, 'Content-Type': 'application/json' }, body: JSON.stringify(NEW_PROJECT) })
    for (const origin of ['http://127.0.0.1:1', 'http://localhost:9999', 'null', 'https://else.where']) expect((await ask(origin)).status, origin).toBe(403)
    expect((await ask(server.address)).status).toBe(200)
  })

  it('does not hold its loop, and leaves Home to all', async () => {
    await server.query(`UPDATE takes SET length_frames = 2147483647 WHERE project_id = 'salt-lantern'`)
    const { status, body } = await server.ask('/api/projects')
    expect(status).toBe(200)
    expect(body.find((card: { project: { id: string } }) => card.project.id === 'salt-lantern').lengthFrames).toBeGreaterThan(2 ** 31)
    expect(await server.heldMs()).toBeLessThan(250)
  })
})

describe('what a server has accepted', () => {
  let server: WatchedServer
  beforeAll(async () => {
    server = await startWatchedServer({ RUBATO_SEED: 'demo' })
  })
  afterAll(() => server.stop())

  it('stays, though the same bytes are let go of while they come in', async () => {
    const put = () => server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(PNG) })
    let last = (await put()).body
    for (let round = 0; round < 60; round++) {
      const [came] = await Promise.all([put(), server.post('/api/pictures/unused', { files: [{ hash: last.hash, touchedAt: last.touchedAt }] })])
      expect(came.status).toBe(200)
      last = came.body
      const there = await server.ask('/api/pictures/unused', { method: 'POST', body: JSON.stringify({ files: [] }) })
      expect(there.status).toBe(200)
      const { status } = await server.fetchBytes(`/api/pictures/${last.hash}`)
      expect(status, `round ${round}`).toBe(200)
    }
  })

  it('is in its file as it was at one moment, whatever is drawn meanwhile', async () => {
    const { body } = await server.ask(`${FILM}/takes?ids=${TAKE}`)
    let going = true
    const draw = async () => {
      for (let n = 0; going; n++) {
        // A level and its drawing in one change: the file has both, or neither.
        const revision = (await server.ask(`${FILM}/takes?ids=${TAKE}`)).body[0].revision
        const [id, level] = [`drawn-${n}`, { ...Object.values(body[0].body.levels)[0] as object, id: `level-${n}`, order: `c${String(100 + n)}`, name: `Level ${n}` }]
        const cell = { id: `level-${n}.p1`, levelId: `level-${n}`, panelId: 'p1', drawingId: id }
        const mark = { id: 'm', order: 'a1', kind: 'stroke', mode: 'ink', points: [0, 0, 1, 0.1, 0.1, 1], widthFw: 0.01, colour: '#000000', opacity: 1 }
        await server.post(`${FILM}/edits`, { base: { [`take:${TAKE}`]: revision, [`drawing:${id}`]: 0 }, changes: [{ id: randomUUID(), label: 'level', edits: [{ kind: 'x', unit: { kind: 'take', id: TAKE }, changes: { levels: { [level.id]: { before: null, after: level } }, cells: { [cell.id]: { before: null, after: cell } } } }, { kind: 'x', unit: { kind: 'drawing', id }, changes: { marks: { m: { before: null, after: mark } } } }] }] })
      }
    }
    const drawing = draw()
    // Whatever happens, it ends before its server does.
    onTestFinished(async () => {
      going = false
      await drawing
    })
    for (let round = 0; round < 4; round++) {
      const files = unzipSync(new Uint8Array(await (await fetch(`${server.address}${FILM}/archive`)).arrayBuffer()))
      const cells = Object.values(JSON.parse(new TextDecoder().decode(files[`takes/${TAKE}.json`])).cells) as { drawingId: string | null }[]
      for (const { drawingId } of cells) if (drawingId?.startsWith('drawn-')) expect(new TextDecoder().decode(files[`drawings/${drawingId}.json`]), drawingId).toContain('"m"')
    }
  })

  it('is told of where a file of it is missing, and the answer ends', async () => {
    const { body } = await server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(await sharp({ create: { width: 9, height: 9, channels: 3, background: '#123456' } }).png().toBuffer()) })
    const mark = { id: 'pic', order: 'a1', kind: 'picture', assetHash: body.hash, widthPx: 9, heightPx: 9, x: 0, y: 0, widthFw: 0.5 }
    expect((await server.post(`${FILM}/edits`, { base: { 'drawing:placed': 0 }, changes: [{ id: randomUUID(), label: 'picture', edits: [{ kind: 'x', unit: { kind: 'drawing', id: 'placed' }, changes: { marks: { pic: { before: null, after: mark } } } }] }] })).status).toBe(200)
    rmSync(join(server.storage, body.hash.slice(0, 2), body.hash))
    const answer = await server.ask(`${FILM}/archive`, { signal: AbortSignal.timeout(60_000) })
    expect([answer.status, answer.body.data.code]).toEqual([409, 'missing-file'])
    expect(answer.body.message).toContain(body.hash.slice(0, 12))
  })

  it('and half of what was coming in when it was killed is swept at the next start', async () => {
    const partial = spawn(process.execPath, ['-e', `fetch('${server.address}/api/pictures',{method:'POST',duplex:'half',body:new ReadableStream({start(c){c.enqueue(new Uint8Array(9e6))}})}).catch(()=>0);setTimeout(()=>0,60000)`])
    const left = () => readdirSync(server.storage).filter((name) => name.endsWith('.partial'))
    await expect.poll(left).toHaveLength(1)
    const incoming = join(tmpdir(), 'rubato-incoming')
    mkdirSync(incoming, { recursive: true })
    const old = join(incoming, `${left()[0]!.slice(0, 8)}-999999999-${randomUUID()}.zip`)
    writeFileSync(old, 'half')
    await server.kill()
    partial.kill()
    expect(left()).toHaveLength(1)
    await server.start()
    expect(left()).toEqual([])
    expect(readdirSync(incoming)).not.toContain(old.split('/').at(-1))
  })
})

describe('a film’s file', () => {
  let server: WatchedServer
  let entries: Unzipped
  beforeAll(async () => {
    server = await startWatchedServer({ RUBATO_SEED: 'demo' })
    await server.post(`${FILM}/versions`, { name: 'One', author: '' })
    entries = unzipSync(new Uint8Array(await (await fetch(`${server.address}${FILM}/archive`)).arrayBuffer()))
  })
  afterAll(() => server.stop())
  const takeIn = (files: Unzipped, query = '') => server.ask(`/api/archives${query}`, { method: 'POST', body: zipSync(files, { level: 0 }) as BodyInit })
  const json = (value: unknown) => strToU8(JSON.stringify(value))

  it('with versions goes out and in as often as one likes', async () => {
    let files = entries
    for (let round = 0; round < 3; round++) {
      const { status, body } = await takeIn(files)
      expect(status, JSON.stringify(body)).toBe(200)
      files = unzipSync(new Uint8Array(await (await fetch(`${server.address}/api/projects/${body.project.id}/archive`)).arrayBuffer()))
    }
    const version = JSON.parse(new TextDecoder().decode(entries['versions/0001.json']))
    const written = { ...entries, 'versions/0001.json': json({ ...version, units: version.units.map((unit: object) => ({ ...unit, revision: -1 })) }) }
    expect((await takeIn(written)).status).toBe(200)
  })

  it('with heavy drawings comes in within the server’s memory, and others are served meanwhile', async () => {
    const points = Array.from({ length: 40_000 }, (_, i) => [Number(Math.sin(i).toFixed(9)), Number(Math.cos(i).toFixed(9)), 0.5]).flat()
    const mark = (n: number) => ({ id: `m${n}`, order: `a${n + 1}`, kind: 'stroke', mode: 'ink', points, widthFw: 0.01, colour: '#000000', opacity: 1 })
    const heavy = json({ marks: Array.from({ length: 8 }, (_, n) => mark(n)) })
    expect(heavy.length).toBeGreaterThan(8e6)
    const files = { ...entries, ...Object.fromEntries(Array.from({ length: 10 }, (_, i) => [`drawings/heavy-${i}.json`, heavy])) }
    const memory = () => Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid()}/status`, 'utf8'))![1]) / 1024
    const before = memory()
    await server.heldMs()
    const { status, body } = await takeIn(files)
    expect(status, JSON.stringify(body)).toBe(200)
    expect(memory() - before).toBeLessThan(500)
    expect(await server.heldMs()).toBeLessThan(250)
  }, 120_000)

  it('that misses something is refused with what it misses, or taken in without it, as one chooses', async () => {
    const take = JSON.parse(new TextDecoder().decode(entries[`takes/${TAKE}.json`]))
    const cell = Object.values(take.cells as Record<string, { drawingId: string | null }>).find(({ drawingId }) => drawingId !== null)!
    const { [`drawings/${cell.drawingId}.json`]: gone, ...rest } = entries
    expect(gone).toBeDefined()
    const sound = Object.keys(entries).find((name) => name.startsWith('sounds/'))!
    delete rest[sound]
    const refused = await takeIn(rest)
    expect([refused.status, refused.body.data.code]).toEqual([422, 'incomplete-archive'])
    expect(refused.body.data.missing.join()).toContain(cell.drawingId)
    expect(refused.body.data.missing.join()).toContain('recording')
    expect((await takeIn(rest, '?incomplete=1')).status).toBe(200)
  })

  it.each([
    ['a unit twice', (version: { units: object[] }) => ({ ...version, units: [...version.units, version.units[0]] })],
    ['a number past what a database holds', (version: { units: object[] }) => ({ ...version, outlineRevision: 2 ** 33 })],
  ])('with %s in a version is refused in words', async (_, change) => {
    const version = JSON.parse(new TextDecoder().decode(entries['versions/0001.json']))
    const { status, body } = await takeIn({ ...entries, 'versions/0001.json': json(change(version)) })
    expect([status, body.data.code]).toEqual([422, 'bad-archive'])
  })

  it('with one picture under two names is refused in words', async () => {
    const hash = (await server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(PNG) })).body.hash
    const { status, body } = await takeIn({ ...entries, [`pictures/${hash}.png`]: PNG, [`pictures/${hash}.jpg`]: PNG })
    expect([status, body.message]).toEqual([422, expect.stringContaining('twice')])
  })

  it('comes in parts like all else', async () => {
    const file = zipSync(entries, { level: 0 })
    const { body } = await server.post('/api/uploads', { kind: 'archive', bytes: file.length })
    for (let part = 0; part * body.partBytes < file.length; part++) await server.ask(`/api/uploads/${body.id}/parts/${part}`, { method: 'PUT', body: file.slice(part * body.partBytes, (part + 1) * body.partBytes) as BodyInit })
    const { status, body: card } = await server.post(`/api/archives/${body.id}`, {})
    expect([status, card.project.title]).toEqual([200, 'Salt Lantern'])
    expect((await server.ask(`/api/uploads/${body.id}`)).status).toBe(404)
  })
})

describe('one busy film', () => {
  let server: WatchedServer
  beforeAll(async () => {
    server = await startWatchedServer({ RUBATO_SEED: 'demo' })
  })
  afterAll(() => server.stop())

  it('that is locked for long does not keep others from being read and written; its own writers are told when to try again', async () => {
    const other = (await server.post('/api/projects', { ...NEW_PROJECT, title: 'Other' })).body.project.id as string
    const holder = new pg.Client(server.databaseUrl)
    await holder.connect()
    await holder.query('BEGIN')
    await holder.query(`SELECT 1 FROM projects WHERE id = 'salt-lantern' FOR UPDATE`)
    const rename = (id: string, title: string) => server.ask(`/api/projects/${id}`, { method: 'PATCH', body: JSON.stringify({ title }) })
    const waiting = Array.from({ length: 30 }, (_, i) => rename('salt-lantern', `Salt ${i}`))
    await new Promise((resolve) => setTimeout(resolve, 300))
    for (let i = 0; i < 10; i++) {
      const begun = performance.now()
      expect((await rename(other, `Other ${i}`)).status).toBe(200)
      expect((await server.ask(FILM)).status).toBe(200)
      expect(performance.now() - begun).toBeLessThan(3000)
    }
    await holder.query('COMMIT')
    await holder.end()
    const statuses = new Set((await Promise.all(waiting)).map(({ status }) => status))
    expect([...statuses]).toEqual([200])
  })

  it('is brought back whole, shot by shot changed, in a few questions', async () => {
    const { body } = await server.post(`${FILM}/versions`, { name: 'Before all', author: '' })
    const takes = (await server.ask(`${FILM}/takes?ids=take-030-a,take-040-a,take-050-a`)).body as { id: string; revision: number; body: { panels: Record<string, { action: string }> } }[]
    for (const { id, revision, body: was } of takes) {
      const [panelId, before] = Object.entries(was.panels)[0]!
      expect((await server.post(`${FILM}/edits`, { base: { [`take:${id}`]: revision }, changes: [{ id: randomUUID(), label: 'action', edits: [{ kind: 'x', unit: { kind: 'take', id }, changes: { panels: { [panelId]: { before, after: { ...before, action: 'Other words' } } } } }] }] })).status).toBe(200)
    }
    const brought = await server.post(`${FILM}/versions/${body.id}/bring-back`, { shotIds: null, author: '' })
    expect(brought.status, JSON.stringify(brought.body)).toBe(200)
    const now = (await server.ask(`${FILM}/takes?ids=take-030-a,take-040-a,take-050-a`)).body as typeof takes
    for (const { id, body: was } of takes) expect(now.find((each) => each.id === id)!.body).toEqual(was)
  })

  it('takes a script of a thousand passages in at once', async () => {
    const { outline, outlineRevision } = (await server.ask(FILM)).body
    const passages = Object.fromEntries(Array.from({ length: 3000 }, (_, i) => [`line-${i}`, { before: null, after: { id: `line-${i}`, order: `b${String(1000 + i)}5`, kind: 'action', speaker: '', manner: '', text: `Tilda counts to ${i}.`.repeat(20), sequenceId: null } }]))
    const begun = performance.now()
    const { status, body } = await server.postLines(`${FILM}/edits`, { base: { 'outline:salt-lantern': outlineRevision }, changes: [{ id: randomUUID(), label: 'script', edits: [{ kind: 'x', unit: { kind: 'outline', id: 'salt-lantern' }, changes: { passages } }] }] })
    expect(status, JSON.stringify(body).slice(0, 300)).toBe(200)
    expect(performance.now() - begun).toBeLessThan(10_000)
    expect(Object.keys((await server.ask(FILM)).body.outline.passages)).toHaveLength(Object.keys(outline.passages).length + 3000)
  })
})
