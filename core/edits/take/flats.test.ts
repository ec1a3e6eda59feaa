import { describe, expect, it } from 'vitest'
import { roomWalls, wallCorners, type Room } from '../../depth'
import { pointOnPlane } from '../../depth/levelPlane'
import { drawingBounds, flatArt, standInArt } from '../../ink'
import { cornersOf } from '../../geometry'
import { takeProblems } from '../../document/checkTake'
import { EMPTY_DRAWING, newLevel, withoutStandIns, type Drawing, type Level, type TakeBody } from '../../document'
import { createTakeStage } from '../../stage'
import { applyToUnit, drawOver, editLevel, invert, showArt, standFlats, type Made, type NewFlat } from '../index'
import { newId, OPTICS, REST, sampleTake, T } from '../testing'

const ROOM: Room = { floor: { x: 0.2, y: -0.3, depth: 1.4 }, panDegrees: 20, width: 1.2, height: 0.7, length: 1.6 }
const wallsOf = (room: Room): NewFlat[] => roomWalls(room).map(({ name, on, width, height, pivot, place, turn }) => ({ id: `w-${name}`, drawingId: `d-${name}`, name, art: flatArt(width, height, '#dddddd'), visible: name !== 'near', on: on === null ? null : `w-${on}`, width, height, pivot, place, turn }))

describe('walls', () => {
  it('stand as they were told, each a drawn level, with its art just as large', () => {
    const take = sampleTake([24, 24])
    const built = standFlats(take, T, 'p1', wallsOf(ROOM), 'Room', newId)
    if (!built.ok) throw new Error(built.refusal.code)
    const [edit, ...drawn] = built.edits
    const applied = applyToUnit(take, edit!)
    if (!applied.ok) throw new Error(applied.refusal.code)
    const after: TakeBody = applied.value
    expect(takeProblems(after)).toEqual([])
    const frame = createTakeStage(after, OPTICS).withPose(30, REST)
    for (const wall of roomWalls(ROOM)) {
      const drawing = applyToUnit(EMPTY_DRAWING, drawn.find(({ unit }) => unit.id === `d-${wall.name}`)!)
      if (!drawing.ok) throw new Error(drawing.refusal.code)
      const bounds = drawingBounds(drawing.value as Drawing)!
      const placed = frame.levels.find(({ level }) => level.id === `w-${wall.name}`)
      // The near one is there, and hidden.
      expect(placed === undefined).toBe(wall.name === 'near')
      if (placed === undefined) continue
      expect(placed.drawingId).toBe(`d-${wall.name}`)
      const stands = cornersOf(bounds).map((corner) => pointOnPlane(placed.plane, corner))
      wallCorners(wall).forEach((corner, i) => {
        for (const axis of ['x', 'y', 'depth'] as const) expect(stands[i]![axis]).toBeCloseTo(corner[axis], 5)
      })
    }
    const undone = applyToUnit(after, invert(edit!))
    expect(undone.ok && undone.value).toEqual(take)
  })

  it('are refused without a size, without a panel, on what is not there, and too deep', () => {
    const take = sampleTake([24])
    const [floor] = wallsOf(ROOM)
    const code = (walls: readonly NewFlat[], panel = 'p1') => ((answer) => (answer.ok ? 'ok' : answer.refusal.code))(standFlats(take, T, panel, walls, null, newId))
    expect(code([])).toBe('nothing-selected')
    expect(code([floor!], 'gone')).toBe('missing')
    expect(code([{ ...floor!, width: 0 }])).toBe('pose-not-finite')
    expect(code([{ ...floor!, place: { x: NaN, y: 0, depth: 0 } }])).toBe('pose-not-finite')
    expect(code([{ ...floor!, on: 'gone' }])).toBe('missing')
    expect(code(Array.from({ length: 18 }, (_, i) => ({ ...floor!, id: `w${i}`, drawingId: `d${i}`, on: i === 0 ? null : `w${i - 1}` })))).toBe('carriers-too-deep')
  })
})

