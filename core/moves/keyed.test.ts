import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, project, untouchedPose, type CameraPose, type Optics } from '../camera'
import { add, length, scale, subtract } from '../geometry'
import { bentThrough, createMove, createPath, createTiming, joinedSpec, middleOf, mirroredMove, oppositeHandle, READY_MADE, READY_MADE_AMOUNTS, readyMadeMove, reversedMove, scaledMove, POSES, smoothHandles, spacedFrames, type Keyed, type MoveSpec, type Path, type Timing } from './index'

const OPTICS: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)

const fine = (min: number, max: number) => fc.integer({ min: min * 1000, max: max * 1000 }).map((n) => n / 1000)
const points = fc.record({ x: fine(-2, 2), y: fine(-2, 2), depth: fine(-3, 1) })
const poses: fc.Arbitrary<CameraPose> = fc.record({ x: fine(-2, 2), y: fine(-2, 2), depth: fine(-3, -0.5), panDegrees: fine(-80, 80), tiltDegrees: fine(-60, 60), rollDegrees: fine(-90, 90), focalLengthMm: fine(18, 135) })
const timings: fc.Arbitrary<Timing> = fc.oneof(
  fc.constant<Timing>({ kind: 'even' }),
  fc.constant<Timing>({ kind: 'hold' }),
  fc.record({ kind: fc.constant('cushioned' as const), leaveFrames: fc.nat(40), arriveFrames: fc.nat(40), settleFrames: fc.nat(30) }),
  // Eighths stay exact when they are taken from 1.
  fc.record({ kind: fc.constant('custom' as const), x1: fc.nat(8).map((n) => n / 8), y1: fc.nat(8).map((n) => n / 8), x2: fc.nat(8).map((n) => n / 8), y2: fc.nat(8).map((n) => n / 8) }),
)
const paths: fc.Arbitrary<Path> = fc.oneof(fc.constant<Path>({ kind: 'straight' }), fc.record({ kind: fc.constant('bent' as const), leave: points, arrive: points }))
const specs: fc.Arbitrary<MoveSpec> = fc.record({ timing: timings, path: paths, evenness: fc.constant({ kind: 'set' as const }) })
const moves: fc.Arbitrary<readonly Keyed<CameraPose>[]> = fc
  .array(fc.record({ gap: fc.integer({ min: 1, max: 60 }), pose: poses, move: specs }), { minLength: 1, maxLength: 7 })
  .map((list) => {
    let frame = 0
    return list.map(({ gap, pose, move }, i) => ({ frame: (frame += i === 0 ? 0 : gap), value: pose, move }))
  })

