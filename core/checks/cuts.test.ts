import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CameraPose } from '../camera'
import type { Level, TakeBody } from '../document'
import { cutTo, keyFraming, travelLevel } from '../edits'
import { done, level, newId, OPTICS, REST, T } from '../edits/testing'
import { CUSHIONED_MOVE, type MoveSpec } from '../moves'
import { createTakeStage } from '../stage'
import { aboutReading, cutsInside, eyeOf, eyeTravel, figuresIn, readCut, sideOfLine, worstVerdict, type CutReading, type CutSide } from '.'
import { EVEN, takeOf } from './testing'

/** A figure .2 × .4 fw, its foot at the level's place. */
const BOUNDS = { left: -0.1, right: 0.1, bottom: -0.2, top: 0.2 }
const boundsOf = () => BOUNDS
const figure = (id: string, order: number, fields: Partial<Level> = {}) => level(id, order, 0, { figure: true, name: id, ...fields })
const rest = (pose: Partial<CameraPose>, levels: readonly Level[], frames = 25): TakeBody => {
  const take = takeOf(levels, frames)
  return done(take, keyFraming(take, T, 'a', 0, { ...REST, ...pose }, 'f1'))
}
/** A camera that goes from one pose to another over the shot. */
function moving(from: Partial<CameraPose>, to: Partial<CameraPose>, levels: readonly Level[] = [], move: MoveSpec = EVEN, frames = 25): TakeBody {
  const first = rest(from, levels, frames)
  const second = done(first, keyFraming(first, T, 'a', frames - 1, { ...REST, ...to }, 'f2'))
  return { ...second, framings: { ...second.framings, f1: { ...second.framings.f1!, move } } }
}
const walking = (by: number, fields: Partial<Level> = {}): TakeBody => {
  const take = rest({}, [figure('tilda', 1, fields)])
  return done(take, travelLevel(take, T, 'tilda', 0, 24, [{ aspect: 'place', from: { x: -by / 2, y: 0, depth: 0 }, to: { x: by / 2, y: 0, depth: 0 } }], newId))
}
const end = (take: TakeBody, speakers: readonly string[] = []): CutSide => ((stage) => ({ stage, frame: stage.lengthFrames - 1, cameraId: 'a', speakers }))(createTakeStage(take, OPTICS))
const start = (take: TakeBody, speakers: readonly string[] = []): CutSide => ({ stage: createTakeStage(take, OPTICS), frame: 0, cameraId: 'a', speakers })
const read = <K extends CutReading['kind']>(kind: K, before: CutSide, after: CutSide, said?: Parameters<typeof readCut>[1]['said']) =>
  readCut({ kind: 'shots', before, after }, { fps: 24, boundsOf, ...(said === undefined ? {} : { said }) }).find((each) => each.kind === kind) as Extract<CutReading, { readonly kind: K }> | undefined

describe('the eye', () => {
  it('goes 51.971 % of the frame from (.31, .12) to (−.2, .02)', () => {
    expect(eyeTravel({ u: 0.31, v: 0.12 }, { u: -0.2, v: 0.02 })).toBeCloseTo(0.51971, 5)
  })

  it('is at who speaks, else at the head of the largest figure, else at the middle', () => {
    const take = rest({}, [figure('tilda', 1, { x: 0.3 }), figure('Brisket', 2, { x: -0.3, scale: 0.5 }), level('sky', 3, 3)])
    const figures = figuresIn(createTakeStage(take, OPTICS).at(0), boundsOf)
    expect(figures.map(({ name }) => name)).toEqual(['tilda', 'Brisket'])
    // The middle of the top sixth of .4 fw.
    expect(eyeOf(figures, [])).toEqual({ by: 'figure', name: 'tilda', u: expect.closeTo(0.3, 9), v: expect.closeTo(0.2 - 0.4 / 12, 9) })
    expect(eyeOf(figures, ['oskar', ' brisket'])).toMatchObject({ by: 'speaker', name: 'Brisket', u: expect.closeTo(-0.3, 9) })
    expect(eyeOf([], ['oskar'])).toEqual({ by: 'centre', name: null, u: 0, v: 0 })
    // Out of the picture, behind the lens or without art nobody is looked at; one cut off at the edge no farther out than that.
    expect(figuresIn(createTakeStage(rest({}, [figure('a', 1, { x: 3 }), figure('b', 2, { depth: -5 })]), OPTICS).at(0), boundsOf)).toEqual([])
    expect(figuresIn(createTakeStage(take, OPTICS).at(0), () => null)).toEqual([])
    expect(figuresIn(createTakeStage(rest({}, [figure('a', 1, { x: 0.55 })]), OPTICS).at(0), boundsOf)[0]!.head.u).toBe(0.5)
  })

  it('is easy under 30 %, to be looked at to 45 and to be mended over it', () => {
    const at = (x: number) => rest({}, [figure('tilda', 1, { x })])
    expect([0.14, 0.2, 0.24].map((x) => read('eye', end(at(-x)), start(at(x)))!.verdict)).toEqual(['well', 'look', 'fix'])
  })
})

