import { describe, expect, it } from 'vitest'
import { orderOfNumber, type Drawing, type Mark } from '@rubato/core/document'
import { unitBytes } from '../viewport/unitBytes'
import { createArtSender, type DrawingMessage } from './artSender'

const stroke = (id: string, points = 1000): Mark => ({ id, order: orderOfNumber(1), kind: 'stroke', mode: 'ink', points: new Array<number>(points).fill(0.1), widthFw: 0.01, colour: '#27241e', opacity: 1 })
const drawing = (...marks: readonly Mark[]): Drawing => ({ marks })

describe('what a painting worker is told of drawings', () => {
  function told() {
    const messages: DrawingMessage[] = []
    const sender = createArtSender((message) => messages.push(message))
    return { messages, sender, kinds: () => messages.map((message) => (message.kind === 'forget' ? `forget ${message.ids.join()}` : `${message.kind} ${message.id}`)) }
  }

  it('is each drawing once, and of a changed one only what changed', () => {
    const { messages, sender, kinds } = told()
    const [a, b] = [stroke('a'), stroke('b')]
    sender.send('d', drawing(a))
    const now = drawing(a, b)
    sender.send('d', now)
    sender.send('d', now)
    expect(kinds()).toEqual(['drawing d', 'drawing-change d'])
    expect(messages[1]).toMatchObject({ dropped: [], put: [b] })
  })

  it('is to forget those wanted longest ago, when they take more than they may; they are sent whole again', () => {
    const { sender, kinds } = told()
    const each = drawing(stroke('a'))
    const copies = ['one', 'two', 'three'].map((id) => [id, { ...each }] as const)
    for (const [id, copy] of copies) sender.send(id, copy)
    sender.send(...copies[0]!)
    sender.keepWithin(3 * unitBytes(each), 0)
    expect(kinds().slice(3)).toEqual([])
    sender.keepWithin(2 * unitBytes(each), 0)
    expect(kinds().slice(3)).toEqual(['forget two'])
    sender.send(...copies[1]!)
    expect(kinds().at(-1)).toBe('drawing two')
    sender.keepWithin(0, 2)
    expect(kinds().at(-1)).toBe('forget three')
    sender.keepWithin(0, 0)
    expect(kinds().at(-1)).toBe('forget one,two')
  })

  it('counts a changed drawing as it is now, and nothing after a new beginning', () => {
    const { sender, kinds } = told()
    const small = drawing(stroke('a', 10))
    sender.send('d', drawing(...small.marks, stroke('b')))
    sender.send('d', small)
    sender.send('e', small)
    sender.keepWithin(2 * unitBytes(small), 0)
    expect(kinds().at(-1)).toBe('drawing e')
    sender.reset()
    sender.send('f', small)
    sender.keepWithin(unitBytes(small), 0)
    expect(kinds().at(-1)).toBe('drawing f')
  })
})
