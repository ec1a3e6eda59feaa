import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CameraPose } from '../../camera'
import { drawingsWith, EMPTY_OUTLINE, inOrder, outlineProblems, pieceLevelId, setsIn, unfolded, UNIT_KINDS, type Film, type Level, type SetLevel, type TakeBody } from '../../document'
import { createTakeStage, seenAt } from '../../stage'
import { applyChange, bringSet, carryPanels, cutShot, drawMark, duplicateLevel, duplicateSet, editInSet, editLevel, fastenLevels, filmOrder, hidePieces, invertChange, joinShots, keyFraming, keyLevel, listBeside, makeSet, ownPieces, pasteSetUp, putSet, readsOf, rebaseChange, removeLevel, removePanels, removeSet, renameSet, sendLevels, settleLevel, shapeLevel, type Change, type Made, type NewMark, type OpenedSet } from '../index'
import { level, newId, OPTICS, REST, sampleTake, T } from '../testing'

const LOOK = { frame: 3, camera: { ...REST, x: 0.2, y: -0.1 } }
const STROKE: NewMark = { id: 'm', kind: 'stroke', mode: 'ink', points: [0, 0, 0.5, 1, 1, 0.5], widthFw: 0.01, colour: '#000000', opacity: 1, thinning: 0 }
const project = { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 }
const drawing = (id: string) => ({ marks: [{ ...STROKE, id: `m-${id}`, order: 'a1' }] as never })

/** Tilda runs before a walk of planks with rails, hinged one on the other, and a turned shed; the sky lies behind all. */
function film(): Film {
  let take: TakeBody = sampleTake([24, 12])
  const more: Level[] = [
    level('planks', 3, 2, { x: 0.3, y: -0.2, tiltDegrees: -70, scale: 2 }),
    level('rail', 4, 0.2, { y: 0.2, tiltDegrees: 70, carrier: { kind: 'level', levelId: 'planks', turn: true, size: true } }),
    level('shed', 5, 3, { x: -0.8, panDegrees: 40, rollDegrees: 5, scale: 1.5, pivot: { x: 0.1, y: -0.3 }, opacity: 0.8, shadow: { strength: 0.5, soft: 0.02, ground: -0.35, towardsDegrees: 40, length: 0.7 } }),
    level('lamp', 6, 3, { x: -0.7, swing: { amount: 6, periodFrames: 20, phase: 0.1 }, facing: 'lens' }),
  ]
  take = { ...take, levels: { ...take.levels, ...Object.fromEntries(more.map((each) => [each.id, each])) }, cells: { ...take.cells, ...Object.fromEntries(more.map(({ id }) => [`${id}.p1`, { id: `${id}.p1`, levelId: id, panelId: 'p1', drawingId: `d-${id}` }])) } }
  const keyed = (frame: number, pose: CameraPose, id: string) => {
    const made = keyFraming(take, T, 'a', frame, pose, id)
    const applied = made.ok ? applyChange({ outline: EMPTY_OUTLINE, takes: { [T]: take }, drawings: {} }, made) : null
    if (applied?.ok === true) take = applied.value.takes[T]!
  }
  keyed(0, REST, 'k1')
  keyed(30, { ...REST, x: 0.4, panDegrees: 12, rollDegrees: 5, focalLengthMm: 40 }, 'k2')
  const drawings = Object.fromEntries(['sky', '1', '2', 'planks', 'rail', 'shed', 'lamp'].map((id) => [`d-${id}`, drawing(id)]))
  const outline = {
    ...EMPTY_OUTLINE,
    project: { film: project },
    sequences: { s: { id: 's', order: 'a1', label: '01', title: '', targetFrames: null } },
    shots: { x: { id: 'x', sequenceId: 's', order: 'a1', label: '010', title: '', circledTakeId: T }, y: { id: 'y', sequenceId: 's', order: 'a2', label: '020', title: '', circledTakeId: 'other' } },
    takes: { [T]: { id: T, shotId: 'x', order: 'a1', letter: 'A' }, other: { id: 'other', shotId: 'y', order: 'a1', letter: 'A' } },
  }
  const other = sampleTake([12, 12])
  const renamed: TakeBody = { ...other, panels: Object.fromEntries(Object.values(other.panels).map((panel) => [`q${panel.id}`, { ...panel, id: `q${panel.id}` }])), levels: { sky: other.levels.sky! }, cells: { 'sky.qp1': { id: 'sky.qp1', levelId: 'sky', panelId: 'qp1', drawingId: 'd-other' } } }
  return { outline, takes: { [T]: take, other: renamed }, drawings: { ...drawings, 'd-other': drawing('other') }, sets: {} }
}

