import { describe, expect, it } from 'vitest'
import { EMPTY_OUTLINE, placedTries, takeBodySchema, tryBodySchema, type Film } from '../../document'
import { unpackSamples } from '../../moves'
import { addCamera, addTry, applyChange, invertChange, removeCamera, removePanels, removeTry, splitPanel, type Made } from '../index'
import { done, newId, REST, sampleTake, T } from '../testing'

const IDS = { tried: 'try1', samples: 'sam1' }
const samples = [0, 0.5, 3].map((at) => ({ at, pose: { ...REST, x: at / 10 } }))
const applied = (film: Film, made: Made) => {
  if (!made.ok) throw new Error(JSON.stringify(made.refusal))
  const change = { id: newId(), label: 'try', edits: made.edits }
  const now = applyChange(film, change)
  if (!now.ok) throw new Error(JSON.stringify(now.refusal))
  return { now: now.value, back: () => applyChange(now.value, invertChange(change, newId())) }
}

describe('tries of working a camera', () => {
  const take = sampleTake([60, 60])
  const project = { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 }
  const film: Film = { outline: { ...EMPTY_OUTLINE, project: { film: project }, takes: { [T]: { id: T, shotId: 's', order: 'a0', letter: 'A' } } }, takes: { [T]: take }, drawings: {} }

  it('are kept beside the take, numbered, with their samples in a unit of their own; undo empties both', () => {
    const { now, back } = applied(film, addTry(take, T, IDS, 'a', 70, 12, samples))
    const [placed] = placedTries(now.takes[T]!)
    expect(placed).toMatchObject({ from: 70, tried: { number: 1, lastFrame: 12, panelId: expect.any(String), offsetFrames: 10 } })
    expect(takeBodySchema.safeParse(now.takes[T]).success).toBe(true)
    const unit = now.tries!.sam1!
    expect(tryBodySchema.safeParse(JSON.parse(JSON.stringify(unit))).success).toBe(true)
    unpackSamples(unit.samples.sam1!).forEach(({ at, pose }, i) => {
      expect(at).toBe(samples[i]!.at)
      for (const field of Object.keys(pose) as (keyof typeof pose)[]) expect(pose[field]).toBeCloseTo(samples[i]!.pose[field], 5)
    })
    const second = applied(now, addTry(now.takes[T]!, T, { tried: 'try2', samples: 'sam2' }, 'a', 0, 5, samples)).now
    expect(placedTries(second.takes[T]!).map(({ tried }) => tried.number)).toEqual([1, 2])
    const undone = back()
    expect(undone.ok && undone.value.takes[T]).toEqual(take)
    expect(undone.ok && undone.value.tries!.sam1).toEqual({ samples: {} })
    // Thrown away, its samples stay: a copy of the take may have it too.
    expect(applied(now, removeTry(now.takes[T]!, T, 'try1')).now.tries!.sam1).toBe(unit)
  })

  it('go where their panel goes, and with their camera', () => {
    const added = applied(film, addTry(take, T, IDS, 'a', 70, 12, samples)).now
    const panelId = added.takes[T]!.tries.try1!.panelId
    const split = done(added.takes[T]!, splitPanel(added.takes[T]!, T, panelId, 4, newId()))
    expect(placedTries(split)[0]).toMatchObject({ from: 70, tried: { offsetFrames: 6 } })
    const shorter = applied(added, removePanels(added, 'film', T, [Object.keys(take.panels).find((id) => id !== panelId)!], newId)).now
    expect(placedTries(shorter.takes[T]!)[0]!.from).toBe(10)
    const two = done(added.takes[T]!, addCamera(added.takes[T]!, T, 'b', 0, REST, newId))
    expect(placedTries(done(two, removeCamera(two, T, 'a', newId)))).toEqual([])
  })

  it('are refused of no camera, past the shot, of nothing, of too much and of what is no number', () => {
    expect(addTry(take, T, IDS, 'z', 0, 5, samples)).toMatchObject({ refusal: { code: 'missing', what: 'camera' } })
    expect(addTry(take, T, IDS, 'a', 500, 5, samples)).toMatchObject({ refusal: { code: 'missing' } })
    expect(addTry(take, T, IDS, 'a', 0, 5, [])).toMatchObject({ refusal: { code: 'try-too-long' } })
    expect(addTry(take, T, IDS, 'a', 0, 5, Array(200_001).fill(samples[0]))).toMatchObject({ refusal: { code: 'try-too-long', most: 200_000 } })
    expect(addTry(take, T, IDS, 'a', 0, 5, [{ at: 0, pose: { ...REST, y: Infinity } }])).toMatchObject({ refusal: { code: 'pose-not-finite' } })
    expect(removeTry(take, T, 'nobody')).toMatchObject({ refusal: { code: 'missing', what: 'try' } })
    expect(tryBodySchema.safeParse({ samples: { s: { id: 's', at: [0, 5, -1], x: [0], y: [0], depth: [0], panDegrees: [0], tiltDegrees: [0], rollDegrees: [0], focalLengthMm: [1] } } }).success).toBe(false)
  })
})