describe('the subject’s size and angle', () => {
  it('camera x .1, then x .3, depth −1.2, pan −5: × 1.153419, and 8.881831° from another side, reads as a jump', () => {
    const tilda = figure('tilda', 1, { x: 0.2 })
    const found = read('size', end(rest({ x: 0.1 }, [tilda])), start(rest({ x: 0.3, depth: -1.2, panDegrees: -5 }, [tilda])))!
    expect([found.before, found.after, found.ratio, found.turnDegrees]).toEqual([0.4, 0.461368, 1.153419, 8.881831].map((value) => expect.closeTo(value, 6)))
    expect(found.verdict).toBe('look')
    expect(read('size', end(rest({ x: 0.1 }, [tilda])), start(rest({ focalLengthMm: 100 }, [tilda])))!.verdict).toBe('well')
    expect(read('size', end(rest({}, [tilda])), start(rest({}, [figure('Oskar', 1)])))).toBeUndefined()
  })

  it('is turned about with the cut: the ratio the other way, the angle the same', () => {
    const number = fc.double({ min: -0.3, max: 0.3, noNaN: true })
    const poses = fc.record({ x: number, y: number, depth: fc.double({ min: -3, max: -1, noNaN: true }), panDegrees: number })
    fc.assert(
      fc.property(poses, poses, (a, b) => {
        const [one, other] = [rest(a, [figure('tilda', 1)]), rest(b, [figure('tilda', 1)])]
        const [there, back] = [read('size', end(one), start(other)), read('size', end(other), start(one))]
        fc.pre(there !== undefined && back !== undefined)
        expect(there!.ratio * back!.ratio).toBeCloseTo(1, 9)
        expect(there!.turnDegrees).toBeCloseTo(back!.turnDegrees, 6)
        expect(there!.verdict).toBe(back!.verdict)
      }),
      { numRuns: 40 },
    )
  })
})

describe('direction', () => {
  const heading = (before: TakeBody, after: TakeBody) => ((found) => [found?.before, found?.after, found?.says, found?.verdict])(read('direction', end(before), start(after)))

  it('is kept, flipped, or passes through to us or away; who stands says nothing', () => {
    expect(heading(walking(0.6), walking(0.4))).toEqual(['right', 'right', 'kept', 'well'])
    expect(heading(walking(0.6), walking(-0.4))).toEqual(['right', 'left', 'flipped', 'fix'])
    const toUs = rest({}, [figure('tilda', 1, { depth: 1 })])
    const comes = done(toUs, travelLevel(toUs, T, 'tilda', 0, 24, [{ aspect: 'place', from: { x: 0, y: 0, depth: 1 }, to: { x: 0, y: 0, depth: 0 } }], newId))
    expect(heading(walking(0.6), comes)).toEqual(['right', 'to us', 'through', 'well'])
    expect(heading(walking(0.6), rest({}, [figure('tilda', 1)]))).toEqual(['right', 'still', 'begins', 'well'])
    expect(read('direction', end(rest({}, [figure('tilda', 1)])), start(rest({ x: 0.2 }, [figure('tilda', 1)])))).toBeUndefined()
  })

  it('of one whom the camera goes along with is where they go; a camera that goes past one who stands turns nobody about', () => {
    const along = ((take) => done(take, keyFraming(take, T, 'a', 24, { ...REST, x: 0.6 }, 'f2')))(walking(0.6))
    expect(heading(along, walking(-0.6))).toEqual(['right', 'left', 'flipped', 'fix'])
    const past = moving({ x: -0.3 }, { x: 0.3 }, [figure('tilda', 1)])
    expect(heading(past, walking(0.6))[2]).toBe('begins')
  })
})

describe('the line of action', () => {
  it('A (0, 1), B (1, 1.2): −2.48 from camera (.4, −1.4), 1.88 from (.6, 3)', () => {
    const at = (x: number, depth: number) => ({ x, y: 0, depth })
    expect(sideOfLine(at(0, 1), at(1, 1.2), at(0.4, -1.4))).toBeCloseTo(-2.48, 9)
    expect(sideOfLine(at(0, 1), at(1, 1.2), at(0.6, 3))).toBeCloseTo(1.88, 9)
  })

  it('is crossed where the camera stands on its other side after the cut', () => {
    const two = [figure('tilda', 1, { x: -0.2, depth: 1, facing: 'upright' }), figure('oskar', 2, { x: 0.2, depth: 1.2, facing: 'upright' })]
    const [here, near, across] = [rest({}, two), rest({ x: -0.3 }, two), rest({ x: 0, depth: 3.5, panDegrees: 180 }, two)]
    expect(read('line', end(here), start(near))).toMatchObject({ verdict: 'well' })
    expect(read('line', end(here), start(across))).toMatchObject({ verdict: 'fix', names: expect.arrayContaining(['tilda', 'oskar']) })
    expect(read('line', end(here), start(rest({}, [two[0]!])))).toBeUndefined()
  })
})

