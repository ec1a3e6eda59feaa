import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { level } from '../edits/testing'
import { carriedBy, carrierOf, CARRIERS_DEEP, carriersFirst, carriersOf, withCarrierNamed } from './carriers'
import { labelBetween } from './labels'
import { orderOfNumber } from './order'
import type { CameraSpan, Level } from './records'
import { hangingSpan, placedSpans, spansOn, spanWeight, targetHangs, targetOf } from './spans'
import { EMPTY_TAKE, type TakeBody } from './units'

const on = (levelId: string, turn = true) => ({ carrier: { kind: 'level' as const, levelId, turn, size: true } })
const CAMERA = { carrier: { kind: 'camera' as const } }
const levelsOf = (...levels: readonly Level[]) => ({ levels: Object.fromEntries(levels.map((each) => [each.id, each])) })
const chain = (count: number) => levelsOf(...Array.from({ length: count }, (_, i) => level(`c${i}`, i + 1, 0, i === 0 ? {} : on(`c${i - 1}`))))

describe('what a level hangs on', () => {
  it('is told nearest first, as far as it goes', () => {
    const take = chain(4)
    expect(carriersOf(take, take.levels.c3!).chain.map(({ id }) => id)).toEqual(['c2', 'c1', 'c0'])
    expect(carriersOf(take, take.levels.c0!)).toEqual({ chain: [], problem: null })
    expect(carriedBy(take, 'c1').map(({ id }) => id)).toEqual(['c2'])
  })

  it('is nothing where it can’t hold: gone, a circle, too deep', () => {
    const gone = levelsOf(level('a', 1, 0, on('b')))
    expect([carriersOf(gone, gone.levels.a!).problem, carrierOf(gone, gone.levels.a!)]).toEqual(['missing-carrier', null])
    const circle = levelsOf(level('a', 1, 0, on('b')), level('b', 2, 0, on('a')), level('c', 3, 0, on('b')))
    for (const id of ['a', 'b', 'c']) expect([carriersOf(circle, circle.levels[id]!).problem, carrierOf(circle, circle.levels[id]!)]).toEqual(['carrier-circle', null])
    const deep = chain(CARRIERS_DEEP + 2)
    expect(carriersOf(deep, deep.levels[`c${CARRIERS_DEEP}`]!).problem).toBeNull()
    expect(carriersOf(deep, deep.levels[`c${CARRIERS_DEEP + 1}`]!).problem).toBe('carriers-too-deep')
    // A camera holds always.
    const held = levelsOf(level('a', 1, 0, CAMERA))
    expect(carrierOf(held, held.levels.a!)).toEqual({ kind: 'camera' })
  })

  it('comes before it in a list that is put so, each once, whatever the order and the circles', () => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.nat(9), { nil: null }), { minLength: 1, maxLength: 10 }), fc.infiniteStream(fc.nat()), (carriers, chance) => {
        const all = carriers.map((carrier, i) => level(`l${i}`, i + 1, 0, carrier === null ? {} : on(`l${carrier}`)))
        const take = levelsOf(...all)
        const asked = all.toSorted(() => (chance.next().value! % 3) - 1)
        const listed = carriersFirst(take, asked)
        expect(new Set(listed).size).toBe(listed.length)
        expect(asked.every((each) => listed.includes(each))).toBe(true)
        for (const each of all) {
          const carrier = carrierOf(take, each)
          if (carrier?.kind === 'level' && listed.includes(each)) expect(listed.indexOf(take.levels[carrier.levelId]!)).toBeLessThan(listed.indexOf(each))
        }
      }),
      { numRuns: 200 },
    )
  })

  it('can be called otherwise; and a level is left out whose carrier is not there', () => {
    const [free, held, carried] = [level('a', 1, 0), level('b', 2, 0, CAMERA), level('c', 3, 0, on('a'))]
    const renamed = (each: Level) => withCarrierNamed(each, (id) => ({ a: 'x' })[id])
    expect([renamed(free), renamed(held)]).toEqual([free, held])
    expect(renamed(carried)!.carrier).toMatchObject({ levelId: 'x', turn: true })
    expect(withCarrierNamed(carried, () => undefined)).toBeNull()
    // The same name is the same level.
    expect(withCarrierNamed(carried, (id) => id)).toBe(carried)
  })
})

