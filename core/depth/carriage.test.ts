import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { basisOf } from '../camera'
import { carriageOfCamera, carriageOn, facingBasis, into, outOf, SET, turnedInSet, turnNear, turnOf, wayInto, wayOut } from '.'

const round = (value: number) => Number(value.toFixed(6)) + 0
const places = ({ x, y, depth }: { x: number; y: number; depth: number }) => [x, y, depth].map(round)
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const turns = fc.record({ panDegrees: number(-180, 180), tiltDegrees: number(-89, 89), rollDegrees: number(-180, 180) })

describe('what carries a level', () => {
  const carrier = { place: { x: 0.5, y: 0.1, depth: 1 }, size: 2, ...basisOf({ panDegrees: 0, tiltDegrees: 0, rollDegrees: 90 }) }
  it.each([
    ['turn and size', true, true, [0.6, -0.3, 0.8], 1],
    ['turn', true, false, [0.55, -0.1, 0.9], 0.5],
    ['size', false, true, [0.9, 0.2, 0.8], 1],
    ['neither', false, false, [0.7, 0.15, 0.9], 0.5],
  ] as const)('followed in %s gives the worked numbers', (_, turn, size, place, scale) => {
    const carriage = carriageOn(carrier, { turn, size })
    expect(places(outOf(carriage, { x: 0.2, y: 0.05, depth: -0.1 }))).toEqual(place)
    expect(0.5 * carriage.size).toBe(scale)
  })

  it('the camera: it stands along its right, up and forward, whatever the lens', () => {
    const camera = { x: 0.3, y: 0.1, depth: -1, panDegrees: 20, tiltDegrees: -5, rollDegrees: 0, focalLengthMm: 50 }
    const place = outOf(carriageOfCamera(camera), { x: 0.1, y: -0.05, depth: 1.2 })
    expect(places(place)).toEqual([0.801341, -0.054397, 0.085043])
    expect(outOf(carriageOfCamera({ ...camera, focalLengthMm: 20 }), { x: 0.1, y: -0.05, depth: 1.2 })).toEqual(place)
  })

  it('is left the way it was entered, places and ways', () => {
    fc.assert(
      fc.property(turns, number(-5, 5), number(0.1, 8), fc.boolean(), fc.boolean(), fc.record({ x: number(-3, 3), y: number(-3, 3), depth: number(-3, 3) }), (angles, x, size, turn, sized, at) => {
        const carriage = carriageOn({ place: { x, y: 1, depth: -x }, size, ...basisOf(angles) }, { turn, size: sized })
        for (const back of [outOf(carriage, into(carriage, at)), wayOut(carriage, wayInto(carriage, at))]) (['x', 'y', 'depth'] as const).forEach((axis) => expect(back[axis]).toBeCloseTo(at[axis], 9))
      }),
    )
    expect(outOf(SET, carrier.place)).toBe(carrier.place)
  })
})

describe('a basis told as a turn', () => {
  it('makes that basis again, near whatever it was', () => {
    fc.assert(
      fc.property(turns, turns, (angles, near) => {
        const basis = basisOf(angles)
        for (const told of [turnOf(basis), turnNear(basis, { ...near, rollDegrees: near.rollDegrees + 720 })]) {
          const again = basisOf(told)
          for (const way of ['right', 'up', 'forward'] as const) (['x', 'y', 'depth'] as const).forEach((axis) => expect(again[way][axis]).toBeCloseTo(basis[way][axis], 9))
        }
        const same = turnNear(basis, angles)
        expect([same.panDegrees - angles.panDegrees, same.tiltDegrees - angles.tiltDegrees, same.rollDegrees - angles.rollDegrees].every((off) => Math.abs(off) < 1e-6)).toBe(true)
      }),
    )
  })
  it('straight up and down, where pan and roll are one', () => {
    for (const tiltDegrees of [90, -90]) {
      const basis = basisOf({ panDegrees: 30, tiltDegrees, rollDegrees: 20 })
      const again = basisOf(turnOf(basis))
      for (const way of ['right', 'up', 'forward'] as const) expect(places(again[way])).toEqual(places(basis[way]))
    }
  })
})

describe('facing', () => {
  const camera = { x: 0.3, y: 0.4, depth: -1, panDegrees: 12, tiltDegrees: -7, rollDegrees: 25, focalLengthMm: 50 }
  it('upright: only its pan is the camera’s doing; level (1.2, 2), camera (.3, −1): 16.699244°', () => {
    const told = turnOf(facingBasis('upright', camera, { x: 1.2, y: 9, depth: 2 }, { panDegrees: 80, tiltDegrees: 0, rollDegrees: 5 }))
    expect([told.panDegrees, told.tiltDegrees, told.rollDegrees].map(round)).toEqual([16.699244, 0, 5])
  })
  it('to the lens: parallel to the picture, its own roll kept', () => {
    const told = turnOf(facingBasis('lens', camera, { x: 1.2, y: 9, depth: 2 }, { panDegrees: 80, tiltDegrees: 3, rollDegrees: 5 }))
    expect([told.panDegrees, told.tiltDegrees, told.rollDegrees].map(round)).toEqual([12, -7, 5])
  })
})

describe('a level turned in the set', () => {
  it('by a pan, and by a tilt where it has none, is told by that number alone', () => {
    const turn = { panDegrees: 10, tiltDegrees: 5, rollDegrees: 7 }
    expect(turnedInSet(SET, turn, 'y', 30)).toEqual({ ...turn, panDegrees: 40 })
    expect(turnedInSet(SET, { ...turn, panDegrees: 0 }, 'x', -90)).toEqual({ panDegrees: 0, tiltDegrees: -85, rollDegrees: 7 })
    expect(turnedInSet(SET, turn, 'x', 0)).toBe(turn)
  })
  it('is turned about the set’s own axis, whatever carries it and however it was turned', () => {
    const about = { x: basisOf({ panDegrees: 0, tiltDegrees: 25, rollDegrees: 0 }), y: basisOf({ panDegrees: 25, tiltDegrees: 0, rollDegrees: 0 }) }
    fc.assert(
      fc.property(turns, turns, fc.boolean(), fc.constantFrom('x' as const, 'y' as const), (angles, carrier, carried, axis) => {
        const carriage = carried ? carriageOn({ place: { x: 1, y: 0, depth: 0 }, size: 2, ...basisOf(carrier) }, { turn: true, size: true }) : SET
        const out = (basis: ReturnType<typeof basisOf>) => (['right', 'up', 'forward'] as const).map((way) => outOf({ ...carriage, place: { x: 0, y: 0, depth: 0 }, size: 1 }, basis[way]))
        const { right, up, forward } = about[axis]
        const wanted = out(basisOf(angles)).map(({ x, y, depth }) => ({ x: right.x * x + up.x * y + forward.x * depth, y: right.y * x + up.y * y + forward.y * depth, depth: right.depth * x + up.depth * y + forward.depth * depth }))
        for (const [i, way] of out(basisOf(turnedInSet(carriage, angles, axis, 25))).entries()) (['x', 'y', 'depth'] as const).forEach((field) => expect(way[field]).toBeCloseTo(wanted[i]![field], 9))
      }),
    )
  })
})
