import { execFileSync, spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { NO_BURN_IN, UNDRESSED } from '#shared/renders'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { backUp, restore } from '../../scripts/backup.mjs'
import { PNG, startTestServer, type TestServer } from './testServer'

/** Pictures come in without end, every other is let go of; a dot for each. */
const COMING = `
  import sharp from 'sharp'
    for (let n = 0; ; n++) {
    const picture = await sharp({ create: { width: 8 + (n % 90), height: 8 + Math.floor(n / 90), channels: 3, background: '#2a6a99' } }).png().toBuffer()
    const { hash, touchedAt } = await (await fetch(process.argv[1] + '/api/pictures', { method: 'POST', body: picture })).json()
    if (n % 2 === 0) await fetch(process.argv[1] + '/api/pictures/unused', { method: 'POST', body: JSON.stringify({ files: [{ hash, touchedAt }] }) })
    process.stdout.write('.')
  }
`

describe('a backup', () => {
  let server: TestServer
  let folder: string
  let file: string
  let hash: string
  const place = () => ({ databaseUrl: server.databaseUrl, storage: server.storage })
  const titles = async () => (await server.ask('/api/projects')).body.map((card: { project: { title: string } }) => card.project.title) as string[]
  const rename = (title: string) => server.ask('/api/projects/salt-lantern', { method: 'PATCH', body: JSON.stringify({ title }) })

  beforeAll(async () => {
    server = await startTestServer({ RUBATO_SEED: 'demo' })
    folder = mkdtempSync(join(tmpdir(), 'rubato-backup-test-'))
    file = join(folder, 'monday.tar')
    hash = (await server.ask('/api/pictures', { method: 'POST', body: PNG })).body.hash
    // The queue has a schema of its own, and a job in it.
    const look = { size: 0.25, sound: false, burnIn: NO_BURN_IN, dress: UNDRESSED, standIns: false, depth: null, clear: false, trim: false }
    expect((await server.post('/api/projects/salt-lantern/renders', { format: 'png', of: { kind: 'film' }, each: 'whole', handles: 0, look, priority: 0 })).status).toBe(200)
    // The server runs on meanwhile.
    await backUp({ ...place(), file })
  })
  afterAll(async () => {
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  it('brings everything back as it was, and keeps what was there in one of its own', async () => {
    await rename('Renamed since')
    await server.post('/api/projects/salt-lantern/duplicate', {})
    await server.kill()
    rmSync(server.storage, { recursive: true, force: true })
    await restore({ ...place(), file, keepIn: folder })
    await server.start()
    expect(await titles()).toEqual(['Salt Lantern'])
    const picture = await fetch(`${server.address}/api/pictures/${hash}`)
    expect(Buffer.from(await picture.arrayBuffer())).toEqual(PNG)
    // What was being made is still to be made.
    expect((await server.ask('/api/projects/salt-lantern/renders')).body).toMatchObject([{ state: 'running', doneFrames: 0 }])

    const kept = readdirSync(folder).find((name) => name.startsWith('before-restore-'))!
    await server.kill()
    await restore({ ...place(), file: join(folder, kept), keepIn: folder })
    await server.start()
    expect((await titles()).sort()).toEqual(['Renamed since', 'Renamed since copy'])
  })

  it('that is none, is cut short or would write elsewhere is refused, and nothing is changed', async () => {
    const before = await titles()
    const refused = (name: string, why: RegExp) => expect(restore({ ...place(), file: join(folder, name), keepIn: folder }), name).rejects.toThrow(why)
    await refused('nowhere.tar', /There is no file/)
    writeFileSync(join(folder, 'noise.tar'), 'not a tar at all')
    await refused('noise.tar', /can't be read|is missing/)
    execFileSync('tar', ['-cf', join(folder, 'other.tar'), '-C', '/etc', 'hostname'])
    await refused('other.tar', /not a backup of Rubato: it holds “hostname”/)
    execFileSync('tar', ['-cPf', join(folder, 'climbing.tar'), '--transform=s,^,blobs/../../,', '-C', '/etc', 'hostname'])
    await refused('climbing.tar', /not a backup of Rubato/)
    symlinkSync('/etc', join(folder, 'blobs'))
    execFileSync('tar', ['-cf', join(folder, 'link.tar'), '-C', folder, 'blobs'])
    await refused('link.tar', /not a backup of Rubato/)
    writeFileSync(join(folder, 'rubato-backup.json'), '{}')
    execFileSync('tar', ['-cf', join(folder, 'half.tar'), '-C', folder, 'rubato-backup.json'])
    await refused('half.tar', /database.dump is missing/)
    expect(await titles()).toEqual(before)
  })

  it('is whole though pictures come in and go while it is made', async () => {
    // In a process of its own: this one stands still while a backup is made.
    const coming = spawn(process.execPath, ['--input-type=module', '-e', COMING, server.address], { cwd: process.cwd(), stdio: ['ignore', 'pipe', 'inherit'] })
    let came = 0
    coming.stdout.on('data', (bytes: Buffer) => (came += bytes.length))
    await expect.poll(() => came, { timeout: 15_000 }).toBeGreaterThan(5)
    for (let round = 0; round < 5; round++) await backUp({ ...place(), file: join(folder, `busy-${round}.tar`) })
    await expect.poll(() => came, { timeout: 15_000 }).toBeGreaterThan(20)
    coming.kill()
    await server.kill()
    await restore({ ...place(), file: join(folder, 'busy-4.tar'), keepIn: folder })
    await server.start()
    for (const { hash } of (await server.query('SELECT hash FROM assets LIMIT 50')) as { hash: string }[]) expect((await fetch(`${server.address}/api/pictures/${hash}`)).status).toBe(200)
  }, 60_000)

  it('says nothing of a picture that no film had and that was let go of meanwhile; one that a film has stays named', async () => {
    const upload = async (width: number) => (await server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(await sharp({ create: { width, height: 9, channels: 3, background: '#b27b1b' } }).png().toBuffer()) })).body.hash as string
    const [unused, used] = [await upload(31), await upload(32)]
    await server.query(`INSERT INTO project_assets (project_id, hash) VALUES ('salt-lantern', '${used}')`)
    for (const gone of [unused, used]) rmSync(join(server.storage, gone.slice(0, 2), gone))
    const late = join(folder, 'late.tar')
    expect(await backUp({ ...place(), file: late })).toContain('2 files are missing')
    await server.kill()
    await restore({ ...place(), file: late, keepIn: folder })
    await server.start()
    const named = ((await server.query('SELECT hash FROM assets')) as { hash: string }[]).map((row) => row.hash)
    expect([named.includes(unused), named.includes(used)]).toEqual([false, true])
    // The same picture can be brought in again, and is there.
    expect(await upload(31)).toBe(unused)
    expect((await fetch(`${server.address}/api/pictures/${unused}`)).status).toBe(200)
  })

  it('is not brought back while a server uses the database; windows left open are told when it was', async () => {
    await expect(restore({ ...place(), file, keepIn: folder })).rejects.toThrow(/Rubato is running on this database/)
    const epoch = async () => ((await server.query('SELECT id FROM epoch')) as { id: string }[])[0]!.id
    const before = await epoch()
    await server.kill()
    await restore({ ...place(), file, keepIn: folder })
    await server.start()
    expect(await epoch()).not.toBe(before)
  })

  it('leaves the file that was there whole when it can’t be written', async () => {
    await expect(backUp({ ...place(), databaseUrl: `${server.databaseUrl}-none`, file })).rejects.toThrow(/could not be made/)
    expect(existsSync(file)).toBe(true)
    expect(existsSync(`${file}.partial`)).toBe(false)
  })
})
