import { createHash, randomUUID } from 'node:crypto'
import { existsSync, readdirSync } from 'node:fs'
import { deflateSync } from 'node:zlib'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { shotSchema, type Outline, type Shot, type TakeBody } from '@rubato/core/document'
import { addRulerMark, addShot, drawMark, editProject, editShot, removeRulerMark, setPanelLength, type Made } from '@rubato/core/edits'
import { NEW_PROJECT, startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
})
afterAll(() => server?.stop())

interface Opened {
  readonly projectId: string
  readonly takeId: string
  readonly body: TakeBody
  readonly outline: any // eslint-disable-line @typescript-eslint/no-explicit-any
}

async function newProject(): Promise<Opened> {
  const made = await server.post('/api/projects', NEW_PROJECT)
  expect(made.status).toBe(200)
  const projectId = made.body.project.id
  const { outline } = (await server.ask(`/api/projects/${projectId}`)).body
  const takeId = Object.keys(outline.takes)[0]!
  const [take] = (await server.ask(`/api/projects/${projectId}/takes?ids=${takeId}`)).body
  return { projectId, takeId, body: take.body, outline }
}

const changeOf = (made: Made, label = 'a change', id: string = randomUUID()) => {
  if (!made.ok) throw new Error(made.refusal.code)
  return { id, label, edits: made.edits }
}
const panelOf = (body: TakeBody) => Object.keys(body.panels)[0]!
const send = (project: Opened, changes: readonly unknown[], base: Record<string, number>) => server.post(`/api/projects/${project.projectId}/edits`, { changes, base })
const bodyOf = async (project: Opened) => (await server.ask(`/api/projects/${project.projectId}/takes?ids=${project.takeId}`)).body[0] as { revision: number; body: TakeBody }

describe('a new project', () => {
  it('has a sequence, a shot, a panel of the default length and a level to draw on', async () => {
    const { body, outline } = await newProject()
    expect(Object.values(outline.shots)).toMatchObject([{ label: '010' }])
    expect(Object.values(body.panels)).toMatchObject([{ lengthFrames: 48 }])
    expect(Object.keys(body.levels)).toHaveLength(1)
  })

  it('is listed with its shots and running time, the last changed first', async () => {
    const { projectId } = await newProject()
    const { body } = await server.ask('/api/projects')
    expect(body[0]).toMatchObject({ project: { id: projectId }, shotCount: 1, lengthFrames: 48 })
  })

  it('is refused with what is wrong and where', async () => {
    const answer = await server.post('/api/projects', { ...NEW_PROJECT, rate: { numerator: 23, denominator: 1 } })
    expect(answer.status).toBe(422)
    expect(answer.body.data).toMatchObject({ code: 'invalid-request', issues: [{ path: 'rate' }] })
    expect((await server.post('/api/projects', { ...NEW_PROJECT, widthPx: 1e9 })).status).toBe(422)
    expect((await server.post('/api/projects', { ...NEW_PROJECT, extra: 1 })).status).toBe(422)
  })

  it('goes to the trash and comes back', async () => {
    const { projectId } = await newProject()
    expect((await server.ask(`/api/projects/${projectId}`, { method: 'DELETE' })).status).toBe(204)
    expect((await server.ask(`/api/projects/${projectId}`)).status).toBe(404)
    expect((await server.ask(`/api/projects/${projectId}/restore`, { method: 'POST' })).status).toBe(200)
    expect((await server.ask(`/api/projects/${projectId}`)).status).toBe(200)
  })

  it('gives what its first picture needs', async () => {
    const { projectId, takeId } = await newProject()
    const { body } = await server.ask(`/api/projects/${projectId}/cover`)
    expect(body).toMatchObject({ take: { id: takeId }, drawings: [] })
  })
})

