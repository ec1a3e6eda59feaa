import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CameraPose } from '../../camera'
import { EMPTY_OUTLINE, placedKeys, levelKeys, type Carrier, type Film, type Level, type TakeBody } from '../../document'
import { createTakeStage, seenAt, type StageFrame } from '../../stage'
import { applyToUnit, carryPanels, carryTogether, cutShot, drawMark, editLevel, faceLevels, fastenLevels, filmOrder, invert, joinShots, keyFraming, keyLevel, readsOf, rebaseChange, removeLevel, setLevelDepth, setPivot, spreadLevels, travelLevel, type Made } from '../index'
import { done, level, newId, OPTICS, REST, sampleTake, seen, T } from '../testing'

const at = (x: number, y = 0, depth = 0) => ({ x, y, depth })
const turn = (rollDegrees: number, panDegrees = 0, tiltDegrees = 0) => ({ panDegrees, tiltDegrees, rollDegrees })
const on = (levelId: string, follows: Partial<Extract<Carrier, { kind: 'level' }>> = {}): Carrier => ({ kind: 'level', levelId, turn: true, size: true, ...follows })
const CAMERA: Carrier = { kind: 'camera' }

/** Where the corners of every level that shows something are seen, by name. */
const corners = ({ lens, levels }: StageFrame) => Object.fromEntries(levels.filter(({ drawingId }) => drawingId !== null).map((placed) => [placed.level.name, [-0.5, 0.5].flatMap((x) => [-0.4, 0.4].flatMap((y) => { const { u, v } = seenAt(lens, placed, { x, y }); return [u, v] }))]))
const picture = (take: TakeBody, frame: number, pose?: CameraPose) => corners(createTakeStage(take, OPTICS).through(frame, 'a', pose))
const pictures = (take: TakeBody) => Array.from({ length: createTakeStage(take, OPTICS).lengthFrames }, (_, frame) => picture(take, frame))
function expectAlike(now: ReturnType<typeof corners>, before: ReturnType<typeof corners>, names = Object.keys(before)) {
  for (const name of names) {
    before[name]!.forEach((value, i) => {
      const off = Math.abs(now[name]![i]! - value)
      if (!(off < 1e-9)) throw new Error(`${name} ${i} is off by ${off}`)
    })
  }
}

/** Tilda runs, turns and grows; the lantern swings and has keys of its own; a gull stands about; the camera goes along. */
function film(): TakeBody {
  let take = sampleTake([24, 24])
  for (const [id, depth] of [['lantern', 0.1], ['gull', 2]] as const) take = { ...take, levels: { ...take.levels, [id]: level(id, 3 + depth, depth, { x: 0.2, y: 0.1 }) }, cells: { ...take.cells, [`${id}.p1`]: { id: `${id}.p1`, levelId: id, panelId: 'p1', drawingId: `d-${id}` } } }
  take = done(take, travelLevel(take, T, 'tilda', 2, 40, [{ aspect: 'place', from: at(-0.6, 0, 0.2), to: at(0.9, 0.2, 0.6), path: { kind: 'bent', leave: at(0.2, 0.5, 0.1), arrive: at(-0.3, 0.2, 0) } }, { aspect: 'size', from: 0.7, to: 1.6 }, { aspect: 'turn', from: turn(-12, 4), to: turn(30, 10, 5) }], newId))
  take = done(take, travelLevel(take, T, 'lantern', 6, 30, [{ aspect: 'place', from: at(0.1, 0.1, 0.1), to: at(0.3, -0.2, 0.2) }, { aspect: 'turn', from: turn(5), to: turn(50) }], newId))
  take = done(take, editLevel(take, T, 'lantern', { swing: { amount: 8, periodFrames: 24, phase: 0.1 }, bob: { amount: 0.05, periodFrames: 18, phase: 0.3 }, stepped: 2, pivot: { x: 0, y: 0.15 } }))
  take = done(take, keyFraming(take, T, 'a', 0, REST, 'k1'))
  return done(take, keyFraming(take, T, 'a', 44, { ...REST, x: 0.5, y: 0.1, panDegrees: 14, tiltDegrees: -4, rollDegrees: 6, focalLengthMm: 38 }, 'k2'))
}