const change = (made: Made, label = 'x'): Change => {
  if (!made.ok) throw new Error(made.refusal.code)
  return { id: newId(), label, edits: made.edits }
}
function after(now: Film, made: Made): Film {
  const applied = applyChange(now, change(made))
  if (!applied.ok) throw new Error(`${applied.refusal.code} ${applied.refusal.path.join('.')}`)
  for (const take of Object.values(applied.value.takes)) expect(UNIT_KINDS.take.problems(take)).toEqual([])
  for (const set of Object.values(applied.value.sets ?? {})) expect(UNIT_KINDS.set.problems(set)).toEqual([])
  expect(outlineProblems(applied.value.outline)).toEqual([])
  return applied.value
}
const shown = (now: Film, takeId: string) => unfolded(now.takes[takeId]!, (id) => now.sets?.[id] ?? null)
/** What is seen at a frame: of each drawing, in drawing order, where its corners are and how strongly. */
const picture = (now: Film, takeId: string, frame: number, name: (drawingId: string) => string = (id) => id) => {
  const { lens, levels, shadows } = createTakeStage(shown(now, takeId), OPTICS).at(frame)
  return [...levels.map((placed) => ['', placed] as const), ...shadows.map((placed) => ['shadow: ', placed] as const)].flatMap(([of, placed]) => (placed.drawingId === null ? [] : [{ drawing: `${of}${name(placed.drawingId)}`, opacity: placed.opacity, at: [-0.5, 0.5].flatMap((x) => [-0.4, 0.4].flatMap((y) => { const { u, v } = seenAt(lens, placed, { x, y }); return [u, v] })) }]))
}
const pictures = (now: Film, takeId: string, name?: (drawingId: string) => string) => Array.from({ length: createTakeStage(shown(now, takeId), OPTICS).lengthFrames }, (_, frame) => picture(now, takeId, frame, name))
function expectAlike(now: ReturnType<typeof pictures>, before: ReturnType<typeof pictures>) {
  expect(now.length).toBe(before.length)
  before.forEach((each, frame) => {
    expect(now[frame]!.map(({ drawing: id }) => id), `frame ${frame}`).toEqual(each.map(({ drawing: id }) => id))
    each.forEach(({ at, opacity }, i) => {
      expect(Math.abs(now[frame]![i]!.opacity - opacity)).toBeLessThan(1e-12)
      at.forEach((value, j) => expect(Math.abs(now[frame]![i]!.at[j]! - value), `frame ${frame} ${each[i]!.drawing}`).toBeLessThan(1e-9))
    })
  })
}
const WALK = ['planks', 'rail', 'shed', 'lamp']
const made = (ids: readonly string[] = WALK) => makeSet(film(), 'film', T, ids, { set: 'walk', level: 'on' }, 'The walk', LOOK)
const withSet = () => after(film(), made())
const OPEN: OpenedSet = { takeId: T, setLevelId: 'on', ...LOOK }
const piece = (id: string) => pieceLevelId('on', id)
const seen = (now: Film, takeId = T) => createTakeStage(shown(now, takeId), OPTICS).seen(LOOK.frame, LOOK.camera)
const inSet = (now: Film, how: (take: TakeBody, f: Film) => Made, open = OPEN) => after(now, editInSet(now, open, (f) => how(f.takes[T]!, f)))

