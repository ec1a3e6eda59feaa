import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, NEAREST_Z, project, untouchedPose, unproject, type CameraPose, type Optics } from '../camera'
import { EMPTY_TAKE, placedFramings, type Framing, type TakeBody, orderOfNumber } from '../document'
import { applyThinned } from '../edits/take/keyMoves'
import { applyToUnit } from '../edits/change/edit'
import { CUSHIONED_MOVE, type MoveSpec } from '../moves'
import { createCameraTrack, findBumps, POSES } from '../moves'
import { createTakeStage, pictureShift, thinFramings } from './index'

const OPTICS: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const WIDTH_PX = 1920
const EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const level = (id: string, depth: number, turn = 0) => ({ id, order: orderOfNumber(depth), name: id, kind: 'drawn' as const, x: 0, y: 0, depth, scale: 1, panDegrees: turn, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false })

function takeWith(framings: readonly { readonly frame: number; readonly pose: CameraPose; readonly move?: MoveSpec; readonly locked?: boolean }[], depths: readonly number[] = [0, 3], lengthFrames = 200): TakeBody {
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: Object.fromEntries(depths.map((depth, i) => [`l${i}`, level(`l${i}`, depth)])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings: Object.fromEntries(framings.map(({ frame, pose, move = EVEN, locked = false }, i): [string, Framing] => [`f${i}`, { id: `f${i}`, cameraId: 'a', panelId: 'p', offsetFrames: frame, pose, move, locked }])),
  }
}

const thinned = (take: TakeBody, tolerancePx: number) => {
  const found = thinFramings(take, 'a', OPTICS, tolerancePx, WIDTH_PX)
  const made = applyThinned(take, 't', found)
  const applied = made.ok ? applyToUnit(take, made.edits[0]!) : null
  return { found, after: applied?.ok === true ? applied.value : take }
}

