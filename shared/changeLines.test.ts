import type { Change, Edit } from '@rubato/core/edits'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { changeLineSchema, editLineSchema, LINE_LIMIT_BYTES, linesOfChange, moreLineSchema } from './changeLines'

/** What the other side makes of lines. */
function read(lines: readonly string[]): Change {
  const [head, ...rest] = lines.map((line) => JSON.parse(line) as unknown)
  const edits: Edit[] = []
  for (const value of rest) {
    const more = moreLineSchema.safeParse(value)
    if (!more.success) {
      edits.push(editLineSchema.parse(value))
      continue
    }
    const last = edits.at(-1)!
    const changes: Record<string, object> = { ...last.changes }
    for (const [collection, records] of Object.entries(more.data.more)) changes[collection] = { ...changes[collection], ...records }
    edits[edits.length - 1] = { ...last, changes } as Edit
  }
  return { ...changeLineSchema.parse(head), edits } as Change
}

const text = fc.oneof(fc.string({ maxLength: 40 }), fc.nat(30_000).map((n) => 'é"\n'.repeat(n / 3)))
const record = fc.oneof(
  fc.record({ id: fc.constant('r'), words: text }),
  fc.record({ id: fc.constant('r'), points: fc.nat(4000).map((n) => Array.from({ length: n }, (_, i) => i / 3)), outlines: fc.constant([[0, 1, 2, 3, 4, 5]]) }),
)
const edit: fc.Arbitrary<Edit> = fc.record({
  kind: fc.constant('draw'),
  unit: fc.constantFrom({ kind: 'drawing' as const, id: 'd' }, { kind: 'take' as const, id: 't' }),
  changes: fc.dictionary(fc.constantFrom('marks', 'panels'), fc.dictionary(fc.string({ unit: fc.constantFrom('a', 'b', 'c'), minLength: 1, maxLength: 5 }), fc.record({ before: fc.option(record), after: fc.option(record) }), { maxKeys: 30 }), { maxKeys: 2 }),
})

describe('a change as lines', () => {
  it('is the same change again, of lines that can each be taken', () => {
    fc.assert(
      fc.property(fc.array(edit, { minLength: 1, maxLength: 4 }), (edits) => {
        const change: Change = { id: 'change-id', label: 'a label', edits }
        const lines = [...linesOfChange(change)]
        // What has no records in a collection has not the collection either.
        const bare = edits.map((each) => ({ ...each, changes: Object.fromEntries(Object.entries(each.changes).filter(([, records]) => Object.keys(records).length > 0)) }))
        const again = read(lines)
        expect({ ...again, edits: again.edits.map((each) => ({ ...each, changes: Object.fromEntries(Object.entries(each.changes).filter(([, records]) => Object.keys(records).length > 0)) })) }).toEqual(JSON.parse(JSON.stringify({ ...change, edits: bare })))
        expect(Math.max(...lines.map((line) => new TextEncoder().encode(line).length))).toBeLessThan(LINE_LIMIT_BYTES / 4)
      }),
      { numRuns: 150 },
    )
  })

  it('is one line an edit where that is short, and many where it is long, however it is long', () => {
    const of = (records: Record<string, object>): number => [...linesOfChange({ id: 'change-id', label: 'x', edits: [{ kind: 'x', unit: { kind: 'take', id: 't' }, changes: { panels: Object.fromEntries(Object.entries(records).map(([id, after]) => [id, { before: null, after }])) } }] })].length
    expect(of({ a: { id: 'a', words: 'short' } })).toBe(2)
    expect(of(Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`w${i}`, { id: `w${i}`, words: 'x'.repeat(10_000) }])))).toBeGreaterThan(5)
    expect(of(Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`p${i}`, { id: `p${i}`, points: Array.from({ length: 2000 }, () => 0.12345) }])))).toBeGreaterThan(5)
  })
})
