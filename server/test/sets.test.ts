import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startTestServer, type TestServer } from './testServer'

const FILM = '/api/projects/salt-lantern'

describe('sets', () => {
  let server: TestServer
  let revisions: Record<string, number>
  let made = 0
  const edit = async (unit: { kind: string; id: string }, changes: object, film = FILM) => {
    const key = `${unit.kind}:${unit.id}`
    const { status, body } = await server.post(`${film}/edits`, { base: { [key]: revisions[key] ?? 1 }, changes: [{ id: `set-change-${++made}`, label: 'x', edits: [{ kind: 'x', unit, changes }] }] })
    if (status === 200) Object.assign(revisions, body.revisions)
    return { status, body }
  }
  const setOf = async (film = FILM) => (await server.ask(`${film}/sets?ids=boardwalk`)).body[0]
  const users = async (film = FILM) => (await server.ask(`${film}/set-users`)).body
  const move = async (x: number) => {
    const before = (await setOf()).body.pieces.planks
    return edit({ kind: 'set', id: 'boardwalk' }, { pieces: { planks: { before, after: { ...before, x } } } })
  }
  beforeAll(async () => {
    server = await startTestServer({ RUBATO_SEED: 'demo' })
    revisions = {}
  })
  afterAll(() => server.stop())

  it('are loaded as takes are, and who stands in them is told without a body', async () => {
    const { id, revision, body } = await setOf()
    expect([id, revision, Object.keys(body.pieces).length]).toEqual(['boardwalk', 1, 3])
    expect(await users()).toEqual({ boardwalk: ['take-040-a', 'take-050-a', 'take-070-a'] })
    expect((await server.ask(FILM)).body.outline.sets.boardwalk).toMatchObject({ name: 'The boardwalk', stands: { x: 0 } })
    expect((await server.ask(`${FILM}/sets?ids=nobody`)).body).toEqual([])
    expect((await server.ask('/api/projects/nobody/set-users')).status).toBe(404)
  })

  it('are changed by one edit of their own; what can’t be is refused, and nobody else is overrun', async () => {
    expect((await move(0.5)).status).toBe(200)
    const stale = await server.post(`${FILM}/edits`, { base: { 'set:boardwalk': 1 }, changes: [{ id: `set-change-${++made}`, label: 'x', edits: [{ kind: 'x', unit: { kind: 'set', id: 'boardwalk' }, changes: { art: { planks: { before: (await setOf()).body.art.planks, after: null } } } }] }] })
    expect([stale.status, JSON.stringify(stale.body)]).toEqual([409, expect.stringContaining('stale-revision')])
    const { planks } = (await setOf()).body.pieces
    const put = (after: object) => edit({ kind: 'set', id: 'boardwalk' }, { pieces: { planks: { before: planks, after } } })
    expect(JSON.stringify((await put({ ...planks, carrier: { kind: 'camera' } })).body)).toMatch(/invalid-edit.*piece-on-camera|piece-on-camera.*invalid-edit/)
    expect((await put({ ...planks, carrier: { kind: 'level', levelId: 'nobody', turn: true, size: true } })).status).toBe(422)
    // A set has no time: a reference in it is one picture.
    expect((await put({ ...planks, kind: 'reference', sequence: { startFrame: 0, framesEach: 1 } })).status).toBe(422)
    const cell = (await server.ask(`${FILM}/takes?ids=take-040-a`)).body[0].body.cells['boardwalk.p1']
    expect(JSON.stringify((await edit({ kind: 'take', id: 'take-040-a' }, { cells: { 'boardwalk.p1': { before: cell, after: { ...cell, drawingId: 'dset-planks' } } } })).body)).toContain('not-a-drawing')
  })

  it('are in versions, which bring them back with their drawings; a shot alone comes back without touching them', async () => {
    const version = (await server.post(`${FILM}/versions`, { name: 'Before', author: '' })).body.id as string
    const x = (await setOf()).body.pieces.planks.x as number
    await move(3)
    const drawing = (await server.ask(`${FILM}/drawings?ids=dset-marsh`)).body[0].drawing
    const last = drawing.marks.at(-1)
    await edit({ kind: 'drawing', id: 'dset-marsh' }, { marks: { [last.id]: { before: last, after: null } } })
    const seen = (await server.ask(`${FILM}/versions/${version}/sets?ids=boardwalk`)).body[0]
    expect(seen.body.pieces.planks.x).toBe(x)
    const compared = (await server.ask(`${FILM}/versions/${version}/compare`)).body as { differences: { collection: string; name: string | null }[] }[]
    expect(compared.flatMap(({ differences }) => differences.map(({ collection, name }) => `${collection} ${name ?? ''}`.trim())).sort()).toEqual(['marks', 'pieces Planks'])
    await server.post(`${FILM}/versions/${version}/bring-back`, { shotIds: ['shot-040'], author: '' })
    expect((await setOf()).body.pieces.planks.x).toBe(3)
    await server.post(`${FILM}/versions/${version}/bring-back`, { shotIds: null, author: '' })
    expect((await setOf()).body.pieces.planks.x).toBe(x)
    expect((await server.ask(`${FILM}/drawings?ids=dset-marsh`)).body[0].drawing.marks).toHaveLength(drawing.marks.length)
    revisions = {}
  })

  it('go along when a film is duplicated, and are in its file, out and in again', async () => {
    const copy = (await server.post(`${FILM}/duplicate`, {})).body.project.id as string
    expect(await users(`/api/projects/${copy}`)).toEqual(await users())
    expect((await setOf(`/api/projects/${copy}`)).body).toEqual((await setOf()).body)
    const { bytes } = await server.fetchBytes(`${FILM}/archive`)
    const entries = Object.keys(unzipSync(bytes))
    expect(entries).toContain('sets/boardwalk.json')
    expect(entries).not.toContain('drawings/set.json')
    const again = (await server.ask('/api/archives', { method: 'POST', body: bytes as BodyInit })).body.project.id as string
    expect(await users(`/api/projects/${again}`)).toEqual(await users())
    expect((await setOf(`/api/projects/${again}`)).body).toEqual((await setOf()).body)
  })

  it('are counted no more for a take that was taken out', async () => {
    const { outline, outlineRevision } = (await server.ask(FILM)).body
    const [shot, take] = [outline.shots['shot-070'], outline.takes['take-070-a']]
    const links = Object.fromEntries(Object.values<{ id: string; takeId: string }>(outline.links).flatMap((link) => (link.takeId === 'take-070-a' ? [[link.id, { before: link, after: null }]] : [])))
    revisions['outline:salt-lantern'] = outlineRevision
    const gone = await edit({ kind: 'outline', id: 'salt-lantern' }, { shots: { 'shot-070': { before: shot, after: null } }, takes: { 'take-070-a': { before: take, after: null } }, links })
    expect(gone.status, JSON.stringify(gone.body)).toBe(200)
    expect(await users()).toEqual({ boardwalk: ['take-040-a', 'take-050-a'] })
  })
})
