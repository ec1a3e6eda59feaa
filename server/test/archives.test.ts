import { randomBytes } from 'node:crypto'
import { unzipSync, zipSync, strToU8, type Unzipped } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { PNG, startTestServer, type TestServer } from './testServer'

const FILM = '/api/projects/salt-lantern'

describe('the archive of a film', () => {
  let server: TestServer
  let file: Uint8Array
  let entries: Unzipped
  let hash: string

  const takeIn = (bytes: Uint8Array) => server.ask('/api/archives', { method: 'POST', body: bytes as BodyInit })
  const changed = (change: (files: Record<string, Uint8Array>) => void) => {
    const files = { ...entries }
    change(files)
    return zipSync(files)
  }
  const json = (value: unknown) => strToU8(JSON.stringify(value))
  const read = (name: string) => JSON.parse(new TextDecoder().decode(entries[name]))
  const projects = async () => (await server.ask('/api/projects')).body.length as number

  beforeAll(async () => {
    server = await startTestServer({ RUBATO_SEED: 'demo' })
    hash = (await server.ask('/api/pictures', { method: 'POST', body: PNG })).body.hash
    const mark = { id: 'pic', order: 'a1', kind: 'picture', assetHash: hash, widthPx: 1, heightPx: 1, x: 0, y: 0, widthFw: 0.5 }
    const { status } = await server.post(`${FILM}/edits`, { base: { 'drawing:placed': 0 }, changes: [{ id: 'change-picture', label: 'picture', edits: [{ kind: 'x', unit: { kind: 'drawing', id: 'placed' }, changes: { marks: { pic: { before: null, after: mark } } } }] }] })
    expect(status).toBe(200)
    // A drawing that is exposed, and nobody has drawn in yet.
    const begun = { cells: { 'tilda.p1.5': { before: null, after: { id: 'tilda.p1.5', levelId: 'tilda', panelId: 'p1', offsetFrames: 5, drawingId: 'begun' } } }, levelDrawings: { 'tilda.begun': { before: null, after: { id: 'tilda.begun', levelId: 'tilda', drawingId: 'begun', name: '9' } } } }
    const exposed = await server.post(`${FILM}/edits`, { base: { 'take:take-040-a': 1 }, changes: [{ id: 'change-begun', label: 'new drawing', edits: [{ kind: 'x', unit: { kind: 'take', id: 'take-040-a' }, changes: begun }] }] })
    expect([exposed.status, (await server.ask(`${FILM}/drawings?ids=begun`)).body]).toEqual([200, []])
    await server.post(`${FILM}/versions`, { name: 'As drawn', author: 'Ada' })
    const response = await fetch(`${server.address}${FILM}/archive`)
    expect(response.headers.get('content-disposition')).toContain('Salt-Lantern.rubato')
    file = new Uint8Array(await response.arrayBuffer())
    entries = unzipSync(file)
  })
  afterAll(() => server.stop())

  it('is JSON and pictures as they are, under names that say what they are', () => {
    expect(Object.keys(entries)[0]).toBe('rubato.json')
    expect(read('rubato.json')).toMatchObject({ format: 'rubato', version: 2, title: 'Salt Lantern' })
    const named = (folder: string) => Object.keys(entries).filter((name) => name.startsWith(`${folder}/`)).sort()
    expect(named('takes')).toEqual(['takes/take-030-a.json', 'takes/take-030-b.json', 'takes/take-040-a.json', 'takes/take-050-a.json', 'takes/take-060-a.json', 'takes/take-070-a.json'])
    // The second take of shot 030 has a name, and what a hand did in it goes along.
    expect(Object.values<{ name?: string }>(read('outline.json').takes).map(({ name }) => name)).toContain('by hand')
    const [tried] = named('tries')
    expect(Object.values<{ at: number[] }>(read(tried!).samples)[0]!.at).toHaveLength(436)
    expect(Buffer.from(entries[`pictures/${hash}.png`]!)).toEqual(PNG)
    expect(read('versions/0001.json')).toMatchObject({ name: 'As drawn', author: 'Ada', shotCount: 5 })
  })

  it('loses nothing on the way out and in again, versions and pictures included', async () => {
    const { status, body } = await takeIn(file)
    expect(status, JSON.stringify(body)).toBe(200)
    const id = body.project.id as string
    expect(id).not.toBe('salt-lantern')
    const again = unzipSync(new Uint8Array(await (await fetch(`${server.address}/api/projects/${id}/archive`)).arrayBuffer()))
    expect(Object.keys(again).sort()).toEqual(Object.keys(entries).sort())
    const normal = (name: string, files: Unzipped, project: string) => {
      const text = new TextDecoder().decode(files[name]).replaceAll(`"${project}"`, '"PROJECT"')
      const value = JSON.parse(text)
      delete value.madeAt
      // Revisions count changes in one database; the copy starts anew.
      if (name.startsWith('versions/')) value.units = value.units.map((unit: object) => ({ ...unit, revision: 0 })).sort((a: { id: string }, b: { id: string }) => a.id.localeCompare(b.id))
      return value
    }
    for (const name of Object.keys(entries)) {
      if (name.endsWith('.json')) expect(normal(name, again, id), name).toEqual(normal(name, entries, 'salt-lantern'))
      else expect(Buffer.from(again[name]!).equals(Buffer.from(entries[name]!)), name).toBe(true)
    }
    expect((await server.ask(`/api/projects/${id}/versions`)).body).toMatchObject([{ name: 'As drawn', shotCount: 5, lengthFrames: 664 }])
  })

  const hostile: readonly (readonly [what: string, make: () => Uint8Array, why: RegExp])[] = [
    ['something that is no zip', () => randomBytes(2000), /not a whole zip/],
    ['a file cut short', () => file.slice(0, file.length - 300), /not a whole zip|damaged/],
    ['names that climb out', () => changed((files) => (files['../../outside.json'] = json({}))), /can't be taken in/],
    ['absolute names', () => changed((files) => (files['/etc/rubato.json'] = json({}))), /can't be taken in/],
    ['files that do not belong', () => changed((files) => (files['run.sh'] = strToU8('echo'))), /does not belong/],
    ['a manifest that is missing', () => changed((files) => delete files['rubato.json']), /rubato.json is missing/],
    ['a newer format', () => changed((files) => (files['rubato.json'] = json({ ...read('rubato.json'), version: 99 }))), /newer Rubato/],
    ['a newer document', () => changed((files) => (files['rubato.json'] = json({ ...read('rubato.json'), documentVersion: 99 }))), /newer Rubato/],
    ['JSON that is none', () => changed((files) => (files['outline.json'] = strToU8('{"project":'))), /outline.json can't be read/],
    ['an outline of another shape', () => changed((files) => (files['outline.json'] = json({ project: {}, sequences: 7 }))), /outline.json/],
    ['a take that is missing', () => changed((files) => delete files['takes/take-040-a.json']), /take-040-a.json is missing/],
    ['a key in a panel that is not there', () => changed((files) => {
      const take = read('takes/take-040-a.json')
      files['takes/take-040-a.json'] = json({ ...take, panels: {} })
    }), /missing-panel/],
    ['a picture that is something else', () => changed((files) => (files[`pictures/${hash}.png`] = strToU8('<svg onload="x()"/>'))), /The SVG holds onload/],
    ['a picture under another’s name', () => changed((files) => {
      delete files[`pictures/${hash}.png`]
      files[`pictures/${'0'.repeat(64)}.png`] = PNG
    }), /not what its name says/],
    ['a version whose bodies are missing', () => changed((files) => Object.keys(files).filter((name) => name.startsWith('bodies/')).forEach((name) => delete files[name])), /misses/],
    ['a bomb', () => zipSync({ 'rubato.json': entries['rubato.json']!, 'outline.json': new Uint8Array(80 * 1024 ** 2) }, { level: 9 }), /larger than 64 MB/],
    ['a size that lies', () => lying(zipSync({ 'rubato.json': entries['rubato.json']!, 'outline.json': new Uint8Array(80 * 1024 ** 2) }, { level: 9 })), /can't be read|damaged/],
  ]
  for (const [what, make, why] of hostile) {
    it(`with ${what} is refused with the reason, and leaves nothing`, async () => {
      const before = await projects()
      const { status, body } = await takeIn(make())
      expect([415, 422]).toContain(status)
      expect(body.message).toMatch(why)
      expect(await projects()).toBe(before)
    })
  }

  it('of a film that is not there is refused', async () => {
    expect((await server.ask('/api/projects/none/archive')).status).toBe(404)
  })
})

/** Writes a small size into the central directory for the largest entry, so that only unpacking shows what it is. */
function lying(zip: Uint8Array): Uint8Array {
  const bytes = Buffer.from(zip)
  for (let at = bytes.indexOf('PK\x01\x02'); at >= 0; at = bytes.indexOf('PK\x01\x02', at + 4)) {
    if (bytes.readUInt32LE(at + 24) > 1e6) bytes.writeUInt32LE(1000, at + 24)
  }
  return bytes
}

describe('the shelves of Home', () => {
  let server: TestServer
  beforeAll(async () => {
    server = await startTestServer({ RUBATO_SEED: 'demo' })
  })
  afterAll(() => server.stop())
  const shelf = async (name: string) => (await server.ask(`/api/projects?shelf=${name}`)).body as { project: { id: string; title: string }; bytes: number; shotCount: number; lengthFrames: number }[]
  const patch = (id: string, value: unknown) => server.ask(`/api/projects/${id}`, { method: 'PATCH', body: JSON.stringify(value) })

  it('tell size, shots and length', async () => {
    const [card] = await shelf('desk')
    expect(card).toMatchObject({ shotCount: 5, lengthFrames: 664 })
    expect(card!.bytes).toBeGreaterThan(50_000)
  })

  it('rename a film as a change that other windows hear of', async () => {
    expect((await patch('salt-lantern', { title: 'The Salt Lantern' })).body.project.title).toBe('The Salt Lantern')
    const { entries } = (await server.ask(`${FILM}/changes?after=0`)).body
    expect(entries.at(-1)).toMatchObject({ change: { label: 'name of the film' }, revisions: { 'outline:salt-lantern': 2 } })
    expect((await patch('salt-lantern', { title: '' })).status).toBe(422)
    expect((await patch('salt-lantern', { colour: 'red' })).status).toBe(422)
  })

  it('duplicate a film into one of its own', async () => {
    const { body } = await server.post(`${FILM}/duplicate`, {})
    expect(body).toMatchObject({ project: { title: 'The Salt Lantern copy' }, shotCount: 5, lengthFrames: 664 })
    const [take] = (await server.ask(`/api/projects/${body.project.id}/takes?ids=take-040-a`)).body
    expect(take.body).toEqual((await server.ask(`${FILM}/takes?ids=take-040-a`)).body[0].body)
    const panel = take.body.panels.p1
    const edit = { kind: 'x', unit: { kind: 'take', id: 'take-040-a' }, changes: { panels: { p1: { before: panel, after: { ...panel, action: 'Only the copy.' } } } } }
    expect((await server.post(`/api/projects/${body.project.id}/edits`, { base: { 'take:take-040-a': take.revision }, changes: [{ id: 'change-copy', label: 'x', edits: [edit] }] })).status).toBe(200)
    expect((await server.ask(`${FILM}/takes?ids=take-040-a`)).body[0].body.panels.p1.action).not.toBe('Only the copy.')
  })

  it('put away, throw away, bring back, and delete for good only from the trash', async () => {
    const [copy] = (await shelf('desk')).filter((card) => card.project.title.endsWith('copy'))
    const id = copy!.project.id
    await patch(id, { archived: true })
    expect((await shelf('archive')).map((card) => card.project.id)).toEqual([id])
    expect((await shelf('desk')).map((card) => card.project.id)).toEqual(['salt-lantern'])
    await patch(id, { archived: false })
    expect((await server.ask(`/api/projects/${id}/trash`, { method: 'DELETE' })).status).toBe(404)
    await server.ask(`/api/projects/${id}`, { method: 'DELETE' })
    expect((await shelf('trash')).map((card) => card.project.id)).toEqual([id])
    expect((await server.ask(`/api/projects/${id}`)).status).toBe(404)
    await server.post(`/api/projects/${id}/restore`, {})
    expect((await shelf('desk')).length).toBe(2)
    await server.ask(`/api/projects/${id}`, { method: 'DELETE' })
    expect((await server.ask(`/api/projects/${id}/trash`, { method: 'DELETE' })).status).toBe(204)
    expect(await shelf('trash')).toEqual([])
    expect((await server.query(`SELECT count(*)::int AS n FROM takes WHERE project_id = '${id}'`))[0].n).toBe(0)
  })

  it('let go of what has been in the trash for thirty days, when the server starts', async () => {
    const { body } = await server.post(`${FILM}/duplicate`, {})
    const recent = (await server.post(`${FILM}/duplicate`, {})).body
    for (const each of [body, recent]) await server.ask(`/api/projects/${each.project.id}`, { method: 'DELETE' })
    await server.query(`UPDATE projects SET trashed_at = now() - interval '31 days' WHERE id = '${body.project.id}'`)
    await server.kill()
    await server.start()
    expect((await shelf('trash')).map((card) => card.project.id)).toEqual([recent.project.id])
  })
})
