import { describe, expect, it } from 'vitest'
import { placedKeys, levelKeys, rackLevels, takeProblems, type Level, type TakeBody } from '../../document'
import type { Point3 } from '../../geometry'
import { createLevelMotion, createTakeStage, seenAt, type StageFrame } from '../../stage'
import { addPanel, applyToUnit, carryPanels, copyMove, cutShot, duplicateLevel, editLevel, filmOrder, invert, joinShots, keyLevel, mergeChanges, movePanels, rebaseChange, removeLevel, removePanel, retimeKeys, setLevelDepth, setPanelLength, setPivot, settleLevel, shapeLevel, splitPanel, spreadLevels, travelLevel, type Made } from '../index'
import { EMPTY_OUTLINE, type Film } from '../../document'
import { done, newId, OPTICS, REST, sampleTake, seen, T } from '../testing'

const at = (x: number, y = 0, depth = 0): Point3 => ({ x, y, depth })
const turn = (rollDegrees: number, panDegrees = 0) => ({ panDegrees, tiltDegrees: 0, rollDegrees })
const motion = (take: TakeBody, id = 'tilda') => createLevelMotion(take, take.levels[id]!)
const frames = (take: TakeBody, aspect: 'place' | 'turn' | 'size' | 'opacity' = 'place', id = 'tilda') => placedKeys(take, levelKeys(id, aspect)).map(({ frame }) => frame)
/** Every frame's picture: where the corners of every level fall. */
const corners = ({ lens, levels }: StageFrame) => Object.fromEntries(levels.map((placed) => [placed.level.name, [...[-0.5, 0.5].flatMap((x) => [-0.4, 0.4].map((y) => { const { u, v } = seenAt(lens, placed, { x, y }); return { u, v } })), placed.opacity, placed.drawingId]]))
const pictures = (take: TakeBody) => {
  const stage = createTakeStage(take, OPTICS)
  return Array.from({ length: stage.lengthFrames }, (_, frame) => corners(stage.at(frame)))
}
const expectAlike = (now: unknown, before: unknown) => {
  const flat = (value: unknown): unknown[] => (typeof value === 'object' && value !== null ? Object.entries(value).sort().flatMap(([name, each]) => [name, ...flat(each)]) : [value])
  const [a, b] = [flat(now), flat(before)]
  expect(a.length).toBe(b.length)
  a.forEach((value, i) => {
    if (!(typeof value === 'number' ? Math.abs(value - (b[i] as number)) < 1e-9 : Object.is(value, b[i]))) throw new Error(`${i}: ${String(value)} for ${String(b[i])}`)
  })
}
/** Tilda walks, turns, grows and fades; a bent path, unlike moves, keys in two panels. */
function moving(fields: Partial<Level> = {}): TakeBody {
  let take = sampleTake([24, 12, 36])
  take = done(take, editLevel(take, T, 'tilda', fields))
  take = done(take, travelLevel(take, T, 'tilda', 4, 30, [{ aspect: 'place', from: at(-0.5, 0.1, 0.2), to: at(0.7, -0.2, 1), path: { kind: 'bent', leave: at(0.2, 0.4, 0.1), arrive: at(-0.3, 0.2, 0) } }, { aspect: 'size', from: 1, to: 2.5 }], newId))
  take = done(take, keyLevel(take, T, 'tilda', 12, { turn: turn(-10, 15) }, newId))
  take = done(take, keyLevel(take, T, 'tilda', 50, { turn: turn(35, 40), opacity: 0.25 }, newId))
  return done(take, keyLevel(take, T, 'tilda', 20, { opacity: 1 }, newId))
}

