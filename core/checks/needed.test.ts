import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, unproject } from '../camera'
import { levelPlane } from '../depth/levelPlane'
import type { Point2 } from '../geometry'
import { keyFraming } from '../edits'
import { done, level, OPTICS, REST, T } from '../edits/testing'
import { createTakeStage } from '../stage'
import { takeOf, travelling } from './testing'
import { FARTHEST_Z, frameOnPlane, neededOf, needsOfTake, sizePx, takeForDrawings, type DrawingHint } from '.'

const rounded = (points: readonly Point2[]) => points.map(({ x, y }) => [x, y].map((value) => Math.round(value * 1e6) / 1e6))
const inside = (rings: readonly (readonly number[])[], { x, y }: Point2) => {
  let isIn = false
  for (const ring of rings) {
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
      if (ring[i + 1]! > y !== ring[j + 1]! > y && x < ((ring[j]! - ring[i]!) * (y - ring[i + 1]!)) / (ring[j + 1]! - ring[i + 1]!) + ring[i]!) isIn = !isIn
    }
  }
  return isIn
}
/** How far a point is from the nearest edge. */
const beside = (rings: readonly (readonly number[])[], { x, y }: Point2) =>
  Math.min(
    ...rings.flatMap((ring) =>
      Array.from({ length: ring.length / 2 }, (_, n) => {
        const [i, j] = [n * 2, (n * 2 + 2) % ring.length]
        const [ax, ay, bx, by] = [ring[i]!, ring[i + 1]!, ring[j]!, ring[j + 1]!]
        const along = Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)))
        return Math.hypot(x - ax - (bx - ax) * along, y - ay - (by - ay) * along)
      }),
    ),
  )
const areaOf = (rings: readonly (readonly number[])[]) => rings.reduce((sum, ring) => sum + ring.reduce((own, x, i) => (i % 2 === 1 ? own : own + (x * ring[(i + 3) % ring.length]! - ring[(i + 2) % ring.length]! * ring[i + 1]!) / 2), 0), 0)
const UNKNOWN: DrawingHint = { bounds: null, owes: null }
const needOf = (take: Parameters<typeof createTakeStage>[0], drawingId: string, margin = 0, hint: DrawingHint = UNKNOWN) => neededOf([drawingId], [needsOfTake(createTakeStage(take, OPTICS), T, new Map([[drawingId, hint]]), margin)])

