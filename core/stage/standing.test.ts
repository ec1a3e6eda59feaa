import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { pointOnPlane } from '../depth/levelPlane'
import { pieceLevelId, SET_SHOWN, cellIdOf, EMPTY_SET, unfolded, type Level, type LevelKey, type SetBody, type TakeBody } from '../document'
import { level, OPTICS, REST, sampleTake } from '../edits/testing'
import type { LevelValues } from '../moves'
import { createTakeStage, type TakeStage } from '.'

/**
 * What is worked out once and what is told in place must not be seen: however levels hang on each other, however frames are
 * gone through and whatever is tried in between, a level lies where it does when it alone is asked for by a stage made new.
 */
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const standing = { x: number(-1, 1), y: number(-1, 1), depth: number(-0.5, 3), scale: number(0.3, 3), panDegrees: number(-80, 80), tiltDegrees: number(-80, 80), rollDegrees: number(-180, 180) }
const still = fc.record(standing)
/** A level hangs on nothing, on one listed before it or on the camera; turns to the lens; sways; is keyed. */
const hanging = fc.record({
  ...standing,
  on: fc.option(fc.nat(3), { nil: null }),
  onCamera: fc.boolean(),
  turn: fc.boolean(),
  size: fc.boolean(),
  facing: fc.constantFrom(undefined, undefined, 'lens' as const, 'upright' as const),
  swing: fc.boolean(),
  keyed: fc.boolean(),
})
const MOVE = { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }

interface Asked {
  readonly own: readonly (typeof hanging extends fc.Arbitrary<infer H> ? H : never)[]
  readonly set: { readonly x: number; readonly scale: number; readonly rollDegrees: number }
  readonly setIsKeyed: boolean
  readonly pieces: readonly (typeof still extends fc.Arbitrary<infer S> ? S : never)[]
  readonly pieceOnPiece: boolean
}
function takeOf({ own, set, setIsKeyed, pieces, pieceOnPiece }: Asked): TakeBody {
  const base = sampleTake([24])
  const keys: LevelKey[] = []
  const key = (levelId: string, x: number) => {
    for (const [i, offsetFrames] of [0, 20].entries()) keys.push({ id: `${levelId}-${i}`, levelId, panelId: 'p1', offsetFrames, of: 'place', value: { x: x + i, y: 0, depth: 1 }, move: MOVE, locked: false })
  }
  const levels = own.map(({ on, onCamera, turn, size, swing, keyed, facing, ...fields }, i) => {
    if (keyed) key(`l${i}`, fields.x)
    const carrier = onCamera ? { kind: 'camera' as const } : on !== null && on < i ? { kind: 'level' as const, levelId: `l${on}`, turn, size } : undefined
    return level(`l${i}`, i + 3, fields.depth, { ...fields, ...(facing === undefined ? {} : { facing }), ...(swing ? { swing: { amount: 5, periodFrames: 17, phase: 0.1 } } : {}), ...(carrier === undefined ? {} : { carrier }) } as Partial<Level>)
  })
  const stands = level('stood', 20, 0.2, { ...set, kind: 'set', setId: 'walk' } as unknown as Partial<Level>)
  if (setIsKeyed) key('stood', set.x)
  const pieceLevels = pieces.map((fields, i) => level(`p${i}`, i + 1, fields.depth, { ...fields, ...(pieceOnPiece && i > 0 ? { carrier: { kind: 'level', levelId: 'p0', turn: true, size: i % 2 === 0 } } : {}) } as Partial<Level>))
  const body: SetBody = { ...EMPTY_SET, pieces: Object.fromEntries(pieceLevels.map((piece) => [piece.id, piece])) as SetBody['pieces'], art: Object.fromEntries(pieceLevels.map(({ id }) => [id, { id, drawingId: `d-${id}` }])) as SetBody['art'] }
  const shown = { id: cellIdOf('stood', 'p1'), levelId: 'stood', panelId: 'p1', drawingId: SET_SHOWN }
  const take: TakeBody = { ...base, levels: { ...base.levels, stood: stands, ...Object.fromEntries(levels.map((each) => [each.id, each])) }, cells: { ...base.cells, [shown.id]: shown }, levelKeys: Object.fromEntries(keys.map((each) => [each.id, each])) }
  return unfolded(take, (id) => (id === 'walk' ? body : null))
}
const takes = fc.record({ own: fc.array(hanging, { minLength: 1, maxLength: 4 }), set: fc.record({ x: number(-1, 1), scale: number(0.5, 2), rollDegrees: number(-90, 90) }), setIsKeyed: fc.boolean(), pieces: fc.array(still, { minLength: 1, maxLength: 3 }), pieceOnPiece: fc.boolean() })
const frames = fc.array(fc.tuple(fc.integer({ min: 0, max: 23 }), number(-0.5, 0.5)), { minLength: 1, maxLength: 5 })

