import { describe, expect, it } from 'vitest'
import { EMPTY_OUTLINE, UNIT_SCHEMAS } from '@rubato/core/document'
import type { Clash } from '@rubato/core/edits'
import { wordClashes } from './clashes'
import { thingWords } from './things'

const film = { outline: EMPTY_OUTLINE, takes: {}, drawings: {} }
const clash = (collection: string, theirs: object, fields: readonly string[] = ['offsetFrames']) => ({ unit: { kind: 'outline', id: 'film' }, collection, id: 'x', mine: theirs, theirs, fields }) as unknown as Clash

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
    expect(wordClashes(film, [clash('clips', { id: 'x', name: '' }, [])])[0]).toEqual({ what: 'a sound clip', mine: 'changed', theirs: 'changed' })
  })
})
