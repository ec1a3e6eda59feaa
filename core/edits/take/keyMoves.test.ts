import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { counterZoom, posesEqual, untouchedPose, type CameraPose, type Optics } from '../../camera'
import { cameraKeys, drawingsOf, drawingsWith, EMPTY_OUTLINE, EMPTY_TAKE, type Film, freeze, openTakeBody, placedFramings, takeBodySchema, takeProblems, type Framing, type Stroke, type TakeBody, orderOfNumber } from '../../document'
import { length } from '../../geometry'
import { CUSHIONED_MOVE, readyMadeMove, reversedMove, type MoveSpec } from '../../moves'
import { createTakeStage } from '../../stage/takeStage'
import { applyChange, applyThinned, applyToUnit, changeOnGround, clearGround, drawOnGround, editGround, bendMove, copyKeyTo, copyMove, holdUntil, invert, keyCounterZoom, lockCamera, putMove, removePreset, retimeKeys, setPath, setPreset, settleRoom, smoothKey, type Made } from '../index'

const OPTICS: Optics = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const at = (x: number, y = 0): CameraPose => ({ ...REST, x, y })

/** A shot of three panels of 40 frames. */
function takeWith(framings: readonly { readonly frame: number; readonly pose: CameraPose; readonly move?: MoveSpec; readonly locked?: boolean; readonly smooth?: boolean }[], lockedCamera = false): TakeBody {
  return freeze({
    ...EMPTY_TAKE,
    panels: Object.fromEntries([1, 2, 3].map((n) => [`p${n}`, { id: `p${n}`, order: orderOfNumber(n), lengthFrames: 40, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: lockedCamera } },
    framings: Object.fromEntries(framings.map(({ frame, pose, move = EVEN, locked = false, smooth }, i): [string, Framing] => [`f${i}`, { id: `f${i}`, cameraId: 'a', panelId: `p${Math.floor(frame / 40) + 1}`, offsetFrames: frame % 40, pose, move, locked, ...(smooth === undefined ? {} : { smooth }) }])),
  })
}

function after(take: TakeBody, made: Made): TakeBody {
  if (!made.ok) throw new Error(made.refusal.code)
  let now = take
  for (const edit of made.edits) {
    const applied = applyToUnit(now, edit)
    if (!applied.ok) throw new Error(applied.refusal.code)
    const back = applyToUnit(applied.value, invert(edit))
    expect(back.ok && back.value).toEqual(now)
    now = applied.value
  }
  expect(takeBodySchema.safeParse(now).success).toBe(true)
  expect(takeProblems(now)).toEqual([])
  return now
}
const refusal = (made: Made) => (made.ok ? null : made.refusal.code)
const framesOf = (take: TakeBody) => placedFramings(take, 'a').map(({ frame }) => frame)
let count = 0
const newId = () => `n${count++}`

describe('a move put into a shot', () => {
  const source = takeWith([{ frame: 0, pose: at(0), move: CUSHIONED_MOVE }, { frame: 30, pose: at(1) }, { frame: 50, pose: at(2) }])
  const copied = copyMove(source, cameraKeys('a'), null)

  it('is the same camera, frame by frame, from where it begins', () => {
    const take = after(takeWith([{ frame: 0, pose: at(5) }]), putMove(takeWith([{ frame: 0, pose: at(5) }]), 't', cameraKeys('a'), copied, 45, newId))
    const [was, is] = [createTakeStage(source, OPTICS), createTakeStage(take, OPTICS)]
    for (let frame = 0; frame <= 50; frame++) expect(posesEqual(is.poseAt(45 + frame), was.poseAt(frame), 1e-12)).toBe(true)
    expect(framesOf(take)).toEqual([0, 45, 75, 95])
  })

  it('takes the place of what was there, and leaves what is outside', () => {
    const take = takeWith([{ frame: 5, pose: at(1) }, { frame: 20, pose: at(2) }, { frame: 45, pose: at(3), move: CUSHIONED_MOVE }, { frame: 100, pose: at(4) }])
    const now = after(take, putMove(take, 't', cameraKeys('a'), reversedMove(copied), 10, newId))
    expect(framesOf(now)).toEqual([5, 10, 30, 60, 100])
    // From its last framing the camera goes on as it went on from there.
    expect(placedFramings(now, 'a')[3]!.framing.move).toEqual(CUSHIONED_MOVE)
  })

  it('is refused where there is no room, where it would take a locked framing, and for a locked camera', () => {
    expect(putMove(source, 't', cameraKeys('a'), copied, 80, newId)).toEqual({ ok: false, refusal: { code: 'move-too-long', asked: 51, most: 40 } })
    expect(refusal(putMove(takeWith([{ frame: 20, pose: REST, locked: true }]), 't', cameraKeys('a'), copied, 10, newId))).toBe('framing-locked')
    expect(refusal(putMove(takeWith([], true), 't', cameraKeys('a'), copied, 0, newId))).toBe('camera-locked')
    expect(refusal(putMove(source, 't', cameraKeys('a'), [], 0, newId))).toBe('nothing-to-paste')
    const ready = readyMadeMove(REST, { kind: 'arc', amount: 90, lengthFrames: 60, subject: { x: 0, y: 0, depth: 0 } })
    expect(framesOf(after(takeWith([]), putMove(takeWith([]), 't', cameraKeys('a'), ready, 20, newId)))).toEqual([20, 50, 80])
  })
})

describe('copy framing to', () => {
  it('keeps the picture from the one frame to the other, to be altered there', () => {
    const take = takeWith([{ frame: 0, pose: at(0) }, { frame: 40, pose: at(1), move: CUSHIONED_MOVE }])
    const now = after(take, copyKeyTo(take, 't', cameraKeys('a'), 40, at(1), 119, newId))
    expect(framesOf(now)).toEqual([0, 40, 119])
    expect(createTakeStage(now, OPTICS).poseAt(80)).toEqual(at(1))
  })

  it('keys the frame it starts from where nothing is keyed there', () => {
    const take = takeWith([{ frame: 0, pose: at(0), move: CUSHIONED_MOVE }])
    expect(framesOf(after(take, copyKeyTo(take, 't', cameraKeys('a'), 20, at(0), 119, newId)))).toEqual([0, 20, 119])
    expect(refusal(copyKeyTo(take, 't', cameraKeys('a'), 119, at(0), 119, newId))).toBe('nothing-after')
  })
})

describe('hold until', () => {
  it('rests until the frame, then arrives when it did; what follows is as it was', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 49 }), (frame) => {
        const take = takeWith([{ frame: 0, pose: at(0), move: CUSHIONED_MOVE }, { frame: 50, pose: at(1) }, { frame: 110, pose: at(0, 1) }])
        const now = after(take, holdUntil(take, 't', cameraKeys('a'), frame, 'n'))
        const [was, is] = [createTakeStage(take, OPTICS), createTakeStage(now, OPTICS)]
        for (let f = 0; f <= frame; f++) expect(is.poseAt(f)).toEqual(at(0))
        for (let f = 50; f < 120; f++) expect(is.poseAt(f)).toEqual(was.poseAt(f))
        expect(now.framings.n!.move).toEqual(CUSHIONED_MOVE)
      }),
    )
  })

  it('is refused where the camera rests already', () => {
    const take = takeWith([{ frame: 10, pose: at(0) }, { frame: 50, pose: at(1) }])
    for (const frame of [5, 10, 50, 60]) expect(refusal(holdUntil(take, 't', cameraKeys('a'), frame, 'n'))).toBe('nothing-to-hold')
  })
})