describe('keying a level', () => {
  it('without keys changes it for the whole shot; with one that one; with several only on their frames', () => {
    let take = done(sampleTake(), shapeLevel(sampleTake(), T, 'tilda', 20, { place: at(0.3), opacity: 0.5 }))
    expect([take.levels.tilda!.x, take.levels.tilda!.opacity, Object.keys(take.levelKeys)]).toEqual([0.3, 0.5, []])
    take = done(take, keyLevel(take, T, 'tilda', 10, { place: at(0.4) }, newId))
    take = done(take, shapeLevel(take, T, 'tilda', 40, { place: at(0.6), size: 2 }))
    expect([frames(take), motion(take).keyedAt(0).place.x, take.levels.tilda!.scale]).toEqual([[10], 0.6, 2])
    take = done(take, keyLevel(take, T, 'tilda', 40, { place: at(1) }, newId))
    expect(shapeLevel(take, T, 'tilda', 20, { place: at(5) })).toMatchObject({ refusal: { code: 'between-keys' } })
    take = done(take, shapeLevel(take, T, 'tilda', 40, { place: at(2) }))
    expect(motion(take).keyedAt(71).place.x).toBe(2)
    // What is not keyed is still the whole shot's.
    expect(done(take, shapeLevel(take, T, 'tilda', 20, { size: 3 })).levels.tilda!.scale).toBe(3)
  })

  it('keyed as it is, no frame looks otherwise; nothing beyond what can be kept is taken', () => {
    const take = moving()
    const keyed = done(take, keyLevel(take, T, 'tilda', 17, motion(take).keyedAt(17), newId))
    expect(frames(keyed)).toEqual([4, 17, 30])
    expectAlike(pictures(keyed), pictures(take))
    expect(keyLevel(take, T, 'tilda', 3, { place: at(NaN) }, newId)).toMatchObject({ refusal: { code: 'pose-not-finite' } })
    expect(motion(done(take, keyLevel(take, T, 'tilda', 3, { place: at(1e9), size: 0, opacity: 7 }, newId))).keyedAt(3)).toMatchObject({ place: { x: 1e6 }, size: 1e-6, opacity: 1 })
  })

  it('a travel puts two keys in the place of what stood between them, and one step takes it back', () => {
    const take = moving()
    const made = travelLevel(take, T, 'tilda', 0, 40, [{ aspect: 'place', from: at(0), to: at(1) }], newId)
    const now = done(take, made)
    expect([frames(now), frames(now, 'size')]).toEqual([[0, 40], [4, 30]])
    if (!made.ok) throw new Error()
    const back = applyToUnit(now, invert(made.edits[0]!))
    expect(back.ok && back.value).toEqual(take)
    expect(travelLevel(take, T, 'tilda', 9, 9, [{ aspect: 'size', from: 1, to: 2 }], newId)).toMatchObject({ refusal: { code: 'nothing-after' } })
    expect(travelLevel(take, T, 'tilda', 9, 500, [{ aspect: 'size', from: 1, to: 2 }], newId)).toMatchObject({ refusal: { code: 'move-too-long' } })
  })

  it('settles where it stands; a locked level or key refuses, and so does a level that is not there', () => {
    const take = moving()
    const still = done(take, settleLevel(take, T, 'tilda', motion(take).keyedAt(20)))
    expect(still.levelKeys).toEqual({})
    expect(pictures(still)[0]!.tilda!.slice(0, -1)).toEqual(pictures(still)[71]!.tilda!.slice(0, -1))
    expectAlike(pictures(still)[20], pictures(take)[20])
    const locked = done(take, editLevel(take, T, 'tilda', { locked: true }))
    for (const made of [shapeLevel(locked, T, 'tilda', 4, { size: 2 }), keyLevel(locked, T, 'tilda', 4, { size: 2 }, newId), settleLevel(locked, T, 'tilda', { size: 1 }), setPivot(locked, T, 'tilda', { x: 1, y: 0 }, seen(locked, REST, 4)), setLevelDepth(locked, T, 'tilda', 3, seen(locked, REST, 4))]) {
      expect(made).toMatchObject({ refusal: { code: 'level-locked', id: 'tilda' } })
    }
    // How it is seen is not locked.
    expect(done(locked, shapeLevel(locked, T, 'tilda', 20, { opacity: 0.75 })).levels.tilda!.locked).toBe(true)
    const [key] = placedKeys(take, levelKeys('tilda', 'place'))
    const keyLocked = { ...take, levelKeys: { ...take.levelKeys, [key!.record.id]: { ...take.levelKeys[key!.record.id]!, locked: true } } }
    expect(setLevelDepth(keyLocked, T, 'tilda', 3, seen(keyLocked, REST, 4))).toMatchObject({ refusal: { code: 'key-locked', id: key!.record.id } })
    expect(shapeLevel(take, T, 'toString', 4, { size: 2 })).toMatchObject({ refusal: { code: 'missing', what: 'level' } })
  })
})