describe('making a set', () => {
  it('leaves every frame as it is; undo is the original', () => {
    const before = film()
    const now = after(before, made())
    expectAlike(pictures(now, T), pictures(before, T))
    expect(Object.keys(now.takes[T]!.levels).sort()).toEqual(['on', 'sky', 'tilda'])
    expect(Object.keys(now.sets!.walk!.pieces).sort()).toEqual([...WALK].sort())
    expect(now.outline.sets.walk).toMatchObject({ name: 'The walk', stands: { x: now.takes[T]!.levels.on!.x } })
    const back = applyChange(now, invertChange(change(made()), newId()))
    expect(back.ok && back.value.takes).toEqual(before.takes)
    expect(back.ok && back.value.outline).toEqual(before.outline)
  })

  it('takes in what is between those that are chosen, and what hung on them hangs on the set', () => {
    const before = film()
    const take = before.takes[T]!
    const tilda = fastenLevels(take, T, ['tilda'], { kind: 'level', levelId: 'planks', turn: true, size: true }, createTakeStage(take, OPTICS).seen(0))
    const hanging = after(before, tilda)
    const now = after(hanging, makeSet(hanging, 'film', T, ['rail', 'planks'], { set: 'walk', level: 'on' }, 'Walk', LOOK))
    expect(now.takes[T]!.levels.tilda!.carrier).toMatchObject({ levelId: 'on' })
    expectAlike(pictures(now, T), pictures(hanging, T))
  })

  it('refuses in words what has time, a camera or another set', () => {
    const now = film()
    const ask = (f: Film, ids = WALK) => makeSet(f, 'film', T, ids, { set: 'walk', level: 'on' }, 'Walk', LOOK)
    const why = (f: Film, ids?: readonly string[]) => ((result) => (result.ok ? null : result.refusal))(ask(f, ids as string[]))
    const changed = (fields: Partial<Level>) => ({ ...now, takes: { ...now.takes, [T]: { ...now.takes[T]!, levels: { ...now.takes[T]!.levels, shed: { ...now.takes[T]!.levels.shed!, ...fields } as Level } } } })
    expect(why(now, [])).toEqual({ code: 'nothing-selected' })
    expect(why(now, ['nobody'])).toMatchObject({ code: 'missing' })
    expect(why(changed({ locked: true }))).toMatchObject({ why: 'locked', name: 'shed' })
    expect(why(changed({ carrier: { kind: 'camera' } }))).toMatchObject({ why: 'camera' })
    expect(why(changed({ kind: 'reference' }))).toMatchObject({ why: 'reference' })
    expect(why(now, ['tilda'])).toMatchObject({ why: 'drawings', name: 'tilda' })
    expect(why(now, ['nobody', 'on'])).toMatchObject({ code: 'missing' })
    // In place alone on another piece, while all of them hang on a level that may turn.
    const hung = after(now, fastenLevels(now.takes[T]!, T, ['planks', 'shed'], { kind: 'level', levelId: 'sky', turn: true, size: true }, createTakeStage(now.takes[T]!, OPTICS).seen(0)))
    const placed = after(hung, fastenLevels(hung.takes[T]!, T, ['rail'], { kind: 'level', levelId: 'planks', turn: false, size: true }, createTakeStage(hung.takes[T]!, OPTICS).seen(0)))
    expect(why(hung, ['planks', 'rail', 'shed'])).toBeNull()
    expect(why(placed, ['planks', 'rail', 'shed'])).toEqual({ code: 'not-for-a-set', name: 'rail', why: 'follows' })
    const keyed = keyLevel(now.takes[T]!, T, 'shed', 2, { opacity: 0.2 }, newId)
    expect(why(after(now, keyed))).toMatchObject({ why: 'keys' })
    const there = withSet()
    expect(why(there, ['on'])).toMatchObject({ why: 'set' })
  })
})

