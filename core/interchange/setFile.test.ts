import { describe, expect, it } from 'vitest'
import { EMPTY_SET, newLevel, type SetBody } from '../document'
import { readSetFile, writeSetFile, type SetFile } from './index'

const set: SetBody = { ...EMPTY_SET, pieces: { hut: { ...newLevel({ id: 'hut', name: 'Hut', order: 'a1', depth: 2 }) }, on: { ...newLevel({ id: 'on', name: 'Carrier', order: 'a2', kind: 'carrier' }) } }, art: { hut: { id: 'hut', drawingId: 'd-hut' } } }
const file: SetFile = { name: 'Marsh hut', stands: { x: 1, y: -0.5, depth: 3 }, metresPerFw: 2.5, set, drawings: { 'd-hut': { marks: [{ id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[0, 0, 1, 0, 1, 1]], colour: '#112233', opacity: 1 }] } } }
const entries = () => new Map(writeSetFile(file))
const read = (from: ReadonlyMap<string, string>) => readSetFile((entry) => from.get(entry) ?? null)
const why = (change: (from: Map<string, string>) => void) => {
  const from = entries()
  change(from)
  const result = read(from)
  return result.ok ? null : result.refusal
}
const withManifest = (fields: object) => (from: Map<string, string>) => void from.set('set.json', JSON.stringify({ ...JSON.parse(from.get('set.json')!), ...fields }))

describe('a set as one file', () => {
  it('out and in again is the same', () => {
    expect(read(entries())).toEqual({ ok: true, file })
    expect([...entries().keys()]).toEqual(['set.json', 'drawings/d-hut.json'])
  })

  it('refuses what is no set, is newer, is broken, or misses a drawing, and says where', () => {
    expect(why((from) => from.delete('set.json'))).toEqual({ code: 'not-a-set-file', what: 'set.json' })
    expect(why((from) => from.set('set.json', '{'))).toMatchObject({ code: 'not-a-set-file' })
    expect(why(withManifest({ format: 'rubato' }))).toEqual({ code: 'not-a-set-file', what: 'set.json: format' })
    expect(why(withManifest({ version: 99 }))).toMatchObject({ code: 'newer' })
    expect(why(withManifest({ documentVersion: 9999 }))).toMatchObject({ code: 'newer' })
    expect(why(withManifest({ set: { pieces: {} } }))).toMatchObject({ code: 'malformed' })
    expect(why(withManifest({ set: { ...set, art: { nobody: { id: 'nobody', drawingId: 'd-hut' } } } }))).toMatchObject({ code: 'malformed', what: expect.stringContaining('missing-piece') as string })
    expect(why(withManifest({ set: { ...set, pieces: { hut: { ...set.pieces.hut!, carrier: { kind: 'camera' } } } } }))).toMatchObject({ code: 'malformed', what: expect.stringContaining('piece-on-camera') as string })
    expect(why((from) => from.delete('drawings/d-hut.json'))).toEqual({ code: 'missing', what: 'drawings/d-hut.json' })
    expect(why((from) => from.set('drawings/d-hut.json', '{"marks":[{}]}'))).toEqual({ code: 'malformed', what: 'drawings/d-hut.json' })
  })
})
