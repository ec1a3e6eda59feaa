import { EMPTY_TAKE, orderOfNumber, type TakeBody } from '@rubato/core/document'
import { createTakeStage, type StageOf } from '@rubato/core/stage'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { picturePixels } from '#shared/renders'
import { movieFrames, moviePixels, movieShown } from './moviePlan'

const project = { widthPx: 1280, heightPx: 720 }
const pixels = (aspect: number | null, size: 1 | 0.5 | 0.25 = 1, of = project) => moviePixels({ project: of as Parameters<typeof moviePixels>[0]['project'], size, dress: { aspect } })

describe('the picture in what is handed over', () => {
  it('is whole, in the middle: beside it or over and under it there is room', () => {
    expect(pixels(null)).toEqual({ widthPx: 1280, heightPx: 720, left: 0, top: 0 })
    expect(pixels(2.4)).toEqual({ widthPx: 1728, heightPx: 720, left: 224, top: 0 })
    expect(pixels(1)).toEqual({ widthPx: 1280, heightPx: 1280, left: 0, top: 280 })
    expect(pixels(4 / 3, 0.25)).toEqual({ widthPx: 320, heightPx: 240, left: 0, top: 30 })
  })

  it('of any film, in any shape: even, no smaller than the picture, as wide to high as was asked to within a px or two', () => {
    fc.assert(
      fc.property(fc.integer({ min: 64, max: 4096 }), fc.integer({ min: 64, max: 4096 }), fc.constantFrom(1 as const, 0.5 as const, 0.25 as const), fc.option(fc.double({ min: 0.2, max: 5, noNaN: true }), { nil: null }), (widthPx, heightPx, size, aspect) => {
        const of = { widthPx, heightPx }
        const picture = picturePixels({ project: of, size })
        const whole = pixels(aspect, size, of as typeof project)
        expect([whole.widthPx % 2, whole.heightPx % 2]).toEqual([0, 0])
        expect(whole.widthPx).toBeGreaterThanOrEqual(picture.widthPx)
        expect(whole.heightPx).toBeGreaterThanOrEqual(picture.heightPx)
        expect(Math.min(whole.left, whole.top)).toBe(0)
        expect(Math.abs(whole.left * 2 + picture.widthPx - whole.widthPx)).toBeLessThanOrEqual(1)
        expect(Math.abs(whole.top * 2 + picture.heightPx - whole.heightPx)).toBeLessThanOrEqual(1)
        if (aspect !== null) expect(Math.min(Math.abs(whole.widthPx - whole.heightPx * aspect), Math.abs(whole.heightPx - whole.widthPx / aspect))).toBeLessThanOrEqual(1 + 1e-9)
      }),
    )
  })

  it('has its slate and card before the frames of its span, and none of its own where that is empty', () => {
    expect(movieFrames({ span: { start: 10, end: 34 }, lead: 0 })).toBe(24)
    expect(movieFrames({ span: { start: 10, end: 34 }, lead: 48 })).toBe(72)
    expect(movieFrames({ span: { start: 10, end: 10 }, lead: 48 })).toBe(0)
    expect(movieFrames({ span: { start: 12, end: 10 }, lead: 0 })).toBe(0)
  })
})

describe('what is on the screen', () => {
  const take = (frames: number): TakeBody => ({ ...EMPTY_TAKE, panels: { p: { id: 'p', order: 'a1', lengthFrames: frames, lengthLocked: false, action: '', dialogue: '', notes: '' } }, cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } } })
  const takes: Readonly<Record<string, TakeBody>> = { t1: take(20), t2: take(12) }
  const stageOf: StageOf = (id) => (takes[id] === undefined ? null : createTakeStage(takes[id], { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }))
  const placed = (n: number, startFrame: number, lengthFrames: number) => ({ placed: { shot: { id: `s${n}`, sequenceId: 'q', order: orderOfNumber(n), label: `0${n}0`, title: '', circledTakeId: `t${n}` }, index: n - 1, startFrame, lengthFrames } })
  const shots = [placed(1, 100, 20), placed(2, 120, 12)] as unknown as Parameters<typeof movieShown>[0]['shots']
  const shown = (frame: number, alone: string | null = null) => movieShown({ shots, transitions: [], alone }, frame, stageOf)

  it('is the shot that a film’s frame lies in, at its own frame', () => {
    expect([100, 119, 120, 131].map((frame) => shown(frame))).toMatchObject([{ takeId: 't1', frame: 0 }, { takeId: 't1', frame: 19 }, { takeId: 't2', frame: 0 }, { takeId: 't2', frame: 11 }])
  })

  it('is a shot alone where that is asked for: by its own frames, before its first and past its last too', () => {
    expect([-4, 0, 25].map((frame) => shown(frame, 's1'))).toMatchObject([{ takeId: 't1', frame: -4 }, { takeId: 't1', frame: 0 }, { takeId: 't1', frame: 25 }])
  })

  it('is said not to be there where no shot is', () => {
    for (const frame of [99, 132, -1]) expect(() => shown(frame)).toThrow(`there is no shot at frame ${frame}`)
    expect(() => shown(0, 'elsewhere')).toThrow('there is no shot')
  })
})
