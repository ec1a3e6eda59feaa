import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, placeSeeing, project, turnSeeing, type CameraPose } from '../camera'
import { freeze, placedSpans, spanWeight, type AimSpan, type CameraSpan, type FollowSpan, type HandSpan, type Level, type TakeBody } from '../document'
import { addSpan, editLevel, keyFraming, keyLevel, SPAN_DEFAULTS, travelLevel } from '../edits'
import { done, level, newId, OPTICS, REST, sampleTake, T } from '../edits/testing'
import { createChase, driftAt } from '../moves'
import { createTakeStage } from '.'

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const turned = fc.record({ panDegrees: number(-50, 50), tiltDegrees: number(-40, 40), rollDegrees: number(-180, 180) })
const target = { levelId: 'tilda' }
const follow = (fields: Partial<FollowSpan> = {}) => ({ id: 'f', cameraId: 'a', kind: 'follow', target, ...SPAN_DEFAULTS.follow, inFrames: 0, outFrames: 0, lagFrames: 0, still: { widthFw: 0, heightFw: 0 }, ...fields }) as FollowSpan
const aim = (fields: Partial<AimSpan> = {}) => ({ id: 'g', cameraId: 'a', kind: 'aim', target, ...SPAN_DEFAULTS.aim, inFrames: 0, outFrames: 0, lagFrames: 0, ...fields }) as AimSpan
const hand = (fields: Partial<HandSpan> = {}) => ({ id: 'h', cameraId: 'a', kind: 'hand', seed: 5, ...SPAN_DEFAULTS.hand, ...fields }) as HandSpan
const withSpan = (take: TakeBody, span: CameraSpan, first = 0, last: number | null = null) => done(take, addSpan(take, T, span, first, last))
const still = sampleTake([60, 60])
/** Tilda goes evenly to the right, so much a frame, over the whole shot. */
const running = (perFrame: number, fields: Partial<Level> = {}, lengths: readonly number[] = [60, 60]): TakeBody => {
  const total = lengths.reduce((sum, each) => sum + each, 0)
  const take = done(sampleTake(lengths), editLevel(sampleTake(lengths), T, 'tilda', fields))
  const { x, y, depth } = take.levels.tilda!
  const gone = done(take, travelLevel(take, T, 'tilda', 0, total - 1, [{ aspect: 'place', from: { x, y, depth }, to: { x: x + perFrame * (total - 1), y, depth } }], newId))
  return freeze({ ...gone, levelKeys: Object.fromEntries(Object.entries(gone.levelKeys).map(([id, key]) => [id, { ...key, move: { ...key.move, timing: { kind: 'even' as const } } }])) })
}
const seenAt = (take: TakeBody, frame: number, levelId = 'tilda') => {
  const stage = createTakeStage(take, OPTICS)
  return project(lensOf(stage.poseAt(frame), OPTICS), stage.seen(frame).standOf(levelId).place)
}
const posesOf = (take: TakeBody) => {
  const stage = createTakeStage(take, OPTICS)
  return Array.from({ length: stage.lengthFrames }, (_, frame) => stage.poseAt(frame))
}