describe('what a camera can go after', () => {
  const hangs = (take: Pick<TakeBody, 'levels'>, levelId: string, at?: { readonly x: number; readonly y: number }) => targetHangs(take, { levelId, place: { u: 0, v: 0 }, ...(at === undefined ? {} : { at }) } as never)
  it('stands in the set: not on a camera, however far down', () => {
    const take = levelsOf(level('a', 1, 0), level('b', 2, 0, on('a')), level('c', 3, 0, CAMERA), level('d', 4, 0, on('c', false)), level('e', 5, 0, on('d', false)))
    expect(['a', 'b', 'c', 'd', 'e'].map((id) => hangs(take, id))).toEqual([false, false, true, true, true])
    // One that is gone hangs on nothing.
    expect([hangs(take, 'gone'), hangs(take, 'constructor')]).toEqual([false, false])
  })

  it('does not turn to it: what turns to the lens can be gone after by where it stands, not by a point of it', () => {
    const take = levelsOf(level('sign', 1, 0, { facing: 'lens', pivot: { x: 0.1, y: 0 } }), level('fly', 2, 0, on('sign')), level('moth', 3, 0, on('sign', false)))
    expect(hangs(take, 'sign')).toBe(false)
    expect(hangs(take, 'sign', { x: 0.1, y: 0 })).toBe(false)
    expect(hangs(take, 'sign', { x: 0.2, y: 0 })).toBe(true)
    // What turns along with it goes round it; what does not stays by its place.
    expect([hangs(take, 'fly'), hangs(take, 'moth')]).toEqual([true, false])
  })
})