const anyCarrier = fc.oneof(fc.constant(CAMERA), fc.record({ turn: fc.boolean(), size: fc.boolean() }).map((follows) => on('tilda', follows)))

describe('fastening', () => {
  it('keeps the picture at the frame that is seen; letting go then is the original at every frame', () => {
    const take = film()
    fc.assert(
      fc.property(anyCarrier, fc.integer({ min: 0, max: 47 }), fc.constantFrom(undefined, 'lens' as const, 'upright' as const), (carrier, frame, facing) => {
        const before = facing === undefined ? take : done(take, faceLevels(take, T, ['lantern'], facing))
        const here = (body: TakeBody) => createTakeStage(body, OPTICS).seen(frame)
        const fast = done(before, fastenLevels(before, T, ['lantern', 'gull'], carrier, here(before)))
        expect(fast.levels.lantern!.carrier).toEqual(carrier)
        expectAlike(picture(fast, frame), picture(before, frame))
        const free = done(fast, fastenLevels(fast, T, ['lantern', 'gull'], null, here(fast)))
        expect('carrier' in free.levels.lantern!).toBe(false)
        pictures(before).forEach((each, i) => expectAlike(picture(free, i), each))
      }),
      { numRuns: 40 },
    )
  })

  it('goes along with its carrier, turn and size as chosen, hidden or not, played or jumped', () => {
    let take = film()
    take = done(take, fastenLevels(take, T, ['lantern'], on('tilda', { turn: false, size: false }), seen(take, REST, 10)))
    const offset = (body: TakeBody, frame: number) => {
      const { standOf } = createTakeStage(body, OPTICS).seen(frame)
      return standOf('lantern').place.x - standOf('tilda').place.x - createTakeStage(body, OPTICS).motionOf('lantern').seenAt(frame).place.x
    }
    for (const frame of [0, 10, 30, 47]) expect(offset(take, frame)).toBeCloseTo(0, 12)
    const hidden = done(take, editLevel(take, T, 'tilda', { visible: false }))
    const played = createTakeStage(hidden, OPTICS)
    for (let frame = 0; frame < 48; frame++) {
      const now = played.at(frame)
      expect(corners(now)).toEqual(corners(createTakeStage(hidden, OPTICS).at(frame)))
      expectAlike(corners(now), picture(take, frame), ['lantern'])
    }
  })

  it('travelling with the camera it is seen at one place, whatever the camera does but for its lens', () => {
    let take = film()
    take = done(take, fastenLevels(take, T, ['gull'], CAMERA, createTakeStage(take, OPTICS).seen(20)))
    const stage = createTakeStage(take, OPTICS)
    const pose = stage.poseAt(20)
    for (const by of [{}, { x: 4, panDegrees: 80 }, { rollDegrees: 170, tiltDegrees: 40, depth: -9 }]) expectAlike(picture(take, 20, { ...pose, ...by }), picture(take, 20), ['gull'])
    // Seen from elsewhere it stays before its camera.
    const eye = { ...REST, depth: -6 }
    const from = (camera: CameraPose) => stage.through(20, 'a', camera, null, eye).levels.find((each) => each.level.id === 'gull')!.place
    expect(from(pose)).toEqual(stage.seen(20, pose).standOf('gull').place)
    expect(from({ ...pose, x: pose.x + 1 }).x).toBeCloseTo(from(pose).x + 1, 12)
  })

  it('turning to the camera keeps its place on screen', () => {
    const take = film()
    for (const facing of ['lens', 'upright'] as const) {
      const faced = done(take, faceLevels(take, T, ['tilda', 'gull'], facing))
      for (const frame of [0, 17, 44]) {
        const pivots = (body: TakeBody) => createTakeStage(body, OPTICS).at(frame).levels.map(({ level: { id }, place }) => [id, place])
        expect(pivots(faced)).toEqual(pivots(take))
      }
      if (facing === 'lens') expect(createTakeStage(faced, OPTICS).at(44).levels.find((each) => each.level.id === 'gull')!.square).toBe(true)
      expect(done(faced, faceLevels(faced, T, ['tilda', 'gull'], null))).toEqual(take)
    }
  })

  it('is refused in words: on itself, in a circle, too deep, locked, on nothing', () => {
    let take = film()
    const here = () => seen(take, REST)
    expect(fastenLevels(take, T, ['tilda'], on('tilda'), here())).toMatchObject({ refusal: { code: 'carrier-circle', names: ['tilda'] } })
    take = done(take, fastenLevels(take, T, ['lantern'], on('tilda'), here()))
    take = done(take, fastenLevels(take, T, ['gull'], on('lantern'), here()))
    expect(fastenLevels(take, T, ['tilda'], on('gull'), here())).toMatchObject({ refusal: { code: 'carrier-circle', names: ['tilda', 'gull', 'lantern'] } })
    expect(fastenLevels(take, T, ['tilda'], on('nobody'), here())).toMatchObject({ refusal: { code: 'missing' } })
    expect(fastenLevels(take, T, [], on('tilda'), here())).toMatchObject({ refusal: { code: 'nothing-selected' } })
    const locked = done(take, editLevel(take, T, 'sky', { locked: true }))
    expect([fastenLevels(locked, T, ['sky'], CAMERA, here()), faceLevels(locked, T, ['sky'], 'lens')].map((made) => !made.ok && made.refusal.code)).toEqual(['level-locked', 'level-locked'])
    for (let i = 0; i < 18; i++) take = { ...take, levels: { ...take.levels, [`l${i}`]: level(`l${i}`, 20 + i, 0) } }
    for (let i = 1; i <= 16; i++) take = done(take, fastenLevels(take, T, [`l${i}`], on(`l${i - 1}`), here()))
    expect(fastenLevels(take, T, ['l17'], on('l16'), here())).toMatchObject({ refusal: { code: 'carriers-too-deep' } })
    expect(fastenLevels(take, T, ['l0'], on('sky'), here())).toMatchObject({ refusal: { code: 'carriers-too-deep' } })
  })

  it('two hands that would close a circle together clash, and so does a carrier that is taken out', () => {
    const take = film()
    const whole: Film = { outline: { ...EMPTY_OUTLINE, takes: { [T]: { id: T, shotId: 's', order: 'a0', letter: 'A' } } }, takes: { [T]: take }, drawings: {} }
    const change = (made: Made) => ({ id: newId(), label: 'x', edits: made.ok ? made.edits : [] })
    const theirs = (made: Made): Film => ({ ...whole, takes: { [T]: done(take, made) } })
    const mine = change(fastenLevels(take, T, ['gull'], on('lantern'), seen(take, REST)))
    expect(rebaseChange(theirs(fastenLevels(take, T, ['lantern'], on('gull'), seen(take, REST))), mine).ok).toBe(false)
    expect(rebaseChange(theirs(removeLevel(take, T, 'lantern', seen(take, REST))), mine).ok).toBe(false)
    expect(rebaseChange(theirs(fastenLevels(take, T, ['sky'], CAMERA, seen(take, REST))), mine).ok).toBe(true)
  })
})