describe('the arithmetic', () => {
  it('chases: goals 0, .02, .04 … from rest at 0 with a lag of 6, and trails an even goal by its lag less half a frame', () => {
    const chase = createChase(6)
    let at = { at: 0, speed: 0 }
    ;[0, 0.000892, 0.003779, 0.009063, 0.016762, 0.026689, 0.038569].forEach((wanted, frame) => {
      if (frame > 0) at = chase(at, frame * 0.02)
      expect(at.at).toBeCloseTo(wanted, 6)
    })
    for (let frame = 7; frame < 400; frame++) at = chase(at, frame * 0.02)
    // The goal of each frame is chased over the whole of it.
    expect(399 - at.at / 0.02).toBeCloseTo(5.5, 3)
    expect(createChase(0)({ at: 3, speed: 2 }, 7)).toEqual({ at: 7, speed: 0 })
  })

  it('turns to see a point: the worked numbers, and whatever the roll', () => {
    const way = { x: 0.9, y: 0.3, depth: 2.7 }
    const middle = turnSeeing(way, { u: 0, v: 0 }, 50 / 36, 0)
    expect([middle.panDegrees, middle.tiltDegrees]).toEqual([expect.closeTo(18.434949, 6), expect.closeTo(6.017285, 6)])
    const aside = turnSeeing(way, { u: -1 / 6, v: 1 / 12 }, 50 / 36, 0)
    expect([aside.panDegrees, aside.tiltDegrees]).toEqual([expect.closeTo(25.303579, 6), expect.closeTo(2.62683, 5)])
    fc.assert(
      fc.property(number(-3, 3), number(-1, 1), number(-3, 3), number(-0.4, 0.4), number(-0.25, 0.25), number(-180, 180), (x, y, depth, u, v, rollDegrees) => {
        fc.pre(Math.hypot(x, depth) > 1.5)
        const seen = project(lensOf({ ...REST, x: 0, y: 0, depth: 0, rollDegrees, ...turnSeeing({ x, y, depth }, { u, v }, 50 / 36, rollDegrees) }, OPTICS), { x, y, depth })
        expect([seen.u, seen.v]).toEqual([expect.closeTo(u, 9), expect.closeTo(v, 9)])
        expect(seen.z).toBeGreaterThan(0)
      }),
    )
    // Straight overhead and asked to be far out to the side: the nearest that can be, and a number.
    const over = turnSeeing({ x: 0, y: 1, depth: 0 }, { u: 0.5, v: 0 }, 50 / 36, 0)
    expect(Number.isFinite(over.panDegrees) && Number.isFinite(over.tiltDegrees)).toBe(true)
  })

  it('goes where a point is seen at its place with the axes that are free', () => {
    const axes = fc.record({ x: fc.boolean(), y: fc.boolean(), depth: fc.boolean() })
    fc.assert(
      fc.property(turned, axes, number(-1, 1), number(-1, 1), number(1, 4), number(-0.4, 0.4), number(-0.2, 0.2), (turn, free, x, y, depth, u, v) => {
        const pose: CameraPose = { ...REST, ...turn }
        const lens = lensOf(pose, OPTICS)
        const [point, before] = [{ x, y, depth }, project(lens, { x, y, depth })]
        fc.pre(before.z > 0.5)
        const place = placeSeeing(point, { u, v }, lens, lens.k, free, pose, 2)
        for (const axis of ['x', 'y', 'depth'] as const) if (!free[axis]) expect(place[axis]).toBe(pose[axis])
        const after = project(lensOf({ ...pose, ...place }, OPTICS), point)
        fc.pre(after.z > 0.05)
        if (free.x && free.y) expect([after.u, after.v]).toEqual([expect.closeTo(u, 8), expect.closeTo(v, 8)])
        if (free.depth && free.x === free.y) expect(after.z).toBeCloseTo(2, 8)
        // One axis alone sees to one of them.
        if (!free.depth && free.x !== free.y) expect(Math.min(Math.abs(after.u - u), Math.abs(after.v - v))).toBeLessThan(1e-8)
      }),
    )
  })
})

