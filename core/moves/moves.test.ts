import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { untouchedPose, type CameraPose, type Optics } from '../camera'
import { lensOf, project } from '../camera'
import { angleAt, createBezierPath, createMove, createPath, createTiming, CUSHIONED_MOVE, isEvenOnScreen, LEVEL_MIXES, movePartsOf, turnBetween, type MoveSpec } from './index'

const OPTICS: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const STRAIGHT_EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }

describe('timing', () => {
  it('gives the worked cushion: 84 frames, leave 6, arrive 34', () => {
    const timing = createTiming({ kind: 'cushioned', leaveFrames: 6, arriveFrames: 34 }, 84)
    const at = [0, 3, 6, 30, 60, 80, 84].map((frame) => Number(timing(frame / 84).toFixed(6)))
    expect(at).toEqual([0, 0.011719, 0.046875, 0.421875, 0.867647, 0.996324, 1])
  })

  it('holds until the end and then jumps', () => {
    const timing = createTiming({ kind: 'hold' }, 10)
    expect(timing(0)).toBe(0)
    expect(timing(0.999)).toBe(0)
    expect(timing(1)).toBe(1)
  })

  it('shrinks both cushions in proportion when they do not fit', () => {
    const timing = createTiming({ kind: 'cushioned', leaveFrames: 30, arriveFrames: 10 }, 20)
    // a = 0.75, b = 0.25: speed 2, so halfway through the ramp p = 2·t²/(2·0.75).
    expect(timing(0.375)).toBeCloseTo((2 * 0.375 ** 2) / 1.5, 12)
    expect(timing(0.75)).toBeCloseTo(0.75, 12)
  })

  it('is even where both cushions are 0', () => {
    const timing = createTiming({ kind: 'cushioned', leaveFrames: 0, arriveFrames: 0 }, 20)
    expect(timing(0.3)).toBeCloseTo(0.3, 12)
  })

  it('never goes back, starts at 0 and ends at 1, for any cushions', () => {
    fc.assert(
      fc.property(fc.nat(200), fc.nat(200), fc.integer({ min: 1, max: 200 }), (leaveFrames, arriveFrames, length) => {
        const timing = createTiming({ kind: 'cushioned', leaveFrames, arriveFrames }, length)
        let last = 0
        expect(timing(0)).toBe(0)
        for (let frame = 1; frame <= length; frame++) {
          const p = timing(frame / length)
          expect(p).toBeGreaterThanOrEqual(last - 1e-12)
          last = p
        }
        expect(last).toBe(1)
      }),
    )
  })

  it('follows a custom curve from 0 to 1', () => {
    const timing = createTiming({ kind: 'custom', x1: 0.42, y1: 0, x2: 0.58, y2: 1 }, 24)
    expect(timing(0)).toBe(0)
    expect(timing(0.5)).toBeCloseTo(0.5, 6)
    expect(timing(1)).toBe(1)
  })
})

describe('a path', () => {
  const bezier = createBezierPath({ x: 0, y: 0, depth: -1.4 }, { x: 0.4, y: 0.3, depth: -1.4 }, { x: 0.6, y: 0.3, depth: -1 }, { x: 1, y: 0, depth: -0.9 })

  it('has the worked length and halfway point', () => {
    expect(bezier.lengthFw).toBeCloseTo(1.243553, 6)
    const half = bezier.at(0.5)
    expect([half.x, half.y, half.depth].map((v) => Number(v.toFixed(6)))).toEqual([0.509842, 0.224892, -1.180102])
  })

  it('hits both ends exactly', () => {
    expect(bezier.at(0)).toEqual({ x: 0, y: 0, depth: -1.4 })
    expect(bezier.at(1)).toEqual({ x: 1, y: 0, depth: -0.9 })
  })

  it('goes at one speed however it bends', () => {
    const offset = fc.record({ x: fc.double({ min: -1, max: 1, noNaN: true }), y: fc.double({ min: -1, max: 1, noNaN: true }), depth: fc.double({ min: -1, max: 1, noNaN: true }) })
    fc.assert(
      fc.property(offset, offset, (leave, arrive) => {
        const path = createPath({ x: 0, y: 0, depth: 0 }, { x: 1, y: 0.5, depth: 0.2 }, { kind: 'bent', leave, arrive })
        let walked = 0
        let last = path.at(0)
        for (let i = 1; i <= 400; i++) {
          const next = path.at(i / 400)
          walked += Math.hypot(next.x - last.x, next.y - last.y, next.depth - last.depth)
          last = next
          if (i % 100 === 0) expect(walked / path.lengthFw).toBeCloseTo(i / 400, 1)
        }
      }),
      { numRuns: 30 },
    )
  })

  it('of no length stays where it is', () => {
    const still = createPath({ x: 1, y: 2, depth: 3 }, { x: 1, y: 2, depth: 3 }, { kind: 'straight' })
    expect(still.at(0.4)).toEqual({ x: 1, y: 2, depth: 3 })
    expect(still.lengthFw).toBe(0)
  })
})

