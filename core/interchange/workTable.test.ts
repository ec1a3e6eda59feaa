import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readTable, writeTable, type TableOf } from './index'

const STATES = { 'to do': null, 'in work': 'work', done: 'done' } as const
const row = (id: string, label: string, now: Partial<TableOf['rows'][number]['now']> = {}): TableOf['rows'][number] => ({ id, label, now: { state: null, who: '', days: null, notes: '', own: {}, ...now } })
const of = (rows: TableOf['rows'], columns: TableOf['columns'] = [{ id: 'c1', name: 'Palette' }]): TableOf => ({ rows, columns, others: ['Kind', 'Made to, px'], stateOf: (words) => (words === '' ? null : Object.hasOwn(STATES, words.toLowerCase()) ? STATES[words.toLowerCase() as 'done'] : undefined) })
const taken = (text: string, what: TableOf, fresh?: ReadonlyMap<string, string>) => {
  const read = readTable(text, what, fresh)
  if (!read.ok) throw new Error(read.code)
  return read
}

describe('a breakdown as a table', () => {
  const sky = row('level.s1.sky', 'Sky (010)', { who: 'Ines' })
  const walk = row('set.walk', 'The walk', { state: 'work', days: 2, own: { c1: 'tar' } })

  it('says what would change, matched by label whatever the order of rows and columns', () => {
    const read = taken('Kind,Days,label,State,Palette,Who\r\nset,"2,5",the WALK,done,,Jonas\r\nbackground,,Sky (010),To do,pale,Ines\r\n', of([sky, walk]))
    expect(read.changes.map(({ id, fields }) => [id, fields])).toEqual([
      ['set.walk', { days: 2.5, state: 'done', who: 'Jonas', own: { c1: '' } }],
      ['level.s1.sky', { own: { c1: 'pale' } }],
    ])
    expect(read.changes[0]!.told).toContainEqual({ column: 'Palette', before: 'tar', after: '' })
    expect([read.bad, read.fresh, read.rows]).toEqual([[], [], 2])
  })

  it('names bad rows and cells by their line and takes the rest', () => {
    const read = taken('Label,State,Days,Who\nThe walk,perhaps,soon,Jonas\nNobody,done,1,\n,done,1,\nthe walk,done,1,\nSky (010),done,-1,\n', of([sky, walk]))
    expect(read.bad).toEqual([
      { row: 2, code: 'bad-state', found: 'perhaps' },
      { row: 2, code: 'bad-days', found: 'soon' },
      { row: 3, code: 'unknown', found: 'Nobody' },
      { row: 4, code: 'no-label', found: '' },
      { row: 5, code: 'twice', found: 'the walk' },
      { row: 6, code: 'bad-days', found: '-1' },
    ])
    expect(read.changes.map(({ id, fields }) => [id, fields])).toEqual([['set.walk', { who: 'Jonas' }], ['level.s1.sky', { state: 'done', who: null }]])
    expect(readTable('State,Who\ndone,Ines\n', of([sky]))).toEqual({ ok: false, code: 'no-label-column', found: 'State, Who' })
    expect(readTable('Label,Who\n\n', of([sky]))).toMatchObject({ ok: false, code: 'empty' })
    expect(taken(`Label,Who\nSky (010),${'x'.repeat(100)}\n`, of([sky])).bad).toMatchObject([{ row: 2, code: 'too-long' }])
  })

  it('offers columns that are not known, and takes them where they are wanted', () => {
    const text = 'Label,Brush\nSky (010),wide\n'
    expect(taken(text, of([sky]))).toMatchObject({ changes: [], fresh: ['Brush'] })
    expect(taken(text, of([sky]), new Map([['Brush', 'c9']])).changes).toMatchObject([{ fields: { own: { c9: 'wide' } } }])
  })

  it('out and in again changes nothing, whatever is said', () => {
    const text = fc.string({ unit: 'grapheme', maxLength: 60 }).map((each) => each.replace(/[\0\r]/g, '').trim())
    const days = fc.option(fc.integer({ min: 0, max: 9999 }).map((each) => each / 4))
    fc.assert(
      fc.property(fc.array(fc.record({ who: text, notes: text, days, own: text, state: fc.constantFrom(null, 'work', 'done') }), { minLength: 1, maxLength: 6 }), (all) => {
        const rows = all.map(({ who, notes, days: each, own, state }, i) => row(`r${i}`, `Row ${i}`, { who, notes, days: each, state: state as 'work' | null, own: own === '' ? {} : { c1: own } }))
        const words = { null: '', work: 'in work', done: 'done' } as const
        const table = writeTable(['Label', 'State', 'Who', 'Days', 'Notes', 'Palette'], rows.map(({ label, now }) => [label, words[String(now.state) as 'work'], now.who, now.days ?? '', now.notes, now.own.c1 ?? '']))
        const read = taken(table, of(rows))
        expect([read.changes, read.bad]).toEqual([[], []])
      }),
      { numRuns: 200 },
    )
  })
})