describe('following', () => {
  it('keeps the point at its place exactly, without lag and still zone: any turn, bent ways, carriers that turn', () => {
    const carried = (take: TakeBody, carrier: Partial<Level>): TakeBody => freeze({ ...take, levels: { ...take.levels, cart: level('cart', 0, 0.5, { kind: 'carrier', swing: { amount: 20, periodFrames: 50, phase: 0.1 }, ...carrier }), tilda: { ...take.levels.tilda!, carrier: { kind: 'level' as const, levelId: 'cart', turn: true, size: true } } } })
    fc.assert(
      fc.property(turned, number(-0.3, 0.3), number(-0.2, 0.2), fc.boolean(), number(0.3, 2), number(-40, 40), (turn, u, v, depth, scale, panDegrees) => {
        let take = carried(running(0.02), { scale, panDegrees })
        take = done(take, keyFraming(take, T, 'a', 20, { ...REST, ...turn, depth: -3 }, 'k1'))
        take = withSpan(take, follow({ u, v, axes: { x: true, y: true, depth } }), 5, 100)
        for (const frame of [5, 6, 40, 77, 100]) {
          const seen = seenAt(take, frame)
          expect([seen.u, seen.v]).toEqual([expect.closeTo(u, 9), expect.closeTo(v, 9)])
        }
      }),
      { numRuns: 40 },
    )
  })

  it('trails a runner by its lag, at every depth, and starts from rest', () => {
    for (const depth of [0, 2.2]) {
      const take = withSpan(running(0.02, { depth }, [150, 150]), follow({ lagFrames: 8 }))
      const poses = posesOf(take)
      expect(poses[0]!.x).toBeCloseTo(0, 9)
      expect(290 - poses[290]!.x / 0.02).toBeCloseTo(7.5, 3)
    }
  })

  it('does not move while the figure is in its still zone, then only as far as it is outside', () => {
    const take = withSpan(running(0.01), follow({ still: { widthFw: 0.2, heightFw: 0.1 } }))
    const poses = posesOf(take)
    for (let frame = 0; frame <= 10; frame++) expect(poses[frame]!.x).toBeCloseTo(0, 9)
    expect(poses[30]!.x).toBeCloseTo(0.3 - 0.1, 9)
    expect(seenAt(take, 30).u).toBeCloseTo(0.1, 9)
  })

  it('leaves room ahead, in proportion to the speed up to a limit, at any depth', () => {
    for (const [perFrame, depth, back] of [[0.02, 0, 0.12], [0.005, 0, 0.06], [-0.02, 0, -0.12], [0.02, 2.777778, 0.08]] as const) {
      const take = withSpan(running(perFrame, { depth }), follow({ lead: { mostFw: 0.12, atFwPerFrame: 0.01 } }))
      // Three times as far away it crosses the picture at a third of the speed: 0.0067.
      expect(seenAt(take, 50).u).toBeCloseTo(-back, 5)
      const told = createTakeStage(take, OPTICS).workOf('a')!.toldAt(50)
      expect(told[0]!.place!.u).toBeCloseTo(-back, 5)
    }
  })

  it('keeps a figure’s size while it comes nearer, by the distance or by the lens', () => {
    let take = sampleTake([60, 60])
    take = done(take, travelLevel(take, T, 'tilda', 0, 119, [{ aspect: 'place', from: { x: 0, y: 0, depth: 3 }, to: { x: 1, y: 0.2, depth: 0.5 } }], newId))
    const size = (now: TakeBody, frame: number) => {
      const pose = createTakeStage(now, OPTICS).poseAt(frame)
      return pose.focalLengthMm / seenAt(now, frame).z
    }
    for (const span of [follow({ axes: { x: true, y: true, depth: true } }), follow({ holdsSize: true, axes: { x: true, y: true, depth: false } }), aim({ holdsSize: true })]) {
      const now = withSpan(take, span, 3)
      for (const frame of [3, 50, 90, 119]) expect(size(now, frame)).toBeCloseTo(size(now, 3), 6)
      expect(size(take, 119)).not.toBeCloseTo(size(take, 3), 1)
    }
  })

  it('goes over from what the framings say and back, and is theirs at both ends', () => {
    const keyed = [0, 119].reduce((take, frame, i) => done(take, keyFraming(take, T, 'a', frame, { ...REST, x: 0.3 + i / 2, panDegrees: i * 4 }, newId())), running(0.02))
    const take = withSpan(keyed, follow({ inFrames: 12, outFrames: 18, lagFrames: 3 }), 20, 100)
    const [poses, framed] = [posesOf(take), posesOf(keyed)]
    for (const frame of [0, 19, 20, 100, 101, 119]) expect(poses[frame]!.x).toBeCloseTo(framed[frame]!.x, 12)
    expect(poses[60]!.x).not.toBeCloseTo(framed[60]!.x, 1)
    // Whatever it has no say in stays theirs.
    for (const frame of [20, 60, 90]) expect([poses[frame]!.panDegrees, poses[frame]!.y]).toEqual([framed[frame]!.panDegrees, framed[frame]!.y])
    const steps = poses.slice(1).map((pose, i) => Math.abs(pose.x - poses[i]!.x))
    expect(Math.max(...steps)).toBeLessThan(0.15)
    const [placed] = placedSpans(take)
    expect([20, 26, 32, 91, 100].map((frame) => spanWeight(placed!, frame))).toEqual([0, 0.5, 1, 0.5, 0])
  })

  it('hands over from one figure to the next without the framings between', () => {
    const base = done(running(0.02), editLevel(running(0.02), T, 'sky', { x: -1, depth: 0 }))
    const take = withSpan(withSpan(base, follow()), follow({ id: 'f2', target: { levelId: 'sky' }, inFrames: 10 }), 60)
    expect(seenAt(take, 59).u).toBeCloseTo(0, 9)
    expect(seenAt(take, 75, 'sky').u).toBeCloseTo(0, 9)
    const poses = posesOf(take)
    for (let frame = 60; frame < 70; frame++) expect(poses[frame]!.x).toBeLessThanOrEqual(0.02 * frame + 1e-9)
  })
})

