import { describe, expect, it } from 'vitest'
import { countWords, cutWords, spokenWords } from './cutWords'

const eye = { u: 0, v: 0, by: 'centre', name: null } as const

describe('words of a cut', () => {
  it('say what is read, in figures and in plain words', () => {
    expect(cutWords({ kind: 'eye', verdict: 'fix', from: { ...eye, by: 'speaker', name: 'Tilda' }, to: eye, travel: 0.51971 })).toEqual({ name: 'Eye', figures: '52 %', says: 'far to go: Tilda, who speaks › the middle' })
    expect(cutWords({ kind: 'size', verdict: 'look', name: 'Tilda', before: 0.4, after: 0.461368, ratio: 1.153419, turnDegrees: 8.88 })).toEqual({ name: 'Size, angle', figures: '×1.15, 9°', says: 'Tilda: too like the picture before, reads as a jump' })
    expect(cutWords({ kind: 'direction', verdict: 'fix', name: 'Tilda', before: 'left', after: 'right', says: 'flipped' })).toMatchObject({ figures: '← then →', says: 'Tilda flips, and seems to turn back' })
    expect(cutWords({ kind: 'direction', verdict: 'well', name: 'Tilda', before: 'right', after: 'still', says: 'begins' }).says).toBe('Tilda has stopped')
    expect(cutWords({ kind: 'line', verdict: 'fix', names: ['Tilda', 'Oskar'], before: -1, after: 1 })).toMatchObject({ figures: 'crossed', says: 'between Tilda and Oskar: they change sides' })
    expect(cutWords({ kind: 'motion', verdict: 'look', before: 0, after: 0.11, says: 'starts at full speed' })).toMatchObject({ figures: '0.0 %/s › 11 %/s' })
    expect(cutWords({ kind: 'length', verdict: 'look', seconds: 1, asks: 2.4, neighbours: 3 }).says).toBe('what is said and to be read takes 2.4 s, beside it 3.0 s')
    expect(cutWords({ kind: 'length', verdict: 'well', seconds: 1, asks: 0, neighbours: null }).says).toBe('the shot before')
  })

  it('are counted without who speaks, and without signs that are none', () => {
    expect(spokenWords('TILDA: Brisket, the oil!')).toBe(3)
    expect(spokenWords('OSKAR: Mind – the lamp.\nTILDA: Yes.')).toBe(4)
    expect(spokenWords('')).toBe(0)
    expect(countWords(' SALT  LANTERN\n2 ')).toBe(3)
  })
})