describe('angles', () => {
  it('go the short way round', () => {
    expect(turnBetween(350, 10)).toBe(20)
    expect(turnBetween(10, 350)).toBe(-20)
    expect(angleAt(350, 10, 0.5)).toBe(360)
  })

  it('keep a full turn that was keyed', () => {
    expect(turnBetween(0, 360)).toBe(360)
    expect(turnBetween(0, -720)).toBe(-720)
  })
})

describe('a move', () => {
  const to: CameraPose = { ...REST, x: 0.3, y: 0.1, depth: -0.5 }

  it('even on screen gives the worked place halfway', () => {
    const move = createMove(REST, to, { ...STRAIGHT_EVEN, evenness: { kind: 'screen', subjectDepth: 0 } }, 100, OPTICS)
    const half = move(50)
    expect([half.x, half.y, half.depth].map((v) => Number(v.toFixed(6)))).toEqual([0.1875, 0.0625, -0.833333])
  })

  it('even on screen grows the picture by the same factor every frame', () => {
    const move = createMove(REST, { ...to, focalLengthMm: 70 }, { ...STRAIGHT_EVEN, evenness: { kind: 'screen', subjectDepth: 0 } }, 24, OPTICS)
    const width = (frame: number) => -move(frame).depth / (move(frame).focalLengthMm / 36)
    const factor = width(1) / width(0)
    for (let frame = 1; frame < 24; frame++) expect(width(frame + 1) / width(frame)).toBeCloseTo(factor, 9)
  })

  it('even on screen closes on one point that never slides', () => {
    const move = createMove(REST, to, { ...STRAIGHT_EVEN, evenness: { kind: 'screen', subjectDepth: 0 } }, 40, OPTICS)
    // The fixed point of the zoom that takes the first view of the subject plane to the last.
    const g = to.depth / REST.depth
    const point = { x: to.x / (1 - g), y: to.y / (1 - g), depth: 0 }
    const first = project(lensOf(move(0), OPTICS), point)
    for (let frame = 1; frame <= 40; frame++) {
      const seen = project(lensOf(move(frame), OPTICS), point)
      expect(seen.u).toBeCloseTo(first.u, 9)
      expect(seen.v).toBeCloseTo(first.v, 9)
    }
  })

  it('falls back to the set where the subject is not before the lens, or the path bends', () => {
    expect(isEvenOnScreen(REST, to, { ...STRAIGHT_EVEN, evenness: { kind: 'screen', subjectDepth: -0.7 } })).toBe(false)
    const bent = { kind: 'bent', leave: REST, arrive: REST } as const
    expect(isEvenOnScreen(REST, to, { ...STRAIGHT_EVEN, path: bent, evenness: { kind: 'screen', subjectDepth: 0 } })).toBe(false)
  })

  it('holds its first framing before it begins and its last after it ends', () => {
    const move = createMove(REST, to, CUSHIONED_MOVE, 48, OPTICS)
    expect(move(-3)).toBe(REST)
    expect(move(0)).toBe(REST)
    expect(move(48)).toBe(to)
    expect(move(90)).toBe(to)
  })

  it('of no length is a jump to the later framing', () => {
    expect(createMove(REST, to, CUSHIONED_MOVE, 0, OPTICS)(0)).toBe(to)
  })

  it('zooms by equal ratios', () => {
    const move = createMove(REST, { ...REST, focalLengthMm: 200 }, STRAIGHT_EVEN, 10, OPTICS)
    expect(move(5).focalLengthMm).toBeCloseTo(100, 9)
  })

  it('bent on its way keeps its timing', () => {
    const bent: MoveSpec = { ...CUSHIONED_MOVE, path: { kind: 'bent', leave: { x: 0, y: 0.4, depth: 0 }, arrive: { x: 0, y: 0.4, depth: 0 } } }
    const path = createPath(REST, to, bent.path)
    const timing = createTiming(bent.timing, 48)
    const move = createMove(REST, to, bent, 48, OPTICS)
    for (const frame of [5, 20, 43]) expect(move(frame).x).toBeCloseTo(path.at(timing(frame / 48)).x, 12)
  })
})