const corners = [{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 0, y: 1 }]
const poseAt = (x: number) => ({ ...REST, x, panDegrees: x * 20 })
const lies = (stage: TakeStage, frame: number, x: number) => new Map(stage.withPose(frame, poseAt(x)).levels.map(({ level: { id }, plane, opacity, size }) => [id, [...corners.map((corner) => pointOnPlane(plane, corner)), { x: opacity, y: size, depth: 0 }]]))
const close = (a: readonly { x: number; y: number; depth: number }[], b: typeof a) => a.every((point, i) => Math.hypot(point.x - b[i]!.x, point.y - b[i]!.y, point.depth - b[i]!.depth) < 1e-9)

describe('how levels lie', () => {
  it('is the same whatever was asked before, and of each what it is asked alone', () => {
    fc.assert(
      fc.property(takes, frames, (asked, order) => {
        const take = takeOf(asked)
        const stage = createTakeStage(take, OPTICS)
        for (const [frame, x] of order) {
          // Something tried is forgotten again.
          stage.withPose(frame, poseAt(x), new Map<string, Partial<LevelValues>>([['stood', { size: 3 }], ['l0', { place: { x: 9, y: 9, depth: 9 } }]]))
          const played = lies(stage, frame, x)
          const fresh = createTakeStage(take, OPTICS)
          expect([...played.keys()].sort()).toEqual([...lies(fresh, frame, x).keys()].sort())
          const alone = fresh.seen(frame, poseAt(x))
          for (const [id, now] of played) {
            const { place, right, up, size } = alone.standOf(id)
            const at = (across: number, along: number) => ({ x: place.x + size * (right.x * across + up.x * along), y: place.y + size * (right.y * across + up.y * along), depth: place.depth + size * (right.depth * across + up.depth * along) })
            expect(close(now.slice(0, 3), [at(0, 0), at(1, 0), at(0, 1)]), `${id} at ${frame}`).toBe(true)
            expect(now[3]!.y).toBeCloseTo(size, 9)
          }
        }
      }),
      { numRuns: 150 },
    )
  })

  it('pieces of a set that stands still keep the very plane they had, and go with it while it is tried elsewhere', () => {
    const take = takeOf({ own: [], set: { x: 0.5, scale: 2, rollDegrees: 90 }, setIsKeyed: false, pieces: [{ x: 1, y: 0, depth: 0.25, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }], pieceOnPiece: false })
    const stage = createTakeStage(take, OPTICS)
    const id = pieceLevelId('stood', 'p0')
    const plane = (frame: number, tried: ReadonlyMap<string, Partial<LevelValues>> | null = null) => stage.withPose(frame, REST, tried).levels.find((each) => each.level.id === id)!.plane
    // Turned by 90° to the right and twice as large: one along the set's right is two down, at 0.2 and a half.
    expect(plane(0).origin).toMatchObject({ x: expect.closeTo(0.5, 9), y: expect.closeTo(-2, 9), depth: expect.closeTo(0.7, 9) })
    expect(plane(23)).toBe(plane(0))
    expect(plane(3, new Map([['stood', { size: 1 }]])).origin).toMatchObject({ x: expect.closeTo(0.5, 9), y: expect.closeTo(-1, 9), depth: expect.closeTo(0.45, 9) })
    expect(plane(3)).toBe(plane(0))
  })

  it('pieces of a set that is keyed go with it', () => {
    const take = takeOf({ own: [], set: { x: 0, scale: 1, rollDegrees: 0 }, setIsKeyed: true, pieces: [{ x: 0.25, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }], pieceOnPiece: false })
    const stage = createTakeStage(take, OPTICS)
    const x = (frame: number) => stage.at(frame).levels.find((each) => each.level.id === pieceLevelId('stood', 'p0'))!.plane.origin.x
    expect([x(0), x(10), x(20)].map((value) => Number(value.toFixed(9)))).toEqual([0.25, 0.75, 1.25])
  })
})