describe('the frame carried back onto a level', () => {
  it('has the corners that the design says, square on and turned', () => {
    const square = frameOnPlane(lensOf(REST, OPTICS), levelPlane(level('a', 1, 2.2, { x: 0.2, y: 0.1, scale: 1.5 })), 0)!
    expect(rounded(square.corners)).toEqual([[-0.994667, -0.551167], [0.728, -0.551167], [0.728, 0.417833], [-0.994667, 0.417833]].map(([x, y]) => [x, y]))
    const turned = frameOnPlane(lensOf({ ...REST, x: 0.3, y: 0.1, depth: -1, panDegrees: 20, tiltDegrees: -5 }, OPTICS), levelPlane(level('a', 1, 2.2, { x: 0.6, scale: 1.5, panDegrees: 30 })), 0)!
    expect(rounded(turned.corners)).toEqual([[-0.239941, -0.557647], [1.243813, -0.481583], [1.221083, 0.276982], [-0.210599, 0.305077]])
    expect([square.isEndless, turned.isEndless]).toEqual([false, false])
  })

  it('ends where a plane goes on to the horizon, and is nothing behind the lens or along its axis', () => {
    const lens = lensOf(REST, OPTICS)
    const floor = frameOnPlane(lens, levelPlane(level('floor', 1, 0, { y: -0.5, tiltDegrees: -90 })), 0)!
    expect(floor.isEndless).toBe(true)
    // What is farthest of it is so far from the lens, and what is nearest under the frame's lower edge.
    expect(Math.max(...floor.corners.map(({ y }) => -y - REST.depth))).toBeLessThanOrEqual(FARTHEST_Z + 1e-9)
    expect(floor.nearest).toBeCloseTo((0.5 * (50 / 36)) / 0.28125, 9)
    expect(frameOnPlane(lens, levelPlane(level('behind', 1, -4)), 0)).toBeNull()
    expect(frameOnPlane(lens, levelPlane(level('edge-on', 1, 2, { panDegrees: 90 })), 0)).toBeNull()
  })

  it('takes in what the frame shows and nothing else, whatever the camera and the level', () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    const poses = fc.record({ x: number(-1, 1), y: number(-1, 1), depth: number(-3, 0), panDegrees: number(-50, 50), tiltDegrees: number(-50, 50), rollDegrees: number(-180, 180), focalLengthMm: number(20, 120) })
    const planes = fc.record({ x: number(-1, 1), y: number(-1, 1), scale: number(0.3, 3), panDegrees: number(-80, 80), tiltDegrees: number(-80, 80), rollDegrees: number(-180, 180), depth: number(0.5, 4) })
    fc.assert(
      fc.property(poses, planes, fc.array(fc.tuple(number(-0.9, 0.9), number(-0.5, 0.5)), { minLength: 8, maxLength: 8 }), (pose, { depth, ...fields }, points) => {
        const lens = lensOf(pose, OPTICS)
        const plane = levelPlane(level('a', 1, depth, fields))
        const found = frameOnPlane(lens, plane, 0)
        const ring = found === null ? [] : [found.corners.flatMap(({ x, y }) => [x, y])]
        for (const [u, v] of points) {
          if (Math.abs(Math.abs(u) - 0.5) < 1e-6 || Math.abs(Math.abs(v) - lens.halfHeight) < 1e-6) continue
          const normal = crossOf(plane.axisX, plane.axisY)
          const ray = subtractOf(unproject(lens, u, v, 1), lens.position)
          const z = dotOf(subtractOf(plane.origin, lens.position), normal) / dotOf(ray, normal)
          if (Math.abs(z - FARTHEST_Z) < 1e-6 || Math.abs(z - 0.01) < 1e-6) continue
          const there = subtractOf(unproject(lens, u, v, z), plane.origin)
          const scaled = fields.scale ** 2
          const art = { x: dotOf(there, plane.axisX) / scaled, y: dotOf(there, plane.axisY) / scaled }
          const isSeen = z > 0.01 && z < FARTHEST_Z && Math.abs(u) < 0.5 && Math.abs(v) < lens.halfHeight
          expect(inside(ring, art)).toBe(isSeen)
        }
      }),
      { numRuns: 300 },
    )
  })
})
const dotOf = (a: { x: number; y: number; depth: number }, b: typeof a) => a.x * b.x + a.y * b.y + a.depth * b.depth
const subtractOf = (a: { x: number; y: number; depth: number }, b: typeof a) => ({ x: a.x - b.x, y: a.y - b.y, depth: a.depth - b.depth })
const crossOf = (a: { x: number; y: number; depth: number }, b: typeof a) => ({ x: a.y * b.depth - a.depth * b.y, y: a.depth * b.x - a.x * b.depth, depth: a.x * b.y - a.y * b.x })

