import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { factsOf, HANDED_OVER, isByShot, madeOnServer, type FormatFacts, type FormatId } from '#shared/handOver'
import { NO_BURN_IN, renderSchema, UNDRESSED } from '#shared/renders'
import { FORMATS, formatOf, formatsOf, type FilmWords, type Format } from './formats'

const ids = Object.keys(HANDED_OVER) as FormatId[]
const WORDS: FilmWords = {
  title: 'Salt Lantern',
  rate: { numerator: 24, denominator: 1 },
  panels: [{ startFrame: 0, lengthFrames: 48, dialogue: 'OSKAR: Mind the lamp.' }, { startFrame: 48, lengthFrames: 24, dialogue: '' }],
  sequences: [{ sequence: { title: 'Pier', label: '01' }, heading: null, shots: [{ label: '010', panels: [{ action: 'Tilda runs.', dialogue: 'Mind the lamp.' }] }] }],
}
const ask = (format: string) => renderSchema.safeParse({ format, of: { kind: 'film' }, each: 'whole', handles: 0, look: { size: 1, sound: true, burnIn: NO_BURN_IN, dress: UNDRESSED, standIns: false, depth: null, clear: false, trim: false }, priority: 0 })

describe('what a film is handed over as', () => {
  it('says of each format the same wherever it is read, by a name and an extension of its own', () => {
    expect(Object.keys(FORMATS)).toEqual(ids)
    for (const id of ids) expect(formatOf(id)).toMatchObject(factsOf(id))
    expect(new Set(ids.map((id) => HANDED_OVER[id].label)).size).toBe(ids.length)
    for (const id of ids) expect(HANDED_OVER[id].extension).toMatch(/^[a-z\d.]{2,8}$/)
  })

  it('is listed once, under what it is made of', () => {
    const needs = [...new Set(ids.map((id) => factsOf(id).needs))]
    expect(needs.flatMap((each) => formatsOf(each).map(({ id }) => id)).sort()).toEqual([...ids].sort())
    for (const each of needs) expect(formatsOf(each).every(({ format }) => format.needs === each)).toBe(true)
    expect(formatsOf()).toEqual([])
  })

  it('can be made where it is said to be, and is asked of the server only where a worker can make it', () => {
    for (const { id, format } of formatsOf('frames')) expect(format.taker === null, id).toBe(factsOf(id).made === 'server')
    for (const id of ids) expect(ask(id).success, id).toBe(madeOnServer(id))
    expect(ask('gif').success).toBe(false)
  })

  it('of frames says how it is handed each, how large and how long it is guessed to be', () => {
    for (const { id, format } of formatsOf('frames')) {
      expect(factsOf(id).frame, id).toBeDefined()
      expect(format.guess.bytes).toBeGreaterThan(0)
      expect(format.guess.ms).toBeGreaterThan(0)
    }
  })

  it('is a file a shot where it stands in none but that', () => {
    expect(ids.filter(isByShot)).toEqual(['layers', 'glb', 'camera', 'cameraJson', 'ora', 'oraLevels', 'svg'])
  })

  it('of words is written at once, and says so where nobody speaks', () => {
    for (const { id, format } of formatsOf('words')) {
      const text = format.write(WORDS)
      expect(text, id).toContain('Mind the lamp.')
      expect(format.type).toMatch(/^text\/|^application\//)
      const silent = { ...WORDS, panels: WORDS.panels.map((panel) => ({ ...panel, dialogue: '' })) }
      if (id !== 'fountain') expect(() => format.write(silent)).toThrow('Nothing is said yet: no panel has dialogue.')
    }
  })

  it('is none that is not in the table', () => {
    for (const id of ['gif', '', 'constructor', '__proto__']) expect(() => formatOf(id)).toThrow(`There is no format ${id}.`)
  })
})

/**
 * A format that there is not: what it takes are its facts in `handOver.ts` and how it is made in `formats.ts` (2 files). Dialog, menus,
 * queue and command line go by those.
 */
describe('a made-up format', () => {
  const facts: FormatFacts = { label: 'Words in a row', extension: 'row', needs: 'words', made: 'window' }
  const row = { ...facts, type: 'text/plain', write: ({ panels }: FilmWords) => panels.map(({ dialogue }) => dialogue).join(' / ') } as Format
  beforeAll(() => {
    Object.assign(HANDED_OVER, { row: facts })
    Object.assign(FORMATS, { row })
  })
  afterAll(() => {
    for (const table of [HANDED_OVER, FORMATS]) Reflect.deleteProperty(table, 'row')
  })

  it('is found by its name, listed with those that need the same, and written', () => {
    expect(formatOf('row')).toBe(row)
    const listed = formatsOf('words').find(({ id }) => id === ('row' as FormatId))
    expect(listed?.format.write(WORDS)).toBe('OSKAR: Mind the lamp. / ')
    expect(factsOf('row' as FormatId)).toEqual(facts)
    expect([isByShot('row' as FormatId), madeOnServer('row' as FormatId)]).toEqual([false, false])
  })
})
