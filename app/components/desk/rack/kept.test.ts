import type { Level } from '@rubato/core/document'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { keptRows, type ShownRow } from './ladder'

const level = (id: string) => ({ id, name: id }) as Level
const LEVELS = ['a', 'b', 'c', 'd'].map(level)
const row = (n: number, depth: number, words: string): ShownRow => ({ level: LEVELS[n]!, depth, hangs: '', indent: 0, carrierTop: null, motion: '', top: 12 + n * 46, rung: depth * 10, behind: false, group: '', near: null, holding: { drawingId: null, own: false, words } })

describe('rows of the rack', () => {
  it('say what is so now, and are the objects of before wherever they say what they said', () => {
    const list = fc.uniqueArray(fc.tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 2 }), fc.constantFrom('drawn here', 'holds panel 1')), { selector: ([n]) => n }).map((rows) => rows.map(([n, depth, words]) => row(n, depth, words)))
    fc.assert(
      fc.property(list, list, (before, now) => {
        const kept = keptRows(before, now)
        expect(kept).toEqual(now)
        for (const each of kept) {
          const old = before.find(({ level }) => level === each.level)
          expect(old !== undefined && JSON.stringify(old) === JSON.stringify(each)).toBe(before.includes(each))
        }
        expect(kept === before).toBe(JSON.stringify(before) === JSON.stringify(now))
      }),
    )
  })

  it('are new where a level is another record, though it reads the same', () => {
    const before = [row(0, 1, 'drawn here')]
    const [now] = keptRows(before, [{ ...before[0]!, level: level('a') }])
    expect(now).not.toBe(before[0])
    expect(keptRows(undefined, before)).toEqual(before)
  })
})