describe('a moving level, at the frame that is seen', () => {
  const camera = { ...REST, x: 0.2, y: -0.1, panDegrees: 14, tiltDegrees: -6, rollDegrees: 9 }

  it('keeps the picture when it is sent to another depth or spread, from any angle, and its whole way goes along', () => {
    for (const fields of [{}, { pivot: { x: 0.3, y: -0.2 }, bob: { amount: 0.1, periodFrames: 20, phase: 0.1 }, drift: { amount: 0.05, periodFrames: 30, phase: 0, seed: 7 }, swing: { amount: 8, periodFrames: 30, phase: 0 } }]) {
      const take = moving(fields)
      for (const frame of [0, 4, 17, 29, 60]) {
        const through = (of: TakeBody) => corners(createTakeStage(of, OPTICS).through(frame, 'a', camera))
        const here = seen(take, camera, frame)
        for (const made of [setLevelDepth(take, T, 'tilda', 3.7, here), spreadLevels(take, T, ['tilda', 'sky'], 2, 9, 'ratio', here)]) expectAlike(through(done(take, made)), through(take))
        expect(motion(done(take, setLevelDepth(take, T, 'tilda', 3.7, here))).seenAt(frame).place.depth).toBeCloseTo(3.7, 12)
      }
    }
  })

  it('keeps it when its pivot is moved; at other frames it turns about the new one', () => {
    const take = moving()
    const now = done(take, setPivot(take, T, 'tilda', { x: 0.4, y: -0.25 }, seen(take, REST, 30)))
    expectAlike(pictures(now)[30], pictures(take)[30])
    const pivotOf = (frame: number) => createTakeStage(now, OPTICS).at(frame).levels.find((placed) => placed.level.id === 'tilda')!
    for (const frame of [0, 12, 50]) {
      const placed = pivotOf(frame)
      const { axisX, axisY, origin } = placed.plane
      for (const axis of ['x', 'y', 'depth'] as const) expect(origin[axis] + 0.4 * axisX[axis] - 0.25 * axisY[axis]).toBeCloseTo(placed.place[axis], 9)
    }
    const back = done(now, setPivot(now, T, 'tilda', { x: 0, y: 0 }, seen(now, REST, 30)))
    expect(back.levels.tilda!.pivot).toBeUndefined()
    expectAlike(pictures(back), pictures(take))
  })
})

