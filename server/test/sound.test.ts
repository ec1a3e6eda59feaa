import { randomUUID } from 'node:crypto'
import type { Clip, Lane, Outline, Transition } from '@rubato/core/document'
import { addClips, addLane, addShot, editClip, putTransition, removeLane, removeShot, type Made } from '@rubato/core/edits'
import { wavFile } from '@rubato/core/interchange'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { NEW_PROJECT, PNG, startTestServer, type TestServer } from './testServer'
import { startObjectStore } from './s3StandIn'

const WAV = Buffer.from(wavFile([Float32Array.from({ length: 24_000 }, (_, i) => Math.sin(i * 0.05) * 0.5)], 24_000))
const LANE: Omit<Lane, 'order'> = { id: 'voices', name: 'Voices', kind: 'voices', gainDb: -3.5, muted: true, soloed: false }

async function upload(server: TestServer, bytes: Buffer) {
  const { body } = await server.post('/api/uploads', { kind: 'sound', bytes: bytes.length })
  await server.ask(`/api/uploads/${body.id}/parts/0`, { method: 'PUT', body: new Uint8Array(bytes) })
  return server.ask(`/api/uploads/${body.id}/finish`, { method: 'POST' })
}
async function film(server: TestServer) {
  const projectId = (await server.post('/api/projects', NEW_PROJECT)).body.project.id as string
  const open = async (id = projectId) => (await server.ask(`/api/projects/${id}`)).body as { outline: Outline; outlineRevision: number }
  const edit = async (how: (outline: Outline) => Made) => {
    const { outline, outlineRevision } = await open()
    const made = how(outline)
    if (!made.ok) throw new Error(made.refusal.code)
    const base = Object.fromEntries(made.edits.map(({ unit }) => [`${unit.kind}:${unit.id}`, unit.kind === 'outline' ? outlineRevision : 0]))
    const answer = await server.post(`/api/projects/${projectId}/edits`, { changes: [{ id: randomUUID(), label: 'test', edits: made.edits }], base })
    return { status: answer.status, outline: (await open()).outline }
  }
  return { projectId, open, edit }
}
const clipOf = (assetHash: string, fields: Partial<Clip> = {}): Clip => ({ id: 'c', laneId: 'voices', shotId: null, offsetFrames: -2.5, assetHash, name: 'Line', sourceSeconds: 1, fromSeconds: 0.125, lengthSeconds: 0.5, gainDb: 2, fadeInSeconds: 0.1, fadeOutSeconds: 0.05, speaker: 'TILDA', line: 'The oil!', passageId: 's1', panelId: null, ...fields })

