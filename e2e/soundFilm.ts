import { randomUUID } from 'node:crypto'
import { EMPTY_TAKE, type Clip, type Film, type Lane, type Outline, type Transition } from '@rubato/core/document'
import { addClips, addLane, addShot, putTransition, type Made } from '@rubato/core/edits'
import { wavFile } from '@rubato/core/interchange'
import { address, json, makeFilm, post } from './desk'

/** Bursts of `ms` at moments, else silence. */
export function claps(seconds: number, at: readonly number[], sampleRateHz = 48_000, ms = 6): Float32Array {
  const wave = new Float32Array(Math.round(seconds * sampleRateHz))
  for (const moment of at) for (let i = 0; i < (sampleRateHz * ms) / 1000; i++) wave[Math.round(moment * sampleRateHz) + i] = i % 2 === 0 ? 0.9 : -0.9
  return wave
}
/** Tones with pauses between: seconds of each, a level for each. */
export function tones(parts: readonly (readonly [number, number])[], sampleRateHz = 24_000, hz = 440): Float32Array {
  return Float32Array.from(parts.flatMap(([seconds, level]) => Array.from({ length: Math.round(seconds * sampleRateHz) }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / sampleRateHz))))
}
export const wav = (wave: Float32Array, sampleRateHz = 48_000) => Buffer.from(wavFile([wave], sampleRateHz))

export async function uploadSound(bytes: Buffer): Promise<{ hash: string; seconds: number }> {
  const upload = await post('/api/uploads', { kind: 'sound', bytes: bytes.length })
  for (let part = 0; part * upload.partBytes < bytes.length; part++) {
    const response = await fetch(`${address()}/api/uploads/${upload.id}/parts/${part}`, { method: 'PUT', body: new Uint8Array(bytes.subarray(part * upload.partBytes, (part + 1) * upload.partBytes)) })
    if (!response.ok) throw new Error(await response.text())
  }
  return json(`/api/uploads/${upload.id}/finish`, { method: 'POST' })
}

export const lane = (id: string, kind: Lane['kind'] = 'voices'): Omit<Lane, 'order'> => ({ id, name: id, kind, gainDb: 0, muted: false, soloed: false })
export const clip = (id: string, laneId: string, recording: { hash: string; seconds: number }, fields: Partial<Clip> = {}): Clip => ({ id, laneId, shotId: null, offsetFrames: 0, assetHash: recording.hash, name: id, sourceSeconds: recording.seconds, fromSeconds: 0, lengthSeconds: recording.seconds, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null, ...fields })
export const transition = (id: string, fields: Partial<Transition> = {}): Transition => ({ id, at: 'cut', kind: 'dissolve', lengthFrames: 8, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false, ...fields })

export const outlineOf = async (projectId: string): Promise<Outline> => (await json(`/api/projects/${projectId}`)).outline

/** Makes changes to a film through the server, each seeing what the one before did to the outline. */
export async function change(projectId: string, ...makes: readonly ((film: Film) => Made)[]) {
  for (const make of makes) {
    const opened = await json(`/api/projects/${projectId}`)
    const made = make({ outline: opened.outline, takes: {}, drawings: {} })
    if (!made.ok) throw new Error(made.refusal.code)
    const base = Object.fromEntries(made.edits.map(({ unit }) => [`${unit.kind}:${unit.id}`, unit.kind === 'outline' ? opened.outlineRevision : 0]))
    await post(`/api/projects/${projectId}/edits`, { changes: [{ id: randomUUID(), label: 'setup', edits: made.edits }], base })
  }
}

/** A film of two shots, red then green, of two panels of 24 frames each. */
export async function twoShots() {
  const film = await makeFilm({ levels: [{ id: 'red', colour: '#c2452d', box: [-1, -1, 1, 1], depth: 0 }] })
  const { projectId } = film
  const outline = await outlineOf(projectId)
  const first = Object.values(outline.shots)[0]!
  await change(projectId, (f) => addShot(f, projectId, first.sequenceId, first.id, { shot: 'second', take: 'second-a', panel: 'q1', camera: 'camera-b' }, 24))
  const level = { id: 'green', order: 'a1', name: 'green', kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
  const panel = { id: 'q2', order: 'a2', lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }
  const mark = { id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[-1, -1, 1, -1, 1, 1, -1, 1]], colour: '#2e7a68', opacity: 1 }
  await post(`/api/projects/${projectId}/edits`, {
    changes: [
      {
        id: randomUUID(),
        label: 'setup',
        edits: [
          { kind: 'setup', unit: { kind: 'take', id: 'second-a' }, changes: { panels: { q2: { before: null, after: panel } }, levels: { green: { before: null, after: level } }, cells: { 'green.q1': { before: null, after: { id: 'green.q1', levelId: 'green', panelId: 'q1', drawingId: 'd-green' } } } } },
          { kind: 'setup', unit: { kind: 'drawing', id: 'd-green' }, changes: { marks: { m: { before: null, after: mark } } } },
        ],
      },
    ],
    base: { 'take:second-a': 1, 'drawing:d-green': 0 },
  })
  return { ...film, firstId: first.id, secondId: 'second' }
}

export { addClips, addLane, EMPTY_TAKE, putTransition }

/** Panels of these lengths; every second is black all over, the others white. */
export async function flashFilm(lengths: readonly number[], widthPx = 320, heightPx = 180, rate = { numerator: 24, denominator: 1 }) {
  const film = await makeFilm({ widthPx, heightPx, rate, panels: lengths, levels: [{ id: 'flash', colour: '#000000', box: [-2, -2, 2, 2], depth: 0 }] })
  const cells = Object.fromEntries(lengths.map((_, i) => {
    const id = `flash.p${i + 1}`
    return [id, { before: i === 0 ? { id, levelId: 'flash', panelId: 'p1', drawingId: 'd-flash' } : null, after: { id, levelId: 'flash', panelId: `p${i + 1}`, drawingId: i % 2 === 1 ? 'd-flash' : null } }]
  }))
  await post(`/api/projects/${film.projectId}/edits`, { changes: [{ id: randomUUID(), label: 'setup', edits: [{ kind: 'setup', unit: { kind: 'take', id: film.takeId }, changes: { cells } }] }], base: { [`take:${film.takeId}`]: 2 } })
  return film
}
