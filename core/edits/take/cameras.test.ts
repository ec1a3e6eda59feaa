import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inOrder, liveCameraAt, liveSpans, takeLengthFrames, type TakeBody } from '../../document'
import { createTakeStage } from '../../stage'
import { addCamera, addSpan, cutLive, cutTo, dissolveCut, keyFraming, lockCamera, moveCut, removeCamera, removeCuts, SPAN_DEFAULTS, type Made } from '../index'
import { done, newId, OPTICS, REST, sampleTake, T } from '../testing'

const three = (): TakeBody => ['b', 'c'].reduce((take, id, i) => done(take, addCamera(take, T, id, 0, { ...REST, x: i + 1 }, newId)), sampleTake())
/** What is live at each frame. */
const live = (take: TakeBody) => {
  const spans = liveSpans(take)
  return Array.from({ length: takeLengthFrames(take) }, (_, frame) => liveCameraAt(spans, frame)).join('')
}
const runs = (take: TakeBody) => liveSpans(take).map(({ from, cameraId, dissolveFrames }) => `${from}${cameraId}${dissolveFrames > 0 ? `~${dissolveFrames}` : ''}`).join(' ')

describe('cameras of a shot', () => {
  it('get the next letter and a framing of their own, and change nothing of what is live', () => {
    const take = three()
    expect(inOrder(take.cameras).map(({ letter }) => letter)).toEqual(['A', 'B', 'C'])
    expect(live(take)).toBe('a'.repeat(72))
    expect(createTakeStage(take, OPTICS).poseOf('c', 50).x).toBe(2)
    const without = done(take, removeCamera(take, T, 'b', newId))
    const again = done(without, addCamera(without, T, 'd', 3, REST, newId))
    expect(inOrder(again.cameras).map(({ id, letter }) => id + letter)).toEqual(['aA', 'cC', 'dB'])
    let many = take
    for (let i = 0; i < 23; i++) many = done(many, addCamera(many, T, `x${i}`, 0, REST, newId))
    expect(addCamera(many, T, 'one-more', 0, REST, newId)).toMatchObject({ ok: false, refusal: { code: 'too-many-cameras', most: 26 } })
  })

  it('go with all that is theirs; where they were live the one before them is', () => {
    let take = three()
    take = done(take, keyFraming(take, T, 'b', 20, REST, newId()))
    take = done(take, addSpan(take, T, { ...SPAN_DEFAULTS.hand, id: 's', cameraId: 'b', kind: 'hand', seed: 1 }, 0, 30))
    for (const [frame, id] of [[10, 'b'], [30, 'c'], [50, 'b']] as const) take = done(take, cutTo(take, T, frame, id, newId))
    expect(runs(take)).toBe('0a 10b 30c 50b')
    const gone = done(take, removeCamera(take, T, 'b', newId))
    expect(runs(gone)).toBe('0a 30c')
    expect([gone.spans, gone.spanEnds, Object.values(gone.framings).every(({ cameraId }) => cameraId !== 'b')]).toEqual([{}, {}, true])
    // The one that the shot begins with.
    expect(runs(done(take, removeCamera(take, T, 'a', newId)))).toBe('0b 30c 50b')
    expect(removeCamera(done(take, lockCamera(take, T, 'b', true)), T, 'b', newId)).toMatchObject({ ok: false, refusal: { code: 'camera-locked' } })
    expect(removeCamera(sampleTake(), T, 'a', newId)).toMatchObject({ ok: false, refusal: { code: 'last-camera' } })
  })
})

