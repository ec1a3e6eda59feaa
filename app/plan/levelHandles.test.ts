import { describe, expect, it } from 'vitest'
import { growthFrom, handlesAround, hitLevel, isInside, strays, turnedFrom, type SeenWay } from './levelHandles'

const at = (x: number, y: number) => ({ x, y })
/** Bottom left, bottom right, top right, top left; y goes down. */
const SQUARE = [at(100, 200), at(200, 200), at(200, 100), at(100, 100)] as const
const key = (id: string, x: number, y: number) => ({ id, frame: 0, number: 1, at: at(x, y), locked: false, selected: false, here: false })
const way = (fields: Partial<SeenWay> = {}): SeenWay => ({ line: [], frames: [], keys: [], marks: [], ...fields })

describe('a level’s handles', () => {
  it('stand around its art: the knob over its top edge, away from it however it is turned', () => {
    expect(handlesAround(SQUARE, at(150, 150))).toMatchObject({ top: at(150, 100), knob: at(150, 78) })
    const upsideDown = handlesAround([SQUARE[2], SQUARE[3], SQUARE[0], SQUARE[1]], at(150, 150))
    expect(upsideDown.knob).toEqual(at(150, 222))
    // Seen from the edge there is no up: then over it on the screen.
    const edge = handlesAround([at(100, 100), at(200, 100), at(200, 100), at(100, 100)], at(150, 100))
    expect(edge.knob).toEqual(at(150, 78))
  })

  it('are taken before its art, its keys by their flags, its pivot only when it is meant', () => {
    const handles = handlesAround(SQUARE, at(150, 150))
    const mark = { kind: 'middle', keyId: 'a', at: at(120, 120) } as const
    const seen = way({ keys: [key('k', 150, 160)], marks: [mark] })
    expect(hitLevel(handles, seen, at(150, 80), false)).toEqual({ kind: 'knob' })
    expect(hitLevel(handles, seen, at(203, 98), false)).toEqual({ kind: 'corner' })
    expect(hitLevel(handles, seen, at(150, 153), false)).toEqual({ kind: 'key', id: 'k' })
    // Where the key stands the figure itself is in hand.
    expect(hitLevel(handles, seen, at(150, 160), false)).toEqual({ kind: 'art' })
    expect(hitLevel(handles, seen, at(122, 121), false)).toEqual({ kind: 'mark', mark })
    expect(hitLevel(handles, way(), at(150, 150), false)).toEqual({ kind: 'art' })
    expect(hitLevel(handles, way(), at(150, 150), true)).toEqual({ kind: 'pivot' })
    expect(hitLevel(handles, seen, at(20, 20), true)).toBeNull()
    expect(hitLevel(null, seen, at(150, 150), false)).toEqual({ kind: 'key', id: 'k' })
    expect(hitLevel(null, way(), at(150, 150), true)).toBeNull()
  })

  it('tell what a drag comes to: size by the distance from the pivot, turn by the way round it', () => {
    expect(growthFrom(at(0, 0), at(10, 0), at(0, 25))).toBe(2.5)
    expect(growthFrom(at(0, 0), at(10, 0), at(0, 0))).toBe(0.01)
    // Taken hold of next to the pivot it does not grow without end.
    expect(growthFrom(at(0, 0), at(0, 0), at(8, 0))).toBe(2)
    expect(turnedFrom(at(0, 0), at(0, -10), at(10, 0))).toBeCloseTo(90, 9)
    expect(turnedFrom(at(0, 0), at(-10, 1), at(-10, -1))).toBeCloseTo(11.42, 2)
    expect(turnedFrom(at(0, 0), at(10, 0), at(-10, 1e-9))).toBeCloseTo(180, 3)
  })

  it('know the inside of a shape, and how far a line strays from its chord', () => {
    expect([isInside(SQUARE, at(150, 150)), isInside(SQUARE, at(99, 150)), isInside([], at(0, 0))]).toEqual([true, false, false])
    expect(strays([at(0, 0), at(50, 10), at(100, 0)])).toBeCloseTo(0.1, 9)
    expect([strays([]), strays([at(0, 0)]), strays([at(0, 0), at(0, 0)]), strays([at(0, 0), at(5, 5), at(0, 0)])]).toEqual([0, 0, 0, Infinity])
  })
})