describe('what is carried', () => {
  const carried = (follows: Partial<Extract<Carrier, { kind: 'level' }>>) => {
    let take = film()
    take = done(take, fastenLevels(take, T, ['lantern'], on('tilda', follows), seen(take, REST, 8)))
    return done(take, fastenLevels(take, T, ['gull'], on('lantern'), seen(take, REST, 8)))
  }
  it.each([{}, { size: false }, { turn: false }, { turn: false, size: false }])('stays as it is seen where its carrier, it itself or all are sent to a depth, a pivot moves or a carrier goes: %o', (follows) => {
    const take = carried(follows)
    const stage = createTakeStage(take, OPTICS)
    for (const frame of [0, 21, 47]) {
      const here = stage.seen(frame)
      const made: readonly Made[] = [
        setLevelDepth(take, T, 'tilda', 4, here),
        setLevelDepth(take, T, 'lantern', 3.5, here),
        setLevelDepth(take, T, 'gull', 1.25, here, true),
        spreadLevels(take, T, ['tilda', 'gull', 'sky', 'lantern'], 1, 9, 'ratio', here),
        setPivot(take, T, 'tilda', { x: 0.3, y: -0.2 }, here),
        setPivot(take, T, 'lantern', { x: -0.1, y: 0.4 }, here),
      ]
      for (const each of made) {
        const now = done(take, each)
        expectAlike(picture(now, frame), picture(take, frame))
        // Undone, it is what it was.
        const undone = applyToUnit(now, invert((each as Extract<Made, { ok: true }>).edits[0]!))
        expect(undone.ok && undone.value).toEqual(take)
      }
      expect(createTakeStage(done(take, made[1]!), OPTICS).seen(frame).standOf('lantern').place.depth).toBeCloseTo(3.5, 9)
      expect(createTakeStage(done(take, made[2]!), OPTICS).motionOf('gull').seenAt(frame).place.depth).toBeCloseTo(1.25, 9)
      const gone = done(take, removeLevel(take, T, 'lantern', here))
      expect(gone.levels.gull!.carrier).toEqual(on('tilda', follows))
      expectAlike(picture(gone, frame), picture(take, frame), ['gull', 'tilda', 'sky'])
    }
  })

  it('“carry these together” makes one empty carrier in their middle; moving it moves them', () => {
    const take = carried({})
    const here = seen(take, REST, 12)
    const now = done(take, carryTogether(take, T, ['tilda', 'lantern', 'sky'], 'c', 'Carrier', here))
    expectAlike(picture(now, 12), picture(take, 12))
    expect(now.levels.c).toMatchObject({ kind: 'carrier', name: 'Carrier' })
    // The lantern hangs on Tilda, and goes with her.
    expect([now.levels.tilda!.carrier, now.levels.sky!.carrier, now.levels.lantern!.carrier]).toEqual([on('c'), on('c'), on('tilda')])
    const middle = here.standOf('tilda').place.x / 2 + here.standOf('sky').place.x / 2
    expect(now.levels.c!.x).toBeCloseTo(middle, 12)
    const moved = done(now, keyLevel(now, T, 'c', 12, { place: at(middle + 1, now.levels.c!.y, now.levels.c!.depth) }, newId))
    for (const id of ['tilda', 'sky', 'lantern', 'gull']) expect(seen(moved, REST, 12).standOf(id).place.x).toBeCloseTo(here.standOf(id).place.x + 1, 9)
    // Together again: the second carrier hangs on the first.
    const twice = done(now, carryTogether(now, T, ['tilda', 'sky'], 'd', 'Second', seen(now, REST, 12)))
    expect(twice.levels.d!.carrier).toEqual(on('c'))
    expectAlike(picture(twice, 12), picture(take, 12))
    expect(drawMark(now, T, {}, 'c', 'p1', { id: 'm', kind: 'stroke', mode: 'ink', brush: 'pencil', colour: '#000000', opacity: 1, widthFw: 0.01, pressureWidth: 0, points: [0, 0, 1] } as never, 'new', false)).toMatchObject({ refusal: { code: 'carrier-shows-nothing' } })
  })

  it('is carried on where shots are cut, joined, and panels go to another: every frame stays', () => {
    const smooth = carried({ size: false })
    // Steps are counted from each key, and a cut is one.
    const take = done(smooth, editLevel(smooth, T, 'lantern', { stepped: undefined }))
    const drawings = Object.fromEntries(Object.values(take.cells).map(({ drawingId }) => [drawingId!, { marks: [] }]))
    const shot = (id: string, takeId: string, order: string) => ({ id, sequenceId: 'q', label: id, title: '', order, circledTakeId: takeId, targetFrames: undefined })
    const outline = { ...EMPTY_OUTLINE, project: { f: { id: 'f', filmBackMm: 36, baseLensMm: 50, widthPx: 1920, heightPx: 1080 } }, sequences: { q: { id: 'q', label: '01', title: '', order: 'a0' } }, shots: { '010': shot('010', T, 'a0') }, takes: { [T]: { id: T, shotId: '010', order: 'a0', letter: 'A' } } }
    const whole = { outline, takes: { [T]: take }, drawings } as unknown as Film
    const after = (now: Film, made: Made): Film => {
      if (!made.ok) throw new Error(made.refusal.code)
      return made.edits.reduce<Film>((value, edit) => {
        if (edit.unit.kind === 'outline') { const applied = applyToUnit(value.outline, edit); return applied.ok ? { ...value, outline: applied.value } : value }
        if (edit.unit.kind === 'take') return { ...value, takes: { ...value.takes, [edit.unit.id]: done(value.takes[edit.unit.id] ?? ({ ...take, panels: {}, levels: {}, cells: {}, cameras: {}, framings: {}, levelKeys: {} } as TakeBody), { ok: true, edits: [edit] }) } }
        return { ...value, drawings: { ...value.drawings, [edit.unit.id]: { marks: [] } } }
      }, now)
    }
    const shown = (now: Film) => filmOrder(now.outline).flatMap(({ circledTakeId }) => pictures(now.takes[circledTakeId]!))
    const same = (now: Film) => shown(now).forEach((each, i) => expectAlike(each, pictures(take)[i]!))
    const cut = after(whole, cutShot(whole, 'f', '010', 'p2', newId))
    expect(filmOrder(cut.outline)).toHaveLength(2)
    same(cut)
    const ids = filmOrder(cut.outline).map(({ id }) => id)
    same(after(cut, joinShots(cut, 'f', ids, newId)))
    const [first, second] = filmOrder(cut.outline).map(({ circledTakeId }) => circledTakeId)
    const panel = Object.keys(cut.takes[second!]!.panels)[0]!
    same(after(cut, carryPanels(cut, 'f', second!, [panel], first!, null, newId)))
  })

  it('fastened keys are carried over: their number, frames and locks stay', () => {
    const take = film()
    const fast = done(take, fastenLevels(take, T, ['lantern'], on('tilda'), seen(take, REST, 20)))
    for (const aspect of ['place', 'turn'] as const) {
      const told = (body: TakeBody) => placedKeys(body, levelKeys('lantern', aspect)).map(({ frame, record }) => [record.id, frame, record.move.timing])
      expect(told(fast)).toEqual(told(take))
    }
    const unpinned: Level = fast.levels.lantern!
    expect(unpinned.swing).toEqual(take.levels.lantern!.swing)
  })
})