describe('aiming', () => {
  it('turns so that the point stays at its place, on the spot and along with a follow of another point', () => {
    fc.assert(
      fc.property(number(-0.3, 0.3), number(-0.15, 0.15), number(-60, 60), fc.boolean(), (u, v, rollDegrees, follows) => {
        let take = running(0.02, { y: 0.2 })
        take = done(take, keyFraming(take, T, 'a', 0, { ...REST, depth: -2, rollDegrees }, 'k1'))
        if (follows) take = withSpan(take, follow({ target: { levelId: 'sky' }, lagFrames: 4, axes: { x: true, y: true, depth: false } }))
        take = withSpan(take, aim({ u, v }), 10)
        for (const frame of [10, 60, 119]) {
          const seen = seenAt(take, frame)
          expect([seen.u, seen.v]).toEqual([expect.closeTo(u, 9), expect.closeTo(v, 9)])
          expect(createTakeStage(take, OPTICS).poseAt(frame).rollDegrees).toBeCloseTo(rollDegrees, 9)
        }
      }),
      { numRuns: 40 },
    )
  })

  it('pans the short way from where the framings look, and on past half a turn without a jump', () => {
    let take = sampleTake([50, 50])
    take = done(take, keyFraming(take, T, 'a', 0, { ...REST, panDegrees: 350 }, 'k1'))
    // All the way around the camera.
    ;[0, 25, 50, 75, 99].forEach((frame, i) => {
      const angle = (i / 4) * 2 * Math.PI
      take = done(take, keyLevel(take, T, 'tilda', frame, { place: { x: 3 * Math.sin(angle), y: 0, depth: REST.depth + 3 * Math.cos(angle) } }, newId))
    })
    const poses = posesOf(withSpan(take, aim({ lagFrames: 2 })))
    expect(poses[0]!.panDegrees).toBeCloseTo(360, 6)
    for (let i = 1; i < poses.length; i++) expect(Math.abs(poses[i]!.panDegrees - poses[i - 1]!.panDegrees)).toBeLessThan(30)
    expect(poses[99]!.panDegrees).toBeGreaterThan(690)
  })
})

describe('by hand', () => {
  it('drifts by its seed along the camera’s own axes, is at rest at both ends, and pans only where it turns', () => {
    const keyed = done(still, keyFraming(still, T, 'a', 0, { ...REST, panDegrees: 90 }, 'k1'))
    const take = withSpan(keyed, hand({ placeFw: 0.02, rollDegrees: 1, inFrames: 10, outFrames: 10 }), 10, 110)
    const poses = posesOf(take)
    const at = { ...REST, panDegrees: 90 }
    for (const frame of [0, 10, 110, 119]) expect(poses[frame]).toEqual(at)
    const across = driftAt({ amount: 0.02, periodFrames: 48, phase: 0, seed: 5 }, 50, 0)
    // Looking to the right, what is right of it lies nearer.
    expect([poses[60]!.x, poses[60]!.depth - REST.depth]).toEqual([expect.closeTo(0, 9), expect.closeTo(-across, 9)])
    expect([poses[60]!.panDegrees, poses[60]!.tiltDegrees]).toEqual([90, 0])
    expect(Math.max(...poses.map(({ rollDegrees }) => Math.abs(rollDegrees)))).toBeLessThanOrEqual(1)
    expect(posesOf(withSpan(keyed, hand({ turnDegrees: 1 }), 10, 110))[60]!.panDegrees).not.toBe(90)
    expect(posesOf(withSpan(keyed, hand({ seed: 6 }), 10, 110))[60]).not.toEqual(posesOf(withSpan(keyed, hand(), 10, 110))[60])
  })
})

describe('any span', () => {
  it('shows the same played or jumped to, and between frames lies between', () => {
    const take = withSpan(withSpan(withSpan(running(0.02), follow({ lagFrames: 7, lead: { mostFw: 0.1, atFwPerFrame: 0.02 }, inFrames: 8 }), 4, 90), aim({ target: { levelId: 'sky' }, lagFrames: 3 }), 30), hand(), 12, 80)
    const played = posesOf(take)
    const stage = createTakeStage(take, OPTICS)
    for (let i = 0; i < 120; i++) {
      const frame = (i * 71) % 120
      expect(stage.poseAt(frame)).toEqual(played[frame])
      expect(createTakeStage(take, OPTICS).poseAt(frame)).toEqual(played[frame])
    }
    expect(stage.poseAt(50.5).x).toBeCloseTo((played[50]!.x + played[51]!.x) / 2, 12)
  })

  it('does nothing where what it goes after hangs on a camera, or stands behind the lens', () => {
    const take = withSpan(running(0.02), follow())
    const hangs: TakeBody = { ...take, levels: { ...take.levels, tilda: { ...take.levels.tilda!, carrier: { kind: 'camera' } } } }
    expect(createTakeStage(hangs, OPTICS).workOf('a')).toBeNull()
    const behind = withSpan(running(0.02, { depth: -5 }), follow({ lagFrames: 3 }))
    for (const pose of posesOf(behind)) expect(Object.values(pose).every(Number.isFinite)).toBe(true)
    expect(posesOf(behind)[40]!.x).toBeCloseTo(0, 9)
  })
})