describe('thin', () => {
  const fine = (min: number, max: number) => fc.integer({ min: min * 1000, max: max * 1000 }).map((n) => n / 1000)
  const poses: fc.Arbitrary<CameraPose> = fc.record({ x: fine(-0.3, 0.3), y: fine(-0.2, 0.2), depth: fine(-1.5, -1.1), panDegrees: fine(-8, 8), tiltDegrees: fine(-6, 6), rollDegrees: fine(-6, 6), focalLengthMm: fine(40, 60) })
  const specs = fc.constantFrom<MoveSpec>(EVEN, CUSHIONED_MOVE, { ...EVEN, timing: { kind: 'cushioned', leaveFrames: 3, arriveFrames: 0, settleFrames: 5 } }, { ...EVEN, timing: { kind: 'hold' } }, { ...EVEN, path: { kind: 'bent', leave: { x: 0.1, y: 0.05, depth: 0 }, arrive: { x: -0.05, y: 0.1, depth: 0 } } })

  it('never moves the picture of any art by more than its tolerance, at any frame', () => {
    const points = fc.array(fc.record({ u: fine(-0.5, 0.5), v: fine(-0.28, 0.28) }), { minLength: 12, maxLength: 12 })
    fc.assert(
      fc.property(fc.array(fc.record({ gap: fc.integer({ min: 1, max: 24 }), pose: poses, move: specs, near: fc.boolean() }), { minLength: 2, maxLength: 7 }), points, fc.integer({ min: 1, max: 60 }), (list, places, tolerancePx) => {
        let frame = -1
        let pose = REST
        // Some framings stand where the one before did, or nearly: those can go.
        const take = takeWith(list.map((each) => ({ frame: (frame += each.gap), pose: (pose = each.near ? { ...pose, x: pose.x + 0.002 } : each.pose), move: each.move })), [-0.4, 0, 3, 8])
        const { found, after } = thinned(take, tolerancePx)
        expect(placedFramings(after, 'a').length).toBeGreaterThan(0)
        const [was, is] = [createTakeStage(take, OPTICS), createTakeStage(after, OPTICS)]
        let most = 0
        for (let at = 0; at <= frame + 6; at++) {
          const [a, b] = [lensOf(was.poseAt(at), OPTICS), lensOf(is.poseAt(at), OPTICS)]
          for (const depth of [-0.4, 0, 3, 8]) {
            for (const { u, v } of places) {
              // The point of the level that is seen there.
              const ray = unproject(a, u, v, 1)
              const reach = (depth - a.position.depth) / (ray.depth - a.position.depth)
              if (!(reach > 0)) continue
              const seen = project(b, unproject(a, u, v, reach))
              if (seen.z >= NEAREST_Z) most = Math.max(most, Math.hypot(seen.u - u, seen.v - v))
            }
          }
        }
        expect(most * WIDTH_PX).toBeLessThanOrEqual(tolerancePx)
        expect(found.mostPx).toBeLessThanOrEqual(tolerancePx)
      }),
      { numRuns: 60 },
    )
  })

  it('keeps its tolerance for a turned level however far its art reaches', () => {
    // Turned by 60° and drawn on 4 fw to the right of its pivot: that comes 3.5 fw nearer or farther.
    const turned = { ...takeWith([{ frame: 0, pose: REST }, { frame: 20, pose: { ...REST, x: 0.004 } }, { frame: 40, pose: REST }]), levels: { l0: { ...level('l0', 4, 60), depth: 4 } } }
    const reaches = new Map([['l0', { x: 4, y: 0.5 }]])
    const near = 4 - 4 * Math.sin(Math.PI / 3)
    const found = thinFramings(turned, 'a', OPTICS, 3, WIDTH_PX, reaches)
    const shiftPx = pictureShift(REST, { ...REST, x: 0.004 }, OPTICS, [near]) * WIDTH_PX
    expect(shiftPx).toBeGreaterThan(3)
    expect(found.remove).toEqual([])
    // Where it reaches 1 fw only, as was taken for all once, it might go.
    expect(thinFramings(turned, 'a', OPTICS, 3, WIDTH_PX).remove.length).toBeGreaterThan(0)
  })

  it('takes out what lies on the way, in time and in place, and nothing else', () => {
    const at = (x: number) => ({ ...REST, x })
    const take = takeWith([{ frame: 0, pose: at(0) }, { frame: 10, pose: at(0.1) }, { frame: 20, pose: at(0.2) }, { frame: 40, pose: at(0.2) }, { frame: 60, pose: at(0.5) }])
    const { found, after } = thinned(take, 0.5)
    expect(found.remove.map(({ id }) => id)).toEqual(['f1'])
    expect(Object.keys(after.framings)).toEqual(['f0', 'f2', 'f3', 'f4'])
    expect(found.mostPx).toBeLessThan(1e-6)
  })

  it('makes one move of two where that is the same: it leaves as the first and arrives as the second', () => {
    const move = (leaveFrames: number, arriveFrames: number): MoveSpec => ({ ...EVEN, timing: { kind: 'cushioned', leaveFrames, arriveFrames } })
    const whole = createTakeStage(takeWith([{ frame: 0, pose: REST, move: move(10, 10) }, { frame: 60, pose: { ...REST, x: 0.5 } }]), OPTICS)
    // Cut in the middle of its even part.
    const take = takeWith([{ frame: 0, pose: REST, move: move(10, 0) }, { frame: 30, pose: whole.poseAt(30), move: move(0, 10) }, { frame: 60, pose: { ...REST, x: 0.5 } }])
    const { found } = thinned(take, 0.5)
    expect(found.remove.map(({ id }) => id)).toEqual(['f1'])
    expect(found.change[0]!.move.timing).toEqual({ kind: 'cushioned', leaveFrames: 10, arriveFrames: 10 })
  })

  it('leaves locked framings, and one at least', () => {
    const take = takeWith([{ frame: 0, pose: REST }, { frame: 10, pose: REST, locked: true }, { frame: 20, pose: REST }])
    expect(thinned(take, 1).found.remove.map(({ id }) => id)).toEqual(['f0', 'f2'])
    expect(Object.keys(thinned(takeWith([{ frame: 0, pose: REST }, { frame: 9, pose: REST }]), 1).after.framings)).toHaveLength(1)
  })
})

describe('picture shift', () => {
  it('is the shift of the nearest art, and none where only far art is seen by a camera that slides', () => {
    const moved = { ...REST, x: 0.1 }
    expect(pictureShift(REST, moved, OPTICS, [0]) / 1.02).toBeCloseTo(0.1, 9)
    expect(pictureShift(REST, moved, OPTICS, [0, 3]) / 1.02).toBeCloseTo(0.1, 9)
    expect(pictureShift(REST, moved, OPTICS, [3]) / 1.02).toBeCloseTo((0.1 * 50) / 36 / (3 + 50 / 36), 9)
  })
})