describe('a move that settles', () => {
  const L = 40
  it('is not there yet on its last frame, arrives when it has settled, and never overshoots or goes back', () => {
    fc.assert(
      fc.property(fc.nat(60), fc.nat(60), fc.integer({ min: 1, max: 60 }), (leaveFrames, arriveFrames, settleFrames) => {
        const timing = createTiming({ kind: 'cushioned', leaveFrames, arriveFrames, settleFrames }, L)
        expect(timing(1)).toBeLessThan(1)
        let last = 0
        for (let frame = 0; frame <= L + settleFrames; frame++) {
          const p = timing(frame / L)
          expect(p).toBeGreaterThanOrEqual(last - 1e-12)
          expect(p).toBeLessThanOrEqual(1)
          last = p
        }
        expect(last).toBe(1)
      }),
    )
  })

  it('is the plain cushion without a settle, and keeps its speed where the tail begins', () => {
    const plain = createTiming({ kind: 'cushioned', leaveFrames: 6, arriveFrames: 34 }, 84)
    const none = createTiming({ kind: 'cushioned', leaveFrames: 6, arriveFrames: 34, settleFrames: 0 }, 84)
    for (let frame = 0; frame <= 84; frame++) expect(none(frame / 84)).toBe(plain(frame / 84))
    const tail = createTiming({ kind: 'cushioned', leaveFrames: 0, arriveFrames: 10, settleFrames: 20 }, L)
    const h = 1e-6
    const at = 1 - 10 / L
    expect((tail(at + h) - tail(at)) / h).toBeCloseTo((tail(at) - tail(at - h)) / h, 3)
    // v = 1/(1 − ¼ + ¾/(8/3)), T = 0.75, e = 1 + 0.5/0.75.
    expect(tail(1)).toBeCloseTo(1 - ((1 / (0.75 + 0.75 / (8 / 3))) * 0.75 * (0.5 / 0.75) ** (8 / 3)) / (8 / 3), 12)
  })

  it('goes no further past its end than there is room', () => {
    const to = { ...REST, x: 1 }
    const move = createMove(REST, to, { timing: { kind: 'cushioned', leaveFrames: 0, arriveFrames: 4, settleFrames: 30 }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, L, OPTICS, 5)
    expect(move(L + 4).x).toBeLessThan(1)
    expect(move(L + 5)).toBe(to)
  })
})

describe('a copied move', () => {
  it('is the original when it is mirrored twice', () => {
    fc.assert(fc.property(moves, (move) => void expect(mirroredMove(mirroredMove(move, POSES), POSES)).toEqual(move)))
  })

  it('is the original when it is reversed twice', () => {
    fc.assert(fc.property(moves, (move) => void expect(reversedMove(reversedMove(move))).toEqual(move)))
  })

  it('is seen as in a mirror when it is mirrored', () => {
    fc.assert(
      fc.property(poses, points, (pose, point) => {
        const [mirror] = mirroredMove([{ frame: 0, value: pose, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } }], POSES)
        const seen = project(lensOf(pose, OPTICS), point)
        fc.pre(Math.abs(seen.z) > 0.05)
        const other = project(lensOf(mirror!.value, OPTICS), { ...point, x: -point.x })
        expect(other.u).toBeCloseTo(-seen.u, 6)
        expect(other.v).toBeCloseTo(seen.v, 6)
      }),
    )
  })

  it('runs back along the same path in the same time when it is reversed', () => {
    fc.assert(
      fc.property(poses, poses, fc.nat(20), fc.nat(20), paths, (from, to, leaveFrames, arriveFrames, path) => {
        const move: MoveSpec = { timing: { kind: 'cushioned', leaveFrames, arriveFrames }, path, evenness: { kind: 'set' } }
        const [a, b] = reversedMove([{ frame: 0, value: from, move }, { frame: 50, value: to, move }])
        const there = createMove(from, to, move, 50, OPTICS)
        const back = createMove(a!.value, b!.value, a!.move, 50, OPTICS)
        for (const frame of [0, 7, 25, 43, 50]) expect(length(subtract(back(50 - frame), there(frame)))).toBeLessThan(1e-6)
      }),
      { numRuns: 40 },
    )
  })

  it('scaled takes exactly the frames asked for, keeps its order, and keeps a frame for each framing', () => {
    fc.assert(
      fc.property(moves, fc.integer({ min: 0, max: 400 }), (move, lengthFrames) => {
        const scaled = scaledMove(move, lengthFrames)
        if (lengthFrames < move.length - 1) return void expect(scaled).toBeNull()
        expect(scaled).toHaveLength(move.length)
        if (move.length > 1) expect(scaled!.at(-1)!.frame).toBe(lengthFrames)
        for (let i = 1; i < scaled!.length; i++) expect(scaled![i]!.frame).toBeGreaterThan(scaled![i - 1]!.frame)
      }),
    )
  })

  it('keeps cushions in proportion when it is scaled', () => {
    const move: MoveSpec = { timing: { kind: 'cushioned', leaveFrames: 6, arriveFrames: 12, settleFrames: 4 }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
    const scaled = scaledMove([{ frame: 0, value: REST, move }, { frame: 40, value: REST, move }], 20)!
    expect(scaled[0]!.move.timing).toEqual({ kind: 'cushioned', leaveFrames: 3, arriveFrames: 6, settleFrames: 2 })
  })

  it('leaves as the first and arrives as the second when two become one', () => {
    const first: MoveSpec = { timing: { kind: 'cushioned', leaveFrames: 5, arriveFrames: 0 }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
    const second: MoveSpec = { timing: { kind: 'cushioned', leaveFrames: 0, arriveFrames: 9, settleFrames: 3 }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
    expect(joinedSpec(first, second).timing).toEqual({ kind: 'cushioned', leaveFrames: 5, arriveFrames: 9, settleFrames: 3 })
    expect(joinedSpec({ ...first, timing: { kind: 'even' } }, { ...second, timing: { kind: 'even' } }).timing).toEqual({ kind: 'even' })
  })

  it('spaces frames between two ends, never two on one', () => {
    expect(spacedFrames([3.4, 3.6, 3.5], 0, 10)).toEqual([3, 4, 5])
    expect(spacedFrames([9, 9.2, 30], 0, 10)).toEqual([8, 9, 10])
    expect(spacedFrames([-4, -3], 2, 10)).toEqual([2, 3])
  })
})

describe('a bent path', () => {
  it('never changes timing: each frame is as far along its length as on the straight one', () => {
    fc.assert(
      fc.property(poses, poses, timings, points, points, fc.integer({ min: 2, max: 90 }), (from, to, timing, leave, arrive, frames) => {
        const evenness = { kind: 'set' } as const
        const solved = createPath(from, to, { kind: 'bent', leave, arrive })
        const chord = length(subtract(to, from))
        fc.pre(solved.lengthFw > 0.05 && chord > 0.05)
        const straight = createMove(from, to, { timing, path: { kind: 'straight' }, evenness }, frames, OPTICS)
        const bent = createMove(from, to, { timing, path: { kind: 'bent', leave, arrive }, evenness }, frames, OPTICS)
        for (let frame = 0; frame <= frames; frame += Math.max(1, frames >> 3)) {
          const [a, b] = [straight(frame), bent(frame)]
          expect(b.panDegrees).toBe(a.panDegrees)
          expect(b.focalLengthMm).toBe(a.focalLengthMm)
          const p = length(subtract(a, from)) / chord
          // A custom curve may leave 0…1; a path ends at its ends.
          if (p >= 0 && p <= 1) expect(length(subtract(b, solved.at(p)))).toBeLessThan(1e-5)
        }
      }),
      { numRuns: 60 },
    )
  })

  it('goes through the point it was bent through', () => {
    fc.assert(
      fc.property(points, points, points, (from, to, offset) => {
        const path = bentThrough(from, to, offset)
        expect(length(subtract(middleOf(from, to, path), add(scale(add(from, to), 0.5), offset)))).toBeLessThan(1e-9)
      }),
    )
    expect(middleOf({ x: 0, y: 0, depth: 0 }, { x: 2, y: 4, depth: 6 }, { kind: 'straight' })).toEqual({ x: 1, y: 2, depth: 3 })
  })

  it('has handles in line at a smooth framing', () => {
    const { arrive, leave } = smoothHandles({ x: 0, y: 0, depth: 0 }, { x: 1, y: 1, depth: 0 }, { x: 2, y: 0, depth: 0 })
    expect(arrive.x).toBeCloseTo(-Math.SQRT2 / 3, 12)
    expect(leave.x).toBeCloseTo(Math.SQRT2 / 3, 12)
    expect([arrive.y + 0, leave.y, leave.depth]).toEqual([0, 0, 0])
    expect(oppositeHandle({ x: 3, y: 4, depth: 0 }, 10)).toEqual({ x: -6, y: -8, depth: -0 })
  })
})

describe('ready-made moves', () => {
  const subject = { x: 0.2, y: 0, depth: 0.5 }
  it('are ordinary framings over exactly the frames asked for, that begin (a reveal ends) as the camera stands', () => {
    fc.assert(
      fc.property(fc.constantFrom(...READY_MADE), poses, fc.integer({ min: 1, max: 240 }), (kind, pose, lengthFrames) => {
        const made = readyMadeMove(pose, { kind, amount: READY_MADE_AMOUNTS[kind].usual, lengthFrames, subject })
        expect(made[0]!.frame).toBe(0)
        // A whip pan's end trembles out in the last of them.
        expect(made.at(-1)!.frame).toBe(kind === 'whip-pan' ? Math.max(Math.min(lengthFrames, 7), lengthFrames - 4) : lengthFrames)
        for (let i = 1; i < made.length; i++) expect(made[i]!.frame).toBeGreaterThan(made[i - 1]!.frame)
        expect((kind === 'reveal' ? made.at(-1)! : made[0]!).value).toMatchObject({ focalLengthMm: pose.focalLengthMm, y: pose.y, rollDegrees: pose.rollDegrees })
        expect((kind === 'reveal' ? made.at(-1)! : made[0]!).value.x).toBeCloseTo(pose.x, 9)
      }),
    )
  })

  it('push in by part of the distance to the subject', () => {
    const made = readyMadeMove(REST, { kind: 'push-in', amount: 25, lengthFrames: 48, subject: { x: 0, y: 0, depth: 0 } })
    expect(made.at(-1)!.value.depth).toBeCloseTo(REST.depth * 0.75, 12)
    expect(made[0]!.move.evenness).toEqual({ kind: 'screen', subjectDepth: 0 })
  })

  it('keep the subject where it is seen and as large, all round an arc', () => {
    for (const degrees of [30, -75, 180]) {
      const made = readyMadeMove({ ...REST, x: 0.1, panDegrees: 3 }, { kind: 'arc', amount: degrees, lengthFrames: 96, subject })
      const before = project(lensOf(made[0]!.value, OPTICS), subject)
      for (let i = 0; i + 1 < made.length; i++) {
        const [from, to] = [made[i]!, made[i + 1]!]
        const move = createMove(from.value, to.value, from.move, to.frame - from.frame, OPTICS)
        for (let frame = 0; frame <= to.frame - from.frame; frame += 5) {
          const seen = project(lensOf(move(frame), OPTICS), subject)
          expect(Math.hypot(seen.u - before.u, seen.v - before.v)).toBeLessThan(2e-3)
          expect(Math.abs(seen.z / before.z - 1)).toBeLessThan(1e-3)
        }
      }
      expect(made.at(-1)!.value.panDegrees).toBeCloseTo(3 - degrees, 9)
    }
  })
})
