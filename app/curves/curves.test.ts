import { untouchedPose, type CameraPose } from '@rubato/core/camera'
import { createTiming, POSE_FIELDS } from '@rubato/core/moves'
import { describe, expect, it } from 'vitest'
import { asCustom, curveHandles, curveOf, frameOf, hitCurves, movingFields, timingFromHandle, valueOf, withValue, xOf, yOf, type CurveKey, type CurveScene } from './curveScene'

const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
const placed = (frame: number, pose: Partial<CameraPose>, locked = false): CurveKey => ({ id: `f${frame}`, frame, locked, numbers: { ...REST, ...pose }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } })
function sceneOf(keys: readonly CurveKey[], selectedIds: readonly string[] = []): CurveScene {
  const poses = Array.from({ length: 101 }, (_, frame) => ({ ...REST, x: frame / 100, panDegrees: -frame / 10 }))
  return { area: { left: 40, top: 20, width: 400, height: 200 }, lengthFrames: 101, curves: [curveOf(poses, 'x'), curveOf(poses, 'panDegrees')], keys, speeds: new Float32Array(101), bumps: [], going: new Set(), selectedIds, active: 'x' }
}

describe('the curves', () => {
  const scene = sceneOf([placed(0, {}), placed(50, { x: 0.5, panDegrees: -5 }), placed(100, { x: 1, panDegrees: -10 })], ['f50'])
  const range = scene.curves[0]!.range

  it('take frames and values to px and back, with room over and under', () => {
    expect(frameOf(scene, xOf(scene, 37))).toBeCloseTo(37, 9)
    expect(valueOf(scene.area, range, yOf(scene.area, range, 0.3))).toBeCloseTo(0.3, 9)
    expect(yOf(scene.area, range, 1)).toBeGreaterThan(20)
    expect(yOf(scene.area, range, 0)).toBeLessThan(220)
    // A value that stays still has a range all the same.
    const still = curveOf([REST, REST], 'rollDegrees').range
    expect(still.high).toBeGreaterThan(still.low)
  })

  it('tell which values move', () => {
    expect(movingFields(scene.keys, POSE_FIELDS)).toEqual(['x', 'panDegrees'])
    expect(movingFields([placed(0, {})], POSE_FIELDS)).toEqual(['x'])
  })

  it('are taken hold of by beads, handles and lines, the active value first', () => {
    const at = (frame: number, value: number) => [xOf(scene, frame), yOf(scene.area, range, value)] as const
    expect(hitCurves(scene, ...at(50, 0.5))).toEqual({ kind: 'bead', keyId: 'f50', field: 'x' })
    expect(hitCurves(scene, xOf(scene, 100), yOf(scene.area, scene.curves[1]!.range, -10))).toMatchObject({ kind: 'bead', keyId: 'f100', field: 'panDegrees' })
    expect(hitCurves(scene, ...at(20, 0.2))).toEqual({ kind: 'curve', field: 'x' })
    expect(hitCurves(scene, xOf(scene, 30), 21)).toEqual({ kind: 'ground' })
    const handle = curveHandles(scene)[0]!
    expect(hitCurves(scene, handle.x, handle.y)).toEqual({ kind: 'handle', handle })
  })

  it('have handles only next to what is chosen, of moves that change the value and are not locked', () => {
    expect(curveHandles(scene).map(({ keyId, end }) => `${keyId} ${end}`)).toEqual(['f0 leave', 'f0 arrive', 'f50 leave', 'f50 arrive'])
    expect(curveHandles(sceneOf(scene.keys))).toEqual([])
    expect(curveHandles(sceneOf([placed(0, {}, true), placed(100, { x: 1 })], ['f0']))).toEqual([])
    expect(curveHandles(sceneOf([placed(0, {}), placed(100, { y: 1 })], ['f0']))).toEqual([])
  })

  it('make a custom timing of a dragged handle: inside the move in time, past its ends in value where asked', () => {
    const made = timingFromHandle(scene, { keyId: 'f0', end: 'leave' }, xOf(scene, 25), yOf(scene.area, range, 0))
    expect(made).toMatchObject({ kind: 'custom', x1: 0.5, x2: 2 / 3 })
    expect((made as { y1: number }).y1).toBeCloseTo(0, 4)
    const over = timingFromHandle(scene, { keyId: 'f0', end: 'arrive' }, xOf(scene, 90), yOf(scene.area, range, 0.6))
    expect(over).toMatchObject({ x2: 1, y2: 1.2 })
    expect(timingFromHandle(scene, { keyId: 'f100', end: 'leave' }, 0, 0)).toBeNull()
  })

  it('turn a cushion into handles that rest where it rests, near to what it does', () => {
    const cushion = { kind: 'cushioned', leaveFrames: 12, arriveFrames: 20 } as const
    const [was, is] = [createTiming(cushion, 60), createTiming({ kind: 'custom', ...asCustom(cushion, 60) }, 60)]
    for (let t = 0; t <= 1; t += 0.05) expect(Math.abs(was(t) - is(t))).toBeLessThan(0.06)
    expect(asCustom({ kind: 'even' }, 60)).toEqual({ x1: 1 / 3, y1: 1 / 3, x2: 2 / 3, y2: 2 / 3 })
  })

  it('keep values where they can be', () => {
    expect(withValue(REST, 'tiltDegrees', 120).tiltDegrees).toBe(89)
    expect(withValue(REST, 'focalLengthMm', 1).focalLengthMm).toBe(4)
    expect(withValue(REST, 'x', 0.1234567).x).toBe(0.123457)
  })
})