describe('framings in time', () => {
  const CUSHION: MoveSpec = { ...EVEN, timing: { kind: 'cushioned', leaveFrames: 4, arriveFrames: 8 } }
  const take = takeWith([{ frame: 0, pose: at(0) }, { frame: 20, pose: at(1), move: CUSHION }, { frame: 40, pose: at(2) }, { frame: 70, pose: at(3) }, { frame: 100, pose: at(4) }])

  it('move together between their neighbours, and back again', () => {
    const now = after(take, retimeKeys(take, 't', cameraKeys('a'), ['f1', 'f2'], { kind: 'shift', byFrames: 12 }))
    expect(framesOf(now)).toEqual([0, 32, 52, 70, 100])
    expect(after(now, retimeKeys(now, 't', cameraKeys('a'), ['f1', 'f2'], { kind: 'shift', byFrames: -12 }))).toEqual(take)
    expect(framesOf(after(take, retimeKeys(take, 't', cameraKeys('a'), ['f1', 'f2'], { kind: 'shift', byFrames: 500 })))).toEqual([0, 49, 69, 70, 100])
    expect(framesOf(after(take, retimeKeys(take, 't', cameraKeys('a'), ['f0', 'f4'], { kind: 'shift', byFrames: -50 })))).toEqual([0, 20, 40, 70, 100])
  })

  it('scale about a frame with their cushions, each keeping a frame of its own', () => {
    const now = after(take, retimeKeys(take, 't', cameraKeys('a'), ['f1', 'f2', 'f3'], { kind: 'scale', aboutFrame: 20, factor: 0.5 }))
    expect(framesOf(now)).toEqual([0, 20, 30, 45, 100])
    expect(now.framings.f1!.move.timing).toEqual({ kind: 'cushioned', leaveFrames: 2, arriveFrames: 4 })
    expect(framesOf(after(take, retimeKeys(take, 't', cameraKeys('a'), ['f1', 'f2', 'f3'], { kind: 'scale', aboutFrame: 20, factor: 0 })))).toEqual([0, 20, 21, 22, 100])
  })

  it('never share a frame, leave the shot or pass another, however they are moved', () => {
    fc.assert(
      fc.property(fc.subarray(['f0', 'f1', 'f2', 'f3', 'f4'], { minLength: 1 }), fc.integer({ min: -200, max: 200 }), fc.integer({ min: -30, max: 50 }), fc.nat(119), fc.boolean(), (ids, byFrames, tenths, aboutFrame, shift) => {
        const now = after(take, retimeKeys(take, 't', cameraKeys('a'), ids, shift ? { kind: 'shift', byFrames } : { kind: 'scale', aboutFrame, factor: tenths / 10 }))
        const frames = framesOf(now)
        expect(new Set(frames).size).toBe(5)
        expect(placedFramings(now, 'a').map(({ framing }) => framing.id)).toEqual(['f0', 'f1', 'f2', 'f3', 'f4'])
        expect(frames[0]!).toBeGreaterThanOrEqual(0)
        expect(frames[4]!).toBeLessThan(120)
      }),
    )
  })
})

