import type { Outline } from '@rubato/core/document'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { CutTaken } from '#shared/cuts'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer({ RUBATO_SEED: 'demo' })
})
afterAll(() => server?.stop())

const FILM = '/api/projects/salt-lantern'
const file = async (query: string, film = FILM) => {
  const response = await fetch(`${server.address}${film}/cut?${query}`)
  return { status: response.status, name: decodeURIComponent(response.headers.get('content-disposition') ?? ''), bytes: new Uint8Array(await response.arrayBuffer()) }
}
const cutOf = async (query: string, film = FILM) => strFromU8((await file(query, film)).bytes)
const outlineOf = async (film: string) => ((await server.ask(film)).body as { outline: Outline; takeLengths: Record<string, number> })
const SIZE = { rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720 }
const takeIn = (fileName: string, text: string) => server.post('/api/cuts', { fileName, text, ...SIZE })
const count = async () => ((await server.ask('/api/projects')).body as unknown[]).length
/** What the film is made of, but for its name. */
const inside = ({ project: _, ...rest }: Outline) => rest

describe('a film’s cut', () => {
  it('as a timeline is all of the film but its art, and becomes that film again', async () => {
    const text = await cutOf('as=otio&movie=Salt.webm')
    const before = await outlineOf(FILM)
    const taken = await takeIn('cut.otio', text)
    expect(taken.status).toBe(200)
    const { card, notes } = taken.body as CutTaken
    expect(notes).toEqual([expect.stringContaining('holds no art')])
    const made = await outlineOf(`/api/projects/${card.project.id}`)
    expect(inside(made.outline)).toEqual(inside(before.outline))
    expect(made.takeLengths).toEqual(before.takeLengths)
    const ids = Object.keys(before.takeLengths).slice(0, 20)
    const bodies = async (film: string) => ((await server.ask(`${film}/takes?ids=${ids.join()}`)).body as { id: string; body: unknown }[]).map(({ id, body }) => [id, body]).sort()
    expect(await bodies(`/api/projects/${card.project.id}`)).toEqual(await bodies(FILM))
  })

  it('cut anew elsewhere becomes the film as it was cut there', async () => {
    const timeline = JSON.parse(await cutOf('as=otio&nested=0')) as { tracks: { children: { children: { OTIO_SCHEMA: string; name: string; source_range: { duration: { value: number } } }[] }[] } }
    const [pictures] = timeline.tracks.children
    const clips = pictures!.children.filter(({ OTIO_SCHEMA }) => OTIO_SCHEMA === 'Clip.1')
    pictures!.children = [clips[2]!, clips[0]!]
    clips[0]!.source_range.duration.value -= 10
    const { card } = (await takeIn('cut.otio', JSON.stringify(timeline))).body as CutTaken
    const { outline } = await outlineOf(`/api/projects/${card.project.id}`)
    const shots = Object.values(outline.shots)
    expect(shots.filter(({ inTray }) => inTray !== true).map(({ label }) => label).sort()).toEqual([clips[0]!.name, clips[2]!.name].sort())
    expect(card.shotCount).toBe(2)
    // Those that are not in it wait in the tray, and no list of shots counts them.
    expect(shots.length).toBeGreaterThan(2)
    expect(Object.keys(((await server.ask(`/api/projects/${card.project.id}/facts`)).body as { facts: object; missing: string[] }).missing)).toHaveLength(2)
  })

  it('goes out as edit lists and marks, and a list becomes empty shots of its lengths', async () => {
    const { outline } = await outlineOf(FILM)
    const text = await cutOf('as=edl')
    expect(text.split('\r\n')[0]).toBe(`TITLE: ${outline.project['salt-lantern']!.title}`)
    expect((text.match(/RUBATO SHOT/g) ?? []).length).toBe(Object.keys(outline.shots).length)
    const zip = await file('as=edls')
    expect(Object.keys(unzipSync(zip.bytes))).toEqual(['pictures.edl', ...Object.values(outline.lanes).sort((a, b) => (a.order < b.order ? -1 : 1)).map(({ name }, i) => `0${i + 1}-${name.replaceAll(' ', '-')}.edl`)])
    expect((await cutOf('as=marks')).split('\r\n')[0]).toBe('Timecode,Frame,Seconds,Shot,Frame in shot,Meaning,Name')
    const { card } = (await takeIn('Night train.edl', 'TITLE: Night train\n001  010 V C 01:00:00:00 01:00:02:00 00:00:00:00 00:00:02:00\n002  020 V C 01:00:00:00 01:00:03:00 00:00:02:00 00:00:05:00\n')).body as CutTaken
    expect([card.project.title, card.shotCount, card.lengthFrames]).toEqual(['Night train', 2, 120])
  })

  it('of a version is that version’s', async () => {
    const made = (await server.post(`${FILM}/versions`, { name: 'now', author: '', reason: 'hand' })).body as { id: string }
    expect(JSON.parse(await cutOf(`as=otio&version=${made.id}`))).toEqual(JSON.parse(await cutOf('as=otio')))
    expect((await file('as=otio&version=none')).status).toBe(404)
  })

  it('that is damaged, hostile or none is refused in words, and nothing is made', async () => {
    const before = await count()
    const good = await cutOf('as=otio')
    const bad = [good.slice(0, good.length / 2), '{}', '[]', 'hello', good.replace('"Timeline.1"', '"Clip.1"'), good.replaceAll('"rate":24', '"rate":0'), good.replaceAll(/"value":\d+/g, '"value":1e300'), `${'{"OTIO_SCHEMA":"Stack.1","children":['.repeat(5000)}`]
    for (const text of bad) {
      const answer = await takeIn('cut.otio', text)
      expect([answer.status, (answer.body as { message: string }).message.length > 40]).toEqual([422, true])
    }
    expect((await takeIn('cut.edl', '001  010 V C 01:00:00:00 01:00:02:40 00:00:00:00 00:00:02:00')).body).toMatchObject({ message: expect.stringContaining('no timecode') })
    expect((await server.post('/api/cuts', { fileName: 'x.otio' })).status).toBe(422)
    expect((await server.post('/api/cuts', { fileName: 'cut.otio', text: good, ...SIZE, widthPx: 16_000 })).status).toBe(422)
    const long = JSON.parse(good) as { tracks: { children: { children: object[] }[] }; metadata: object }
    long.metadata = {}
    long.tracks.children[0]!.children = [{ OTIO_SCHEMA: 'Clip.1', name: 'long', source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: { value: 0, rate: 24 }, duration: { value: 50_000_000, rate: 24 } } }]
    expect((await takeIn('cut.otio', JSON.stringify(long))).body).toMatchObject({ message: expect.stringContaining('longer than a film can hold') })
    expect((await file('as=xml')).status).toBe(422)
    expect((await file('as=otio', '/api/projects/none')).status).toBe(404)
    expect(await count()).toBe(before)
    // What was written beside the cut, damaged: the cut itself is taken.
    const { card, notes } = (await takeIn('cut.otio', good.replace('"sequences"', '"sequenzen"'))).body as CutTaken
    expect([card.shotCount > 2, notes.join(' ')]).toEqual([true, expect.stringContaining('damaged')])
  })
})
