import { untouchedPose, type CameraPose } from '@rubato/core/camera'
import type { MoveSpec } from '@rubato/core/moves'
import { describe, expect, it } from 'vitest'
import { hitPathMark, pathMarks, type PathKey } from './pathMarks'

const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
const EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const BENT: MoveSpec = { ...EVEN, path: { kind: 'bent', leave: { x: 0.2, y: 0.1, depth: 0 }, arrive: { x: -0.2, y: 0.1, depth: 0 } } }
const placed = (frame: number, x: number, move = EVEN, locked = false): PathKey<CameraPose> => ({ id: `f${frame}`, value: { ...REST, x }, move, locked })
const toView = (pose: CameraPose) => ({ x: pose.x * 100, y: -pose.y * 100 })
const all = () => true

describe('what of a path can be taken hold of', () => {
  it('is the middle of a straight move and the handles of a bent one', () => {
    const marks = pathMarks([placed(0, 0), placed(10, 1, BENT), placed(20, 2)], all, toView)
    expect(marks.map((mark) => [mark.kind, mark.keyId, mark.at.x, mark.at.y + 0])).toEqual([
      ['middle', 'f0', 50, 0],
      ['handle', 'f10', 120, -10],
      ['handle', 'f10', 180, -10],
    ])
  })

  it('is nothing where the move is hidden, locked, held, or too short to be seen', () => {
    expect(pathMarks([placed(0, 0), placed(10, 1)], () => false, toView)).toEqual([])
    expect(pathMarks([placed(0, 0, EVEN, true), placed(10, 1)], all, toView)).toEqual([])
    expect(pathMarks([placed(0, 0, { ...EVEN, timing: { kind: 'hold' } }), placed(10, 1)], all, toView)).toEqual([])
    expect(pathMarks([placed(0, 0), placed(10, 0.2)], all, toView)).toEqual([])
    expect(pathMarks([placed(0, 0)], all, toView)).toEqual([])
  })

  it('is the nearest under the pointer', () => {
    const marks = pathMarks([placed(0, 0, BENT), placed(10, 0.42)], all, toView)
    expect(hitPathMark(marks, 20, -9)).toMatchObject({ kind: 'handle', end: 'leave' })
    expect(hitPathMark(marks, 23, -10)).toMatchObject({ kind: 'handle', end: 'arrive' })
    expect(hitPathMark(marks, 60, -10)).toBeNull()
  })
})