describe('spans of a camera', () => {
  const panels = Object.fromEntries([24, 12].map((lengthFrames, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i + 1), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
  const span = (id: string, panel: number, offsetFrames: number, fields: object = {}) => ({ id, kind: 'aim', cameraId: 'a', panelId: `p${panel}`, offsetFrames, inFrames: 4, outFrames: 2, target: { levelId: 'boat' }, ...fields }) as unknown as CameraSpan
  const end = (id: string, panel: number, offsetFrames: number, fields: object = {}) => ({ id, spanId: id, panelId: `p${panel}`, offsetFrames, ...fields })
  const takeOf = (spans: readonly CameraSpan[], ends: readonly { readonly id: string }[]) => ({ ...EMPTY_TAKE, panels, spans: Object.fromEntries(spans.map((each) => [each.id, each])), spanEnds: Object.fromEntries(ends.map((each) => [each.id, each])) }) as unknown as TakeBody

  it('stand at frames of the shot, each camera’s own, by their first', () => {
    const take = takeOf([span('late', 1, 2), span('early', 0, 3), span('other', 0, 0, { cameraId: 'b' })], [end('early', 1, 0)])
    expect(placedSpans(take, 'a').map(({ span: { id }, first, last, open }) => [id, first, last, open])).toEqual([['early', 3, 24, false], ['late', 26, 35, true]])
    expect(placedSpans(take).map(({ span: { id } }) => id)).toEqual(['other', 'early', 'late'])
    expect(placedSpans(take, 'c')).toEqual([])
  })

  it('end with the shot where their end would come before them', () => {
    const [placed] = placedSpans(takeOf([span('s', 1, 4)], [end('s', 0, 3)]))
    expect(placed).toMatchObject({ first: 28, last: 35, open: true, wholeLast: Infinity })
  })

  it('are seen as much as their cushions say: none at their whole ends, all in between, evenly up and down', () => {
    const [placed] = placedSpans(takeOf([span('s', 0, 2)], [end('s', 0, 20)]))
    const weight = (frame: number) => spanWeight(placed!, frame)
    expect([2, 4, 6, 18, 19, 20].map(weight)).toEqual([0, 0.5, 1, 1, 0.5, 0])
    expect(weight(3)).toBe(0.125)
    expect([1, 21].map(weight)).toEqual([0, 0])
    for (let frame = 2; frame < 6; frame += 0.25) expect(weight(frame)).toBeLessThan(weight(frame + 0.25) + 1e-12)
  })

  it('that were cut go on as they went: their cushions are counted from where they whole began and end', () => {
    const whole = placedSpans(takeOf([span('s', 0, 2)], [end('s', 0, 20)]))[0]!
    const [cut] = placedSpans(takeOf([span('s', 0, 4, { begun: { frames: 2 } })], [end('s', 0, 16, { beyondFrames: 4 })]))
    expect(cut).toMatchObject({ first: 4, last: 16, wholeFirst: 2, wholeLast: 20 })
    for (let frame = 4; frame <= 16; frame++) expect(spanWeight(cut!, frame)).toBe(spanWeight(whole, frame))
  })

  it('shorter than both cushions share them', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 20 }), fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 40 }), (length, inFrames, outFrames) => {
        const [placed] = placedSpans(takeOf([span('s', 0, 0, { inFrames, outFrames })], [end('s', 0, length)]))
        const weights = Array.from({ length: length * 4 + 1 }, (_, i) => spanWeight(placed!, i / 4))
        expect(weights.every((weight) => weight >= 0 && weight <= 1)).toBe(true)
        const top = weights.indexOf(Math.max(...weights))
        // Up to its height and down from there, without a step back.
        expect(weights.every((weight, i) => i === 0 || (i <= top ? weight >= weights[i - 1]! - 1e-12 : true))).toBe(true)
        expect(weights.every((weight, i) => i === 0 || (i > weights.lastIndexOf(weights[top]!) ? weight <= weights[i - 1]! + 1e-12 : true))).toBe(true)
      }),
    )
  })

  it('are found by what they go after; held by hand after nothing', () => {
    const take = { ...takeOf([span('s', 0, 0), span('h', 0, 0, { kind: 'hand', target: undefined })], []), ...levelsOf(level('boat', 1, 0)) }
    expect(spansOn(take, 'boat').map(({ id }) => id)).toEqual(['s'])
    expect(targetOf(take.spans.h!)).toBeNull()
    expect(hangingSpan(take)).toBeNull()
    expect(hangingSpan({ ...take, ...levelsOf(level('boat', 1, 0, CAMERA)) })?.id).toBe('s')
  })
})

describe('a label between two', () => {
  it('is a ten at the end, the middle between neighbours, and a letter where no number is left', () => {
    const none = new Set<string>()
    expect([labelBetween(null, null, none), labelBetween('030', null, none), labelBetween('034', null, none)]).toEqual(['010', '040', '040'])
    expect([labelBetween('010', '020', none), labelBetween(null, '010', none), labelBetween('010', '012', none)]).toEqual(['015', '005', '011'])
    expect(labelBetween('010', '011', none)).toBe('010A')
    expect(labelBetween('010', '011', new Set(['010A', '010B']))).toBe('010C')
    expect(labelBetween('Pier', 'Quay', none)).toBe('010')
  })

  it('is never one that is taken, however many are, and stands between its neighbours where numbers are left', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 1, max: 30 }), fc.uniqueArray(fc.integer({ min: 0, max: 80 }), { maxLength: 60 }), fc.boolean(), (low, gap, numbers, atEnd) => {
        const pad = (value: number) => String(value).padStart(3, '0')
        const taken = new Set(numbers.map(pad))
        const label = labelBetween(pad(low), atEnd ? null : pad(low + gap), taken)
        expect(taken.has(label)).toBe(false)
        if (!atEnd && /^\d+$/.test(label)) expect(Number(label) > low && Number(label) < low + gap).toBe(true)
        if (!atEnd && !/^\d+$/.test(label)) for (let value = low + 1; value < low + gap; value++) expect(taken.has(pad(value))).toBe(true)
      }),
      { numRuns: 300 },
    )
  })
})
