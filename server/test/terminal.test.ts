import { execFile } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startTestServer, startTestWorker, type TestServer } from './testServer'

const SECRET = 'a secret for the terminal'
let server: TestServer
const folder = mkdtempSync(join(tmpdir(), 'rubato-terminal-'))
beforeAll(async () => {
  server = await startTestServer({ RUBATO_SEED: 'demo', RUBATO_SECRET: SECRET })
})
afterAll(async () => {
  await server?.stop()
  rmSync(folder, { recursive: true, force: true })
})

const rubato = (args: readonly string[], env: Record<string, string> = {}) =>
  new Promise<{ code: number; out: string; errors: string }>((done) =>
    execFile('./rubato', args, { env: { ...process.env, RUBATO_ADDRESS: server.address, RUBATO_SECRET: SECRET, ...env } }, (error, out, errors) => done({ code: typeof error?.code === 'number' ? error.code : 0, out, errors })),
  )
const read = async <T>(...args: string[]) => JSON.parse((await rubato([...args, '--json'])).out) as T

describe('the command line', () => {
  it('lists films, makes one, keeps one as a file and takes it in again', async () => {
    const films = await read<{ id: string; title: string; shots: number }[]>('films')
    expect(films).toMatchObject([{ id: 'salt-lantern', title: 'Salt Lantern' }])
    const made = await rubato(['new', 'Night train', '--rate', '29.97', '--size', '640x360'])
    expect([made.code, (await read<{ id: string; title: string }[]>('films')).find(({ id }) => id === made.out.trim())?.title]).toEqual([0, 'Night train'])
    const file = join(folder, 'film.rubato')
    expect((await rubato(['backup', 'Salt Lantern', '--to', file])).code).toBe(0)
    const [again] = await read<{ id: string; title: string }[]>('bring', file)
    expect((await read<{ id: string; shots: number }[]>('films')).find(({ id }) => id === again!.id)?.shots).toBe(films[0]!.shots)
    expect((await rubato(['films'])).out).toContain('Night train')
    // Now two are called so.
    expect(await rubato(['backup', 'Salt Lantern'])).toMatchObject({ code: 2, errors: expect.stringContaining('2 films are called') })
  })

  it('writes a cut, says what a changed one would change, and takes it, line by line or whole', async () => {
    const path = join(folder, 'cut.otio')
    expect((await rubato(['out', 'salt-lantern', '--as', 'otio', '--flat', '--to', path])).code).toBe(0)
    expect(await rubato(['conform', 'salt-lantern', path])).toMatchObject({ code: 0, out: expect.stringContaining('just so already') })
    const timeline = JSON.parse(readFileSync(path, 'utf8')) as { tracks: { children: { children: { OTIO_SCHEMA: string; source_range: { start_time: { value: number }; duration: { value: number } } }[] }[] } }
    const [pictures, ...sound] = timeline.tracks.children
    expect(sound.length).toBeGreaterThan(0)
    const clips = pictures!.children.filter(({ OTIO_SCHEMA }) => OTIO_SCHEMA === 'Clip.1')
    clips[1]!.source_range.start_time.value += 10
    clips[1]!.source_range.duration.value -= 70
    timeline.tracks.children = [{ ...pictures!, children: [clips[1]!, clips[0]!, ...clips.slice(3)] }]
    writeFileSync(path, JSON.stringify(timeline))
    const looked = await rubato(['conform', 'salt-lantern', path, '--json'])
    const { lines } = JSON.parse(looked.out) as { lines: { id: string; kind: string }[] }
    expect([looked.code, lines.map(({ kind }) => kind).filter((kind) => kind !== 'transition').sort()]).toEqual([1, ['dropped', 'ends', 'moved']])
    const ends = lines.find(({ kind }) => kind === 'ends')!.id
    expect(await read('conform', 'salt-lantern', path, '--take', ends)).toMatchObject({ taken: 1 })
    expect((await rubato(['conform', 'salt-lantern', path, '--take', 'all'])).out).toContain('lines are taken')
    expect(await rubato(['conform', 'salt-lantern', path])).toMatchObject({ code: 0 })
    expect((await rubato(['out', 'salt-lantern', '--as', 'csv', '--to', join(folder, 'marks.csv')])).code).toBe(0)
    const [fresh] = await read<{ id: string; title: string; notes: string[] }[]>('bring', path)
    expect(fresh!.title).toBe('Salt Lantern')
  })

  it('says what is wrong, why and what now, and ends accordingly', async () => {
    expect((await rubato([])).code).toBe(64)
    expect(await rubato(['--help'])).toMatchObject({ code: 0, out: expect.stringContaining('./rubato conform FILM FILE') })
    expect((await rubato(['bring', '--help'])).out).toContain('bring FILE')
    for (const args of [['fly'], ['new'], ['new', 'X', '--rate', '23'], ['new', 'X', '--size', 'big'], ['out', 'salt-lantern'], ['films', '--sideways']]) expect(await rubato(args)).toMatchObject({ code: 64, errors: expect.stringContaining('--help') })
    expect(await rubato(['out', 'Nobody', '--as', 'otio'])).toMatchObject({ code: 2, errors: expect.stringContaining('There is no film Nobody') })
    expect(await rubato(['bring', join(folder, 'none.rubato')])).toMatchObject({ code: 2, errors: expect.stringContaining('There is no file') })
    writeFileSync(join(folder, 'bad.otio'), '{"OTIO')
    expect(await rubato(['conform', 'salt-lantern', join(folder, 'bad.otio')])).toMatchObject({ code: 2, errors: expect.stringContaining('cut short, or not JSON') })
    expect(await rubato(['films'], { RUBATO_ADDRESS: 'http://127.0.0.1:9' })).toMatchObject({ code: 2, errors: expect.stringContaining('No Rubato answers') })
    expect(await rubato(['films'], { RUBATO_SECRET: 'not the right one' })).toMatchObject({ code: 2, errors: expect.stringContaining('not the secret') })
    expect(JSON.parse((await rubato(['out', 'Nobody', '--as', 'otio', '--json'])).out)).toEqual({ error: expect.stringContaining('no film') })
  })

  it('has workers make what needs a picture, checks the art, and says how it went by how it ends', async () => {
    const worker = await startTestWorker(server)
    try {
      const made = await read<{ files: { file: string; bytes: number }[] }>('render', 'salt-lantern', '--as', 'mp4', '--shots', '030', '--size', '0.25', '--burn', 'timecode,take', '--to', folder)
      expect(made.files.map(({ file, bytes }) => [file, bytes > 1000])).toEqual([[join(folder, 'Salt-Lantern-030.mp4'), true]])
      expect((await rubato(['out', 'salt-lantern', '--as', 'camera', '--shots', '030', '--to', folder])).code).toBe(0)
      expect(readFileSync(join(folder, 'Salt-Lantern-030.csv'), 'utf8')).toContain('frame')
      expect((await rubato(['out', 'salt-lantern', '--as', 'pdf', '--shots', '030', '--to', folder])).code).toBe(0)
      expect(readFileSync(join(folder, 'Salt-Lantern-030.pdf')).subarray(0, 5).toString()).toBe('%PDF-')
      expect((await rubato(['out', 'salt-lantern', '--as', 'ora', '--shots', '030', '--to', folder])).code).toBe(0)
      expect(Object.keys(unzipSync(readFileSync(join(folder, 'Salt-Lantern-030.zip'))))).toEqual(['Salt-Lantern-030-1.ora', 'Salt-Lantern-030-2.ora'])
      const checked = await rubato(['check', 'salt-lantern', '--shots', '030', '--json'])
      const { open, shots } = JSON.parse(checked.out) as { open: number; shots: { shot: string; cuts: { cut: string; readings: { kind: string; verdict: string }[] }[] }[] }
      expect([checked.code, shots.map(({ shot }) => shot)]).toEqual([open === 0 ? 0 : 1, ['030']])
      const [cut] = shots[0]!.cuts
      expect(cut!.cut).toMatch(/^\S+ › 030$/)
      expect(cut!.readings.map(({ kind }) => kind)).toEqual(expect.arrayContaining(['eye', 'motion', 'length']))
      expect(await rubato(['render', 'salt-lantern', '--as', 'mp4', '--shots', '999'])).toMatchObject({ code: 2, errors: expect.stringContaining('There is no shot 999') })
      expect(await rubato(['render', 'salt-lantern', '--as', 'avi'])).toMatchObject({ code: 64 })
      expect(await rubato(['render', 'salt-lantern', '--as', 'mp4', '--burn', 'clock'])).toMatchObject({ code: 64, errors: expect.stringContaining('not clock') })
      expect((await rubato(['render', 'salt-lantern', '--as', 'wav', '--no-wait'])).code).toBe(0)
    } finally {
      await worker.stop()
    }
  }, 900_000)
})
