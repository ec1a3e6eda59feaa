import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startTestServer, type TestServer } from './testServer'

const FILM = '/api/projects/salt-lantern'

describe('versions', () => {
  let server: TestServer
  let revisions: Record<string, number>
  let made = 0

  const edit = async (unit: { kind: string; id: string }, changes: object) => {
    const key = `${unit.kind}:${unit.id}`
    const { status, body } = await server.post(`${FILM}/edits`, { base: { [key]: revisions[key] ?? 1 }, changes: [{ id: `change-${++made}`, label: 'x', edits: [{ kind: 'x', unit, changes }] }] })
    expect(status, JSON.stringify(body)).toBe(200)
    Object.assign(revisions, body.revisions)
  }
  const take = async (id: string) => (await server.ask(`${FILM}/takes?ids=${id}`)).body[0].body
  const setAction = async (takeId: string, panelId: string, action: string) => {
    const before = (await take(takeId)).panels[panelId]
    await edit({ kind: 'take', id: takeId }, { panels: { [panelId]: { before, after: { ...before, action } } } })
  }
  const outline = async () => (await server.ask(FILM)).body.outline
  const versions = async () => (await server.ask(`${FILM}/versions`)).body as { id: string; name: string; reason: string; bytes: number; ownBytes: number; shotCount: number; lengthFrames: number }[]
  const make = async (name: string) => (await server.post(`${FILM}/versions`, { name, author: 'Ada' })).body.id as string

  beforeAll(async () => {
    server = await startTestServer({ RUBATO_SEED: 'demo' })
    revisions = {}
  })
  afterAll(() => server.stop())

  it('are whole, and cost only what changed since the one before', async () => {
    await make('First')
    await setAction('take-040-a', 'p1', 'Tilda waits.')
    await make('Second')
    const [second, first] = await versions()
    expect(first).toMatchObject({ name: 'First', reason: 'hand', shotCount: 5, lengthFrames: 664 })
    expect(first!.ownBytes).toBe(first!.bytes)
    expect(second!.bytes).toBeGreaterThan(100_000)
    const [{ bytes }] = await server.query(`SELECT octet_length(body::text) AS bytes FROM takes WHERE id = 'take-040-a'`)
    expect(second!.ownBytes).toBe(bytes)
  })

  it('stay as they were, to be looked at', async () => {
    const first = (await versions()).at(-1)!.id
    await setAction('take-040-a', 'p1', 'Tilda runs on.')
    const { body } = await server.ask(`${FILM}/versions/${first}/takes?ids=take-040-a`)
    expect(body[0].body.panels.p1.action).not.toMatch(/waits|runs on/)
    const opened = (await server.ask(`${FILM}/versions/${first}`)).body
    expect(opened.name).toBe('First')
    expect(Object.keys(opened.outline.shots)).toHaveLength(5)
    const cover = (await server.ask(`${FILM}/versions/${first}/cover`)).body
    expect(cover.drawings.length).toBeGreaterThan(2)
    const art = (await server.ask(`${FILM}/versions/${first}/drawings?ids=${cover.drawings[0].id}`)).body
    expect(art[0].drawing).toEqual(cover.drawings[0].drawing)
  })

  it('are compared with the film as a list of what changed', async () => {
    const first = (await versions()).at(-1)!.id
    const { body } = await server.ask(`${FILM}/versions/${first}/compare`)
    expect(body).toEqual([{ shotId: 'shot-040', shotLabel: '040', differences: [{ unit: { kind: 'take', id: 'take-040-a' }, collection: 'panels', id: 'p1', how: 'changed', name: null, fields: ['action'] }] }])
  })

  it('come back one shot at a time, and the film before is kept', async () => {
    const first = (await versions()).at(-1)!.id
    await setAction('take-030-a', 'p1', 'Only here.')
    const shots = (await outline()).shots
    await edit({ kind: 'outline', id: 'salt-lantern' }, { shots: { 'shot-050': { before: shots['shot-050'], after: { ...shots['shot-050'], title: 'Renamed' } } } })
    const before = await take('take-040-a')
    const { status, body } = await server.post(`${FILM}/versions/${first}/bring-back`, { shotIds: ['shot-040'], author: 'Ada' })
    expect(status).toBe(200)
    expect(body.changes).toBe(1)
    expect((await take('take-040-a')).panels.p1.action).not.toMatch(/runs on/)
    expect((await take('take-030-a')).panels.p1.action).toBe('Only here.')
    expect((await outline()).shots['shot-050'].title).toBe('Renamed')
    const kept = (await versions())[0]!
    expect(kept).toMatchObject({ id: body.keptAs, reason: 'before', name: 'Before “First” was brought back' })
    expect((await server.ask(`${FILM}/versions/${kept.id}/takes?ids=take-040-a`)).body[0].body).toEqual(before)
  })

  it('come back whole, with shots that were deleted and without those that were added, as changes others hear of', async () => {
    const first = (await versions()).at(-1)!.id
    const now = await outline()
    const without = { shots: { 'shot-030': { before: now.shots['shot-030'], after: null } }, takes: Object.fromEntries(['take-030-a', 'take-030-b'].map((id) => [id, { before: now.takes[id], after: null }])), links: Object.fromEntries(Object.entries<{ takeId: string }>(now.links).flatMap(([id, link]) => (link.takeId === 'take-030-a' ? [[id, { before: link, after: null }]] : []))), rulerMarks: { gutters: { before: now.rulerMarks.gutters, after: null } } }
    await edit({ kind: 'outline', id: 'salt-lantern' }, without)
    const { body } = await server.ask(`${FILM}/changes?after=0`)
    const last = body.entries.at(-1).seq
    await server.post(`${FILM}/versions/${first}/bring-back`, { shotIds: null, author: 'Ada' })
    const opened = (await server.ask(`${FILM}/versions/${first}`)).body
    expect(await outline()).toEqual(opened.outline)
    for (const id of Object.keys(opened.outline.takes)) {
      expect(await take(id)).toEqual((await server.ask(`${FILM}/versions/${first}/takes?ids=${id}`)).body[0].body)
    }
    const news = (await server.ask(`${FILM}/changes?after=${last}`)).body.entries
    expect(news.length).toBeGreaterThan(0)
    expect(news[0]).toMatchObject({ author: 'Ada', change: { label: 'bringing back “First”' } })
    expect((await server.ask(`${FILM}/versions/${first}/compare`)).body).toEqual([])
  })

  it('can be deleted; bodies that no version has go with them', async () => {
    for (const { id } of await versions()) expect((await server.ask(`${FILM}/versions/${id}`, { method: 'DELETE' })).status).toBe(204)
    expect(await versions()).toEqual([])
    expect((await server.query('SELECT count(*)::int AS n FROM bodies'))[0].n).toBe(0)
  })

  it('brought back by shot bring its links to the script that is there now, and its marks on the ruler', async () => {
    const id = await make('With links')
    const open = async () => (await server.ask(FILM)).body as { outline: { links: Record<string, { takeId: string }>; rulerMarks: Record<string, object>; passages: Record<string, object>; shots: Record<string, object>; takes: Record<string, { shotId: string }> }; outlineRevision: number }
    const { outline, outlineRevision } = await open()
    const of = (links: Record<string, { takeId: string }>) => Object.keys(links).filter((key) => links[key]!.takeId === 'take-040-a').sort()
    const had = of(outline.links)
    expect(had.length).toBeGreaterThan(0)
    const gone = (records: Record<string, object>, ids: readonly string[]) => Object.fromEntries(ids.map((key) => [key, { before: records[key], after: null }]))
    const changes = { shots: gone(outline.shots, ['shot-040']), takes: gone(outline.takes, ['take-040-a']), links: gone(outline.links, had), rulerMarks: gone(outline.rulerMarks, ['going-out']) }
    const sent = await server.post(`${FILM}/edits`, { base: { 'outline:salt-lantern': outlineRevision }, changes: [{ id: 'take-the-shot-out', label: 'delete shot', edits: [{ kind: 'x', unit: { kind: 'outline', id: 'salt-lantern' }, changes }] }] })
    expect(sent.status).toBe(200)
    expect((await server.post(`${FILM}/versions/${id}/bring-back`, { shotIds: ['shot-040'] })).status).toBe(200)
    expect(of((await open()).outline.links)).toEqual(had)
    expect((await open()).outline.rulerMarks).toEqual(outline.rulerMarks)
    for (const each of await versions()) await server.ask(`${FILM}/versions/${each.id}`, { method: 'DELETE' })
  })

  it('brought back by shot bring what lies under its plan', async () => {
    const id = await make('With a plan')
    const now = async () => (await server.ask(`${FILM}/takes?ids=take-040-a`)).body[0] as { revision: number; body: { grounds: Record<string, { drawingId: string }> } }
    const { revision, body } = await now()
    const { ground } = body.grounds
    const drawn = async () => (await server.ask(`${FILM}/drawings?ids=${ground!.drawingId}`)).body[0] as { revision: number; drawing: { marks: { id: string }[] } }
    const before = await drawn()
    const [mark] = before.drawing.marks
    const edits = [
      { kind: 'x', unit: { kind: 'take', id: 'take-040-a' }, changes: { grounds: { ground: { before: ground, after: null } } } },
      { kind: 'x', unit: { kind: 'drawing', id: ground!.drawingId }, changes: { marks: { [mark!.id]: { before: mark, after: null } } } },
    ]
    const sent = await server.post(`${FILM}/edits`, { base: { 'take:take-040-a': revision, [`drawing:${ground!.drawingId}`]: before.revision }, changes: [{ id: 'plan-gone', label: 'clear the plan', edits }] })
    expect(sent.status, JSON.stringify(sent.body)).toBe(200)
    expect((await now()).body.grounds).toEqual({})
    expect((await server.post(`${FILM}/versions/${id}/bring-back`, { shotIds: ['shot-040'] })).status).toBe(200)
    expect((await now()).body.grounds.ground).toEqual(ground)
    expect((await drawn()).drawing).toEqual(before.drawing)
    for (const each of await versions()) await server.ask(`${FILM}/versions/${each.id}`, { method: 'DELETE' })
  })

  it('that are not there, or have no name, are refused', async () => {
    expect((await server.ask(`${FILM}/versions/none`)).status).toBe(404)
    expect((await server.post(`${FILM}/versions`, { name: '  ' })).status).toBe(422)
    const id = await make('One')
    expect((await server.post(`${FILM}/versions/${id}/bring-back`, { shotIds: ['nowhere'] })).status).toBe(404)
    expect((await versions()).map((each) => each.name)).toEqual(['One'])
  })
})