describe('motion', () => {
  const says = (before: TakeBody, after: TakeBody) => ((found) => `${found.says}: ${found.verdict}`)(read('motion', end(before), start(after))!)
  const [still, right, faster, left] = [rest({}, []), moving({}, { x: 0.6 }), moving({}, { x: 1.2 }), moving({}, { x: -0.6 })]
  const [arrives, leaves] = [moving({}, { x: 0.6 }, [], { ...EVEN, timing: { kind: 'cushioned', leaveFrames: 0, arriveFrames: 12 } }), moving({}, { x: 0.6 }, [], { ...EVEN, timing: { kind: 'cushioned', leaveFrames: 12, arriveFrames: 0 } })]

  it('is well at rest, at like speeds, where it has come to rest and where it sets off; else it is to be looked at', () => {
    expect(says(still, still)).toBe('rest to rest: well')
    expect(says(right, right)).toBe('alike: well')
    expect(says(arrives, still)).toBe('comes to rest: well')
    expect(says(still, leaves)).toBe('sets off: well')
    expect(says(moving({}, { x: 0.6 }, [], CUSHIONED_MOVE), still)).toBe('comes to rest: well')
    expect(says(right, still)).toBe('stops dead: look')
    expect(says(still, right)).toBe('starts at full speed: look')
    expect(says(right, faster)).toBe('another speed: look')
    expect(says(right, left)).toBe('against each other: look')
    // 0.6 fw in 24 frames, at the picture plane.
    expect(read('motion', end(right), start(still))!.before).toBeCloseTo(0.6, 6)
  })
})

describe('length', () => {
  it('is too short for more words than can be said, or read, in it; beside its neighbours it is told', () => {
    const one = (spokenWords: number, wordsToRead = 0) => read('length', end(rest({}, [])), start(rest({}, [])), { spokenWords, wordsToRead, neighbours: [2, 4] })!
    expect(one(2)).toMatchObject({ verdict: 'well', seconds: 25 / 24, asks: 0.8, neighbours: 3 })
    expect(one(3).verdict).toBe('look')
    expect(one(0, 1)).toMatchObject({ verdict: 'look', asks: 1 + 1 / 3 })
    expect(one(0)).toMatchObject({ verdict: 'well', asks: 0 })
  })
})

describe('cuts inside a shot', () => {
  it('are where another camera is live at once, and where the live one has framings a frame apart or jumps from a hold', () => {
    const hold = { ...EVEN, timing: { kind: 'hold' as const } }
    const take = rest({}, [], 60)
    const framed = [[20, 0.2], [21, 0.5], [40, 0.5]].reduce((now, [frame, x]) => done(now, keyFraming(now, T, 'a', frame!, { ...REST, x: x! }, `k${frame}`)), take)
    const jumps = { ...framed, framings: { ...framed.framings, f1: { ...framed.framings.f1!, move: hold } } }
    expect(cutsInside(createTakeStage(jumps, OPTICS)).map(({ kind, frame }) => [kind, frame])).toEqual([['framings', 20], ['framings', 21]])
    const two = { ...jumps, cameras: { ...jumps.cameras, b: { ...jumps.cameras.a!, id: 'b', order: 'a2', letter: 'B' } } }
    const cut = done(two, cutTo(two, T, 30, 'b', newId))
    expect(cutsInside(createTakeStage(cut, OPTICS)).map(({ kind, frame, from, to }) => [kind, frame, from, to])).toEqual([['framings', 20, 'a', 'a'], ['framings', 21, 'a', 'a'], ['cameras', 30, 'a', 'b']])
    expect(cutsInside(createTakeStage(takeOf([]), OPTICS))).toEqual([])
  })
})

describe('what is read', () => {
  it('is about the same until something of it is another, and the worst of it counts', () => {
    const readings = readCut({ kind: 'shots', before: end(walking(0.6)), after: start(walking(-0.4)) }, { fps: 24, boundsOf })
    const again = readCut({ kind: 'shots', before: end(walking(0.6)), after: start(walking(-0.4)) }, { fps: 24, boundsOf })
    expect(readings.map(aboutReading)).toEqual(again.map(aboutReading))
    expect(aboutReading(readCut({ kind: 'shots', before: end(walking(0.6)), after: start(walking(-0.3)) }, { fps: 24, boundsOf })[0]!)).not.toBe(aboutReading(readings[0]!))
    expect(worstVerdict(readings)).toBe('fix')
    expect(worstVerdict([])).toBe('well')
  })
})
