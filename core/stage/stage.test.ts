import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { untouchedPose, type CameraPose } from '../camera'
import { cellIdOf, EMPTY_TAKE, type Framing, type Level, type TakeBody, orderOfNumber } from '../document'
import { CUSHIONED_MOVE, type MoveSpec } from '../moves'
import { createFilmStage, createTakeStage, opticsOf, seenAt, squareImage } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const EVEN: MoveSpec = { ...CUSHIONED_MOVE, timing: { kind: 'even' } }

function level(id: string, order: number, fields: Partial<Level> = {}): Level {
  return { id, order: orderOfNumber(order), name: id, kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields } as Level
}

function takeWith(levels: readonly Level[], framings: readonly { at: [string, number]; pose: Partial<CameraPose>; move?: MoveSpec }[] = []): TakeBody {
  const panel = (id: string, order: number, lengthFrames: number) => ({ id, order: orderOfNumber(order), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' })
  const list = framings.map((entry, i): Framing => ({ id: `f${i}`, cameraId: 'a', panelId: entry.at[0], offsetFrames: entry.at[1], pose: { ...REST, ...entry.pose }, move: entry.move ?? EVEN, locked: false }))
  const cells = levels.map((entry) => ({ id: cellIdOf(entry.id, 'p1'), levelId: entry.id, panelId: 'p1', drawingId: `d-${entry.id}` }))
  return {
    ...EMPTY_TAKE,
    panels: { p1: panel('p1', 1, 24), p2: panel('p2', 2, 1), p3: panel('p3', 3, 12) },
    levels: Object.fromEntries(levels.map((entry) => [entry.id, entry])),
    cells: Object.fromEntries(cells.map((entry) => [entry.id, entry])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings: Object.fromEntries(list.map((entry) => [entry.id, entry])),
  }
}

describe('the stage of a take', () => {
  it('shows the untouched camera where there is no framing', () => {
    expect(createTakeStage(takeWith([]), OPTICS).at(5).pose).toEqual(REST)
  })

  it('is locked off at a single framing', () => {
    const stage = createTakeStage(takeWith([], [{ at: ['p2', 0], pose: { x: 0.3 } }]), OPTICS)
    for (const frame of [0, 24, 36]) expect(stage.at(frame).pose.x).toBe(0.3)
  })

  it('moves across panels from framing to framing, and holds at both ends', () => {
    const stage = createTakeStage(takeWith([], [{ at: ['p1', 4], pose: {} }, { at: ['p3', 3], pose: { x: 1.2 } }]), OPTICS)
    expect(stage.at(0).pose.x).toBe(0)
    expect(stage.at(16).pose.x).toBeCloseTo(0.6, 12)
    expect(stage.at(28).pose.x).toBe(1.2)
    expect(stage.at(36).pose.x).toBe(1.2)
  })

  it('cuts inside a shot where two framings are a frame apart', () => {
    const stage = createTakeStage(takeWith([], [{ at: ['p1', 9], pose: {} }, { at: ['p1', 10], pose: { x: 1 } }]), OPTICS)
    expect([9, 10].map((frame) => stage.at(frame).pose.x)).toEqual([0, 1])
  })

  it('gives coincident framings to the later', () => {
    const stage = createTakeStage(takeWith([], [{ at: ['p1', 9], pose: { x: 1 } }, { at: ['p1', 9], pose: { x: 2 } }]), OPTICS)
    expect(stage.at(9).pose.x).toBe(2)
    expect(stage.at(8).pose.x).toBe(1)
  })

  it('is the same at a frame whether played to or jumped to', () => {
    const take = takeWith([level('a', 1)], [{ at: ['p1', 0], pose: {} }, { at: ['p1', 20], pose: { x: 0.4, panDegrees: 12 } }, { at: ['p3', 11], pose: { y: 0.4 } }])
    const played = createTakeStage(take, OPTICS)
    for (let frame = 0; frame < 37; frame++) played.at(frame)
    fc.assert(
      fc.property(fc.nat(36), (frame) => {
        expect(createTakeStage(take, OPTICS).at(frame)).toEqual(played.at(frame))
      }),
    )
  })

  it('holds frames outside the shot at its ends', () => {
    const stage = createTakeStage(takeWith([]), OPTICS)
    expect(stage.lengthFrames).toBe(37)
    expect(stage.at(-5).frame).toBe(0)
    expect(stage.at(99)).toMatchObject({ frame: 36, panelId: 'p3', panelIndex: 2 })
    expect(stage.at(24).panelId).toBe('p2')
  })

  it('of an empty shot is an empty picture', () => {
    expect(createTakeStage(EMPTY_TAKE, OPTICS).at(0)).toMatchObject({ levels: [], panelId: null, pose: REST })
  })

  it('draws far to near, and by the rack where depths are equal', () => {
    const stage = createTakeStage(takeWith([level('near', 1, { depth: -0.5 }), level('one', 2), level('two', 3), level('sky', 4, { depth: 6 })]), OPTICS)
    expect(stage.at(0).levels.map((placed) => placed.level.id)).toEqual(['sky', 'two', 'one', 'near'])
  })

  it('leaves out hidden levels and those behind the lens', () => {
    const stage = createTakeStage(takeWith([level('hidden', 1, { visible: false }), level('behind', 2, { depth: -1.5 }), level('seen', 3)]), OPTICS)
    expect(stage.at(0).levels.map((placed) => placed.level.id)).toEqual(['seen'])
  })

  it('draws reference levels under all others or over them, whatever their depth', () => {
    const levels = [level('near', 1, { depth: -0.5 }), level('ref', 2, { kind: 'reference', depth: -1 }), level('guide', 3, { kind: 'reference', depth: 9, over: true })]
    expect(createTakeStage(takeWith(levels), OPTICS).at(0).levels.map((placed) => placed.level.id)).toEqual(['ref', 'near', 'guide'])
    // Only a reference goes over.
    expect(createTakeStage(takeWith([level('a', 1), level('b', 2, { over: true })]), OPTICS).at(0).levels.map((placed) => placed.level.id)).toEqual(['b', 'a'])
  })

  it('runs a reference sequence from its own start frame, across panels', () => {
    const stage = createTakeStage(takeWith([level('ref', 1, { kind: 'reference', sequence: { startFrame: 3, framesEach: 2 } }), level('still', 2, { kind: 'reference' })]), OPTICS)
    const shown = (frame: number) => {
      const placed = stage.at(frame).levels.find((each) => each.level.id === 'ref')!
      return [placed.drawingId, placed.pictureIndex]
    }
    expect([0, 2, 3, 4, 5, 25].map(shown)).toEqual([[null, -2], [null, -1], ['d-ref', 0], ['d-ref', 0], ['d-ref', 1], ['d-ref', 11]])
    expect(stage.at(0).levels.find((each) => each.level.id === 'still')!.pictureIndex).toBeNull()
  })

  it('holds a drawing to the shot’s end', () => {
    const stage = createTakeStage(takeWith([level('sky', 1)]), OPTICS)
    expect([0, 24, 36].map((frame) => stage.at(frame).levels[0]!.drawingId)).toEqual(['d-sky', 'd-sky', 'd-sky'])
  })

  it('tells square levels from turned ones', () => {
    const take = takeWith([level('flat', 1, { rollDegrees: 30 }), level('turned', 2, { panDegrees: 20 })], [{ at: ['p1', 0], pose: { rollDegrees: 15, x: 0.2 } }])
    const square = Object.fromEntries(createTakeStage(take, OPTICS).at(0).levels.map((placed) => [placed.level.id, placed.square]))
    expect(square).toEqual({ flat: true, turned: false })
    const panned = takeWith([level('flat', 1)], [{ at: ['p1', 0], pose: { panDegrees: 1 } }])
    expect(createTakeStage(panned, OPTICS).at(0).levels[0]!.square).toBe(false)
  })

  it('has an affine image of a square level that agrees with projecting each point', () => {
    const take = takeWith([level('flat', 1, { x: 0.2, y: -0.1, depth: 1.3, scale: 1.7, rollDegrees: 33 })], [{ at: ['p1', 0], pose: { x: 0.1, y: 0.2, depth: -1, rollDegrees: -20, focalLengthMm: 35 } }])
    const frame = createTakeStage(take, OPTICS).at(0)
    const image = squareImage(frame.lens, frame.levels[0]!)
    for (const [x, y] of [[0, 0], [0.3, -0.2], [-0.5, 0.4]] as const) {
      const seen = seenAt(frame.lens, frame.levels[0]!, { x, y })
      expect(image.u0 + x * image.xu + y * image.yu).toBeCloseTo(seen.u, 12)
      expect(image.v0 + x * image.xv + y * image.yv).toBeCloseTo(seen.v, 12)
    }
  })

  it('knows the speed on screen, and rest', () => {
    const stage = createTakeStage(takeWith([], [{ at: ['p1', 0], pose: {} }, { at: ['p1', 20], pose: { x: 0.4 } }]), OPTICS)
    expect(stage.speedOf('a', 5)).toBeCloseTo(0.02, 9)
    expect(stage.speedOf('a', 20)).toBeCloseTo(0, 12)
  })
})

describe('the film', () => {
  const shot = (id: string, order: number, sequenceId = 's1') => ({ id, sequenceId, order: orderOfNumber(order), label: id, title: '', circledTakeId: `t-${id}` })
  const outline = {
    sequences: { s2: { id: 's2', order: 'a2', label: '02', title: '', targetFrames: null }, s1: { id: 's1', order: 'a1', label: '01', title: '', targetFrames: null } },
    shots: { b: shot('b', 2), a: shot('a', 1), c: shot('c', 1, 's2') },
  }
  const lengths: Record<string, number> = { 't-a': 10, 't-b': 20, 't-c': 5 }
  const film = createFilmStage(outline, (take) => lengths[take] ?? 0)

  it('runs from shot to shot, sequence by sequence', () => {
    expect(film.shots.map((placed) => [placed.shot.id, placed.startFrame])).toEqual([['a', 0], ['b', 10], ['c', 30]])
    expect(film.lengthFrames).toBe(35)
  })

  it('finds the shot at a frame, held at both ends', () => {
    expect([-3, 0, 9, 10, 29, 30, 99].map((frame) => film.shotAt(frame)!.shot.id)).toEqual(['a', 'a', 'a', 'b', 'b', 'c', 'c'])
    expect(createFilmStage({ sequences: {}, shots: {} }, () => 0).shotAt(0)).toBeNull()
  })

  it('finds a shot by its circled take, and where a sequence begins and ends', () => {
    expect([film.placeOfTake('t-b')!.shot.id, film.placeOfTake('another')]).toEqual(['b', null])
    expect([film.spanOf('s1'), film.spanOf('s2'), film.spanOf('none')]).toEqual([{ start: 0, end: 30 }, { start: 30, end: 35 }, null])
  })

  it('takes its optics from the project', () => {
    expect(opticsOf({ filmBackMm: 36, baseLensMm: 50, widthPx: 1920, heightPx: 1080 })).toEqual({ filmBackMm: 36, baseLensMm: 50, aspect: 1920 / 1080 })
  })
})