describe('art needed', () => {
  const sea = level('sea', 1, 3.2, { y: -0.2, scale: 1.2 })

  it('is as large as the design says, and says when the level is closest and where it is seen', () => {
    const need = needOf(travelling(takeOf([sea])), 'd-sea')!
    expect(sizePx({ left: 0, right: 4.6, bottom: 0, top: 1 }, need.magnification, 1920).width).toBeCloseTo(3207.75, 2)
    expect(need.seen).toEqual([{ takeId: T, levelId: 'sea', cameraId: 'a', first: 0, last: 48, magnification: need.magnification, closestFrame: 0 }])
    // At rest the frame takes in 1/magnification of it, and the way adds its own.
    expect(need.box.right - need.box.left).toBeCloseTo(1 / need.magnification + 1.2 / 1.2, 9)
    const pushed = done(takeOf([sea]), keyFraming(takeOf([sea]), T, 'a', 0, REST, 'f1'))
    const closer = needOf(done(pushed, keyFraming(pushed, T, 'a', 30, { ...REST, depth: 1 }, 'f2')), 'd-sea')!
    expect(closer.seen[0]!.closestFrame).toBe(30)
    expect(closer.magnification).toBeCloseTo((1.2 * (50 / 36)) / 2.2, 9)
    // A margin is of the frame, at each side of it.
    const wide = needOf(takeOf([sea]), 'd-sea', 0.05)!
    expect((wide.box.right - wide.box.left) * wide.magnification).toBeCloseTo(1.1, 9)
    expect((wide.box.top - wide.box.bottom) * wide.magnification).toBeCloseTo(0.5625 + 0.1, 9)
    expect(needOf(takeOf([sea]), 'another')).toBeNull()
    expect(needOf(takeOf([{ ...sea, visible: false }]), 'd-sea')).toBeNull()
    expect(needOf(takeOf([{ ...sea, opacity: 0 }]), 'd-sea')).toBeNull()
  })

  it('of many moves takes in every frame, what lies between two of them and no more, and is the sum of its shots', () => {
    const poses = fc.array(fc.record({ x: fc.double({ min: -1, max: 1, noNaN: true }), y: fc.double({ min: -0.5, max: 0.5, noNaN: true }), depth: fc.double({ min: -2, max: 1.5, noNaN: true }), rollDegrees: fc.double({ min: -40, max: 40, noNaN: true }) }), { minLength: 2, maxLength: 4 })
    fc.assert(
      fc.property(poses, fc.double({ min: -60, max: 60, noNaN: true }), (asked, panDegrees) => {
        const turned = { ...sea, panDegrees }
        const take = asked.reduce((so, pose, i) => done(so, keyFraming(so, T, 'a', i * 12, { ...REST, ...pose }, `f${i}`)), takeOf([turned], asked.length * 12))
        const stage = createTakeStage(take, OPTICS)
        const need = needOf(take, 'd-sea')
        // A camera that goes through a turned plane has none of it before the lens any more.
        const seenAt = Array.from({ length: stage.lengthFrames }, (_, frame) => {
          const { lens, levels } = stage.at(frame)
          return frameOnPlane(lens, levels[0]!.plane, 0)?.corners ?? []
        })
        expect(need === null).toBe(seenAt.every((corners) => corners.length === 0))
        if (need === null) return
        for (const corners of seenAt) {
          // Right to 0.4 px at 1920, at the farthest that the camera is here.
          for (const corner of corners) expect(inside(need.rings, corner) || beside(need.rings, corner) < ((0.4 / 1920) * 5.5) / ((50 / 36) * 1.2)).toBe(true)
        }
        const parts = [take, takeOf([turned], 3)].map((each, i) => needsOfTake(createTakeStage(each, OPTICS), `t${i}`, new Map([['d-sea', UNKNOWN]]), 0))
        const both = neededOf(['d-sea'], parts)!
        expect(areaOf(both.rings)).toBeGreaterThanOrEqual(areaOf(need.rings) - 1e-4)
        expect(areaOf(both.rings)).toBeLessThanOrEqual(areaOf(need.rings) + areaOf(neededOf(['d-sea'], [parts[1]!])!.rings) + 1e-4)
        // A camera that went through the plane and came back has seen it twice.
        expect([...new Set(both.seen.map(({ takeId }) => takeId))]).toEqual(['t0', 't1'])
      }),
      { numRuns: 120 },
    )
  })

  it('leaves out what lies between two framings a frame apart: that is a cut', () => {
    const far = [{ ...REST, x: -3 }, { ...REST, x: 3 }].reduce((so, pose, i) => done(so, keyFraming(so, T, 'a', 20 + i, pose, `f${i}`)), takeOf([sea]))
    const need = needOf(far, 'd-sea')!
    expect(need.rings).toHaveLength(2)
    expect(inside(need.rings, { x: 0, y: 0 })).toBe(false)
  })

  it('is the same of a take with only the levels that matter, whatever they hang on', () => {
    const cart = level('cart', 2, 1, { x: 0.3, scale: 2 })
    const load = level('load', 3, 0.5, { carrier: { kind: 'level', levelId: 'cart', turn: true, size: true } })
    const take = travelling(takeOf([sea, cart, load, level('other', 4, 5)]))
    const few = takeForDrawings(take, new Set(['d-load']))
    expect(Object.keys(few.levels).sort()).toEqual(['cart', 'load'])
    expect(needOf(few, 'd-load')).toEqual(needOf(take, 'd-load'))
    expect(takeForDrawings(take, new Set(['nothing'])).levels).toEqual({})
  })

  it('of a repeated level is that of all its copies, seen once', () => {
    const twice = { ...sea, repeat: { count: 3, seed: 1, about: { x: 0, y: 0 }, lay: { kind: 'step' as const, x: 1, y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter: { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }, stagger: 0 } }
    const [one, many] = [needOf(takeOf([sea]), 'd-sea')!, needOf(takeOf([twice as typeof sea]), 'd-sea')!]
    expect(many.box.right - many.box.left).toBeGreaterThan(one.box.right - one.box.left + 0.9)
    expect(many.seen).toHaveLength(1)
  })

  it('is only what is seen of it where it stands in the picture, and none of frames that take in nothing of its art', () => {
    const post = { left: 0.4, right: 0.49, bottom: -0.1, top: 0.3 }
    const hint = (bounds: DrawingHint['bounds'], owes: DrawingHint['owes'] = null) => ({ bounds, owes })
    const take = travelling(takeOf([level('thing', 1, 0)]))
    // The camera begins with it inside the frame, and leaves it behind at x > 0.99.
    const seen = needOf(take, 'd-thing', 0, hint(post))!
    expect(seen.owed).toEqual([])
    expect([seen.box.left, seen.box.right, seen.box.top].map((value) => Number(value.toFixed(6)))).toEqual([0.4, 0.49, 0.28125])
    expect(seen.seen[0]!.last).toBe(Math.floor((0.99 / 1.2) * 48))
    // What goes from side to side has to, for as long as anything of it is in view.
    const wall = needOf(take, 'd-thing', 0, hint({ left: -0.6, right: 0.59, bottom: -1, top: 1 }))!
    expect([wall.owed.length, wall.box.right > 1.5]).toEqual([4, true])
    expect(wall.seen[0]!.last).toBe(Math.floor((1.09 / 1.2) * 48))
    expect(needOf(take, 'd-thing', 0, hint({ left: -0.6, right: 0.59, bottom: -1, top: 1 }, []))!.box).toMatchObject({ left: -0.5, right: 0.59 })
    expect(needOf(take, 'd-thing', 0, hint(post, ['left']))!.box.left).toBeCloseTo(-0.5, 9)
    expect(needOf(take, 'd-thing', 0, hint({ left: -3, right: -2, bottom: 0, top: 1 }))).toBeNull()
    // A margin is no art of its own.
    expect(needOf(takeOf([level('thing', 1, 0)]), 'd-thing', 0.1, hint({ left: -0.5, right: 0.5, bottom: -1, top: 1 }))!.owed).toHaveLength(4)
    expect(needOf(takeOf([level('thing', 1, 0)]), 'd-thing', 0.1, hint({ left: -0.49, right: 0.5, bottom: -1, top: 1 }))!.owed).toEqual([])
    // A fence across the picture: as long as the way is, as high as it is drawn, and down to what is seen of it.
    const fence = needOf(take, 'd-thing', 0, hint({ left: -0.6, right: 0.6, bottom: -0.5, top: 0.1 }))!
    expect(fence.owed).toEqual(['left', 'right', 'bottom'])
    expect([fence.box.bottom, fence.box.top].map((value) => Number(value.toFixed(6)))).toEqual([-0.28125, 0.1])
    expect(fence.box.right).toBeGreaterThan(1.5)
  })
})