describe('what a move does', () => {
  it('is told in parts', () => {
    const to = { ...REST, depth: REST.depth * 0.68, panDegrees: 4 }
    expect(movePartsOf(REST, to, CUSHIONED_MOVE)).toEqual({ kind: 'move', parts: [{ does: 'truck', way: 'in', percent: 32 }, { does: 'pan', way: 'right' }] })
    expect(movePartsOf(REST, { ...REST, x: -0.2, y: 0.1, focalLengthMm: 75 }, CUSHIONED_MOVE).parts.map(({ does, way }) => [does, way])).toEqual([['zoom', 'in'], ['travel', 'left'], ['pedestal', 'up']])
  })

  it('is an arc where a bent path turns the camera', () => {
    const bent: MoveSpec = { ...CUSHIONED_MOVE, path: { kind: 'bent', leave: { x: 0.1, y: 0, depth: 0 }, arrive: { x: 0, y: 0, depth: -0.1 } } }
    expect(movePartsOf(REST, { ...REST, x: 0.5, panDegrees: -30, tiltDegrees: 2 }, bent)).toEqual({ kind: 'move', parts: [{ does: 'arc', way: 'right', degrees: 30 }, { does: 'tilt', way: 'up' }] })
  })

  it('is nothing in a hold, and a cut where it jumps', () => {
    expect(movePartsOf(REST, REST, CUSHIONED_MOVE)).toEqual({ kind: 'hold', parts: [] })
    expect(movePartsOf(REST, { ...REST, x: 1 }, { ...CUSHIONED_MOVE, timing: { kind: 'hold' } })).toEqual({ kind: 'cut', parts: [{ does: 'travel', way: 'right' }] })
    expect(movePartsOf(REST, { ...REST, x: 1 }, CUSHIONED_MOVE, 1).kind).toBe('cut')
  })
})

it('values that go by the same timing are each what they are alone, in whatever turn they are asked for', () => {
  const spec = { ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames: 6, arriveFrames: 9, settleFrames: 4 } } as const
  const another = { ...spec, timing: { ...spec.timing, arriveFrames: 3 } } as const
  const ask = () => [LEVEL_MIXES.size(1, 4, spec, 48, 4), LEVEL_MIXES.opacity(0, 1, spec, 48, 4), LEVEL_MIXES.size(1, 4, another, 48, 4), LEVEL_MIXES.opacity(0, 1, spec, 30, 4)]
  const together = ask()
  const frames = Array.from({ length: 160 }, (_, i) => ((i * 37) % 53) + (i % 3) / 3)
  for (const frame of frames) {
    const alone = ask().map((way) => way(frame))
    expect(together.map((way) => way(frame))).toEqual(alone)
    expect([...together].reverse().map((way) => way(frame))).toEqual([...alone].reverse())
    // A size goes as an opacity of the same timing does, by its logarithm.
    expect(Math.log(alone[0]!) / Math.log(4)).toBeCloseTo(alone[1]!, 12)
  }
  expect(together[0]!(24)).not.toBe(together[2]!(24))
})