describe('two hands on one level’s way', () => {
  const take = film()
  const whole: Film = { outline: { ...EMPTY_OUTLINE, takes: { [T]: { id: T, shotId: 's', order: 'a0', letter: 'A' } } }, takes: { [T]: take }, drawings: {} }
  const change = (made: Made) => {
    const edits = made.ok ? made.edits : []
    return { id: newId(), label: 'x', edits, reads: readsOf(whole, edits) }
  }
  const after = (made: Made): Film => ({ ...whole, takes: { [T]: done(take, made) } })
  const here = () => seen(take, REST, 10)
  const told: readonly (readonly [string, () => Made])[] = [
    ['fastened', () => fastenLevels(take, T, ['lantern'], on('tilda'), here())],
    ['sent to a depth', () => setLevelDepth(take, T, 'lantern', 3, here())],
    ['its pivot moved', () => setPivot(take, T, 'lantern', { x: 0.1, y: 0.3 }, here())],
  ]
  it.each(told)('a key that is put while the level is %s would be told in other axes: it is shown, either way round', (_, make) => {
    const key = () => keyLevel(take, T, 'lantern', 33, { place: at(0.5, 0.5, 0.5) }, newId)
    expect(rebaseChange(after(make()), change(key())).ok).toBe(false)
    expect(rebaseChange(after(key()), change(make())).ok).toBe(false)
  })
  it('keys at different frames both stay, and so does what leaves the way alone', () => {
    const key = (frame: number) => keyLevel(take, T, 'lantern', frame, { place: at(0.5), turn: turn(4) }, newId)
    const both = rebaseChange(after(key(33)), change(key(12)))
    expect(both.ok && placedKeys(both.film.takes[T]!, levelKeys('lantern', 'place')).map(({ frame }) => frame)).toEqual([6, 12, 30, 33])
    for (const made of [editLevel(take, T, 'lantern', { name: 'Lamp', opacity: 0.5 }), fastenLevels(take, T, ['gull'], CAMERA, here()), keyLevel(take, T, 'lantern', 20, { opacity: 0.3 }, newId)]) expect(rebaseChange(after(made), change(key(12))).ok).toBe(true)
    // The first keys of one, and another’s drag for the whole shot: both are kept.
    expect(rebaseChange(after(editLevel(take, T, 'gull', { x: 2 })), change(keyLevel(take, T, 'gull', 5, { place: at(1) }, newId))).ok).toBe(true)
  })
})
