import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer({ RUBATO_SEED: 'demo' })
})
afterAll(() => server?.stop())

const FILM = '/api/projects/salt-lantern'
let made = 0
const send = (unit: { kind: string; id: string }, changes: object, base: number, author = 'Mara') =>
  server.post(`${FILM}/edits`, { base: { [`${unit.kind}:${unit.id}`]: base }, author, changes: [{ id: `breakdown-${++made}`, label: 'x', edits: [{ kind: 'x', unit, changes }] }] })
const facts = async (ids: readonly string[] = []) => (await server.ask(`${FILM}/facts${ids.length === 0 ? '' : `?ids=${ids.join(',')}`}`)).body as { facts: Record<string, { frames: number; levels: { id: string; setId: string | null; name: string; sort: string }[] }>; missing: string[] }

describe('what shots show and ask for', () => {
  it('is worked out once, kept, and forgotten when what it was worked out from changes', async () => {
    const before = await facts()
    expect(before.facts).toEqual({})
    expect(before.missing).toContain('take-040-a')
    const first = await facts(['take-040-a', 'take-050-a'])
    expect(first.missing).toEqual([])
    const shot = first.facts['take-040-a']!
    expect(shot.frames).toBe(204)
    expect(shot.levels.find(({ id }) => id === 'tilda')).toMatchObject({ sort: 'figure' })
    expect(shot.levels.find(({ id, setId }) => setId === 'boardwalk' && id === 'planks')).toBeDefined()
    const kept = await facts()
    expect(Object.keys(kept.facts).sort()).toEqual(['take-040-a', 'take-050-a'])
    expect(kept.facts['take-040-a']).toEqual(shot)

    // A piece of the set that both stand in.
    const [set] = (await server.ask(`${FILM}/sets?ids=boardwalk`)).body
    expect((await send({ kind: 'set', id: 'boardwalk' }, { pieces: { planks: { before: set.body.pieces.planks, after: { ...set.body.pieces.planks, name: 'Old planks' } } } }, set.revision)).status).toBe(200)
    expect((await facts()).facts).toEqual({})
    expect((await facts(['take-040-a'])).facts['take-040-a']!.levels.map(({ name }) => name)).toContain('Old planks')
    // The shot itself; another's stays.
    await facts(['take-060-a'])
    const [take] = (await server.ask(`${FILM}/takes?ids=take-040-a`)).body
    expect((await send({ kind: 'take', id: 'take-040-a' }, { levels: { tilda: { before: take.body.levels.tilda, after: { ...take.body.levels.tilda, name: 'Tilda runs' } } } }, take.revision)).status).toBe(200)
    expect(Object.keys((await facts()).facts)).toEqual(['take-060-a'])
  })

  it('answers for what is not there, or too much, with what is wrong', async () => {
    expect(await facts(['nowhere'])).toEqual({ facts: {}, missing: [] })
    expect((await server.ask(`${FILM}/facts?ids=${Array.from({ length: 41 }, (_, i) => `t${i}`).join(',')}`)).status).toBe(422)
    expect((await server.ask('/api/projects/none/facts')).status).toBe(404)
    expect((await server.ask(`${FILM}/breakdown-history?of=${encodeURIComponent("x'; DROP")}`)).status).toBe(422)
  })
})

describe('what is said in the breakdown', () => {
  const REF = { kind: 'breakdown', id: 'film' }
  const loaded = async () => (await server.ask(`${FILM}/breakdowns?ids=film`)).body

  it('is kept as a unit of its own, checked, with who said what when', async () => {
    const [before] = await loaded()
    expect(before.body.work['set.boardwalk'].who).toBe('Ines')
    const work = { id: 'shot.040', state: 'work', who: 'Ines', days: 2.5 }
    expect((await send(REF, { work: { 'shot.040': { before: null, after: work } } }, before.revision)).status).toBe(200)
    expect((await send(REF, { work: { 'shot.040': { before: work, after: { ...work, state: 'done' } } } }, before.revision + 1, 'Ines')).status).toBe(200)
    expect((await loaded())[0].body.work).toEqual({ ...before.body.work, 'shot.040': { ...work, state: 'done' } })
    for (const bad of [{ ...work, state: 'perhaps' }, { ...work, days: -1 }, { ...work, who: '' }]) expect((await send(REF, { work: { 'shot.040': { before: { ...work, state: 'done' }, after: bad } } }, before.revision + 2)).status).toBe(422)
    const history = (await server.ask(`${FILM}/breakdown-history?of=shot.040`)).body
    expect(history.map(({ author, before, after }: { author: string; before: { state: string } | null; after: { state: string } }) => [author, before?.state ?? null, after.state])).toEqual([['Ines', 'work', 'done'], ['Mara', null, 'work']])
    expect(Date.parse(history[0].at)).toBeGreaterThan(Date.parse(history[1].at) - 1)
    expect((await server.ask(`${FILM}/breakdown-history?of=shot.050`)).body).toEqual([])
  })

  it('goes along with a copy of the film, and comes back with a version', async () => {
    const copy = (await server.post(`${FILM}/duplicate`, {})).body
    expect((await server.ask(`/api/projects/${copy.project.id}/breakdowns?ids=film`)).body[0].body.work['shot.040'].who).toBe('Ines')
    const version = (await server.post(`${FILM}/versions`, { name: 'Monday' })).body
    expect((await server.ask(`${FILM}/versions/${version.id}/breakdowns?ids=film`)).body[0].body.work['shot.040'].state).toBe('done')
  })
})
