import { describe, expect, it } from 'vitest'
import { level } from '../edits/testing'
import { drawingProblems, outlineProblems, setProblems, takeProblems, type DocumentProblem } from './checkTake'
import { orderOfNumber } from './order'
import { cellIdOf, levelDrawingIdOf, linkIdOf, PIECES_MOST, SET_SHOWN, TAKE_FRAMES_MAX } from './records'
import { CARRIERS_DEEP } from './carriers'
import { EMPTY_OUTLINE, EMPTY_SET, EMPTY_TAKE, type Drawing, type Outline, type SetBody, type TakeBody } from './units'

const MOVE = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const panel = (id: string, lengthFrames: number) => ({ id, order: orderOfNumber(Number(id.slice(1))), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' })
const byId = (...records: readonly { readonly id: string }[]) => Object.fromEntries(records.map((record) => [record.id, record]))
const carrier = (levelId: string, turn = true) => ({ carrier: { kind: 'level' as const, levelId, turn, size: true } })
const POSE = { x: 0, y: 0, depth: -1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 }
const cell = (levelId: string, panelId: string, drawingId: string | null, offsetFrames = 0) => ({ id: cellIdOf(levelId, panelId, offsetFrames), levelId, panelId, drawingId, ...(offsetFrames === 0 ? {} : { offsetFrames }) })

/** Whole in itself: two panels, levels that carry, a camera that follows, a key of each kind. */
const WHOLE = {
  ...EMPTY_TAKE,
  panels: byId(panel('p1', 24), panel('p2', 12)),
  levels: byId(level('boat', 1, 1), level('tilda', 2, 1, carrier('boat')), level('walk', 3, 2, { kind: 'set', setId: 'pier' } as never)),
  cells: byId(cell('boat', 'p1', 'd1'), cell('tilda', 'p1', 'd2'), cell('tilda', 'p1', 'd3', 4), cell('tilda', 'p2', null), cell('walk', 'p1', SET_SHOWN)),
  levelDrawings: byId({ id: levelDrawingIdOf('tilda', 'd2'), levelId: 'tilda', drawingId: 'd2', name: 'A' } as never),
  cameras: byId({ id: 'a', order: 'a1', letter: 'A', locked: false } as never),
  framings: byId({ id: 'f1', cameraId: 'a', panelId: 'p2', offsetFrames: 11, pose: POSE, move: MOVE, locked: false } as never),
  levelKeys: byId({ id: 'k1', levelId: 'boat', panelId: 'p1', offsetFrames: 0, of: 'size', value: 2, move: MOVE, locked: false } as never),
  spans: byId({ id: 's1', kind: 'aim', cameraId: 'a', panelId: 'p1', offsetFrames: 2, inFrames: 0, outFrames: 0, target: { levelId: 'boat' } } as never),
  spanEnds: byId({ id: 's1', spanId: 's1', panelId: 'p2', offsetFrames: 3 } as never),
} as unknown as TakeBody

type Parts = { readonly [C in keyof TakeBody]?: Readonly<Record<string, object | null>> }
/** With records put, or taken out where they are null. */
function changed(parts: Parts): TakeBody {
  const take: Record<string, Record<string, object>> = { ...(WHOLE as unknown as Record<string, Record<string, object>>) }
  for (const [collection, records] of Object.entries(parts)) {
    const now = { ...take[collection] }
    for (const [id, record] of Object.entries(records!)) {
      if (record === null) delete now[id]
      else now[id] = { ...now[id], ...record }
    }
    take[collection] = now
  }
  return take as unknown as TakeBody
}
const told = (problems: readonly DocumentProblem[]) => problems.map(({ code, path }) => `${code} ${path.join('/')}`).sort()

describe('what a shot’s records say of each other', () => {
  it('holds in one that is whole, and in one of nothing', () => {
    expect(takeProblems(WHOLE)).toEqual([])
    expect(takeProblems(EMPTY_TAKE)).toEqual([])
  })

  it.each<readonly [string, Parts, readonly string[]]>([
    ['a record is called otherwise than it is kept', { cameras: { a: { id: 'b' } } }, ['id-mismatch cameras/a']],
    ['a panel that something stands in is gone', { panels: { p2: null } }, ['missing-panel cells/tilda.p2', 'missing-panel framings/f1', 'missing-panel spanEnds/s1']],
    ['a panel has become shorter than where something stands', { panels: { p2: { lengthFrames: 3 } } }, ['offset-past-panel framings/f1', 'offset-past-panel spanEnds/s1']],
    ['a drawing is shown past its panel', { panels: { p1: { lengthFrames: 4 } } }, ['offset-past-panel cells/tilda.p1.4']],
    ['a camera is gone', { cameras: { a: null } }, ['missing-camera framings/f1', 'missing-camera spans/s1']],
    ['a level that has keys, drawings and a camera after it is gone', { levels: { boat: null, tilda: { carrier: undefined } } }, ['missing-level cells/boat.p1', 'missing-level levelKeys/k1', 'missing-level spans/s1']],
    ['a level with a named drawing is gone', { levels: { tilda: null }, cells: { 'tilda.p1': null, 'tilda.p1.4': null, 'tilda.p2': null } }, ['missing-level levelDrawings/tilda.d2']],
    ['what carries a level is gone', { levels: { tilda: carrier('cart') } }, ['missing-carrier levels/tilda']],
    ['levels carry each other', { levels: { boat: carrier('tilda') } }, ['carrier-circle levels/boat', 'carrier-circle levels/tilda']],
    ['a level carries itself', { levels: { tilda: carrier('tilda') } }, ['carrier-circle levels/tilda']],
    ['an end is another span’s', { spanEnds: { s1: { spanId: 's2' } } }, ['id-mismatch spanEnds/s1', 'missing-span spanEnds/s1']],
    ['a span’s end is left without it', { spans: { s1: null } }, ['missing-span spanEnds/s1']],
    ['a camera goes after what travels with one', { levels: { boat: { carrier: { kind: 'camera' } } } }, ['target-hangs spans/s1']],
    ['a camera goes after what hangs on something that turns to it', { levels: { boat: carrier('walk'), walk: { facing: 'lens' } } }, ['target-hangs spans/s1']],
    ['a cell is called otherwise than where it stands', { cells: { 'boat.p1': { panelId: 'p2' } } }, ['id-mismatch cells/boat.p1']],
    ['a drawing is shown by a set’s level', { cells: { 'walk.p1': { drawingId: 'd1' } } }, ['not-a-drawing cells/walk.p1']],
    ['a set is shown by a drawn level', { cells: { 'boat.p1': { drawingId: SET_SHOWN } } }, ['not-a-drawing cells/boat.p1']],
    ['a drawn level has what only a reference may', { levels: { boat: { over: true } } }, ['not-a-reference levels/boat']],
    ['haze is keyed that is not there', { airKeys: { h1: { id: 'h1', airId: 'haze', panelId: 'p1', offsetFrames: 0, move: MOVE, locked: false } } }, ['missing-air airKeys/h1']],
  ])('%s', (_, parts, problems) => {
    expect(told(takeProblems(changed(parts)))).toEqual([...problems].sort())
  })

  it('a blank cell is no drawing of any kind, so either level may have it', () => {
    expect(takeProblems(changed({ cells: { 'walk.p1': { drawingId: null }, 'boat.p1': { drawingId: null } } }))).toEqual([])
  })

  it('carriers go so deep and no deeper', () => {
    const chain = (levels: number) => changed({ levels: Object.fromEntries(Array.from({ length: levels }, (_, i) => [`c${i}`, level(`c${i}`, i + 9, 0, i === 0 ? {} : carrier(`c${i - 1}`))])) })
    expect(takeProblems(chain(CARRIERS_DEEP + 1))).toEqual([])
    expect(told(takeProblems(chain(CARRIERS_DEEP + 2)))).toEqual([`carriers-too-deep levels/c${CARRIERS_DEEP + 1}`])
  })

  it('panels together are no longer than a shot can be', () => {
    expect(takeProblems(changed({ panels: { p1: { lengthFrames: TAKE_FRAMES_MAX - 12 } } }))).toEqual([])
    expect(told(takeProblems(changed({ panels: { p1: { lengthFrames: TAKE_FRAMES_MAX - 11 } } })))).toEqual(['take-too-long panels'])
  })

  it('names that every object has are no records', () => {
    for (const name of ['constructor', 'toString', '__proto__']) expect(told(takeProblems(changed({ levels: { tilda: carrier(name) } })))).toEqual(['missing-carrier levels/tilda'])
    expect(told(takeProblems(changed({ framings: { f1: { cameraId: 'constructor', panelId: 'toString' } } })))).toEqual(['missing-camera framings/f1', 'missing-panel framings/f1'])
  })
})

describe('what a set’s pieces say of each other', () => {
  const set = (pieces: readonly object[], art: readonly { readonly id: string }[] = []) => ({ ...EMPTY_SET, pieces: byId(...(pieces as { id: string }[])), art: byId(...art) }) as unknown as SetBody
  it('holds where each hangs on another of them, and breaks where it hangs on a camera, on none, or on itself', () => {
    expect(setProblems(set([level('wall', 1, 0), level('lamp', 2, 0, carrier('wall'))], [{ id: 'wall' }]))).toEqual([])
    expect(told(setProblems(set([level('wall', 1, 0, { carrier: { kind: 'camera' } }), level('lamp', 2, 0, carrier('door'))], [{ id: 'rug' }])))).toEqual(['missing-carrier pieces/lamp', 'missing-piece art/rug', 'piece-on-camera pieces/wall'])
    expect(told(setProblems(set([level('wall', 1, 0, carrier('lamp')), level('lamp', 2, 0, carrier('wall'))])))).toEqual(['carrier-circle pieces/lamp', 'carrier-circle pieces/wall'])
  })
  it('has so many pieces and no more', () => {
    const many = (count: number) => set(Array.from({ length: count }, (_, i) => level(`p${i}`, i + 1, 0)))
    expect(setProblems(many(PIECES_MOST))).toEqual([])
    expect(told(setProblems(many(PIECES_MOST + 1)))).toEqual(['too-many-pieces pieces'])
  })
})

describe('what a drawing’s marks say of each other', () => {
  const marks = (...orders: readonly string[]) => ({ marks: orders.map((order, i) => ({ id: `m${i}`, order })) }) as unknown as Drawing
  it('is that they lie in their order', () => {
    expect(drawingProblems(marks())).toEqual([])
    expect(drawingProblems(marks('a1', 'a2', 'a3'))).toEqual([])
    expect(told(drawingProblems(marks('a2', 'a1')))).toEqual(['out-of-order marks/m0'])
  })
})

describe('what a film’s records say of each other', () => {
  const project = { id: 'film', title: 'Film' }
  const sequence = { id: 'q', order: 'a1', label: '01', title: '', targetFrames: null }
  const shot = { id: 's', sequenceId: 'q', order: 'a1', label: '010', title: '', circledTakeId: 't' }
  const take = { id: 't', shotId: 's', order: 'a1', name: 'A' }
  const passage = { id: 'w', sequenceId: 'q', order: 'a1' }
  const whole = { ...EMPTY_OUTLINE, project: byId(project), sequences: byId(sequence), shots: byId(shot), takes: byId(take), passages: byId(passage), links: byId({ id: linkIdOf('w', 'p1'), passageId: 'w', panelId: 'p1', takeId: 't' } as never) } as unknown as Outline
  const so = (parts: object) => ({ ...whole, ...parts }) as Outline

  it('holds in a whole film', () => {
    expect(outlineProblems(whole)).toEqual([])
  })

  it.each<readonly [string, object, readonly string[]]>([
    ['it is of no project', { project: {} }, ['project-count project']],
    ['it is of two', { project: byId(project, { id: 'other' }) }, ['project-count project']],
    ['a sequence is gone', { sequences: {} }, ['missing-sequence passages/w', 'missing-sequence shots/s']],
    ['a shot’s circled take is another shot’s', { takes: byId({ ...take, shotId: 'x' } as never) }, ['missing-shot takes/t', 'missing-take shots/s']],
    ['a take is gone', { takes: {} }, ['missing-take links/w.p1', 'missing-take shots/s']],
    ['words are linked that are not there', { passages: {} }, ['missing-passage links/w.p1']],
    ['a link is called otherwise than what it links', { links: byId({ id: 'w.p2', passageId: 'w', panelId: 'p1', takeId: 't' } as never) }, ['id-mismatch links/w.p2']],
    ['a mark stands in a shot that is gone', { rulerMarks: byId({ id: 'r', shotId: 'x' } as never) }, ['missing-shot rulerMarks/r']],
    ['a clip lies on no lane', { clips: byId({ id: 'c', laneId: 'x', fromSeconds: 0, lengthSeconds: 1, sourceSeconds: 1 } as never) }, ['missing-lane clips/c']],
    ['a clip goes past its recording', { lanes: byId({ id: 'l' }), clips: byId({ id: 'c', laneId: 'l', fromSeconds: 0.5, lengthSeconds: 0.6, sourceSeconds: 1 } as never) }, ['clip-past-recording clips/c']],
    ['a transition leads into a shot that is gone', { transitions: byId({ id: 'x', at: 'cut' } as never) }, ['missing-shot transitions/x']],
    ['a fade at the start is called otherwise', { transitions: byId({ id: 'film-end', at: 'start' } as never) }, ['id-mismatch transitions/film-end']],
  ])('%s', (_, parts, problems) => {
    expect(told(outlineProblems(so(parts)))).toEqual([...problems].sort())
  })

  it('lets a clip be longer than its recording by what rounding leaves', () => {
    expect(outlineProblems(so({ lanes: byId({ id: 'l' }), clips: byId({ id: 'c', laneId: 'l', fromSeconds: 0.5, lengthSeconds: 0.5005, sourceSeconds: 1 } as never) }))).toEqual([])
  })
})
