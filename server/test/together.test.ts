import { randomUUID } from 'node:crypto'
import { EMPTY_DRAWING, type Film } from '@rubato/core/document'
import { addShot, drawMark, editPanel, joinShots, readsOf, removeShots, type Made } from '@rubato/core/edits'
import { Sequelize } from 'sequelize'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { migrate } from '../migrations/migrate'
import { migrations } from '../migrations/migrations'
import type { Batch } from '#shared/edits'
import { inLines, NEW_PROJECT, startTestServer, type TestServer } from './testServer'

const stroke = () => ({ id: randomUUID(), kind: 'stroke' as const, mode: 'ink' as const, points: [0, 0, 0.5, 0.1, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 })

describe('what a change looked at', () => {
  let server: TestServer
  beforeAll(async () => {
    server = await startTestServer()
  })
  afterAll(() => server.stop())

  /** A film of two shots, as a window has it, with its revisions. */
  async function opened() {
    const { body: card } = await server.post('/api/projects', NEW_PROJECT)
    const id: string = card.project.id
    const revisions: Record<string, number> = {}
    const film: { value: Film } = { value: { outline: {} as never, takes: {}, drawings: {} } }
    async function load() {
      const { body } = await server.ask(`/api/projects/${id}`)
      revisions[`outline:${id}`] = body.outlineRevision
      const takes = (await server.ask(`/api/projects/${id}/takes?ids=${Object.keys(body.outline.takes).join(',')}`)).body
      for (const take of takes) revisions[`take:${take.id}`] = take.revision
      const ids = takes.flatMap((take: { body: { cells: Record<string, { drawingId: string }> } }) => Object.values(take.body.cells).map((cell) => cell.drawingId))
      const drawings = ids.length === 0 ? [] : (await server.ask(`/api/projects/${id}/drawings?ids=${ids.join(',')}`)).body
      for (const drawing of drawings) revisions[`drawing:${drawing.id}`] = drawing.revision
      film.value = { outline: body.outline, takes: Object.fromEntries(takes.map((take: { id: string; body: object }) => [take.id, take.body])), drawings: Object.fromEntries(drawings.map((each: { id: string; drawing: object }) => [each.id, each.drawing])) }
      return film.value
    }
    const change = (made: Made, on: Film = film.value) => {
      if (!made.ok) throw new Error(made.refusal.code)
      return { id: randomUUID(), label: 'x', edits: made.edits, reads: readsOf(on, made.edits) }
    }
    const send = (...changes: ReturnType<typeof change>[]) =>
      server.post(`/api/projects/${id}/edits`, { changes, base: Object.fromEntries(changes.flatMap((each) => each.edits.map(({ unit }) => [`${unit.kind}:${unit.id}`, revisions[`${unit.kind}:${unit.id}`] ?? 0]))) })
    await load()
    const sequence = Object.keys(film.value.outline.sequences)[0]!
    await send(change(addShot(film.value, id, sequence, null, { shot: 's2', take: 't2', panel: 'p', camera: 'c' }, 24)))
    await load()
    const [first] = Object.keys(film.value.takes).filter((take) => take !== 't2')
    const take = film.value.takes[first!]!
    const [panel, level] = [Object.keys(take.panels)[0]!, Object.keys(take.levels)[0]!]
    const draw = (drawingId: string) => change(drawMark(film.value.takes[first!]!, first!, film.value.drawings, level, panel, stroke(), drawingId, false))
    expect((await send(draw('d1'))).status).toBe(200)
    await load()
    return { id, film, load, change, send, draw, first: first!, shot: Object.values(film.value.outline.shots).find((each) => each.circledTakeId === first)!, panel }
  }

  it('is checked: a shot taken out, and a stroke in it that did not know', async () => {
    const { id, film, change, send, draw, shot } = await opened()
    const [late, away] = [draw('new'), change(removeShots(film.value.outline, id, [shot.id]))]
    expect((await send(away)).status).toBe(200)
    const refused = await send(late)
    expect([refused.status, refused.body.data.code]).toEqual([409, 'stale-revision'])
  })

  it('is checked the other way: a stroke, and a shot taken out by someone who has not seen it', async () => {
    const { id, film, load, change, send, draw, shot } = await opened()
    const away = change(removeShots(film.value.outline, id, [shot.id]))
    expect((await send(draw('new'))).status).toBe(200)
    const refused = await send(away)
    expect([refused.status, refused.body.data.code]).toEqual([409, 'stale-revision'])
    // Seen, it goes.
    await load()
    expect((await send(change(removeShots(film.value.outline, id, [shot.id])))).status).toBe(200)
  })

  it('is checked for words in a shot that was joined to another meanwhile', async () => {
    const { id, film, change, send, shot } = await opened()
    const ordered = Object.values(film.value.outline.shots).sort((a, b) => (a.order < b.order ? -1 : 1)).map((each) => each.id)
    let n = 0
    const joined = change(joinShots(film.value, id, ordered, () => `made${n++}`))
    const goes = ordered[1] === shot.id ? film.value.outline.shots[shot.id]!.circledTakeId : 't2'
    const words = change(editPanel(film.value.takes[goes]!, goes, Object.keys(film.value.takes[goes]!.panels)[0]!, { action: 'Runs.' }))
    expect((await send(joined)).status).toBe(200)
    expect((await send(words)).status).toBe(409)
  })

  it('lets strokes pass while others write in the same take, with and without a lock', async () => {
    const { film, change, send, draw, first, panel, load } = await opened()
    for (const round of [0, 1, 2]) {
      const mine = draw(`unused${round}`)
      expect((await send(change(editPanel(film.value.takes[first]!, first, panel, { notes: `${round}` })))).status).toBe(200)
      const sent = await send(mine)
      expect(sent.status).toBe(200)
      await load()
    }
  })

  it('is not asked of a drawing that nobody shows yet', async () => {
    const { send } = await opened()
    const mark = { ...stroke(), order: 'a0' }
    const lone = { id: randomUUID(), label: 'x', edits: [{ kind: 'x', unit: { kind: 'drawing' as const, id: 'lone' }, changes: { marks: { [mark.id]: { before: null, after: mark } } } }], reads: [] }
    expect((await send(lone)).status).toBe(200)
    expect(EMPTY_DRAWING.marks).toEqual([])
  })

  it('names the change that breaks its schema, among others that do not', async () => {
    const { film, change, send, first, panel, draw } = await opened()
    const bad = change(editPanel(film.value.takes[first]!, first, panel, { action: 'x'.repeat(10_001) }))
    const refused = await send(draw('new'), bad)
    expect([refused.status, refused.body.data.code, refused.body.data.changeId]).toEqual([422, 'invalid-edit', bad.id])
    const worse = { ...draw('newer'), label: 'x'.repeat(300) }
    const also = await send(draw('newest'), worse)
    expect([also.status, also.body.data.code, also.body.data.changeId]).toEqual([422, 'invalid-edit', worse.id])
  })

  it('takes a change of 40 MB in parts, and tells others of it without its edits', async () => {
    const { id, first } = await opened()
    const points = Array.from({ length: 90_000 }, (_, i) => Math.round(Math.sin(i) * 1e6) / 1e6)
    const marks = Object.fromEntries(Array.from({ length: 44 }, (_, i) => [`m${i}`, { before: null, after: { ...stroke(), id: `m${i}`, order: `a${String.fromCharCode(48 + (i % 10))}${i < 10 ? '' : String.fromCharCode(65 + Math.floor(i / 10))}`, points } }]))
    const change = { id: randomUUID(), label: 'heavy', edits: [{ kind: 'x', unit: { kind: 'drawing' as const, id: 'heavy' }, changes: { marks } }] }
    const batch: Batch = { changes: [change], base: { 'drawing:heavy': 0 } }
    const text = Buffer.from(inLines(batch))
    expect(text.length).toBeGreaterThan(36e6)
    const at = await server.postLines(`/api/projects/${id}/edits`, batch)
    expect(at.status).toBe(413)
    const { body: upload } = await server.post('/api/uploads', { kind: 'batch', bytes: text.length })
    for (let part = 0; part * upload.partBytes < text.length; part++) {
      const sent = await server.ask(`/api/uploads/${upload.id}/parts/${part}`, { method: 'PUT', body: new Uint8Array(text.subarray(part * upload.partBytes, (part + 1) * upload.partBytes)) })
      expect(sent.status).toBeLessThan(300)
    }
    expect((await server.post(`/api/uploads/${upload.id}/finish`, {})).status).toBe(422)
    const done = await server.ask(`/api/projects/${id}/edits/${upload.id}`, { method: 'POST' })
    expect([done.status, done.body.revisions]).toEqual([200, { 'drawing:heavy': 1 }])
    expect((await server.ask(`/api/uploads/${upload.id}`)).status).toBe(404)
    const [{ drawing }] = (await server.ask(`/api/projects/${id}/drawings?ids=heavy`)).body
    expect(drawing.marks.length).toBe(44)
    expect(first).toBeTruthy()
    const pushed = await new Promise<string>((resolve, reject) => {
      const gate = new AbortController()
      void fetch(`${server.address}/api/projects/${id}/live?after=${done.body.journalSeq - 1}&session=watching1&name=`, { signal: gate.signal }).then(async (response) => {
        let heard = ''
        const reader = response.body!.getReader()
        for (;;) {
          const { value } = await reader.read()
          heard += Buffer.from(value!).toString()
          const line = /event: change\n(?:id: .*\n)?data: (.*)\n\n/.exec(heard)?.[1] ?? /data: (\{"seq".*)\n/.exec(heard)?.[1]
          if (line === undefined) continue
          gate.abort()
          return resolve(line)
        }
      }, reject)
    })
    expect(JSON.parse(pushed)).toMatchObject({ heavy: true, change: { id: change.id, edits: [] }, revisions: { 'drawing:heavy': 1 } })
  }, 60_000)
})

describe('order', () => {
  it('kept as numbers becomes keys that stand as the numbers did, equal ones equal', async () => {
    const base = process.env.RUBATO_TEST_DATABASE_URL!
    const name = `test_${randomUUID().replaceAll('-', '')}`
    const admin = new pg.Client(base)
    await admin.connect()
    await admin.query(`CREATE DATABASE ${name}`)
    const sequelize = new Sequelize(base.replace(/\/[^/]+$/, `/${name}`), { logging: false, dialectModule: pg })
    try {
      for (const step of migrations.slice(0, migrations.findIndex((each) => each.name === '0010-order-keys'))) if ('sql' in step) await sequelize.query(step.sql)
      await sequelize.query('CREATE TABLE migrations (name text PRIMARY KEY)')
      for (const step of migrations.slice(0, migrations.findIndex((each) => each.name === '0010-order-keys'))) await sequelize.query('INSERT INTO migrations (name) VALUES ($1)', { bind: [step.name] })
      await sequelize.query(`INSERT INTO projects (id, title, rate_numerator, rate_denominator, width_px, height_px, film_back_mm, base_lens_mm, default_panel_frames, revision, created_at, updated_at) VALUES ('p', 'P', 24, 1, 1280, 720, 36, 50, 24, 1, now(), now())`)
      const positions = [3, 1, 2.5, 1 + 1 / 3, -4, 1e6, 2.5, 1 + 2 ** -40]
      for (const [i, position] of positions.entries()) await sequelize.query(`INSERT INTO sequences (project_id, id, position, label, title) VALUES ('p', $1, $2, 'x', '')`, { bind: [`s${i}`, position] })
      await migrate(sequelize)
      const [rows] = await sequelize.query('SELECT id, position FROM sequences')
      const keyed = (rows as { id: string; position: string }[]).sort((a, b) => (a.position < b.position ? -1 : a.position > b.position ? 1 : a.id < b.id ? -1 : 1)).map((row) => row.id)
      const wanted = positions.map((position, i) => ({ position, id: `s${i}` })).sort((a, b) => a.position - b.position || (a.id < b.id ? -1 : 1)).map((each) => each.id)
      expect(keyed).toEqual(wanted)
      const keyOf = (id: string) => (rows as { id: string; position: string }[]).find((row) => row.id === id)!.position
      expect(keyOf('s2')).toBe(keyOf('s6'))
    } finally {
      await sequelize.close()
      await admin.query(`DROP DATABASE ${name} WITH (FORCE)`)
      await admin.end()
    }
  })
})
