import type { Difference } from '@rubato/core/edits'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { wordBytes, wordDifferences } from './differences'
import { quoted } from './quoted'

const difference = (collection: string, how: Difference['how'], name: string | null = null, fields: readonly string[] = []) => ({ collection, how, name, fields }) as unknown as Difference

describe('what two versions differ in', () => {
  it('is told by kind: one by its name, several by how many, with what of them is otherwise', () => {
    expect(wordDifferences([])).toEqual([])
    expect(wordDifferences([difference('levels', 'removed', 'Sky'), difference('panels', 'changed', null, ['lengthFrames']), difference('panels', 'changed', null, ['lengthFrames', 'action']), difference('marks', 'added'), difference('marks', 'added')])).toEqual(['level “Sky” removed', '2 panels changed: length, action', '2 marks of drawings added'])
  })

  it('names three of many, and four of the fields', () => {
    const many = ['Sea', 'Sky', 'Pier', 'Kite', 'Moth'].map((name) => difference('levels', 'changed', name, ['x', 'scale', 'opacity', 'panDegrees', 'locked']))
    expect(wordDifferences(many)).toEqual(['5 levels (“Sea”, “Sky”, “Pier” …) changed: place, scale, opacity, pan'])
  })

  it('of a kind that this version does not know is told by its own name, and no name is read as one of the language’s', () => {
    expect(wordDifferences([difference('bells', 'added')])).toEqual(['bells added'])
    expect(wordDifferences([difference('constructor', 'added'), difference('constructor', 'added')])).toEqual(['2 constructor added'])
  })
})

describe('bytes in words', () => {
  it('are written by the largest that there is one of', () => {
    expect([0, 1, 999, 1000, 9940, 9960, 12_345, 999_499, 999_500, 1_500_000, 5e8, 999_999_999, 12e9, 5e12].map(wordBytes)).toEqual(['0 bytes', '1 byte', '999 bytes', '1.0 KB', '9.9 KB', '10 KB', '12 KB', '999 KB', '1.0 MB', '1.5 MB', '500 MB', '1.0 GB', '12 GB', '5000 GB'])
  })

  it('say how much it is to within a twentieth', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1000, max: 2 ** 42 }), (bytes) => {
        const [value, unit] = wordBytes(bytes).split(' ')
        expect(Math.abs((Number(value) * { KB: 1e3, MB: 1e6, GB: 1e9 }[unit as 'KB']) / bytes - 1)).toBeLessThan(0.051)
      }),
    )
  })
})

describe('a name in quotation marks', () => {
  it('keeps those that it has, and is cut where it is long', () => {
    expect([quoted('Sky'), quoted('“Sky”'), quoted(''), quoted('x'.repeat(70)).length]).toEqual(['“Sky”', '“Sky”', '“”', 63])
    expect(quoted('Sea wall', 3)).toBe('“Sea…”')
  })
})