describe('sound', () => {
  let server: TestServer
  let hash: string
  beforeAll(async () => {
    server = await startTestServer()
    hash = (await upload(server, WAV)).body.hash
  })
  afterAll(() => server.stop())

  it('is sent whole, or just the bytes that are asked for', async () => {
    const ask = async (range?: string) => {
      const response = await fetch(`${server.address}/api/sounds/${hash}`, range === undefined ? {} : { headers: { Range: range } })
      return { status: response.status, bytes: Buffer.from(await response.arrayBuffer()), range: response.headers.get('content-range') }
    }
    expect(await ask()).toEqual({ status: 200, bytes: WAV, range: null })
    expect(await ask('bytes=100-199')).toEqual({ status: 206, bytes: WAV.subarray(100, 200), range: `bytes 100-199/${WAV.length}` })
    expect(await ask(`bytes=${WAV.length - 10}-`)).toEqual({ status: 206, bytes: WAV.subarray(-10), range: `bytes ${WAV.length - 10}-${WAV.length - 1}/${WAV.length}` })
    expect(await ask('bytes=-5')).toMatchObject({ status: 206, bytes: WAV.subarray(-5) })
    expect(await ask('bytes=0-999999999')).toMatchObject({ status: 206, bytes: WAV })
    expect(await ask(`bytes=${WAV.length}-`)).toMatchObject({ status: 416, range: `bytes */${WAV.length}` })
    for (const odd of ['bytes=5-2', 'bytes=a-b', 'lines=1-2', 'bytes=1-2,4-5', 'bytes=-']) expect([200, 416]).toContain((await ask(odd)).status)
  })

  it('is not found where there is none, nor where there is a picture', async () => {
    const picture = (await server.ask('/api/pictures', { method: 'POST', body: PNG })).body.hash
    for (const wrong of ['f'.repeat(64), picture, 'nonsense']) expect((await server.ask(`/api/sounds/${wrong}`)).status).toBe(404)
  })

  it('lanes, clips and transitions are kept to the field, copied with the film, changed and taken out', async () => {
    const { projectId, open, edit } = await film(server)
    const shotId = Object.keys((await open()).outline.shots)[0]!
    const clip = clipOf(hash, { shotId })
    const transition: Transition = { id: 'film-start', at: 'start', kind: 'colour', lengthFrames: 12, place: 'centre', angleDegrees: -30.5, softness: 0.25, colour: '#102030', soundToo: true }
    await edit((outline) => addLane(outline, projectId, LANE))
    await edit((outline) => addClips(outline, projectId, [clip]))
    const { outline } = await edit((now) => putTransition(now, projectId, transition, 20))
    expect([outline.lanes, outline.clips, outline.transitions]).toEqual([{ voices: { ...LANE, order: 'a0' } }, { c: clip }, { 'film-start': transition }])
    expect(await server.query(`SELECT hash FROM project_assets WHERE project_id = '${projectId}'`)).toEqual([{ hash }])
    const copy = (await server.post(`/api/projects/${projectId}/duplicate`, {})).body.project.id
    const copied = (await open(copy)).outline
    expect([copied.lanes, copied.clips, copied.transitions]).toEqual([outline.lanes, outline.clips, outline.transitions])
    expect((await edit((now) => editClip(now, projectId, 'c', { shotId: null, passageId: null }))).outline.clips.c).toEqual({ ...clip, shotId: null, passageId: null })
    const gone = (await edit((now) => removeLane(now, projectId, 'voices'))).outline
    expect([gone.lanes, gone.clips]).toEqual([{}, {}])
  })

  it('refuses a clip in no lane, one that is longer than its recording, and a transition into no shot', async () => {
    const { projectId, open, edit } = await film(server)
    await edit((outline) => addLane(outline, projectId, LANE))
    const put = async (changes: object) => {
      const { outlineRevision } = await open()
      const edits = [{ kind: 'x', unit: { kind: 'outline', id: projectId }, changes }]
      return (await server.post(`/api/projects/${projectId}/edits`, { changes: [{ id: randomUUID(), label: 'x', edits }], base: { [`outline:${projectId}`]: outlineRevision } })).status
    }
    for (const wrong of [clipOf(hash, { laneId: 'none' }), clipOf(hash, { lengthSeconds: 2 }), clipOf(hash, { gainDb: 200 }), clipOf('no hash')]) expect(await put({ clips: { c: { before: null, after: wrong } } })).toBe(422)
    const nowhere = { id: 'nowhere', at: 'cut', kind: 'wipe', lengthFrames: 5, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false }
    expect(await put({ transitions: { nowhere: { before: null, after: nowhere } } })).toBe(422)
    expect(await put({ transitions: { 'film-start': { before: null, after: { ...nowhere, id: 'film-start', at: 'end' } } } })).toBe(422)
    expect((await open()).outline.clips).toEqual({})
  })

  it('keeps a clip whose shot is deleted, and a version brings shot, transition and clip back together', async () => {
    const { projectId, open, edit } = await film(server)
    const [first] = Object.values((await open()).outline.shots)
    await edit((outline) => addLane(outline, projectId, LANE))
    await edit((outline) => addShot({ outline, takes: {}, drawings: {} }, projectId, first!.sequenceId, first!.id, { shot: 'two', take: 'two-a', panel: 'p', camera: 'c' }, 24))
    await edit((outline) => addClips(outline, projectId, [clipOf(hash, { shotId: 'two' })]))
    await edit((outline) => putTransition(outline, projectId, { id: 'two', at: 'cut', kind: 'dissolve', lengthFrames: 6, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false }, 20))
    const version = (await server.post(`/api/projects/${projectId}/versions`, { name: 'With two', author: '' })).body.id
    const removed = (await edit((outline) => removeShot(outline, projectId, 'two'))).outline
    expect([removed.clips.c?.shotId, removed.transitions]).toEqual(['two', {}])
    await edit((outline) => editClip(outline, projectId, 'c', { gainDb: -9 }))
    expect((await server.post(`/api/projects/${projectId}/versions/${version}/bring-back`, { shotIds: ['two'], author: '' })).status).toBe(200)
    const back = (await open()).outline
    expect([back.shots.two?.label, back.transitions.two?.lengthFrames, back.clips.c?.gainDb]).toEqual(['020', 6, 2])
  })
})

describe('sound in an object store', () => {
  it('is read in parts there too', async () => {
    const keys = { accessKeyId: 'key', secretAccessKey: 'secret' }
    const store = await startObjectStore(keys, 'rubato')
    const server = await startTestServer({ RUBATO_S3_ENDPOINT: store.endpoint, RUBATO_S3_BUCKET: 'rubato', RUBATO_S3_KEY: keys.accessKeyId, RUBATO_S3_SECRET: keys.secretAccessKey })
    try {
      const { body } = await upload(server, WAV)
      const response = await fetch(`${server.address}/api/sounds/${body.hash}`, { headers: { Range: 'bytes=44-143' } })
      expect([response.status, Buffer.from(await response.arrayBuffer()), response.headers.get('content-range')]).toEqual([206, WAV.subarray(44, 144), `bytes 44-143/${WAV.length}`])
      expect(store.state.refused).toBe(0)
    } finally {
      await server.stop()
      await store.stop()
    }
  })
})
