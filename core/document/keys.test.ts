import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { level, OPTICS } from '../edits/testing'
import { AIR_KEYS, airKeys, cameraKeys, FRAMINGS, KEY_KINDS, keyIn, keyOwners, keysOfLevel, keyTrack, LEVEL_KEYS, levelKeys, levelOwners, placedKeys, valuesSaid, type AnyKeyKind } from './keys'
import { orderOfNumber } from './order'
import { EMPTY_TAKE, UNIT_SCHEMAS, type TakeBody } from './units'

const MOVE = { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }
/** Any number that a hand, a file or a sum may come to. */
const any = fc.oneof(fc.double(), fc.double({ min: -2, max: 2, noNaN: true }), fc.constantFrom(0, -0, 1e6, -1e6, 1e7, 36_000, 36_001, -36_001, 1e-9, 4, 2000, 2001, Infinity, -Infinity, NaN))
const turns = { panDegrees: any, tiltDegrees: any, rollDegrees: any }
const places = { x: any, y: any, depth: any }
const VALUES: Readonly<Record<string, fc.Arbitrary<unknown>>> = {
  framings: fc.record({ ...places, ...turns, focalLengthMm: any }),
  place: fc.record(places),
  turn: fc.record(turns),
  size: any,
  opacity: any,
  haze: fc.record({ density: any, start: any, colour: fc.constantFrom('#000000', '#FFffFF', '#8899aa') }),
  focus: fc.record({ sharp: any, strength: any }),
}
const isFinite = (value: unknown): boolean => (typeof value === 'number' ? Number.isFinite(value) : typeof value === 'string' || Object.values(value as object).every(isFinite))

describe('a value that is kept', () => {
  it('there are kinds for all that can be keyed', () => {
    expect(Object.keys(KEY_KINDS)).toEqual(Object.keys(VALUES))
  })

  it.each(Object.keys(VALUES))('%s: what is held to its range is what the record takes, whatever was asked; what is no number is none', (name) => {
    const kind = KEY_KINDS[name]!
    const owner = { framings: 'a', haze: 'haze', focus: 'focus' }[name] ?? 'boat'
    const schema = UNIT_SCHEMAS.take[kind.collection] as z.ZodType
    fc.assert(
      fc.property(VALUES[name]!, (asked) => {
        const held = kind.held(asked)
        expect(held === null).toBe(!isFinite(asked))
        if (held === null) return
        const record = { id: 'k', panelId: 'p', offsetFrames: 0, move: MOVE, locked: false, ...kind.fieldsOf(owner, held) }
        const parsed = schema.safeParse(record)
        expect(parsed.success, JSON.stringify(parsed.error?.issues)).toBe(true)
        expect(kind.values.equal(kind.valueOf(record), held)).toBe(true)
        expect([kind.isOf(record), kind.ownerOf(record)]).toEqual([true, owner])
        // Held once more it is what it is.
        expect(kind.values.equal(kind.held(held), held)).toBe(true)
      }),
      { numRuns: 400 },
    )
  })

  it.each(Object.keys(VALUES))('%s: mirrored twice it is itself, and each of its numbers is told', (name) => {
    const kind = KEY_KINDS[name]!
    fc.assert(
      fc.property(VALUES[name]!, (asked) => {
        fc.pre(isFinite(asked))
        const value = kind.held(asked)
        expect(kind.values.equal(kind.values.mirrored(kind.values.mirrored(value)), value)).toBe(true)
        for (const field of kind.values.fields) expect(Number.isFinite(field.of(value))).toBe(true)
      }),
    )
  })
})

const key = (id: string, levelId: string, of: string, offsetFrames: number, value: unknown, panelId = 'p1') => ({ id, levelId, of, panelId, offsetFrames, value, move: MOVE, locked: false })
const framing = (id: string, cameraId: string, offsetFrames: number, x: number) => ({ id, cameraId, panelId: 'p1', offsetFrames, pose: { x, y: 0, depth: -1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 }, move: MOVE, locked: false })
const byId = (...records: readonly { readonly id: string }[]) => Object.fromEntries(records.map((record) => [record.id, record]))
const TAKE = {
  ...EMPTY_TAKE,
  panels: byId(...[24, 12].map((lengthFrames, i) => ({ id: `p${i + 1}`, order: orderOfNumber(i + 1), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }))),
  levels: byId(level('boat', 1, 2, { x: 1, scale: 3, opacity: 0.5, rollDegrees: 10 }), level('tilda', 2, 0)),
  cameras: byId({ id: 'a', order: 'a1', letter: 'A', locked: true } as never, { id: 'b', order: 'a2', letter: 'B', locked: false } as never),
  framings: byId(framing('f2', 'a', 20, 2), framing('f1', 'a', 0, 0), framing('g', 'b', 4, 9)),
  levelKeys: byId(key('late', 'boat', 'size', 6, 8, 'p2'), key('early', 'boat', 'size', 6, 2), key('there', 'boat', 'place', 0, { x: 5, y: 0, depth: 0 })),
  air: { haze: { id: 'haze', density: 0.1, start: 2, colour: '#8899aa' } },
} as unknown as TakeBody