describe('the path', () => {
  const three = (smooth: boolean) => takeWith([{ frame: 0, pose: at(0) }, { frame: 40, pose: at(1, 1), smooth }, { frame: 80, pose: at(2) }])

  it('bends by either handle, and is straight again', () => {
    const bent = after(three(false), bendMove(three(false), 't', 'f0', 'leave', { x: 0.1, y: 0.5, depth: 0 }))
    expect(bent.framings.f0!.move.path).toEqual({ kind: 'bent', leave: { x: 0.1, y: 0.5, depth: 0 }, arrive: { x: -1 / 3, y: -1 / 3, depth: -0 } })
    expect(after(bent, setPath(bent, 't', 'f0', { kind: 'straight' })).framings.f0).toEqual(three(false).framings.f0)
    expect(refusal(bendMove(three(false), 't', 'f2', 'leave', REST))).toBe('nothing-after')
  })

  it('goes smoothly through a framing: its handles are in line, and stay so when one is turned', () => {
    const smooth = after(three(false), smoothKey(three(false), 't', 'f1', true))
    const inLine = (take: TakeBody) => {
      const [a, b] = [take.framings.f0!.move.path, take.framings.f1!.move.path]
      if (a.kind !== 'bent' || b.kind !== 'bent') throw new Error('straight')
      const cross = a.arrive.x * b.leave.y - a.arrive.y * b.leave.x
      expect(cross).toBeCloseTo(0, 9)
      expect(a.arrive.x * b.leave.x + a.arrive.y * b.leave.y).toBeLessThan(0)
      return [length(a.arrive), length(b.leave)]
    }
    const [, before] = inLine(smooth)
    const turned = after(smooth, bendMove(smooth, 't', 'f0', 'arrive', { x: -0.1, y: 0.7, depth: 0 }))
    expect(inLine(turned)[1]).toBeCloseTo(before!, 9)
    const other = after(smooth, bendMove(smooth, 't', 'f1', 'leave', { x: 0.2, y: -0.7, depth: 0 }))
    inLine(other)
    expect(after(turned, smoothKey(turned, 't', 'f1', false)).framings.f1!.smooth).toBeUndefined()
  })
})