describe('camera cuts', () => {
  it('make a camera live up to the next cut, and leave what was live before', () => {
    let take = three()
    take = done(take, cutTo(take, T, 40, 'b', newId))
    expect(live(take)).toBe('a'.repeat(40) + 'b'.repeat(32))
    take = done(take, cutTo(take, T, 20, 'c', newId))
    expect(live(take)).toBe('a'.repeat(20) + 'c'.repeat(20) + 'b'.repeat(32))
    // To what is live already nothing is to be said.
    const same = done(take, cutTo(take, T, 60, 'b', newId))
    expect(same.cuts).toEqual(take.cuts)
    expect(live(done(take, cutTo(take, T, 0, 'b', newId)))).toBe('b'.repeat(20) + 'c'.repeat(20) + 'b'.repeat(32))
    expect(runs(done(take, cutTo(take, T, 40, 'c', newId)))).toBe('0a 20c')
    expect(cutTo(take, T, 3, 'z', newId)).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'camera' } })
  })

  it('are dragged between their neighbours, dissolve, and are taken out: the camera before goes on', () => {
    let take = three()
    for (const [frame, id] of [[20, 'b'], [40, 'c']] as const) take = done(take, cutTo(take, T, frame, id, newId))
    expect(runs(done(take, moveCut(take, T, 20, 5, newId)))).toBe('0a 5b 40c')
    expect(runs(done(take, moveCut(take, T, 20, 99, newId)))).toBe('0a 39b 40c')
    expect(runs(done(take, moveCut(take, T, 40, -3, newId)))).toBe('0a 20b 21c')
    expect(Object.keys(done(take, moveCut(take, T, 20, 5, newId)).cuts).sort()).toEqual(Object.keys(take.cuts).sort())
    const dissolved = done(take, dissolveCut(take, T, 20, 12, newId))
    expect(runs(dissolved)).toBe('0a 20b~12 40c')
    expect(createTakeStage(dissolved, OPTICS).live.dissolveAt(19)).toMatchObject({ before: 'a', after: 'b', from: 14, to: 26 })
    expect(runs(done(dissolved, moveCut(dissolved, T, 20, 30, newId)))).toBe('0a 30b~12 40c')
    expect(runs(done(dissolved, cutTo(dissolved, T, 20, 'c', newId)))).toBe('0a 20c~12')
    expect(runs(done(take, removeCuts(take, T, [20], newId)))).toBe('0a 40c')
    expect(runs(done(take, removeCuts(take, T, [0], newId)))).toBe('0b 40c')
    expect(done(take, removeCuts(take, T, [20, 40], newId)).cuts).toEqual({})
    for (const made of [moveCut(take, T, 0, 4, newId), moveCut(take, T, 21, 4, newId), dissolveCut(take, T, 0, 4, newId), removeCuts(take, T, [7], newId)]) expect(made).toMatchObject({ ok: false, refusal: { code: 'missing', what: 'cut' } })
  })

  it('cut live over a stretch are in the place of what was there, and nothing changes before it or after it', () => {
    const cut = fc.tuple(fc.nat(71), fc.constantFrom('a', 'b', 'c'))
    fc.assert(
      fc.property(fc.array(cut, { maxLength: 6 }), fc.array(cut, { maxLength: 6 }), fc.nat(71), fc.nat(71), (before, asked, p, q) => {
        const take = before.reduce((now, [frame, id]) => done(now, cutTo(now, T, frame, id, newId)), three())
        const [from, to] = [Math.min(p, q), Math.max(p, q)]
        const cuts = [...new Map(asked).entries()].sort((a, b) => a[0] - b[0]).map(([frame, cameraId]) => ({ frame, cameraId })).filter(({ frame }) => frame >= from && frame <= to)
        const now = live(done(take, cutLive(take, T, { from, to }, cuts, newId)))
        const was = live(take)
        let on = from === 0 ? was[0]! : was[from - 1]!
        const wanted = [...was].map((id, frame) => {
          if (frame < from || frame > to) return id
          on = cuts.find((each) => each.frame === frame)?.cameraId ?? on
          return on
        })
        expect(now).toBe(wanted.join(''))
      }),
      { numRuns: 200 },
    )
  })

  it('each change only what they say of what is live, at every frame', () => {
    const step = fc.tuple(fc.constantFrom('cut', 'move', 'remove', 'dissolve'), fc.nat(71), fc.nat(71), fc.constantFrom('a', 'b', 'c'))
    fc.assert(
      fc.property(fc.array(step, { maxLength: 10 }), (steps) => {
        let take = three()
        for (const [what, p, q, id] of steps) {
          const was = live(take)
          const cuts = liveSpans(take).map(({ from }) => from)
          const at = cuts[p % cuts.length]!
          const made: Made = what === 'cut' ? cutTo(take, T, p, id, newId) : what === 'move' ? moveCut(take, T, at, q, newId) : what === 'remove' ? removeCuts(take, T, [at], newId) : dissolveCut(take, T, at, q, newId)
          if (!made.ok) continue
          take = done(take, made)
          const now = live(take)
          const next = cuts.find((from) => from > p) ?? 72
          if (what === 'cut') expect(now).toBe(was.slice(0, p) + id.repeat(next - p) + was.slice(next))
          if (what === 'dissolve') expect(now).toBe(was)
          if (what === 'move') expect(new Set(now)).toEqual(new Set(was))
        }
      }),
      { numRuns: 150 },
    )
  })
})
