import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AIR_MIXES, AIR_VALUES, type FocusValue, type HazeValue } from '../moves'
import { CUSHIONED_MOVE } from '../moves/move'
import { basisOf } from '../camera/projection'
import { levelPlane } from './levelPlane'
import { depthGrey, deviationOf, hazeAt, hazeReaches, pointOnPlane, shadowPlane, SOFTEST_FW, softnessAt } from './index'
import { add, scale, subtract } from '../geometry'
import { carriageOn, outOf, SET } from './carriage'

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const EVEN = { ...CUSHIONED_MOVE, timing: { kind: 'even' as const } }

describe('haze', () => {
  it('hides 1 − e^(−density · way) of a colour past its start, and nothing before', () => {
    expect(hazeAt({ density: 0.5, start: 2 }, 2)).toBe(0)
    expect(hazeAt({ density: 0.5, start: 2 }, 1)).toBe(0)
    expect(hazeAt({ density: 0.5, start: 2 }, 4)).toBeCloseTo(1 - Math.exp(-1), 12)
    expect(hazeAt({ density: Math.LN2, start: 1 }, 2)).toBeCloseTo(0.5, 12)
  })

  it('has hidden a share of it at the distance that it says', () => {
    fc.assert(fc.property(number(0.001, 5), number(0, 10), number(0.01, 0.99), (density, start, share) => void expect(hazeAt({ density, start }, hazeReaches({ density, start }, share))).toBeCloseTo(share, 9)))
    expect(hazeReaches({ density: 0, start: 1 }, 0.5)).toBe(Infinity)
  })

  it('twice as far through it is as much again of what was left', () => {
    fc.assert(
      fc.property(number(0, 2), number(0, 5), number(0, 5), (density, way, more) => {
        const clear = (z: number) => 1 - hazeAt({ density, start: 1 }, z)
        expect(clear(1 + way + more)).toBeCloseTo(clear(1 + way) * clear(1 + more), 9)
      }),
    )
  })
})

describe('soft focus', () => {
  it('is |1/z − 1/sharp| · strength wide, and no wider than its most', () => {
    expect(softnessAt({ sharp: 2, strength: 0.03 }, 2)).toBe(0)
    expect(softnessAt({ sharp: 2, strength: 0.03 }, 1)).toBeCloseTo(0.015, 12)
    expect(softnessAt({ sharp: 2, strength: 0.03 }, 6)).toBeCloseTo(0.01, 12)
    expect(softnessAt({ sharp: 2, strength: 1 }, 0.01)).toBe(SOFTEST_FW)
    // A disc of width w: the second moment of its points along a line is (w/4)².
    let sum = 0
    const n = 400
    let inside = 0
    for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) {
      const [x, y] = [(i + 0.5) / n - 0.5, (j + 0.5) / n - 0.5]
      if (x * x + y * y > 0.25) continue
      inside++
      sum += x * x
    }
    expect(Math.sqrt(sum / inside)).toBeCloseTo(deviationOf(1), 3)
  })

  it('pulled evenly changes every level’s softness evenly', () => {
    fc.assert(
      fc.property(number(0.3, 5), number(0.3, 5), number(0, 1), number(6, 20), (from, to, p, z) => {
        const at = AIR_MIXES.focus({ sharp: from, strength: 0.01 }, { sharp: to, strength: 0.01 }, EVEN, 100, 0)(p * 100)
        const between = (1 - p) * softnessAt({ sharp: from, strength: 0.01 }, z) + p * softnessAt({ sharp: to, strength: 0.01 }, z)
        expect(softnessAt(at, z)).toBeCloseTo(between, 9)
      }),
    )
  })
})