describe('stand-ins', () => {
  const put = (take: TakeBody, made: Made): TakeBody => {
    if (!made.ok) throw new Error(made.refusal.code)
    const applied = applyToUnit(take, made.edits[0]!)
    if (!applied.ok) throw new Error(applied.refusal.code)
    return applied.value
  }
  const FIGURE: NewFlat = { id: 'figure', drawingId: 'df', name: 'Figure 1', art: standInArt({ kind: 'figure', height: 0.3, heads: 4, view: 'side', pose: 'walking' }), visible: true, on: null, width: 0.2, height: 0.3, pivot: { x: 0, y: 0 }, place: { x: 0.1, y: -0.2, depth: 0.4 }, turn: { panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }, fields: { standIn: true, facing: 'upright' } }

  it('are levels that say so; another pose is shown from a frame on', () => {
    const take = put(sampleTake([24, 24]), standFlats(sampleTake([24, 24]), T, 'p1', [FIGURE], null, newId))
    expect(take.levels.figure).toMatchObject({ standIn: true, facing: 'upright', kind: 'drawn' })
    expect(takeProblems(take)).toEqual([])
    const after = put(take, showArt(take, T, 'figure', 'p2', 6, FIGURE.art, 'df2', newId))
    const shows = (frame: number) => createTakeStage(after, OPTICS).at(frame).levels.find(({ level }) => level.id === 'figure')?.drawingId
    expect([shows(0), shows(29), shows(30), shows(47)]).toEqual(['df', 'df', 'df2', 'df2'])
    expect(showArt(take, T, 'gone', 'p2', 0, FIGURE.art, 'd', newId)).toMatchObject({ ok: false, refusal: { code: 'missing' } })
    const locked = { ...take, levels: { ...take.levels, figure: { ...take.levels.figure!, locked: true } } }
    expect(showArt(locked, T, 'figure', 'p2', 0, FIGURE.art, 'd', newId)).toMatchObject({ ok: false, refusal: { code: 'level-locked' } })
  })

  it('are drawn over on a level that lies just where they do, whatever becomes of them', () => {
    let take = put(sampleTake([24, 24]), standFlats(sampleTake([24, 24]), T, 'p1', [{ ...FIGURE, pivot: { x: 0.05, y: 0.1 } }], 'Crowd', newId))
    take = put(take, drawOver(take, T, 'figure', 'over', 'Over it'))
    take = put(take, editLevel(take, T, 'figure', { scale: 1.7, rollDegrees: 25, x: -0.3, facing: 'upright' }))
    take = { ...take, cells: { ...take.cells, 'over.p1': { id: 'over.p1', levelId: 'over', panelId: 'p1', drawingId: 'x' } } }
    const frame = createTakeStage(take, OPTICS).withPose(3, { ...REST, panDegrees: 12, x: 0.2 })
    const plane = (id: string) => frame.levels.find(({ level }) => level.id === id)!
    for (const part of ['origin', 'axisX', 'axisY'] as const) for (const axis of ['x', 'y', 'depth'] as const) expect(plane('over').plane[part][axis]).toBeCloseTo(plane('figure').plane[part][axis], 12)
    // Of two in one plane the one that is drawn on lies before.
    expect(plane('over').rackIndex).toBeLessThan(plane('figure').rackIndex)
    expect(take.levels.over).toMatchObject({ group: 'Crowd', carrier: { levelId: 'figure' } })
    expect('standIn' in take.levels.over!).toBe(false)
    expect(drawOver(take, T, 'gone', 'n', 'n')).toMatchObject({ ok: false, refusal: { code: 'missing' } })
  })
})

describe('a take without its stand-ins', () => {
  it('shows none of them, what hangs on them stands as it stood, and one without any is itself', () => {
    const plain = sampleTake([24])
    expect(withoutStandIns(plain)).toBe(plain)
    const standIn: Level = { ...newLevel({ id: 's', name: 's', order: 'b1' }), x: 0.3, rollDegrees: 20, standIn: true }
    const over: Level = { ...newLevel({ id: 'o', name: 'o', order: 'b2' }), carrier: { kind: 'level', levelId: 's', turn: true, size: true } }
    const cells = Object.fromEntries(['s', 'o'].map((id) => [`${id}.p1`, { id: `${id}.p1`, levelId: id, panelId: 'p1', drawingId: `d-${id}` }]))
    const take: TakeBody = { ...plain, levels: { ...plain.levels, s: standIn, o: over }, cells: { ...plain.cells, ...cells } }
    const without = withoutStandIns(take)
    const [before, after] = [take, without].map((body) => createTakeStage(body, OPTICS).withPose(0, REST).levels)
    expect(after!.map(({ level }) => level.id)).toEqual(before!.map(({ level }) => level.id).filter((id) => id !== 's'))
    const plane = (levels: typeof before) => levels!.find(({ level }) => level.id === 'o')!.plane
    expect(plane(after)).toEqual(plane(before))
    expect(take.levels.s!.visible).toBe(true)
  })
})
