import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { faceOn, roomWalls, type Room } from '../depth'
import { EMPTY_TAKE, newLevel, orderOfNumber, type Level, type TakeBody } from '../document'
import { foldedOpen } from './foldedOpen'
import { createTakeStage, placedLevel, seenAt } from './takeStage'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const within = (min: number, max: number) => fc.integer({ min: 0, max: 1_000_000 }).map((n) => min + ((max - min) * n) / 1_000_000)

function takeOf(levels: readonly Level[]): TakeBody {
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: Object.fromEntries(levels.map((level) => [level.id, level])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  }
}
const room: Room = { floor: { x: 0.1, y: -0.3, depth: 1.5 }, panDegrees: 35, width: 1.4, height: 0.8, length: 2 }
const walls = roomWalls(room).map(({ name, on, pivot, place, turn }, i): Level => ({ ...newLevel({ id: name, name, order: orderOfNumber(i) }), ...place, ...turn, pivot, ...(on === null ? {} : { carrier: { kind: 'level' as const, levelId: on, turn: true, size: true } }) }))

describe('a level looked at square on', () => {
  it('is square to the picture, upright, its middle in the frame’s, and fills it', () => {
    fc.assert(
      fc.property(within(-180, 180), within(-90, 90), within(-180, 180), within(0.2, 3), within(-2, 2), within(-1, 1), (panDegrees, tiltDegrees, rollDegrees, size, x, depth) => {
        const take = takeOf([{ ...newLevel({ id: 'l', name: 'l', order: 'a1' }), x, depth, scale: size, panDegrees, tiltDegrees, rollDegrees, pivot: { x: 0.1, y: -0.2 } }])
        const stage = createTakeStage(take, OPTICS)
        const art = { left: -0.5, bottom: -0.2, right: 0.7, top: 0.3 }
        const camera = stage.poseAt(0)
        const eye = faceOn(stage.seen(0).standOf('l'), { x: 0.1, y: -0.2 }, art, camera, OPTICS)
        const frame = stage.through(0, 'a', camera, null, eye)
        const placed = placedLevel(frame, 'l')!
        expect(placed.square).toBe(true)
        const at = (ax: number, ay: number) => seenAt(frame.lens, placed, { x: ax, y: ay })
        const [a, b, c] = [at(art.left, art.bottom), at(art.right, art.bottom), at(art.left, art.top)]
        expect((b.u + c.u) / 2).toBeCloseTo(0, 9)
        expect((b.v + c.v) / 2).toBeCloseTo(0, 9)
        expect(Math.abs(b.v - a.v)).toBeLessThan(1e-9)
        expect(c.v).toBeGreaterThan(a.v)
        // At its own proportions, and as large as there is room for.
        expect(Math.abs(b.u - a.u) / (c.v - a.v)).toBeCloseTo(1.2 / 0.5, 9)
        expect(Math.max(Math.abs(b.u - a.u), (c.v - a.v) * OPTICS.aspect)).toBeCloseTo(0.86, 9)
      }),
    )
  })
})

describe('folded open', () => {
  it('a room lies in the plane of its floor, whichever of its walls is asked for, and its take stays as it is', () => {
    const take = takeOf(walls)
    const stage = createTakeStage(take, OPTICS)
    for (const { id } of walls) {
      const open = foldedOpen(take, id, stage.seen(0))!
      expect(open.rootId).toBe('floor')
      expect([...open.ids].sort()).toEqual(walls.map((wall) => wall.id).sort())
      const seen = stage.seen(0, undefined, open.tried)
      const { forward, place } = seen.standOf('floor')
      for (const wall of walls) {
        const stand = seen.standOf(wall.id)
        for (const axis of ['x', 'y', 'depth'] as const) expect(stand.forward[axis]).toBeCloseTo(forward[axis], 9)
        expect((stand.place.x - place.x) * forward.x + (stand.place.y - place.y) * forward.y + (stand.place.depth - place.depth) * forward.depth).toBeCloseTo(0, 9)
      }
    }
    expect(stage.take).toBe(take)
  })

  it('nothing is, where no level is hinged: not on a carrier, not what faces the lens or does not follow the turn', () => {
    const one = { ...newLevel({ id: 'a', name: 'a', order: 'a1' }) }
    const on = (fields: Partial<Level>, carrier: Partial<Level> = {}) => takeOf([{ ...one, ...carrier } as Level, { ...newLevel({ id: 'b', name: 'b', order: 'a2' }), panDegrees: 40, carrier: { kind: 'level', levelId: 'a', turn: true, size: true }, ...fields } as Level])
    const opens = (take: TakeBody) => foldedOpen(take, 'b', createTakeStage(take, OPTICS).seen(0)) !== null
    expect(opens(on({}))).toBe(true)
    expect(opens(on({}, { kind: 'carrier' }))).toBe(false)
    expect(opens(on({ facing: 'upright' }))).toBe(false)
    expect(opens(on({ carrier: { kind: 'level', levelId: 'a', turn: false, size: true } }))).toBe(false)
    expect(opens(on({ tiltDegrees: 20, rollDegrees: 50 }))).toBe(false)
    expect(foldedOpen(on({}), 'gone', createTakeStage(on({}), OPTICS).seen(0))).toBeNull()
  })
})
