import { describe, expect, it } from 'vitest'
import { untouchedPose, type CameraPose } from '../camera'
import { keyLevel } from '../edits'
import { done, newId, sampleTake, T } from '../edits/testing'
import { EMPTY_TAKE, orderOfNumber, type Framing, type TakeBody } from '../document'
import { createTakeStage, moveOnBoard } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const HALF = 9 / 32

function stageOf(poses: readonly (readonly [frame: number, pose: Partial<CameraPose>])[], more: Partial<TakeBody> = {}) {
  const framings = Object.fromEntries(poses.map(([frame, pose], i): [string, Framing] => [`f${i}`, { id: `f${i}`, cameraId: 'a', panelId: 'p', offsetFrames: frame, pose: { ...REST, ...pose }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false }]))
  const panel = { id: 'p', order: orderOfNumber(0), lengthFrames: 48, lengthLocked: false, action: '', dialogue: '', notes: '' }
  return createTakeStage({ ...EMPTY_TAKE, panels: { p: panel }, cameras: { a: { id: 'a', order: orderOfNumber(0), letter: 'A', locked: false } }, framings, ...more }, OPTICS)
}

describe('a move on a printed board', () => {
  it('is none where the camera stands, or hardly moves', () => {
    expect(moveOnBoard(stageOf([[0, {}]]), 0, 48)).toBe(null)
    expect(moveOnBoard(stageOf([[0, {}], [47, { x: 0.01 }]]), 0, 48)).toBe(null)
    expect(moveOnBoard(stageOf([[0, {}], [47, { x: 1 }]]), 0, 1)).toBe(null)
  })

  it('of a travel to the side is a wide view with both frames side by side, and an even way', () => {
    const move = moveOnBoard(stageOf([[0, {}], [47, { x: 1 }]]), 0, 48)!
    expect(move.framings.map(({ frame }) => frame)).toEqual([0, 47])
    const [first, last] = move.framings
    ;[[-0.5, -HALF], [0.5, -HALF], [0.5, HALF], [-0.5, HALF]].forEach(([x, y], i) => {
      expect([first!.corners[i]!.x, first!.corners[i]!.y]).toEqual([expect.closeTo(x!, 9), expect.closeTo(y!, 9)])
      expect([last!.corners[i]!.x, last!.corners[i]!.y]).toEqual([expect.closeTo(x! + 1, 9), expect.closeTo(y!, 9)])
    })
    expect([move.window.left, move.window.right, move.window.top]).toEqual([expect.closeTo(-0.52, 9), expect.closeTo(1.52, 9), expect.closeTo(HALF + 0.02, 9)])
    expect([move.way[0]!.x, move.way.at(-1)!.x]).toEqual([expect.closeTo(0, 9), expect.closeTo(1, 9)])
    expect(move.way[12]!.x).toBeGreaterThan(0.4)
  })

  it('of a truck-in is seen from its wider end, whichever that is', () => {
    for (const [near, far] of [[47, 0], [0, 47]] as const) {
      const move = moveOnBoard(stageOf([[far, {}], [near, { depth: REST.depth / 2 }]].sort(([a], [b]) => (a as number) - (b as number)) as [number, Partial<CameraPose>][]), 0, 48)!
      expect(move.pose.depth).toBe(REST.depth)
      const inner = move.framings.find(({ frame }) => frame === near)!
      expect(inner.corners[2]!.x).toBeCloseTo(0.25, 9)
    }
  })

  it('has the way of a level that walks, though the camera stands', () => {
    const take = [[0, -0.3], [47, 0.4]].reduce((now, [frame, x]) => done(now, keyLevel(now, T, 'tilda', frame!, { place: { x: x!, y: 0, depth: 0 } }, newId)), { ...sampleTake([24, 24]), framings: {} })
    const stage = createTakeStage(take, OPTICS)
    const move = moveOnBoard(stage, 0, 48)!
    expect([move.framings, move.way]).toEqual([[], []])
    expect([move.ways[0]!.points[0]!.x, move.ways[0]!.points.at(-1)!.x]).toEqual([expect.closeTo(-0.3, 9), expect.closeTo(0.4, 9)])
    // Nothing lies beyond the frame, so that is all there is to see.
    expect(move.window).toEqual({ left: -0.5, right: 0.5, bottom: -HALF, top: HALF })
  })
})