describe('what is keyed of the air', () => {
  const haze: fc.Arbitrary<HazeValue> = fc.record({ density: number(0, 5), start: number(0, 9), colour: fc.constantFrom('#000000', '#ffffff', '#a1b2c3') })
  const focus: fc.Arbitrary<FocusValue> = fc.record({ sharp: number(0.02, 100), strength: number(0, 1) })

  it('begins and ends exactly, and never is what it can’t be, whatever the timing', () => {
    const wild = { ...CUSHIONED_MOVE, timing: { kind: 'custom' as const, x1: 0.2, y1: -3, x2: 0.8, y2: 4 } }
    fc.assert(
      fc.property(haze, haze, focus, focus, fc.integer({ min: 0, max: 24 }), (a, b, c, d, frame) => {
        const [mist, lens] = [AIR_MIXES.haze(a, b, wild, 24, 0), AIR_MIXES.focus(c, d, wild, 24, 0)]
        expect([mist(0), mist(24), lens(0), lens(24)]).toEqual([a, b, c, d])
        expect(mist(frame).density).toBeGreaterThanOrEqual(0)
        expect(mist(frame).colour).toMatch(/^#[0-9a-f]{6}$/)
        expect(lens(frame).sharp).toBeGreaterThan(0)
        expect(Number.isFinite(lens(frame).sharp) && lens(frame).strength >= 0).toBe(true)
      }),
    )
  })

  it('reads its colour as three numbers, whatever the case of its letters', () => {
    expect(AIR_VALUES.haze.fields.map((field) => field.of({ density: 1, start: 2, colour: '#FF0033' }))).toEqual([1, 2, 1, 0, 0.2])
    expect(AIR_VALUES.haze.equal({ density: 1, start: 2, colour: '#FF0033' }, { density: 1, start: 2, colour: '#ff0033' })).toBe(true)
    expect(AIR_MIXES.haze({ density: 0, start: 0, colour: '#000000' }, { density: 2, start: 1, colour: '#ff8000' }, EVEN, 10, 0)(5)).toEqual({ density: 1, start: 0.5, colour: '#804000' })
  })
})

describe('a picture of depth', () => {
  it('is white at its nearest, black at its farthest, and even in parallax between', () => {
    const range = { nearest: 1, farthest: 4 }
    expect([0.2, 1, 4, 90].map((z) => depthGrey(range, z))).toEqual([1, 1, 0, 0])
    // Half way in 1/z: 1/z = (1 + 1/4) / 2.
    expect(depthGrey(range, 1.6)).toBeCloseTo(0.5, 12)
    const shift = (z: number) => 0.1 / z
    fc.assert(fc.property(number(1, 4), number(1, 4), (a, b) => void expect((depthGrey(range, a) - depthGrey(range, b)) * (shift(1) - shift(4))).toBeCloseTo(shift(a) - shift(b), 12)))
  })
})

describe('a shadow', () => {
  const fall = { ground: -0.25, towardsDegrees: 90, length: 0.5 }

  it('lays what stands flat: its foot stays, its head goes as far as it is high, times its length', () => {
    const plane = levelPlane({ x: 0.3, y: 0, depth: 1, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 })
    const flat = shadowPlane(plane, fall)
    const [foot, head] = [pointOnPlane(flat, { x: 0, y: -0.25 }), pointOnPlane(flat, { x: 0, y: 0.35 })]
    for (const [at, wanted] of [[foot, { x: 0.3, y: -0.25, depth: 1 }], [head, { x: 0.6, y: -0.25, depth: 1 }]] as const) {
      expect(at.x).toBeCloseTo(wanted.x, 3)
      expect(Math.abs(at.y - wanted.y)).toBeLessThan(2e-4)
      expect(at.depth).toBeCloseTo(wanted.depth, 3)
    }
    // Away along depth, and towards the lens.
    expect(pointOnPlane(shadowPlane(plane, { ...fall, towardsDegrees: 0 }), { x: 0, y: 0.35 }).depth).toBeCloseTo(1.3, 3)
    expect(pointOnPlane(shadowPlane(plane, { ...fall, towardsDegrees: 180 }), { x: 0, y: 0.35 }).depth).toBeCloseTo(0.7, 3)
  })

  it('takes every point along one light to the ground, however the level is turned; what is on the ground stays', () => {
    const turned = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(-1, 1), scale: number(0.1, 3), panDegrees: number(-180, 180), tiltDegrees: number(-90, 90), rollDegrees: number(-180, 180) })
    fc.assert(
      fc.property(turned, number(-1, 1), number(-180, 180), number(0, 3), number(-1, 1), number(-1, 1), (level, ground, towardsDegrees, length, x, y) => {
        const plane = levelPlane(level)
        const at = pointOnPlane(plane, { x, y })
        const way = subtract(pointOnPlane(shadowPlane(plane, { ground, towardsDegrees, length }), { x, y }), at)
        const high = at.y - ground
        const angle = (towardsDegrees * Math.PI) / 180
        expect(way.x).toBeCloseTo(high * length * Math.sin(angle), 3)
        expect(way.depth).toBeCloseTo(high * length * Math.cos(angle), 3)
        expect(way.y).toBeCloseTo(-high, 3)
      }),
    )
  })

  it('of a piece falls on the ground of its set, wherever that stands', () => {
    const stand = { place: { x: 2, y: 1, depth: -1 }, ...basisOf({ panDegrees: 30, tiltDegrees: 10, rollDegrees: 5 }), size: 1.5 }
    const base = carriageOn(stand, { turn: true, size: true })
    const level = { x: 0.2, y: 0.1, depth: 0.4, scale: 1, panDegrees: 20, tiltDegrees: 0, rollDegrees: 0 }
    const inSet = shadowPlane(levelPlane(level), fall)
    const plane = levelPlane(level)
    const placed = { origin: outOf(base, plane.origin), axisX: subtract(outOf(base, add(plane.origin, plane.axisX)), outOf(base, plane.origin)), axisY: subtract(outOf(base, add(plane.origin, plane.axisY)), outOf(base, plane.origin)) }
    const shown = shadowPlane(placed, fall, base)
    for (const art of [{ x: 0, y: 0 }, { x: 0.5, y: 0.2 }, { x: -0.1, y: 0.7 }]) {
      const [a, b] = [pointOnPlane(shown, art), outOf(base, pointOnPlane(inSet, art))]
      expect(Math.hypot(a.x - b.x, a.y - b.y, a.depth - b.depth)).toBeLessThan(1e-9)
    }
    expect(shadowPlane(plane, fall, SET)).toEqual(inSet)
    expect(scale(inSet.axisX, 1).y).toBeCloseTo(0, 12)
  })
})
