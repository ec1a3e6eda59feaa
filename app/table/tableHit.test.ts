import { describe, expect, it } from 'vitest'
import type { PathMark } from '~/plan/pathMarks'
import { extentOf, hitTable, knobOf, outlineOf, type TableBead, type TableHold } from './tableHit'
import type { TableFrame } from './tableScale'

const frame = (x: number, y: number, w: number, h: number): TableFrame => ({ corners: [{ x: x + w, y: y + h }, { x, y: y + h }, { x, y }, { x: x + w, y }], centre: { x: x + w / 2, y: y + h / 2 }, top: { x: x + w / 2, y } }) as unknown as TableFrame
const bead = (id: string, at: TableFrame): TableBead => ({ id, number: 1, colour: 'blue', selected: false, locked: false, frame: at, tag: at.corners[3]! })
const [one, two, live] = [frame(0, 0, 100, 50), frame(200, 0, 100, 50), frame(50, 20, 200, 100)]
const middle: PathMark = { kind: 'middle', keyId: 'a', at: { x: 150, y: 25 } }
const hold = (fields: Partial<TableHold> = {}): TableHold => ({ grips: [], marks: [middle], frames: [bead('a', one), bead('b', two)], live, liveId: null, ...fields })

describe('what is under the pointer on Table', () => {
  it('is a knob or a corner before all else, where there is one', () => {
    const grips = [{ id: 'a', frame: one }]
    expect(knobOf(one)).toEqual({ x: 50, y: -18 })
    expect(hitTable(hold({ grips }), { x: 52, y: -20 })).toMatchObject({ kind: 'knob', id: 'a' })
    expect(hitTable(hold({ grips }), { x: 3, y: -2 })).toMatchObject({ kind: 'corner', id: 'a' })
    expect(hitTable(hold(), { x: 52, y: -20 })).toBeNull()
  })

  it('is a mark of the path before an outline, the nearest outline, or the live frame all over', () => {
    expect(hitTable(hold(), { x: 152, y: 27 })).toEqual({ kind: 'mark', index: 0 })
    expect(hitTable(hold(), { x: 203, y: 40 })).toMatchObject({ kind: 'frame', id: 'b' })
    expect(hitTable(hold(), { x: 160, y: 90 })).toMatchObject({ kind: 'frame', id: null })
    expect(hitTable(hold({ live: null }), { x: 160, y: 90 })).toBeNull()
    // The framing that the live frame stands for is taken as the live one.
    expect(hitTable(hold({ liveId: 'b' }), { x: 203, y: 40 })).toMatchObject({ kind: 'frame', id: null })
    // By its number too.
    expect(hitTable(hold(), { x: 310, y: -8 })).toMatchObject({ kind: 'frame', id: 'b' })
  })

  it('tells how much room frames take together', () => {
    expect(extentOf([...one.corners, ...two.corners], 100)).toEqual({ width: 3, height: 0.5 })
    expect(extentOf([], 100)).toBeNull()
    expect(outlineOf(one)).toBe('M100.0 50.0L0.0 50.0L0.0 0.0L100.0 0.0Z')
  })
})