describe('a shot', () => {
  it('keeps whatever it may say or leave unsaid, in a copy of the film too', async () => {
    const { projectId, outline } = await newProject()
    const shot: Shot = Object.values<Shot>(outline.shots)[0]!
    const told: Partial<Shot> = { targetFrames: 90, inTray: true, startsAt: -4, againOf: 'another' }
    const mayBeUnsaid = Object.entries(shotSchema.shape).flatMap(([name, schema]) => (schema.safeParse(undefined).success ? [name] : []))
    expect(Object.keys(told).sort()).toEqual(mayBeUnsaid.sort())
    const unit = { kind: 'outline', id: projectId }
    const open = async (id = projectId) => (await server.ask(`/api/projects/${id}`)).body
    const put = async (before: Shot, after: Shot) => {
      const change = { id: randomUUID(), label: 'shot', edits: [{ kind: 'shot-edit', unit, changes: { shots: { [shot.id]: { before, after } } } }] }
      const answer = await server.post(`/api/projects/${projectId}/edits`, { changes: [change], base: { [`outline:${projectId}`]: (await open()).outlineRevision } })
      expect(answer.status).toBe(200)
      return (await open()).outline.shots[shot.id]
    }
    expect(await put(shot, { ...shot, ...told })).toEqual({ ...shot, ...told })
    const copy = (await server.post(`/api/projects/${projectId}/duplicate`, {})).body.project.id
    expect((await open(copy)).outline.shots[shot.id]).toEqual({ ...shot, ...told })
    expect(await put({ ...shot, ...told }, shot)).toEqual(shot)
  })
})

describe('targets and marks on the ruler', () => {
  it('are kept to the field, change, go, and are in a copy of the film', async () => {
    const { projectId } = await newProject()
    const unit = { kind: 'outline' as const, id: projectId }
    const open = async (id = projectId) => (await server.ask(`/api/projects/${id}`)).body
    const edit = async (how: (outline: Outline) => Made) => {
      const { outline, outlineRevision } = await open()
      const made = how(outline)
      const answer = await server.post(`/api/projects/${projectId}/edits`, { changes: [changeOf(made)], base: { [`outline:${projectId}`]: outlineRevision } })
      expect(answer.status).toBe(200)
      return (await open()).outline as Outline
    }
    const shotId = Object.keys((await open()).outline.shots)[0]!
    const set = await edit((outline) => editShot(outline, projectId, shotId, { targetFrames: 90 }))
    expect(set.shots[shotId]).toMatchObject({ targetFrames: 90 })
    await edit((outline) => editProject(outline, projectId, { targetFrames: 900, startTimecodeFrames: 86_400, dropFrame: false }))
    const mark = { id: 'm1', shotId, offsetFrames: 7, name: 'Door', meaning: 'sound' as const }
    const marked = await edit((outline) => addRulerMark(outline, projectId, mark))
    expect(marked.rulerMarks).toEqual({ m1: mark })
    expect(marked.project[projectId]).toMatchObject({ targetFrames: 900, startTimecodeFrames: 86_400, dropFrame: false })

    const copy = (await server.post(`/api/projects/${projectId}/duplicate`, {})).body.project.id
    const copied = (await open(copy)).outline as Outline
    expect([copied.rulerMarks, copied.shots[shotId]!.targetFrames, copied.project[copy]!.startTimecodeFrames]).toEqual([{ m1: mark }, 90, 86_400])

    // Without a target the record is as it was before it had one.
    const without = await edit((outline) => editShot(outline, projectId, shotId, { targetFrames: undefined }))
    expect('targetFrames' in without.shots[shotId]!).toBe(false)
    const gone = await edit((outline) => removeRulerMark(outline, projectId, 'm1'))
    expect(gone.rulerMarks).toEqual({})
    const wrong = changeOf({ ok: true, edits: [{ kind: 'x', unit, changes: { rulerMarks: { m2: { before: null, after: { ...mark, id: 'm2', shotId: 'nowhere' } } } } }] })
    const answer = await server.post(`/api/projects/${projectId}/edits`, { changes: [wrong], base: { [`outline:${projectId}`]: (await open()).outlineRevision } })
    expect(answer.status).toBeGreaterThanOrEqual(400)
    expect((await open()).outline.rulerMarks).toEqual({})
  })
})

