import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareOrdered, isOrderKey, orderKeys, orderOfNumber, roomAt, type Ordered } from './index'

const sorted = (list: readonly Ordered[]) => [...list].sort(compareOrdered)
const ids = (list: readonly Ordered[]) => sorted(list).map((each) => each.id)

/** The list with records put at a place, those that had to make room moved. */
function put(list: readonly Ordered[], index: number, names: readonly string[]): Ordered[] {
  const { orders, moved } = roomAt(list, index, names.length)
  const now = new Map(moved.map((each) => [each.id, each]))
  return sorted([...list.map((each) => now.get(each.id) ?? each), ...names.map((id, i) => ({ id, order: orders[i]! }))])
}

describe('order', () => {
  it('puts records anywhere among others, however often: after 2,000 steps at one place all stand as they were put', () => {
    let list: Ordered[] = [{ id: 'first', order: 'a0' }, { id: 'last', order: 'a1' }]
    const expected = ['first', 'last']
    for (let i = 0; i < 2000; i++) {
      list = put(list, 1, [`n${i}`])
      expected.splice(1, 0, `n${i}`)
    }
    expect(ids(list)).toEqual(expected)
    expect(Math.max(...list.map((each) => each.order.length))).toBeLessThan(60)
  })

  it('lets two swap back and forth for ever', () => {
    let list: Ordered[] = orderKeys(3).map((order, i) => ({ id: `${i}`, order }))
    for (let i = 0; i < 500; i++) {
      const rest = list.filter((each) => each.id !== '1')
      list = put(rest, i % 2 === 0 ? 2 : 1, ['1'])
    }
    expect(ids(list)).toEqual(['0', '1', '2'])
    expect(Math.max(...list.map((each) => each.order.length))).toBeLessThan(10)
  })

  it('puts a third between two that stand at one key, as two people may leave them', () => {
    const list: Ordered[] = [{ id: 'a', order: 'a1' }, { id: 'b', order: 'a2' }, { id: 'c', order: 'a2' }, { id: 'd', order: 'a2' }, { id: 'e', order: 'a3' }]
    expect(ids(put(list, 2, ['new']))).toEqual(['a', 'b', 'new', 'c', 'd', 'e'])
    expect(ids(put(list, 4, ['new']))).toEqual(['a', 'b', 'c', 'd', 'new', 'e'])
    expect(roomAt(list, 1, 1).moved).toEqual([])
  })

  it('holds for any list and place', () => {
    const key = fc.double({ min: -1000, max: 1000, noNaN: true }).map(orderOfNumber)
    fc.assert(
      fc.property(fc.array(fc.oneof(key, fc.constant('a1')), { maxLength: 12 }), fc.nat(), fc.integer({ min: 1, max: 5 }), (keys, at, count) => {
        const list = sorted(keys.map((order, i) => ({ id: `k${i}`, order })))
        const index = at % (list.length + 1)
        const names = Array.from({ length: count }, (_, i) => `new${i}`)
        const expected = list.map((each) => each.id)
        expected.splice(index, 0, ...names)
        const after = put(list, index, names)
        expect(ids(after)).toEqual(expected)
        expect(after.every((each) => isOrderKey(each.order))).toBe(true)
      }),
    )
  })

  it('keeps numbers of earlier formats as keys that stand alike', () => {
    expect([0, 1, 61, 62, -1, -62, -63, 0.5].map(orderOfNumber)).toEqual(['a0', 'a1', 'az', 'b00', 'Zz', 'Z0', 'Yzz', 'a0V'])
    const number = fc.oneof(fc.double({ min: -1e6, max: 1e6, noNaN: true }), fc.integer({ min: -1e9, max: 1e9 }))
    fc.assert(
      fc.property(number, number, (a, b) => {
        const [x, y] = [orderOfNumber(a), orderOfNumber(b)]
        expect([isOrderKey(x), isOrderKey(y)]).toEqual([true, true])
        // Below a whole number a double ends at 2^-53.
        if (Math.abs(a - b) > 1e-15) expect(x < y).toBe(a < b)
      }),
    )
  })

  it('tells keys from other words', () => {
    expect(['a0', 'b00', 'a0V', 'Zz'].every(isOrderKey)).toBe(true)
    expect(['', 'a', '1', 'a0V0', 'b0', 'ab-', 'A00000000000000000000000000'].some(isOrderKey)).toBe(false)
  })
})
