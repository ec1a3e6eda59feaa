import { describe, expect, it } from 'vitest'
import { roomWalls, wallCorners, type Room } from '../../depth'
import { pointOnPlane } from '../../depth/levelPlane'
import { drawingBounds } from '../../ink'
import { cornersOf } from '../../geometry'
import { takeProblems } from '../../document/checkTake'
import { EMPTY_DRAWING, type Drawing, type TakeBody } from '../../document'
import { createTakeStage } from '../../stage'
import { applyToUnit, invert, standWalls, type NewWall } from '../index'
import { newId, OPTICS, REST, sampleTake, T } from '../testing'

const ROOM: Room = { floor: { x: 0.2, y: -0.3, depth: 1.4 }, panDegrees: 20, width: 1.2, height: 0.7, length: 1.6 }
const wallsOf = (room: Room): NewWall[] => roomWalls(room).map(({ name, on, width, height, pivot, place, turn }) => ({ id: `w-${name}`, drawingId: `d-${name}`, name, tone: '#dddddd', visible: name !== 'near', on: on === null ? null : `w-${on}`, width, height, pivot, place, turn }))

describe('walls', () => {
  it('stand as they were told, each a drawn level, with its art just as large', () => {
    const take = sampleTake([24, 24])
    const built = standWalls(take, T, 'p1', wallsOf(ROOM), 'Room', newId)
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
    const code = (walls: readonly NewWall[], panel = 'p1') => ((answer) => (answer.ok ? 'ok' : answer.refusal.code))(standWalls(take, T, panel, walls, null, newId))
    expect(code([])).toBe('nothing-selected')
    expect(code([floor!], 'gone')).toBe('missing')
    expect(code([{ ...floor!, width: 0 }])).toBe('pose-not-finite')
    expect(code([{ ...floor!, place: { x: NaN, y: 0, depth: 0 } }])).toBe('pose-not-finite')
    expect(code([{ ...floor!, on: 'gone' }])).toBe('missing')
    expect(code(Array.from({ length: 18 }, (_, i) => ({ ...floor!, id: `w${i}`, drawingId: `d${i}`, on: i === 0 ? null : `w${i - 1}` })))).toBe('carriers-too-deep')
  })
})