describe('a batch of edits', () => {
  it('is kept, raises the revision, and is in the journal', async () => {
    const project = await newProject()
    const change = changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 60), 'length of panel 1')
    const answer = await send(project, [change], { [`take:${project.takeId}`]: 1 })
    expect(answer.status).toBe(200)
    expect(answer.body.revisions).toEqual({ [`take:${project.takeId}`]: 2 })
    expect((await bodyOf(project)).body.panels[panelOf(project.body)]!.lengthFrames).toBe(60)
    const { takeLengths } = (await server.ask(`/api/projects/${project.projectId}`)).body
    expect(takeLengths[project.takeId]).toBe(60)
    const rows = await server.query(`SELECT label, edits FROM journal WHERE change_id = '${change.id}'`)
    expect(rows).toEqual([{ label: 'length of panel 1', edits: change.edits }])
  })

  it('sent again is not applied again', async () => {
    const project = await newProject()
    const change = changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 61))
    const base = { [`take:${project.takeId}`]: 1 }
    const first = await send(project, [change], base)
    const second = await send(project, [change], base)
    expect(second.status).toBe(200)
    expect(second.body).toEqual(first.body)
    expect((await bodyOf(project)).revision).toBe(2)
  })

  it('made on an old revision is refused with what changed since, and nothing of it is kept', async () => {
    const project = await newProject()
    const key = `take:${project.takeId}`
    const theirs = changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 70), 'theirs')
    await send(project, [theirs], { [key]: 1 })
    const mine = changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 80), 'mine')
    const answer = await send(project, [mine], { [key]: 1 })
    expect(answer.status).toBe(409)
    expect(answer.body.data).toMatchObject({ code: 'stale-revision', unit: key, revision: 2, since: [{ change: { id: theirs.id, label: 'theirs' } }] })
    expect((await bodyOf(project)).body.panels[panelOf(project.body)]!.lengthFrames).toBe(70)
  })

  it('is all or nothing: one bad change refuses the good ones before it', async () => {
    const project = await newProject()
    const good = changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 62))
    const bad = { id: randomUUID(), label: 'bad', edits: [{ kind: 'x', unit: { kind: 'take', id: project.takeId }, changes: { panels: { nope: { before: null, after: { id: 'nope' } } } } }] }
    const answer = await send(project, [good, bad], { [`take:${project.takeId}`]: 1 })
    expect(answer.status).toBe(422)
    expect(answer.body.data).toMatchObject({ code: 'invalid-edit', changeId: bad.id, path: ['panels', 'nope', 'order'] })
    expect((await bodyOf(project)).revision).toBe(1)
    expect(await server.query(`SELECT 1 FROM journal WHERE change_id = '${good.id}'`)).toEqual([])
  })

  it('that would leave a key standing nowhere is refused', async () => {
    const project = await newProject()
    const panel = project.body.panels[panelOf(project.body)]!
    const edit = { kind: 'x', unit: { kind: 'take', id: project.takeId }, changes: { panels: { [panel.id]: { before: panel, after: null } }, cells: { 'a.b': { before: null, after: { id: 'a.b', levelId: 'a', panelId: 'b', drawingId: 'c' } } } } }
    const answer = await send(project, [{ id: randomUUID(), label: 'x', edits: [edit] }], { [`take:${project.takeId}`]: 1 })
    expect(answer.status).toBe(422)
    expect(answer.body.message).toContain('missing-level')
  })

  it('makes a shot with its take, and undoing it keeps the body for redo', async () => {
    const project = await newProject()
    const film = { outline: project.outline, takes: {}, drawings: {} }
    const sequenceId = Object.keys(project.outline.sequences)[0]!
    const ids = { shot: 's-new', take: 't-new', panel: 'p-new', camera: 'c-new' }
    const change = changeOf(addShot(film, project.projectId, sequenceId, null, ids, 24), 'new shot')
    const outlineKey = `outline:${project.projectId}`
    const added = await send(project, [change], { [outlineKey]: 1, 'take:t-new': 0 })
    expect(added.status).toBe(200)
    expect(added.body.revisions).toEqual({ [outlineKey]: 2, 'take:t-new': 1 })
    const { invertChange } = await import('@rubato/core/edits')
    const undone = await send(project, [invertChange(change, randomUUID())], { [outlineKey]: 2, 'take:t-new': 1 })
    expect(undone.status).toBe(200)
    expect(Object.keys((await server.ask(`/api/projects/${project.projectId}`)).body.outline.shots)).toHaveLength(1)
    const redone = await send(project, [{ ...change, id: randomUUID() }], { [outlineKey]: 3, 'take:t-new': 2 })
    expect(redone.status).toBe(200)
    const [take] = (await server.ask(`/api/projects/${project.projectId}/takes?ids=t-new`)).body
    expect(Object.keys(take.body.panels)).toEqual(['p-new'])
  })

  it('keeps a stroke in a drawing of its own, apart from the take', async () => {
    const project = await newProject()
    const mark = { id: 'm1', kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5, 0.1, 0.1, 0.7], widthFw: 0.005, colour: '#27241e', opacity: 1 }
    const levelId = Object.keys(project.body.levels)[0]!
    const change = changeOf(drawMark(project.body, project.takeId, {}, levelId, panelOf(project.body), mark, 'drawing-1', false), 'stroke')
    const answer = await send(project, [change], { [`take:${project.takeId}`]: 1, 'drawing:drawing-1': 0 })
    expect(answer.body.revisions).toEqual({ [`take:${project.takeId}`]: 2, 'drawing:drawing-1': 1 })
    const [drawing] = (await server.ask(`/api/projects/${project.projectId}/drawings?ids=drawing-1`)).body
    expect(drawing.drawing.marks.map((mark: { id: string }) => mark.id)).toEqual(['m1'])
    expect(JSON.stringify((await bodyOf(project)).body)).not.toContain('points')
  })

  it('can’t reach another project’s take', async () => {
    const [mine, theirs] = [await newProject(), await newProject()]
    const change = changeOf(setPanelLength(theirs.body, theirs.takeId, panelOf(theirs.body), 5))
    const answer = await send(mine, [change], { [`take:${theirs.takeId}`]: 1 })
    expect(answer.status).toBe(404)
  })

  it('from twenty windows at once keeps just one of those made on the same revision', async () => {
    const project = await newProject()
    const base = { [`take:${project.takeId}`]: 1 }
    const answers = await Promise.all(Array.from({ length: 20 }, (_, i) => send(project, [changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 100 + i))], base)))
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, ...Array.from({ length: 19 }, () => 409)])
    expect((await bodyOf(project)).revision).toBe(2)
  })

  it('that was acknowledged survives a kill of the server', async () => {
    const project = await newProject()
    await send(project, [changeOf(setPanelLength(project.body, project.takeId, panelOf(project.body), 77))], { [`take:${project.takeId}`]: 1 })
    await server.kill()
    await server.start()
    expect((await bodyOf(project)).body.panels[panelOf(project.body)]!.lengthFrames).toBe(77)
  })
})