describe('counter-zoom by keys', () => {
  it('keeps the plane’s size at every frame of the move, not only at its ends', () => {
    const take = takeWith([{ frame: 0, pose: REST, move: CUSHIONED_MOVE }])
    const to = counterZoom(REST, { ...REST, depth: -0.7 }, 0.5)!
    const now = after(take, keyCounterZoom(take, 't', 'a', 60, to, 0.5, 'n'))
    const stage = createTakeStage(now, OPTICS)
    const size = (pose: CameraPose) => pose.focalLengthMm / (0.5 - pose.depth)
    for (let frame = 0; frame <= 60; frame++) expect(size(stage.poseAt(frame))).toBeCloseTo(size(REST), 9)
    expect(stage.poseAt(30).depth).not.toBeCloseTo(REST.depth, 2)
  })
})

describe('locks and presets', () => {
  it('are kept, changed and taken away', () => {
    const take = takeWith([{ frame: 0, pose: at(0) }])
    expect(after(take, lockCamera(take, 't', 'a', true)).cameras.a!.locked).toBe(true)
    const kept = after(take, setPreset(take, 't', { id: '1', name: 'Wide', pose: at(2) }))
    expect(kept.presets['1']!.pose.x).toBe(2)
    expect(after(kept, removePreset(kept, 't', '1'))).toEqual(take)
    expect(refusal(removePreset(take, 't', '2'))).toBe('missing')
    const locked = takeWith([{ frame: 0, pose: at(0) }, { frame: 20, pose: at(1) }], true)
    for (const made of [holdUntil(locked, 't', cameraKeys('a'), 10, 'n'), retimeKeys(locked, 't', cameraKeys('a'), ['f1'], { kind: 'shift', byFrames: 1 }), bendMove(locked, 't', 'f0', 'leave', REST), smoothKey(locked, 't', 'f0', true), applyThinned(locked, 't', { remove: [locked.framings.f1!], change: [] })]) expect(refusal(made)).toBe('camera-locked')
  })

  it('are none in bodies kept before there were any', () => {
    const { presets: _presets, grounds: _grounds, ...kept } = takeWith([{ frame: 0, pose: at(0) }])
    expect(openTakeBody(JSON.parse(JSON.stringify(kept)), 5)).toEqual({ ok: true, value: takeWith([{ frame: 0, pose: at(0) }]) })
  })

  it('tell the room that a settle has', () => {
    const take = takeWith([{ frame: 0, pose: at(0) }, { frame: 20, pose: at(1) }, { frame: 30, pose: at(1) }])
    expect([settleRoom(take, 'f0'), settleRoom(take, 'f1'), settleRoom(take, 'f2')]).toEqual([9, Infinity, 0])
  })
})

describe('what lies under the plan', () => {
  const stroke = { id: 's', kind: 'stroke' as const, mode: 'ink' as const, points: [0, 1, 0.5, 1, 2, 0.5], widthFw: 0.02, colour: '#27241e', opacity: 1 }
  const film = { outline: EMPTY_OUTLINE, takes: { t: takeWith([]) }, drawings: {} }
  const done = (from: Film, made: Made) => {
    const applied = made.ok ? applyChange(from, { edits: made.edits }) : null
    if (applied?.ok !== true) throw new Error('refused')
    return applied.value
  }

  it('begins with the first mark, is added to, changed, hidden and cleared, and no picture has it', () => {
    const one = done(film, drawOnGround(film.takes.t!, 't', film.drawings, stroke, 'g'))
    expect(one.takes.t!.grounds.ground).toMatchObject({ drawingId: 'g', visible: true })
    const two = done(one, drawOnGround(one.takes.t!, 't', one.drawings, { ...stroke, id: 's2' }, 'other'))
    expect(two.drawings.g!.marks.map(({ id }) => id)).toEqual(['s', 's2'])
    expect(drawingsOf(two.takes.t!)).toEqual([])
    expect(drawingsWith(two.takes.t!)).toEqual(['g'])
    const moved = done(two, changeOnGround(two.takes.t!, two.drawings, { ...(two.drawings.g!.marks[0] as Stroke), opacity: 0.5 }))
    expect(moved.drawings.g!.marks[0]!).toMatchObject({ opacity: 0.5 })
    const hidden = done(moved, editGround(moved.takes.t!, 't', { visible: false }))
    expect(hidden.takes.t!.grounds.ground!.visible).toBe(false)
    expect(done(hidden, clearGround(hidden.takes.t!, 't')).takes.t!.grounds).toEqual({})
    expect(refusal(drawOnGround(two.takes.t!, 't', {}, stroke, 'g'))).toBe('missing')
    expect(refusal(changeOnGround(film.takes.t!, {}, { ...stroke, order: 'a1' }))).toBe('missing')
  })
})