describe('a set in other shots', () => {
  it('stands where it stood, is changed once and seen everywhere, and fades and goes as one level', () => {
    let now = withSet()
    now = after(now, putSet(now, 'other', 'walk', 'there'))
    const drawn = (takeId: string) => picture(now, takeId, 0).filter(({ drawing: id }) => WALK.some((name) => id === `d-${name}`))
    expect(drawn('other').map(({ drawing: id }) => id).sort()).toEqual(drawn(T).map(({ drawing: id }) => id).sort())
    const changed = inSet(now, (take) => editLevel(take, T, piece('shed'), { x: 1.25 }))
    expect(changed.takes).toEqual(now.takes)
    expect(changed.sets!.walk!.pieces.shed!.x).toBe(1.25)
    for (const takeId of [T, 'other']) expect(createTakeStage(shown(changed, takeId), OPTICS).at(0).levels.some(({ level: { id, x } }) => id.endsWith('~shed') && x === 1.25)).toBe(true)
    const faded = after(now, shapeLevel(now.takes.other!, 'other', 'there', 0, { opacity: 0.5 }))
    expect(picture(faded, 'other', 0).find(({ drawing: id }) => id === 'd-shed')!.opacity).toBeCloseTo(0.4, 12)
    expect(picture(faded, T, 0).find(({ drawing: id }) => id === 'd-shed')!.opacity).toBeCloseTo(0.8, 12)
    const gone = after(now, editLevel(now.takes.other!, 'other', 'there', { visible: false }))
    expect(picture(gone, 'other', 0).map(({ drawing: id }) => id)).toEqual(['d-other'])
  })

  it('hides a piece in one shot alone', () => {
    let now = withSet()
    now = after(now, putSet(now, 'other', 'walk', 'there'))
    const hidden = after(now, hidePieces(now.takes.other!, 'other', 'there', ['shed'], true))
    expect(picture(hidden, 'other', 0).some(({ drawing: id }) => id === 'd-shed')).toBe(false)
    expect(pictures(hidden, T)).toEqual(pictures(now, T))
    expect(hidden.sets).toEqual(now.sets)
    expect(after(hidden, hidePieces(hidden.takes.other!, 'other', 'there', ['shed'], false)).takes).toEqual(now.takes)
  })

  it('gives a piece to one shot in place: no frame changes, and neither hand changes the other’s', () => {
    const now = withSet()
    for (const pieces of [['planks'], ['rail'], ['shed', 'lamp'], WALK]) {
      const asked = ownPieces(now, T, 'on', pieces, LOOK, newId)
      const own = after(now, asked)
      expect(own.sets).toEqual(now.sets)
      const copies = new Map(change(asked).edits.flatMap(({ unit }) => (unit.kind === 'drawing' ? [[unit.id, own.drawings[unit.id]!.marks[0]!.id.replace('m-', 'd-')] as const] : [])))
      const [mine, before] = [pictures(own, T, (id) => copies.get(id) ?? id), pictures(now, T)]
      // Among pieces at one depth it lies before or behind the others; none here lie over another.
      const sorted = (list: typeof mine) => list.map((each) => [...each].sort((a, b) => (a.drawing < b.drawing ? -1 : 1)))
      // The lamp sways about what carries it; its own copy does so too.
      expectAlike(sorted(mine), sorted(before))
      expect(asked.levelIds).toHaveLength(pieces.length)
    }
  })

  it('and a set-up are pasted into another shot as one: the set is seen there as it was, wherever it stands', () => {
    const now = withSet()
    const stage = createTakeStage(shown(now, T), OPTICS)
    const setUp = { levels: [{ level: now.takes[T]!.levels.on as SetLevel, stands: stage.seen(30).standOf('on') }], pose: stage.poseAt(30) }
    const seenIn = (f: Film, takeId: string, frame: number) => new Map(picture(f, takeId, frame).filter(({ drawing: id }) => WALK.some((name) => id === `d-${name}`)).map(({ drawing: id, at }) => [id, at]))
    const expectSeen = (f: Film, frame: number) => {
      // The lamp sways, at each frame elsewhere.
      for (const [id, at] of seenIn(now, T, 30)) if (id !== 'd-lamp') at.forEach((value, i) => expect(Math.abs(seenIn(f, 'other', frame).get(id)![i]! - value)).toBeLessThan(1e-9))
    }
    const pasted = after(now, pasteSetUp(now, 'other', 'a', 5, setUp, newId))
    expect(setsIn(pasted.takes.other!)).toHaveLength(1)
    expect(Object.values(pasted.takes.other!.framings)).toHaveLength(1)
    expectSeen(pasted, 0)
    const turned = after(pasted, editLevel(pasted.takes.other!, 'other', setsIn(pasted.takes.other!)[0]!.id, { panDegrees: 70, tiltDegrees: -20, scale: 3, x: 4 }))
    const again = after(turned, pasteSetUp(turned, 'other', 'a', 5, setUp, newId))
    expect(Object.values(again.takes.other!.framings)).toHaveLength(1)
    expect(setsIn(again.takes.other!)).toHaveLength(1)
    expectSeen(again, 0)
    expect(pasteSetUp(now, 'other', 'a', 0, { ...setUp, levels: [] }, newId)).toMatchObject({ refusal: { code: 'nothing-to-paste' } })
  })

  it('comes from elsewhere under new names, more than once', () => {
    let now = withSet()
    const brought = { name: 'Walk', stands: { x: 1, y: 2, depth: 3 }, set: now.sets!.walk!, drawings: now.drawings }
    for (const id of ['first', 'second']) now = after(now, bringSet(now.outline, 'film', brought, id, newId))
    expect(inOrder(now.outline.sets).map(({ id, stands }) => [id, stands.depth])).toEqual([['walk', expect.any(Number)], ['first', 3], ['second', 3]])
    const drawn = ['walk', 'first', 'second'].flatMap((id) => Object.values(now.sets![id]!.art).map(({ drawingId }) => drawingId))
    expect(new Set(drawn).size).toBe(12)
    expect(bringSet(now.outline, 'film', { ...brought, drawings: {} }, 'third', newId)).toMatchObject({ refusal: { code: 'missing', what: 'drawing' } })
  })

  it('is renamed, made into another, and goes only where no shot stands in it', () => {
    let now = withSet()
    now = after(now, renameSet(now.outline, 'film', 'walk', ' Boardwalk '))
    expect(now.outline.sets.walk!.name).toBe('Boardwalk')
    expect(removeSet(now.outline, 'film', 'walk', 1)).toMatchObject({ refusal: { code: 'set-in-use', shots: 1 } })
    const two = after(now, duplicateSet(now, 'film', 'walk', 'fog', 'Boardwalk in fog', newId, { takeId: T, setLevelId: 'on' }))
    expect((two.takes[T]!.levels.on as SetLevel).setId).toBe('fog')
    expect(Object.keys(two.sets!.fog!.pieces).sort()).toEqual([...WALK].sort())
    expect(Object.values(two.sets!.fog!.art).some(({ drawingId }) => Object.values(now.sets!.walk!.art).some((art) => art.drawingId === drawingId))).toBe(false)
    expect(after(two, removeSet(two.outline, 'film', 'walk', 0)).outline.sets).toHaveProperty('fog')
  })
})

