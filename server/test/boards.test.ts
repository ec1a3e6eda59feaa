import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { PNG, startTestServer, type TestServer } from './testServer'

const FILM = '/api/projects/salt-lantern'

describe('boards on the server', () => {
  let server: TestServer
  beforeAll(async () => {
    // Upkeep runs early, so that it can be seen.
    server = await startTestServer({ RUBATO_SEED: 'demo', RUBATO_UPKEEP_AFTER_MS: '500' })
  })
  afterAll(() => server.stop())

  it('are laid out before a body is read: every take with its length and how many panels it has', async () => {
    const { body } = await server.ask(FILM)
    expect(body.takePanels).toEqual({ 'take-030-a': 2, 'take-030-b': 2, 'take-040-a': 4, 'take-050-a': 2, 'take-060-a': 2, 'take-070-a': 2 })
    expect(Object.keys(body.outline.passages).length).toBeGreaterThan(20)
    expect(body.outline.links['s12.p2']).toBeUndefined()
    expect(Object.values<{ takeId: string }>(body.outline.links).map((link) => link.takeId)).toContain('take-040-a')
  })

  it('keep count of panels as edits come', async () => {
    const [{ body, revision }] = (await server.ask(`${FILM}/takes?ids=take-030-a`)).body
    const panel = { ...body.panels.p2, id: 'p3', order: 'a3' }
    const edits = [{ kind: 'x', unit: { kind: 'take', id: 'take-030-a' }, changes: { panels: { p3: { before: null, after: panel } } } }]
    const sent = await server.post(`${FILM}/edits`, { base: { 'take:take-030-a': revision }, changes: [{ id: 'counting-panels-1', label: 'panel', edits }] })
    expect(sent.status).toBe(200)
    expect((await server.ask(FILM)).body.takePanels['take-030-a']).toBe(3)
    const { body: caught } = await server.ask(`${FILM}/changes?after=0`)
    expect(caught.entries.at(-1).takePanels).toEqual({ 'take-030-a': 3 })
  })

  it('refuse a link to a passage or a take that is not there', async () => {
    const { body } = await server.ask(FILM)
    const link = { id: 'nothing.p1', passageId: 'nothing', takeId: 'take-030-a', panelId: 'p1', words: '' }
    const edits = [{ kind: 'x', unit: { kind: 'outline', id: 'salt-lantern' }, changes: { links: { [link.id]: { before: null, after: link } } } }]
    const sent = await server.post(`${FILM}/edits`, { base: { 'outline:salt-lantern': body.outlineRevision }, changes: [{ id: 'link-to-nothing-1', label: 'link', edits }] })
    expect([sent.status, sent.body.data.code]).toEqual([422, 'invalid-edit'])
  })

  it('find words in captions, signs taken as they are', async () => {
    const find = async (query: string) => (await server.ask(`${FILM}/captions?${query}`)).body
    const places = (found: { takeId: string; panelId: string; field: string }[]) => found.map((each) => `${each.takeId}.${each.panelId}.${each.field}`).sort()
    expect(places(await find('q=brisket'))).toEqual(['take-040-a.p1.action', 'take-050-a.p1.action', 'take-050-a.p2.dialogue', 'take-070-a.p1.action'])
    expect(await find('q=brisket&case=1')).toEqual([])
    expect(await find('q=%25')).toEqual([])
    expect((await server.ask(`${FILM}/captions?q=`)).status).toBe(422)
    expect((await server.ask('/api/projects/none/captions?q=a')).status).toBe(404)
  })

  it('let go of a picture that was given up, but not of one that someone else took in since or uses', async () => {
    const upload = async () => (await server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(PNG) })).body
    const there = async (hash: string) => (await server.ask(`/api/pictures/${hash}`)).status
    const first = await upload()
    expect(first.fresh).toBe(true)
    const second = await upload()
    expect(second.fresh).toBe(false)
    const forget = async (file: object) => (await server.post('/api/pictures/unused', { files: [file] })).body.gone
    expect(await forget({ hash: first.hash, touchedAt: first.touchedAt })).toBe(0)
    expect(await there(first.hash)).toBe(200)
    await server.query(`INSERT INTO project_assets (project_id, hash) VALUES ('salt-lantern', '${first.hash}')`)
    expect(await forget({ hash: first.hash, touchedAt: second.touchedAt })).toBe(0)
    await server.query(`DELETE FROM project_assets WHERE hash = '${first.hash}'`)
    expect(await forget({ hash: first.hash, touchedAt: second.touchedAt })).toBe(1)
    expect(await there(first.hash)).toBe(404)
  })

  it('keep at most sixty versions made before steps; those made by hand stay', async () => {
    await server.post(`${FILM}/versions`, { name: 'By hand' })
    for (let i = 0; i < 62; i++) expect((await server.post(`${FILM}/versions`, { name: `Before ${i}`, reason: 'before' })).status).toBe(200)
    const { body } = await server.ask(`${FILM}/versions`)
    expect(body.filter((version: { reason: string }) => version.reason === 'before')).toHaveLength(60)
    expect(body.map((version: { name: string }) => version.name)).toContain('By hand')
    expect(body[0].name).toBe('Before 61')
  })
})
