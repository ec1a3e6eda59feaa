import { untouchedPose } from '@rubato/core/camera'
import { cellIdOf, EMPTY_TAKE, type Drawing, type Framing, type TakeBody, orderOfNumber } from '@rubato/core/document'
import { setPanelLength, type Made } from '@rubato/core/edits'
import { applyToUnit } from '@rubato/core/edits'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createFrameStore, type FrameStore } from './frameStore'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const drawings: Record<string, Drawing> = { d0: { marks: [] }, d1: { marks: [] } }
const drawingOf = (id: string) => drawings[id] ?? null

/** Panels of 10 frames, a new drawing in each; with `moving`, a camera that travels through them. */
function takeOf(panels: number, moving = false): TakeBody {
  const framing = (id: string, panelId: string, offsetFrames: number, x: number): Framing => ({ id, cameraId: 'a', panelId, offsetFrames, pose: { ...REST, x }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false })
  const ids = Array.from({ length: panels }, (_, i) => `p${i}`)
  return {
    ...EMPTY_TAKE,
    panels: Object.fromEntries(ids.map((id, i) => [id, { id, order: orderOfNumber(i), lengthFrames: 10, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
    levels: { l: { id: 'l', order: 'a1', name: 'l', kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false } },
    cells: Object.fromEntries(ids.map((id, i) => [cellIdOf('l', id), { id: cellIdOf('l', id), levelId: 'l', panelId: id, drawingId: `d${i}` }])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings: moving ? { f1: framing('f1', 'p0', 0, 0), f2: framing('f2', ids.at(-1)!, 9, 1) } : {},
  }
}
const part = (serial: number, from: number, to: number, muted: readonly string[] = []) => ({ takeId: 't', serial, from, to, muted })
const picture = (bytes: number) => new Blob([new Uint8Array(bytes)])

/** Makes all that is wanted; says which frames. */
function makeAll(store: FrameStore, bytes = 100): number[] {
  const made: number[] = []
  for (let job = store.next(); job !== null; job = store.next()) {
    if (!store.keep(job, picture(bytes))) break
    made.push(job.frame)
  }
  return made
}

function after(take: TakeBody, made: Made): TakeBody {
  const applied = applyToUnit(take, made.ok ? made.edits[0]! : (null as never))
  if (!applied.ok) throw new Error(applied.refusal.code)
  return applied.value
}

describe('finished frames', () => {
  it('are made in the order they are wanted, one for all frames that look alike', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    store.putTake('t', 1, takeOf(2))
    store.plan([part(1, 15, 20), part(1, 0, 15)])
    expect(makeAll(store)).toEqual([15, 0])
    expect([...store.coverage('t')!.ready]).toEqual(new Array(20).fill(1))
    expect(store.pictures).toBe(2)
    expect(store.pictureOf('t', 1, 3)).toBe(store.pictureOf('t', 1, 9))
  })

  it('of a new plan wait until they are asked for, also while those of the plan before are packed', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    store.putTake('t', 1, takeOf(2))
    expect(store.pending).toBe(false)
    store.plan([part(1, 0, 10)])
    const first = store.next()!
    expect([first.frame, store.pending]).toEqual([0, false])
    store.plan([part(1, 10, 20)])
    expect(store.keep(first, picture(10))).toBe(true)
    expect(store.pending).toBe(true)
    expect(makeAll(store)).toEqual([10])
    expect(store.pending).toBe(false)
  })

  it('of a transition are made of both shots, and anew when one of them or the transition changes', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    const placed = (id: string, index: number) => ({ shot: { id, sequenceId: 's', order: orderOfNumber(index), label: id, title: '', circledTakeId: `t-${id}` }, index, startFrame: index * 20, lengthFrames: 20 })
    const at = { transition: { id: 'b', at: 'cut' as const, kind: 'dissolve' as const, lengthFrames: 6, place: 'centre' as const, angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false }, from: 17, to: 23, cutFrame: 20, before: placed('a', 0), after: placed('b', 1) }
    expect(store.putMix('mix b', 1, at)).toBe(false)
    store.putTake('t-a', 1, takeOf(2))
    store.putTake('t-b', 2, takeOf(2))
    expect(store.putMix('mix b', 1, at)).toBe(true)
    const wanted = { takeId: 'mix b', serial: 1, from: 0, to: 6, muted: [] }
    store.plan([wanted])
    const first = store.next()!
    expect(first.shown).toMatchObject({ kind: 'mix', share: 1 / 7, before: { frame: 17 }, after: { frame: -3 } })
    store.keep(first, picture(10))
    // Both shots stand still, yet every frame of the dissolve is another.
    expect(makeAll(store)).toEqual([1, 2, 3, 4, 5])
    expect([...store.coverage('mix b')!.ready]).toEqual([1, 1, 1, 1, 1, 1])
    store.putTake('t-a', 1, takeOf(2))
    store.putTake('t-b', 2, takeOf(2))
    store.putMix('mix b', 2, { ...at, transition: { ...at.transition, kind: 'wipe' } })
    store.plan([{ ...wanted, serial: 2 }])
    expect(makeAll(store)).toHaveLength(6)
    expect(store.pictureOf('mix b', 1, 0)).toBeNull()
  })

  it('are each made where the camera moves', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    store.putTake('t', 1, takeOf(2, true))
    store.plan([part(1, 0, 20)])
    expect(makeAll(store)).toHaveLength(20)
  })

  it('stay through an edit where they still show the same: only the others are made again', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    const take = takeOf(2)
    store.putTake('t', 1, take)
    store.plan([part(1, 0, 20)])
    makeAll(store)
    // A panel longer: nothing new is to be seen.
    const longer = after(take, setPanelLength(take, 't', 'p0', 17))
    store.putTake('t', 2, longer)
    store.plan([part(2, 0, 27)])
    expect(makeAll(store)).toEqual([])
    expect(store.coverage('t')!.ready).toHaveLength(27)
    // A drawing changed: its frames alone.
    drawings.d1 = { marks: [] }
    store.drawingChanged()
    store.plan([part(2, 0, 27)])
    expect(makeAll(store)).toEqual([17])
  })

  it('of another body are not given out', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    store.putTake('t', 1, takeOf(1))
    store.plan([part(1, 0, 10)])
    makeAll(store)
    expect(store.pictureOf('t', 2, 0)).toBeNull()
    expect(store.pictureOf('t', 1, 10)).toBeNull()
    expect(store.pictureOf('t', 1, -1)).toBeNull()
    store.putTake('t', 2, takeOf(1))
    expect(store.pictureOf('t', 1, 0)).toBeNull()
    expect(store.pictureOf('t', 2, 0)).not.toBeNull()
  })

  it('without a muted level are others', () => {
    const store = createFrameStore(OPTICS, 1e6, drawingOf)
    store.putTake('t', 1, takeOf(2))
    store.plan([part(1, 0, 20)])
    makeAll(store)
    store.plan([part(1, 0, 20, ['l'])])
    const made = store.next()!
    expect(made.shown).toMatchObject({ kind: 'view', muted: new Set(['l']) })
    store.keep(made, picture(1))
    // Without its only level both panels look alike.
    expect(store.next()).toBeNull()
  })

  it('never fill more than the budget; what is wanted pushes out what is not', () => {
    fc.assert(
      fc.property(fc.integer({ min: 100, max: 1500 }), fc.array(fc.tuple(fc.integer({ min: 0, max: 39 }), fc.integer({ min: 1, max: 40 })), { minLength: 1, maxLength: 8 }), (budget, wishes) => {
        const store = createFrameStore(OPTICS, budget, drawingOf)
        store.putTake('t', 1, takeOf(4, true))
        for (const [from, length] of wishes) {
          store.plan([part(1, from, Math.min(40, from + length))])
          makeAll(store)
          expect(store.bytes).toBeLessThanOrEqual(budget)
          const wanted = [...store.coverage('t')!.ready.slice(from, Math.min(40, from + length))]
          // As many of those wanted as there is room for, from the first on.
          const room = Math.min(Math.floor(budget / 100), wanted.length)
          expect(wanted.filter(Boolean).length).toBe(room)
          expect(wanted.slice(0, room).every(Boolean)).toBe(true)
        }
      }),
    )
  })
})