describe('working in a set', () => {
  it('does to pieces what is done to levels: moved, sent to depths, listed, drawn on, taken out', () => {
    const now = withSet()
    const sent = inSet(now, (take) => sendLevels(take, T, new Map([[piece('shed'), { times: 1.5 }], [piece('planks'), { times: 0.8 }]]), seen(now)))
    // The picture stays at the frame that is seen.
    const here = (f: Film) => createTakeStage(shown(f, T), OPTICS).through(LOOK.frame, 'a', LOOK.camera).levels.filter(({ drawingId }) => drawingId !== null).map((placed) => [placed.drawingId, ...[0, 0.4].flatMap((x) => { const { u, v } = seenAt(createTakeStage(shown(f, T), OPTICS).through(LOOK.frame, 'a', LOOK.camera).lens, placed, { x, y: 0.2 }); return [u, v] })] as const)
    const byDrawing = (f: Film) => new Map(here(f).map(([id, ...at]) => [id, at as number[]]))
    for (const [id, at] of byDrawing(now)) at.forEach((value, i) => expect(Math.abs(byDrawing(sent).get(id)![i]! - value)).toBeLessThan(1e-9))
    expect(sent.takes).toEqual(now.takes)

    const listed = inSet(now, (take) => listBeside(take, T, piece('lamp'), piece('shed'), 'nearer', { standOf: (id) => ({ ...seen(now).standOf(id), place: { x: 0, y: 0, depth: 0 } }) }))
    const order = (f: Film) => Object.values(f.sets!.walk!.pieces).sort((a, b) => (a.order < b.order ? -1 : 1)).map(({ id }) => id)
    expect(order(listed)).toEqual(['planks', 'rail', 'lamp', 'shed'])

    const drawn = inSet(now, (take, f) => drawMark(take, T, f.drawings, piece('shed'), 'p2', { ...STROKE, id: 'more' }, 'new', false))
    expect(drawn.drawings['d-shed']!.marks).toHaveLength(2)
    expect(drawn.sets).toEqual(now.sets)

    const out = inSet(now, (take) => removeLevel(take, T, piece('planks'), seen(now)))
    expect(Object.keys(out.sets!.walk!.pieces).sort()).toEqual(['lamp', 'rail', 'shed'])
    expect(out.sets!.walk!.art.planks).toBeUndefined()
    expect(byDrawing(out).get('d-rail')!.every((value, i) => Math.abs(value - byDrawing(now).get('d-rail')![i]!) < 1e-9)).toBe(true)
    expect(out.takes).toEqual(now.takes)
  })

  it('keeps the picture when depths change: of pieces, and of the set as one, on 1,000 random set-ups', () => {
    const base = withSet()
    const tenth = (most: number) => fc.integer({ min: -most * 10, max: most * 10 }).map((value) => value / 10)
    const angle = fc.integer({ min: -35, max: 35 })
    const anyCamera = fc.record({ x: tenth(1), y: tenth(1), depth: fc.integer({ min: -40, max: -12 }).map((value) => value / 10), panDegrees: angle, tiltDegrees: angle, rollDegrees: angle })
    fc.assert(
      fc.property(fc.tuple(tenth(1), tenth(1), angle, angle, angle, fc.integer({ min: 4, max: 25 })), fc.record({ x: tenth(2), y: tenth(1), panDegrees: angle, rollDegrees: angle }), anyCamera, fc.integer({ min: 11, max: 40 }), fc.constantFrom('piece', 'pieces', 'whole' as const), ([x, y, panDegrees, tiltDegrees, rollDegrees, size], shed, camera, times, what) => {
        const now: Film = {
          ...base,
          takes: { ...base.takes, [T]: { ...base.takes[T]!, levels: { ...base.takes[T]!.levels, on: { ...base.takes[T]!.levels.on!, x, y, panDegrees, tiltDegrees, rollDegrees, scale: size / 10 } } } },
          sets: { walk: { ...base.sets!.walk!, pieces: { ...base.sets!.walk!.pieces, shed: { ...base.sets!.walk!.pieces.shed!, ...shed } } } },
        }
        const pose = { ...REST, ...camera }
        const open = { ...OPEN, camera: pose }
        const here = createTakeStage(shown(now, T), OPTICS).seen(LOOK.frame, pose)
        const to = new Map((what === 'whole' ? ['on'] : what === 'piece' ? [piece('shed')] : [piece('shed'), piece('planks')]).map((id) => [id, { times: times / 10 }]))
        const send = (f: Film) => sendLevels(f.takes[T]!, T, to, here)
        const result = what === 'whole' ? send(now) : editInSet(now, open, send)
        // Behind the lens there is no picture to keep.
        if (!result.ok) return expect(result.refusal.code).toBe('level-behind-lens')
        const after = applyChange(now, result)
        if (!after.ok) throw new Error(after.refusal.code)
        const corners = (f: Film) => ((stage) => new Map(stage.levels.flatMap((placed) => (placed.drawingId === null ? [] : [[placed.drawingId, [-0.5, 0.5].flatMap((u) => [-0.4, 0.4].map((v) => seenAt(stage.lens, placed, { x: u, y: v })))] as const]))))(createTakeStage(shown(f, T), OPTICS).through(LOOK.frame, 'a', pose))
        const [before, then] = [corners(now), corners(after.value)]
        for (const [id, at] of before) {
          at.forEach(({ u, v, z }, i) => {
            // Nearer than that to the plane of the lens a rounding is as wide as the picture.
            if (z < 0.1) return
            const now = then.get(id)![i]!
            if (!(Math.abs(now.u - u) < 1e-9 && Math.abs(now.v - v) < 1e-9)) throw new Error(`${id} ${i} is off by ${now.u - u}, ${now.v - v}`)
          })
        }
      }),
      { numRuns: 1000 },
    )
  })

  it('takes new levels in where they stand, and leaves the shot’s own in the shot', () => {
    const now = withSet()
    const before = createTakeStage(shown(now, T), OPTICS).seen(LOOK.frame, LOOK.camera)
    const twice = inSet(now, (take) => duplicateLevel(take, T, piece('shed'), 'shed2', 'Shed 2', newId))
    expect(twice.sets!.walk!.pieces.shed2).toMatchObject({ name: 'Shed 2', x: now.sets!.walk!.pieces.shed!.x })
    expect(twice.sets!.walk!.art.shed2!.drawingId).toBe('d-shed')
    expect(twice.takes).toEqual(now.takes)
    const turned = after(now, editLevel(now.takes[T]!, T, 'on', { panDegrees: 30, scale: 2, x: 0.7 }))
    const stood = inSet(turned, (take) => duplicateLevel(take, T, 'sky', 'cloud', 'Cloud', newId))
    const [sky, cloud] = ['sky', piece('cloud')].map((id) => createTakeStage(shown(stood, T), OPTICS).seen(LOOK.frame, LOOK.camera).standOf(id))
    for (const part of ['place', 'right', 'up'] as const) for (const axis of ['x', 'y', 'depth'] as const) expect(cloud![part][axis]).toBeCloseTo(sky![part][axis], 9)
    const moved = inSet(now, (take) => editLevel(take, T, 'tilda', { x: 0.5 }))
    expect(moved.takes[T]!.levels.tilda!.x).toBe(0.5)
    expect(moved.sets).toEqual(now.sets)
    expect(before.standOf(piece('shed')).place).toBeDefined()
  })

  it('refuses what needs time, a camera, or another’s piece; what changes panels is made on the shot', () => {
    const now = withSet()
    const why = (how: (take: TakeBody, f: Film) => Made) => ((result) => (result.ok ? null : result.refusal.code))(editInSet(now, OPEN, (f) => how(f.takes[T]!, f)))
    expect(why((take) => keyLevel(take, T, piece('shed'), 4, { size: 2 }, newId))).toBe('set-has-no-time')
    expect(why((take) => settleLevel(take, T, piece('shed'), {}))).toBeNull()
    expect(why((take) => fastenLevels(take, T, [piece('shed')], null, seen(now)))).toBe('piece-stays')
    expect(why((take) => fastenLevels(take, T, [piece('shed')], { kind: 'camera' }, seen(now)))).toBe('piece-stays')
    expect(why((take) => fastenLevels(take, T, ['tilda'], { kind: 'level', levelId: piece('shed'), turn: true, size: true }, seen(now)))).toBe('piece-carries')
    expect(why((take) => editLevel(take, T, piece('shed'), { kind: 'reference' }))).toBeNull()
    expect(why((take) => editLevel(take, T, piece('shed'), { kind: 'reference', sequence: { startFrame: 0, framesEach: 1 } }))).toBe('set-has-no-references')
    const shorter = after(now, editInSet(now, OPEN, (f) => removePanels(f, 'film', T, ['p1'], newId)))
    expect(shorter.sets).toEqual(now.sets)
    expectAlike(pictures(shorter, T).map((each) => each.filter(({ drawing: id }) => id === 'd-shed')), Array.from({ length: 12 }, (_, i) => picture(now, T, i + 24).filter(({ drawing: id }) => id === 'd-shed')).map((each, i) => each.map((one) => ({ ...one, at: pictures(shorter, T)[i]!.find(({ drawing: id }) => id === 'd-shed')!.at }))))
  })

  it('undone is the original, whatever was done', () => {
    const now = withSet()
    const steps: ((take: TakeBody, f: Film, at: Film) => Made)[] = [
      (take) => editLevel(take, T, piece('lamp'), { name: 'Lamp post', opacity: 0.3 }),
      (take, _, at) => removeLevel(take, T, piece('planks'), seen(at)),
      (take) => duplicateLevel(take, T, piece('rail'), 'rail2', 'Rail 2', newId),
      (take, _, at) => fastenLevels(take, T, [piece('shed')], { kind: 'level', levelId: piece('planks'), turn: true, size: false }, seen(at)),
      (take) => shapeLevel(take, T, piece('shed'), 0, { place: { x: 2, y: 1, depth: 0.5 }, turn: { panDegrees: 1, tiltDegrees: 2, rollDegrees: 3 } }),
    ]
    fc.assert(
      fc.property(fc.array(fc.nat(steps.length - 1), { minLength: 1, maxLength: 3 }), (which) => {
        let at = now
        const done: Change[] = []
        for (const i of which) {
          const made = editInSet(at, OPEN, (f) => steps[i]!(f.takes[T]!, f, at))
          if (!made.ok) continue
          done.push(change(made))
          at = after(at, made)
        }
        for (const each of done.reverse()) {
          const back = applyChange(at, invertChange(each, newId()))
          if (!back.ok) throw new Error(back.refusal.code)
          at = back.value
        }
        expect(at).toEqual(now)
      }),
      { numRuns: 30 },
    )
  })

  it('two hands in one set go together field by field, or clash', () => {
    const now = withSet()
    const mine = change(editInSet(now, OPEN, (f) => editLevel(f.takes[T]!, T, piece('shed'), { x: 3 })))
    const theirs = inSet(now, (take) => editLevel(take, T, piece('shed'), { name: 'Hut' }))
    const both = rebaseChange(theirs, mine)
    expect(both.ok && both.film.sets!.walk!.pieces.shed).toMatchObject({ x: 3, name: 'Hut' })
    const against = inSet(now, (take) => editLevel(take, T, piece('shed'), { x: 4 }))
    expect(rebaseChange(against, mine)).toMatchObject({ ok: false, clashes: [{ collection: 'pieces', id: 'shed', fields: ['x'] }] })
    // What is taken out is looked at: who draws in it meanwhile is not passed over.
    const out = change(editInSet(now, OPEN, (f) => removeLevel(f.takes[T]!, T, piece('shed'), seen(now))))
    expect(readsOf(now, out.edits)).toMatchObject([{ kind: 'content', unit: { kind: 'drawing', id: 'd-shed' } }])
    expect(readsOf(film(), change(made()).edits).filter(({ kind }) => kind === 'content')).toEqual([])
  })
})