describe('a camera that settles', () => {
  const settling: MoveSpec = { ...EVEN, timing: { kind: 'cushioned', leaveFrames: 0, arriveFrames: 4, settleFrames: 12 } }
  it('goes on past its framing, then begins the next move from rest there', () => {
    const take = takeWith([{ frame: 0, pose: REST, move: settling }, { frame: 20, pose: { ...REST, x: 1 } }, { frame: 60, pose: REST }])
    const track = createCameraTrack(placedFramings(take, 'a'), OPTICS)
    expect(track.at(20)!.x).toBeLessThan(1)
    expect(track.at(32)).toEqual({ ...REST, x: 1 })
    expect(track.at(46)!.x).toBeCloseTo(0.5, 9)
    expect(track.lastMovingFrame).toBe(60)
    for (let frame = 1; frame <= 32; frame++) expect(track.at(frame)!.x).toBeGreaterThan(track.at(frame - 1)!.x)
  })

  it('has room up to a frame before the next framing', () => {
    const take = takeWith([{ frame: 0, pose: REST, move: settling }, { frame: 20, pose: { ...REST, x: 1 } }, { frame: 24, pose: REST }])
    const track = createCameraTrack(placedFramings(take, 'a'), OPTICS)
    expect(track.at(23)!.x).toBe(1)
    expect(track.at(24)!.x).toBe(0)
    const last = createCameraTrack(placedFramings(takeWith([{ frame: 0, pose: REST, move: settling }, { frame: 20, pose: { ...REST, x: 1 } }]), 'a'), OPTICS)
    expect(last.lastMovingFrame).toBe(20 + 12)
  })
})

describe('bumps', () => {
  const at = (x: number, y = 0) => ({ ...REST, x, y })
  const bumpsOf = (...framings: Parameters<typeof takeWith>[0][number][]) => findBumps(createCameraTrack(placedFramings(takeWith(framings), 'a'), OPTICS), POSES)

  it('are where a value turns back while the camera goes on', () => {
    const [bump, ...more] = bumpsOf({ frame: 0, pose: at(0) }, { frame: 20, pose: at(1, 0.2) }, { frame: 40, pose: at(2, 0.1) })
    expect(more).toEqual([])
    expect(bump).toMatchObject({ field: 'y', frame: 20 })
    expect(bump!.by).toBeCloseTo(0.1, 9)
  })

  it('are not where it rests or jumps in between', () => {
    expect(bumpsOf({ frame: 0, pose: at(0), move: CUSHIONED_MOVE }, { frame: 20, pose: at(1, 0.2), move: CUSHIONED_MOVE }, { frame: 40, pose: at(2, 0.1) })).toEqual([])
    expect(bumpsOf({ frame: 0, pose: at(0) }, { frame: 20, pose: at(1), move: { ...EVEN, timing: { kind: 'hold' } } }, { frame: 40, pose: at(0) })).toEqual([])
    expect(bumpsOf({ frame: 0, pose: at(0) }, { frame: 20, pose: at(1) }, { frame: 21, pose: at(0) }, { frame: 40, pose: at(0.5) })).toEqual([])
  })

  it('are where a bent path, or a curve that overshoots, turns back inside one move', () => {
    const bent: MoveSpec = { ...EVEN, path: { kind: 'bent', leave: { x: 0.5, y: 0.6, depth: 0 }, arrive: { x: -0.5, y: 0.6, depth: 0 } } }
    expect(bumpsOf({ frame: 0, pose: at(0), move: bent }, { frame: 40, pose: at(1) }).map(({ field, frame }) => [field, frame])).toEqual([['y', 20]])
    const over: MoveSpec = { ...EVEN, timing: { kind: 'custom', x1: 0.3, y1: 0, x2: 0.6, y2: 1.6 } }
    expect(bumpsOf({ frame: 0, pose: at(0), move: over }, { frame: 40, pose: { ...REST, panDegrees: 20 } }).map(({ field }) => field)).toContain('panDegrees')
  })
})