describe('keys of levels go with their panels', () => {
  const P = 'film'
  const shotOf = (id: string, order: string, takeId: string) => ({ id, sequenceId: 'q', order, label: id, title: '', circledTakeId: takeId })
  const filmOf = (takes: Readonly<Record<string, TakeBody>>): Film => ({
    outline: {
      ...EMPTY_OUTLINE,
      project: { [P]: { id: P, title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
      sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
      shots: Object.fromEntries(Object.keys(takes).map((id, i) => [`s${id}`, shotOf(`s${id}`, `a${i}`, id)])),
      takes: Object.fromEntries(Object.keys(takes).map((id) => [id, { id, shotId: `s${id}`, order: 'a0', letter: 'A' }])),
    },
    takes,
    drawings: Object.fromEntries(['d-sky', 'd-1', 'd-2'].map((id) => [id, { marks: [] }])),
  })
  const after = (film: Film, made: Made): Film => {
    if (!made.ok) throw new Error(made.refusal.code)
    const result = rebaseChange(film, { id: newId(), label: 'x', edits: mergeChanges({ id: 'a', label: 'x', edits: made.edits }, { id: 'b', label: 'x', edits: [] }).edits })
    if (!result.ok) throw new Error(JSON.stringify(result.clashes))
    for (const take of Object.values(result.film.takes)) expect(takeProblems(take)).toEqual([])
    return result.film
  }
  const filmed = (film: Film) => filmOrder(film.outline).flatMap((shot) => pictures(film.takes[shot.circledTakeId]!))
  /** Copies of art have ids of their own. */
  const unnamed = (all: ReturnType<typeof pictures>) => all.map((frame) => Object.fromEntries(Object.entries(frame).map(([name, values]) => [name, values.slice(0, -1)])))

  it('split, cut and joined again, every frame stays as it was, swinging or not', () => {
    const sways = { swing: { amount: 9, periodFrames: 31, phase: 0.2 }, bob: { amount: 0.1, periodFrames: 17, phase: 0 }, drift: { amount: 0.1, periodFrames: 40, phase: 0.5, seed: 3 } }
    for (const fields of [{}, sways]) {
      const take = moving(fields)
      expectAlike(pictures(done(take, splitPanel(take, T, 'p3', 11, newId()))), pictures(take))
      const film = filmOf({ one: take })
      const cut = after(film, cutShot(film, P, 'sone', 'p2', newId))
      expectAlike(unnamed(filmed(cut)), unnamed(filmed(film)))
      const joined = after(cut, joinShots(cut, P, filmOrder(cut.outline).map((shot) => shot.id), newId))
      expect(Object.keys(joined.outline.shots)).toHaveLength(1)
      // Only levels that show something are compared: two of one name are one that swings on in either half.
      const seen = (frame: ReturnType<typeof pictures>[number]) => frame
      if (fields === sways) expect(rackLevels(joined.takes.one!).length).toBeGreaterThan(2)
      else expectAlike(unnamed(filmed(joined).map(seen)), unnamed(filmed(film)))
    }
  })

  it('a level without keys that joins one that has them stands where it stood; one cut off takes no keys along', () => {
    const still = sampleTake([10, 10])
    const film = filmOf({ one: moving(), two: { ...still, panels: Object.fromEntries(Object.values(still.panels).map((panel) => [`q${panel.id}`, { ...panel, id: `q${panel.id}` }])), cells: Object.fromEntries(Object.values(still.cells).map((cell) => [`${cell.levelId}.q${cell.panelId}`, { ...cell, id: `${cell.levelId}.q${cell.panelId}`, panelId: `q${cell.panelId}` }])) } })
    const joined = after(film, joinShots(film, P, ['sone', 'stwo'], newId))
    expectAlike(unnamed(filmed(joined)), unnamed(filmed(film)))
  })

  it('carried into another shot they move as they moved, and what was there moves as it did', () => {
    const film = filmOf({ one: moving(), two: sampleTake([24, 24]) })
    const before = unnamed(filmed(film))
    const now = after(film, carryPanels(film, P, 'one', ['p2'], 'two', 'p2', newId))
    const shown = unnamed(filmed(now))
    expect(shown.length).toBe(before.length)
    expectAlike(shown.slice(60 + 24, 60 + 36), before.slice(24, 36))
    expectAlike([...shown.slice(60, 84), ...shown.slice(96)], before.slice(72))
  })

  it('retimed, taken out, moved and copied with panels and levels, none is lost and none stands twice', () => {
    const take = moving()
    expect(frames(done(take, setPanelLength(take, T, 'p1', 48)))).toEqual([4, 54])
    // Its own keys are drawn in together; another level's go by themselves.
    const both = done(take, keyLevel(take, T, 'sky', 23, { opacity: 0.5 }, newId))
    expect([frames(done(both, setPanelLength(both, T, 'p1', 12))), frames(done(both, setPanelLength(both, T, 'p1', 12)), 'opacity', 'sky')]).toEqual([[2, 18], [11]])
    const without = done(take, removePanel(take, T, 'p1', OPTICS, newId))
    expectAlike(pictures(without).map((frame) => frame.tilda?.slice(0, -1)), pictures(take).slice(24).map((frame) => frame.tilda?.slice(0, -1)))
    expect(frames(done(take, movePanels(take, T, ['p3'], 'p1', newId)))).toEqual([40, 66])
    expect(frames(done(take, addPanel(take, T, 'pn', 'p1', 10)))).toEqual([4, 40])
    const twice = done(take, duplicateLevel(take, T, 'tilda', 'two', 'Two', newId))
    expect([frames(twice, 'place', 'two'), copyMove(twice, levelKeys('two', 'place'), null)]).toEqual([[4, 30], copyMove(take, levelKeys('tilda', 'place'), null)])
    expect(done(twice, removeLevel(twice, T, 'tilda', seen(twice, REST))).levelKeys).not.toEqual({})
    expect(done(take, removeLevel(take, T, 'tilda', seen(take, REST))).levelKeys).toEqual({})
    expect(frames(done(take, retimeKeys(take, T, levelKeys('tilda', 'place'), placedKeys(take, levelKeys('tilda', 'place')).map(({ record }) => record.id), { kind: 'shift', byFrames: 5 })))).toEqual([9, 35])
  })

  it('two hands on different keys of one level both stay; on one key they clash, and so do two at one place', () => {
    const film = filmOf({ one: moving() })
    const change = (made: Made) => mergeChanges({ id: newId(), label: 'x', edits: made.ok ? made.edits : [] }, { id: newId(), label: 'x', edits: [] })
    const take = film.takes.one!
    const mine = change(shapeLevel(take, 'one', 'tilda', 4, { place: at(3) }))
    const theirs = after(film, shapeLevel(take, 'one', 'tilda', 30, { place: at(8) }))
    const both = rebaseChange(theirs, mine)
    expect(both.ok && [motion(both.film.takes.one!).keyedAt(4).place.x, motion(both.film.takes.one!).keyedAt(30).place.x]).toEqual([3, 8])
    expect(rebaseChange(after(film, shapeLevel(take, 'one', 'tilda', 4, { place: at(9) })), mine).ok).toBe(false)
    const keyed = change(keyLevel(take, 'one', 'tilda', 44, { place: at(1) }, newId))
    expect(rebaseChange(after(film, keyLevel(take, 'one', 'tilda', 44, { place: at(2) }, newId)), keyed)).toMatchObject({ ok: false, clashes: [{ collection: 'levelKeys', fields: ['value'] }] })
    expect(rebaseChange(after(film, keyLevel(take, 'one', 'tilda', 44, { opacity: 0 }, newId)), keyed).ok).toBe(true)
    expect(rebaseChange(after(film, removeLevel(take, 'one', 'tilda', seen(take, REST))), keyed).ok).toBe(false)
  })
})
