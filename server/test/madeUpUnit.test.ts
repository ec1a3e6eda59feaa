import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { UNIT_KINDS } from '@rubato/core/document'
import type { Change, Edit } from '@rubato/core/edits'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { batchSchema, type Batch } from '#shared/edits'
import { closeDatabase, useDatabase } from '../models/database'
import { takeInArchive } from '../services/archiveIn'
import { archiveProject } from '../services/archiveOut'
import { applyBatch } from '../services/editBatches'
import { journalAfter } from '../services/journal'
import { createProject, duplicateProject, loadUnits } from '../services/projects'
import { UNIT_TABLES } from '../services/unitTables'
import { bringBack, compareVersion, makeVersion, storedVersionUnits } from '../services/versions'
import { NEW_PROJECT } from './testServer'

/**
 * A kind of unit that there is not, kept, changed, versioned, handed over and copied by the server. What it takes there is an
 * entry in `unitTables.ts`, and its table in `migrations.ts` (2 files).
 */
const song = 'song' as never
const schemas = { notes: z.strictObject({ id: z.string(), words: z.string().max(9) }) }
const whole = z.strictObject({ notes: z.record(z.string(), schemas.notes) })

describe('a made-up kind of unit', () => {
  const name = `test_${randomUUID().replaceAll('-', '')}`
  const storage = mkdtempSync(join(tmpdir(), 'rubato-song-'))
  let admin: pg.Client
  let film = ''
  beforeAll(async () => {
    const base = process.env.RUBATO_TEST_DATABASE_URL!
    admin = new pg.Client(base)
    await admin.connect()
    await admin.query(`CREATE DATABASE ${name}`)
    process.env.RUBATO_DATABASE_URL = base.replace(/\/[^/]+$/, `/${name}`)
    process.env.RUBATO_STORAGE_DIR = storage
    const { sequelize } = await useDatabase()
    await sequelize.query('CREATE TABLE songs (project_id text NOT NULL REFERENCES projects ON DELETE CASCADE, id text NOT NULL, format integer NOT NULL, score jsonb NOT NULL, revision integer NOT NULL, PRIMARY KEY (project_id, id))')
    Object.assign(UNIT_KINDS, {
      song: {
        home: 'songs',
        empty: { notes: {} },
        schemas,
        open: (value: unknown) => {
          const read = whole.safeParse(value)
          return read.success ? { ok: true, value: read.data } : { ok: false, code: 'malformed', version: 1, issues: [{ path: '', message: 'no song' }] }
        },
        problems: (unit: { notes: Record<string, { words: string }> }) => Object.entries(unit.notes).flatMap(([id, { words }]) => (words === 'wrong' ? [{ code: 'id-mismatch', path: ['notes', id] }] : [])),
      },
    })
    Object.assign(UNIT_TABLES, { song: { table: 'songs', content: 'score', answer: 'song', byOutline: false } })
    film = (await createProject(NEW_PROJECT)).project.id
  }, 60_000)
  afterAll(async () => {
    await closeDatabase()
    await admin.query(`DROP DATABASE ${name} WITH (FORCE)`)
    await admin.end()
    rmSync(storage, { recursive: true, force: true })
  })

  const sing = (id: string, words: string, before: string | null = null): Edit => ({ kind: 'sing', unit: { kind: song, id }, changes: { notes: { n: { before: before === null ? null : { id: 'n', words: before }, after: { id: 'n', words } } } } })
  const batch = (base: Record<string, number>, ...edits: Edit[]): Batch => batchSchema.parse({ author: 'Ada', base, changes: [{ id: randomUUID(), label: 'sing', edits } satisfies Change] })
  const songs = async (id = film) => Object.fromEntries((await loadUnits(song, id, ['s1', 's2'])).map(({ id: each, revision, unit }) => [each, [revision, (unit as unknown as { notes: { n: { words: string } } }).notes.n.words]]))

  it('is made by its first edit, changed, and heard of by others; a stale or broken change is refused', async () => {
    expect(await applyBatch(film, batch({ 'song:s1': 0, 'song:s2': 0 }, sing('s1', 'la'), sing('s2', 'lo')))).toMatchObject({ revisions: { 'song:s1': 1, 'song:s2': 1 } })
    expect(await applyBatch(film, batch({ 'song:s1': 1 }, sing('s1', 'li', 'la')))).toMatchObject({ revisions: { 'song:s1': 2 } })
    expect(await songs()).toEqual({ s1: [2, 'li'], s2: [1, 'lo'] })
    await expect(applyBatch(film, batch({ 'song:s1': 1 }, sing('s1', 'le', 'la')))).rejects.toMatchObject({ statusCode: 409, data: { code: 'stale-revision', unit: 'song:s1' } })
    await expect(applyBatch(film, batch({ 'song:s1': 2 }, sing('s1', 'wrong', 'li')))).rejects.toMatchObject({ statusCode: 422, data: { code: 'invalid-edit' } })
    expect(() => batch({ 'dance:s1': 0 }, sing('s1', 'la'))).toThrow('no such unit')
    expect((await journalAfter(film, 0)).entries.map(({ revisions }) => revisions)).toEqual([{ 'song:s1': 1, 'song:s2': 1 }, { 'song:s1': 2 }])
  })

  it('is in versions, which tell what changed and bring it back', async () => {
    const version = await makeVersion(film, 'Sung', 'Ada')
    await applyBatch(film, batch({ 'song:s1': 2 }, sing('s1', 'lu', 'li')))
    expect((await storedVersionUnits(song, film, version, ['s1', 's2'])).map(({ id, content }) => [id, JSON.parse(content).notes.n.words]).sort()).toEqual([['s1', 'li'], ['s2', 'lo']])
    expect((await compareVersion(film, version)).flatMap(({ differences }) => differences.map(({ collection, id }) => [collection, id]))).toEqual([['notes', 'n']])
    expect((await bringBack(film, version, null, 'Ada')).changes).toBe(1)
    expect(await songs()).toEqual({ s1: [4, 'li'], s2: [1, 'lo'] })
    // Another version of the same film keeps no body twice.
    await makeVersion(film, 'Again', 'Ada')
    const { sequelize } = await useDatabase()
    const [[{ count }]] = (await sequelize.query(`SELECT count(DISTINCT body_hash)::int AS count FROM version_units WHERE kind = 'song' AND unit_id = 's2'`)) as unknown as [[{ count: number }]]
    expect(count).toBe(1)
  })

  it('goes out with the film’s file and comes in with it, versions and all; a copy has it too', async () => {
    const { stream } = await archiveProject(film)
    const chunks: Buffer[] = []
    for await (const chunk of stream) chunks.push(chunk as Buffer)
    const card = await takeInArchive(Readable.from(Buffer.concat(chunks), { objectMode: false }))
    expect(await songs(card.project.id)).toEqual({ s1: [1, 'li'], s2: [1, 'lo'] })
    const { sequelize } = await useDatabase()
    const [versions] = (await sequelize.query('SELECT id FROM versions WHERE project_id = $1 AND name = $2', { bind: [card.project.id, 'Sung'] })) as [{ id: string }[], unknown]
    expect((await storedVersionUnits(song, card.project.id, versions[0]!.id, ['s1'])).map(({ content }) => JSON.parse(content).notes.n.words)).toEqual(['li'])
    const copy = await duplicateProject(film)
    expect(await songs(copy.project.id)).toEqual({ s1: [4, 'li'], s2: [1, 'lo'] })
  })
})