describe('requests', () => {
  it('that are not JSON, too large or malformed say so', async () => {
    const project = await newProject()
    const path = `/api/projects/${project.projectId}/edits`
    const raw = (body: string) => server.ask(path, { method: 'POST', body, headers: { 'Content-Type': 'application/json' } })
    expect((await raw('{"changes": [')).body.data.code).toBe('not-json')
    expect((await raw('{"changes": []}')).status).toBe(422)
    const large = await raw(`{"changes": "${'x'.repeat(1024 * 1024)}"}`)
    expect(large.status).toBe(413)
    expect(large.body.data).toMatchObject({ code: 'too-large', allowed: 1024 * 1024 })
  })

  it('for what is not there are answered 404, for bad ids 422', async () => {
    const project = await newProject()
    expect((await server.ask('/api/projects/nope')).body.data).toEqual({ code: 'not-found', what: 'project', id: 'nope' })
    expect((await server.ask('/api/projects/..%2f..%2fetc')).status).toBe(404)
    expect((await server.ask(`/api/projects/${project.projectId}/takes?ids=${encodeURIComponent("'; drop table takes")}`)).status).toBe(422)
    expect((await server.ask(`/api/projects/${project.projectId}/takes?ids=${Array.from({ length: 201 }, (_, i) => `t${i}`).join(',')}`)).body.data.code).toBe('too-many-ids')
    expect((await server.ask(`/api/projects/${project.projectId}/takes?ids=nope`)).body).toEqual([])
  })

  it('are answered with headers that keep the page to itself', async () => {
    const { headers } = await server.ask('/')
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin')
    expect(headers.get('content-security-policy')).toContain("default-src 'self'")
    expect(headers.get('x-content-type-options')).toBe('nosniff')
  })
})