describe('the keys of a take', () => {
  it('are each owner’s own, in time, over panels', () => {
    expect(placedKeys(TAKE, cameraKeys('a')).map(({ record, frame }) => [record.id, frame])).toEqual([['f1', 0], ['f2', 20]])
    expect(placedKeys(TAKE, levelKeys('boat', 'size')).map(({ record, frame }) => [record.id, frame])).toEqual([['early', 6], ['late', 30]])
    expect(placedKeys(TAKE, levelKeys('tilda', 'size'))).toEqual([])
    expect(placedKeys(TAKE, cameraKeys('gone'))).toEqual([])
    const { place, turn, size, opacity } = keysOfLevel(TAKE, 'boat')
    expect([place, turn, size, opacity].map(({ length }) => length)).toEqual([1, 0, 2, 0])
    // Asked twice it is the same list: worked out once for each frozen collection.
    expect(placedKeys(TAKE, levelKeys('boat', 'size'))).toBe(placedKeys(TAKE, levelKeys('boat', 'size')))
  })

  it('follow their panels: with other panels they are placed anew', () => {
    const longer = { ...TAKE, panels: { ...TAKE.panels, p1: { ...TAKE.panels.p1!, lengthFrames: 48 } } } as TakeBody
    expect(placedKeys(longer, levelKeys('boat', 'size')).map(({ frame }) => frame)).toEqual([6, 54])
    expect(placedKeys(TAKE, levelKeys('boat', 'size')).map(({ frame }) => frame)).toEqual([6, 30])
  })

  it('are found by their id, with the kind that each is of', () => {
    expect(['f2', 'late', 'there'].map((id) => keyIn(TAKE, id)!.kind)).toEqual([FRAMINGS, LEVEL_KEYS.size, LEVEL_KEYS.place])
    for (const id of ['gone', 'constructor', '__proto__']) expect(keyIn(TAKE, id)).toBeNull()
  })

  it('can be had by every camera, each value of every level, and what air there is', () => {
    const owners = keyOwners(TAKE).map(({ kind, id }) => `${Object.keys(KEY_KINDS).find((name) => KEY_KINDS[name] === kind)} ${id}`)
    expect(owners).toEqual(['framings a', 'framings b', 'place boat', 'place tilda', 'turn boat', 'turn tilda', 'size boat', 'size tilda', 'opacity boat', 'opacity tilda', 'haze haze'])
    expect(levelOwners('boat')).toHaveLength(4)
  })

  it('are made a track of, by the kind’s own mix: size goes by ratios', () => {
    const track = keyTrack(TAKE, levelKeys('boat', 'size'), OPTICS)
    expect([0, 6, 18, 30, 99].map((frame) => track.at(frame))).toEqual([2, 2, expect.closeTo(4, 9), 8, 8])
    expect(keyTrack(TAKE, cameraKeys('a'), OPTICS).at(10)).toMatchObject({ x: 1 })
    expect(keyTrack(TAKE, levelKeys('tilda', 'turn'), OPTICS).at(3)).toBeNull()
  })

  it('where there is none, a value is what the record says; of what is not there it is nothing', () => {
    expect(valuesSaid(TAKE.levels.boat!)).toEqual({ place: { x: 1, y: 0, depth: 2 }, turn: { panDegrees: 0, tiltDegrees: 0, rollDegrees: 10 }, size: 3, opacity: 0.5 })
    const rest = (kind: AnyKeyKind, id: string) => kind.rest(TAKE, id, OPTICS)
    expect(rest(LEVEL_KEYS.opacity, 'boat')).toBe(0.5)
    expect(rest(AIR_KEYS.haze, 'haze')).toEqual({ density: 0.1, start: 2, colour: '#8899aa' })
    expect([rest(LEVEL_KEYS.size, 'constructor'), rest(AIR_KEYS.focus, 'focus'), rest(AIR_KEYS.haze, 'focus')]).toEqual([null, null, null])
    expect(FRAMINGS.ownerIn(TAKE, 'a')).toMatchObject({ locked: true })
    expect([LEVEL_KEYS.size.ownerIn(TAKE, '__proto__'), airKeys('focus').kind.ownerIn(TAKE, 'focus')]).toEqual([null, null])
  })
})
