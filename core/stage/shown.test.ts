import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { untouchedPose } from '../camera'
import { EMPTY_TAKE, orderOfNumber, type CameraCut, type Framing, type TakeBody } from '../document'
import { createFilmStage, createTakeStage, frameSignature, liveCameraOf, shownInTake, shownSignature, viewsOf, type Shown } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const LENGTHS = [24, 1, 35]

interface Cut {
  readonly frame: number
  readonly cameraId: string
  readonly dissolveFrames?: number
}

/** Panels of 24, 1 and 35 frames; camera A stands at x 0, B at 1, C at 2. */
function takeOf(cuts: readonly Cut[]): TakeBody {
  const anchor = (frame: number) => (frame < 24 ? { panelId: 'p0', offsetFrames: frame } : frame < 25 ? { panelId: 'p1', offsetFrames: 0 } : { panelId: 'p2', offsetFrames: frame - 25 })
  const letters = ['A', 'B', 'C']
  return {
    ...EMPTY_TAKE,
    panels: Object.fromEntries(LENGTHS.map((lengthFrames, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
    cameras: Object.fromEntries(letters.map((letter, i) => [letter.toLowerCase(), { id: letter.toLowerCase(), order: orderOfNumber(i), letter, locked: false }])),
    framings: Object.fromEntries(letters.map((letter, i): [string, Framing] => [`f${i}`, { id: `f${i}`, cameraId: letter.toLowerCase(), panelId: 'p0', offsetFrames: 0, pose: { ...REST, x: i }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false }])),
    cuts: Object.fromEntries(cuts.map(({ frame, cameraId, dissolveFrames = 0 }, i): [string, CameraCut] => [`c${i}`, { id: `c${i}`, ...anchor(frame), cameraId, dissolveFrames }])),
  }
}
const stageOf = (cuts: readonly Cut[]) => createTakeStage(takeOf(cuts), OPTICS)

describe('the live camera', () => {
  it('is the first where there is no cut, and that of the first cut from the beginning', () => {
    expect(stageOf([]).at(5).cameraId).toBe('a')
    expect([0, 30].map((frame) => stageOf([{ frame: 20, cameraId: 'b' }]).poseAt(frame).x)).toEqual([1, 1])
    expect(createTakeStage({ ...takeOf([]), cameras: {}, framings: {} }, OPTICS).at(5)).toMatchObject({ cameraId: null, pose: REST })
  })

  it('is from a cut’s frame on the one that is cut to', () => {
    const stage = stageOf([{ frame: 0, cameraId: 'a' }, { frame: 20, cameraId: 'b' }, { frame: 24, cameraId: 'c' }])
    expect([0, 19, 20, 23, 24, 59, 900].map((frame) => stage.at(frame).pose.x)).toEqual([0, 0, 1, 1, 2, 2, 2])
  })

  it('stays where a cut leads to it, to one that is gone, or back at the same frame', () => {
    expect(liveCameraOf(takeOf([{ frame: 0, cameraId: 'a' }, { frame: 9, cameraId: 'a' }, { frame: 12, cameraId: 'gone' }])).spans).toHaveLength(1)
    expect(liveCameraOf(takeOf([{ frame: 0, cameraId: 'a' }, { frame: 9, cameraId: 'b' }, { frame: 9, cameraId: 'a' }])).spans).toHaveLength(1)
    expect(liveCameraOf(takeOf([{ frame: 0, cameraId: 'b' }, { frame: 0, cameraId: 'c' }])).spans).toMatchObject([{ from: 0, cameraId: 'c' }])
  })

  it('is looked through alone by whoever names another', () => {
    const stage = stageOf([{ frame: 20, cameraId: 'b' }])
    expect([stage.through(3, 'a').pose.x, stage.through(3, 'c').pose.x, stage.poseOf('c', 3).x]).toEqual([0, 2, 2])
  })
})

describe('a dissolve from camera to camera', () => {
  it('lies half on each side, the odd frame after, and shows (i + 1)/(n + 1) of the one that comes', () => {
    const stage = stageOf([{ frame: 0, cameraId: 'a' }, { frame: 20, cameraId: 'b', dissolveFrames: 5 }])
    expect(stage.live.dissolves).toEqual([{ from: 18, to: 23, before: 'a', after: 'b' }])
    const at = (frame: number) => shownInTake('t', frame, stage)
    expect(at(17)).toEqual({ kind: 'view', takeId: 't', frame: 17, cameraId: 'a' })
    expect(at(18)).toMatchObject({ kind: 'mix', share: 1 / 6, look: { kind: 'dissolve' }, before: { cameraId: 'a', frame: 18 }, after: { cameraId: 'b', frame: 18 } })
    expect(at(22)).toMatchObject({ kind: 'mix', share: 5 / 6 })
    expect(at(23)).toEqual({ kind: 'view', takeId: 't', frame: 23, cameraId: 'b' })
  })

  it('shares the frames between two cuts where both would have them', () => {
    const { dissolves } = liveCameraOf(takeOf([{ frame: 0, cameraId: 'a' }, { frame: 20, cameraId: 'b', dissolveFrames: 20 }, { frame: 30, cameraId: 'c', dissolveFrames: 20 }]))
    expect(dissolves).toEqual([{ from: 10, to: 25, before: 'a', after: 'b' }, { from: 25, to: 40, before: 'b', after: 'c' }])
  })

  it('never lies over another, and never past the shot, whatever the cuts', () => {
    const cuts = fc.array(fc.record({ frame: fc.nat(59), cameraId: fc.constantFrom('a', 'b', 'c', 'gone'), dissolveFrames: fc.nat(60) }), { maxLength: 8 })
    fc.assert(
      fc.property(cuts, (list) => {
        const stage = stageOf(list)
        const { spans, dissolves } = stage.live
        for (const [i, { from, to, before, after }] of dissolves.entries()) {
          expect(from).toBeGreaterThanOrEqual(dissolves[i - 1]?.to ?? 0)
          expect(to).toBeLessThanOrEqual(60)
          expect(before).not.toBe(after)
        }
        for (const [i, span] of spans.entries()) if (i > 0) expect(span.cameraId).not.toBe(spans[i - 1]!.cameraId)
        for (let frame = 0; frame < 60; frame++) {
          const shown = shownInTake('t', frame, stage)
          // What is live is always among what is seen.
          expect(viewsOf(shown).map((view) => view.cameraId)).toContain(stage.live.at(frame))
          if (shown.kind === 'mix') expect(shown.share > 0 && shown.share < 1).toBe(true)
        }
      }),
    )
  })
})

describe('what is shown', () => {
  const film = (takes: Readonly<Record<string, TakeBody>>, dissolveFrames: number) => {
    const ids = Object.keys(takes)
    const stage = createFilmStage(
      {
        sequences: { s: { id: 's', order: 'a0', label: '1', title: '', targetFrames: null } },
        shots: Object.fromEntries(ids.map((id, i) => [`s${id}`, { id: `s${id}`, sequenceId: 's', order: orderOfNumber(i), label: id, title: '', circledTakeId: id }])),
        transitions: { [`s${ids[1]}`]: { id: `s${ids[1]}`, at: 'cut', kind: 'dissolve', lengthFrames: dissolveFrames, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false } },
      },
      () => 60,
    )
    const stages = new Map(ids.map((id) => [id, createTakeStage(takes[id]!, OPTICS)]))
    return (frame: number): Shown => stage.shownAt(frame, (id) => stages.get(id) ?? null)!
  }

  it('is a mix of mixes where a transition meets a camera’s dissolve', () => {
    const shown = film({ t: takeOf([{ frame: 0, cameraId: 'a' }, { frame: 58, cameraId: 'b', dissolveFrames: 4 }]), u: takeOf([]) }, 8)
    expect(shown(57)).toMatchObject({ kind: 'mix', share: 2 / 9, before: { kind: 'mix', share: 0.4, before: { takeId: 't', cameraId: 'a' }, after: { takeId: 't', cameraId: 'b' } }, after: { kind: 'view', takeId: 'u', cameraId: 'a', frame: -3 } })
    expect(viewsOf(shown(57)).map(({ takeId, cameraId }) => [takeId, cameraId])).toEqual([['t', 'a'], ['t', 'b'], ['u', 'a']])
    expect(shown(50)).toEqual({ kind: 'view', takeId: 't', frame: 50, cameraId: 'a' })
  })

  it('has a signature of its own wherever what is mixed, or how far, is another', () => {
    const take = takeOf([{ frame: 0, cameraId: 'a' }, { frame: 20, cameraId: 'b', dissolveFrames: 6 }])
    const stage = createTakeStage(take, OPTICS)
    const sign = (frame: number) => shownSignature(shownInTake('t', frame, stage), (view) => frameSignature(stage.through(view.frame, view.cameraId), (id) => id, new Set()))
    const [before, during, after] = [sign(3), [17, 18, 19, 20, 21, 22].map(sign), sign(30)]
    expect(new Set([before, ...during, after]).size).toBe(8)
    expect([sign(4), sign(16), sign(40)]).toEqual([before, before, after])
    expect(shownSignature(null, () => '')).toBe('none')
  })
})
