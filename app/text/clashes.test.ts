import { describe, expect, it } from 'vitest'
import { EMPTY_OUTLINE, EMPTY_TAKE, UNIT_SCHEMAS } from '@rubato/core/document'
import type { Clash } from '@rubato/core/edits'
import { wordClashes } from './clashes'
import { thingWords } from './things'

const film = { outline: EMPTY_OUTLINE, takes: {}, drawings: {} }
const clash = (collection: string, theirs: object, fields: readonly string[] = ['offsetFrames']) => ({ unit: { kind: 'outline', id: 'film' }, collection, id: 'x', mine: theirs, theirs, fields }) as unknown as Clash

describe('two camera cuts at one frame', () => {
  it('are told by their cameras’ letters', () => {
    const takes = { t: { ...EMPTY_TAKE, cameras: { k1: { id: 'k1', order: 'a0', letter: 'A', locked: false }, k2: { id: 'k2', order: 'a1', letter: 'B', locked: false } } } }
    const cut = (cameraId: string) => ({ id: 'c', panelId: 'p', offsetFrames: 3, cameraId, dissolveFrames: 0 })
    const met = { unit: { kind: 'take', id: 't' }, collection: 'cuts', id: 'c', mine: cut('k1'), theirs: cut('k2'), fields: ['cameraId'] } as unknown as Clash
    expect(wordClashes({ ...film, takes }, [met])).toEqual([{ what: 'a camera cut, camera', mine: 'camera A', theirs: 'camera B' }])
    expect(wordClashes(film, [met])[0]!.mine).toBe('a camera that is gone')
  })
})

describe('two changes that met', () => {
  it('are told in words of the screen, whatever was changed', () => {
    const collections = Object.values(UNIT_SCHEMAS).flatMap((schemas) => Object.keys(schemas))
    for (const collection of collections) {
      expect(thingWords(collection)[0], collection).not.toMatch(/[A-Z]/)
      expect(wordClashes(film, [clash(collection, { id: 'x' })])[0]!.what, collection).not.toMatch(/[A-Z]/)
    }
  })

  it('name what has a name', () => {
    const [line] = wordClashes(film, [clash('rulerMarks', { id: 'x', name: 'First light', offsetFrames: 12 })])
    expect(line).toEqual({ what: 'mark on the ruler “First light”, moment', mine: '12', theirs: '12' })
    // A name that is in quotation marks has them once.
    expect(wordClashes(film, [clash('rulerMarks', { id: 'x', name: '“It’s going out!”', offsetFrames: 12 })])[0]!.what).toBe('mark on the ruler “It’s going out!”, moment')
    expect(wordClashes(film, [clash('rulerMarks', { id: 'x', name: 'n'.repeat(80), offsetFrames: 12 })])[0]!.what).toBe(`mark on the ruler “${'n'.repeat(60)}…”, moment`)
    expect(wordClashes(film, [clash('clips', { id: 'x', name: '' }, [])])[0]).toEqual({ what: 'a sound clip', mine: 'changed', theirs: 'changed' })
  })
})