describe('panels and shots with sets', () => {
  it('show what they showed when panels go to another shot, a shot is cut, or two are joined', () => {
    const now = withSet()
    const drawn = (f: Film, takeId: string, frame: number) => picture(f, takeId, frame).map(({ drawing: id }) => id)
    const carried = after(now, carryPanels(now, 'film', T, ['p2'], 'other', 'qp2', newId))
    expect(setsIn(carried.takes.other!)).toHaveLength(1)
    expect(drawn(carried, 'other', 0)).toEqual(['d-other'])
    expect(drawn(carried, 'other', 14).filter((id) => WALK.some((name) => id === `d-${name}`))).toHaveLength(4)
    expect(drawn(carried, 'other', 30)).toEqual(['d-other'])

    const joined = after(now, joinShots(now, 'film', ['x', 'y'], newId))
    expect(drawn(joined, T, 5)).toEqual(drawn(now, T, 5))
    expect(drawn(joined, T, 36)).toEqual(['d-other'])

    const cut = after(now, cutShot(now, 'film', 'x', 'p2', newId))
    const second = filmOrder(cut.outline)[1]!.circledTakeId
    expectAlike([picture(cut, second, 0, (id) => cut.drawings[id]!.marks[0]!.id)], [picture(now, T, 24, (id) => now.drawings[id]!.marks[0]!.id)])
    expect(drawingsWith(now.takes[T]!)).not.toContain('set')
  })
})