function png(width: number, height: number): Buffer {
  const crcTable = Array.from({ length: 256 }, (_, n) => {
    let c = n
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
    return c >>> 0
  })
  const crc = (bytes: Buffer) => {
    let c = 0xffffffff
    for (const byte of bytes) c = crcTable[(c ^ byte) & 255]! ^ (c >>> 8)
    return (c ^ 0xffffffff) >>> 0
  }
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data])
    const out = Buffer.alloc(body.length + 8)
    out.writeUInt32BE(data.length, 0)
    body.copy(out, 4)
    out.writeUInt32BE(crc(body), body.length + 4)
    return out
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(width, 0)
  header.writeUInt32BE(height, 4)
  header.set([8, 2, 0, 0, 0], 8)
  return Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), chunk('IHDR', header), chunk('IDAT', deflateSync(Buffer.alloc((width * 3 + 1) * height))), chunk('IEND', Buffer.alloc(0))])
}

describe('pictures', () => {
  const upload = (bytes: Buffer) => server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(bytes), headers: { 'Content-Type': 'text/html' } })

  it('are kept under the hash of their bytes, known by them, and given back to the byte', async () => {
    const bytes = png(12, 7)
    const { status, body } = await upload(bytes)
    expect(status).toBe(200)
    expect(body).toMatchObject({ hash: createHash('sha256').update(bytes).digest('hex'), type: 'image/png', widthPx: 12, heightPx: 7, bytes: bytes.length })
    expect((await upload(bytes)).body.hash).toBe(body.hash)
    const back = await fetch(`${server.address}/api/pictures/${body.hash}`)
    expect(back.headers.get('content-type')).toBe('image/png')
    expect(Buffer.from(await back.arrayBuffer()).equals(bytes)).toBe(true)
  })

  it('that are something else, or too large, are refused and leave nothing behind', async () => {
    const text = Buffer.from('<html>not a picture</html>')
    const refused = await upload(text)
    expect(refused.status).toBe(415)
    const hash = createHash('sha256').update(text).digest('hex')
    expect(existsSync(`${server.storage}/${hash.slice(0, 2)}/${hash}`)).toBe(false)
    const bomb = png(2, 2)
    bomb.writeUInt32BE(60_000, 16)
    bomb.writeUInt32BE(60_000, 20)
    expect((await upload(bomb)).body.data.code).toBe('too-many-pixels')
    expect((await upload(Buffer.alloc(65 * 1024 * 1024))).body.data.code).toBe('picture-too-large')
    expect(readdirSync(server.storage).filter((name) => name.endsWith('.partial'))).toEqual([])
  })

  it('that are not there are answered 404', async () => {
    expect((await server.ask(`/api/pictures/${'0'.repeat(64)}`)).status).toBe(404)
    expect((await server.ask('/api/pictures/..%2f..%2fpassword')).status).toBe(404)
  })
})

describe('the demo', () => {
  it('is put into an empty database once, and reset to the same', async () => {
    const seeded = await startTestServer({ RUBATO_SEED: 'demo' })
    try {
      const [card] = (await seeded.ask('/api/projects')).body
      expect(card).toMatchObject({ project: { title: 'Salt Lantern' }, shotCount: 5, lengthFrames: 664 })
      const all = () => seeded.query(`SELECT md5(string_agg(body::text, '' ORDER BY id)) AS bodies, (SELECT md5(string_agg(content::text, '' ORDER BY id)) FROM drawings) AS art FROM takes`)
      const before = await all()
      await seeded.query(`UPDATE takes SET body = jsonb_set(body, '{levels}', '{}')`)
      await seeded.kill()
      const again = await startTestServerOn(seeded)
      expect(await all()).toEqual(before)
      await again()
    } finally {
      await seeded.stop()
    }
  })
})

/** Starts the same server once more, with the demo to be reset. */
async function startTestServerOn(seeded: TestServer) {
  const { spawn } = await import('node:child_process')
  const port = new URL(seeded.address).port
  const child = spawn(process.execPath, ['.output/server/index.mjs'], { env: { ...process.env, RUBATO_DATABASE_URL: seeded.databaseUrl, RUBATO_SEED: 'reset-demo', PORT: port, HOST: '127.0.0.1' }, stdio: 'ignore' })
  for (let tries = 0; tries < 200; tries++) {
    const ok = await seeded.ask('/api/health').then((answer) => answer.body.ok, () => false)
    if (ok) break
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  return () => new Promise<void>((resolve) => {
    child.once('exit', () => resolve())
    child.kill('SIGTERM')
  })
}
