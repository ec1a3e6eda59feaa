import { describe, expect, it } from 'vitest'
import { keyFraming, keyLevel } from '../edits'
import { done, level, newId, OPTICS, REST, T } from '../edits/testing'
import { createTakeStage } from '../stage'
import { EVEN, takeOf, travelling } from './testing'
import { longerBy, parallaxOf, speedsOf, strobingLimit } from '.'

const K = 50 / 36
const FPS = 24
const LIMIT = strobingLimit(FPS)
const surveyed = (take: Parameters<typeof createTakeStage>[0], fps = FPS, limit = strobingLimit(fps)) => new Map(speedsOf(createTakeStage(take, OPTICS), fps, limit).map((each) => [each.levelId, each]))

describe('speed on screen', () => {
  it('of levels in a travel is k over their distance of the camera’s, so near ones go faster; the ratio is their parallax', () => {
    const near = level('near', 1, 0)
    const far = level('far', 2, 3.2, { scale: 1.2 })
    const found = surveyed(travelling(takeOf([near, far])))
    // 1.2 fw in 48 frames.
    const each = (z: number) => ((1.2 / 48) * FPS * K) / z
    expect(found.get('near')!.speeds[10]).toBeCloseTo(each(K), 9)
    expect(found.get('far')!.speeds[10]).toBeCloseTo(each(3.2 + K), 9)
    expect(found.get(null)!.speeds[10]).toBeCloseTo(each(K), 9)
    expect(found.get('near')!.speeds[48]).toBeNaN()
    expect(parallaxOf(found.get('near')!.speeds, found.get('far')!.speeds)).toBeCloseTo((3.2 + K) / K, 9)
    expect(parallaxOf(found.get('near')!.speeds, new Float64Array(49))).toBeNull()
  })

  it('takes in a level’s own way, and is none where the camera goes along with it', () => {
    const bird = level('bird', 1, 0)
    const walked = [0, 24].reduce((so, frame, i) => done(so, keyLevel(so, T, 'bird', frame, { place: { x: i * 0.6, y: 0, depth: 0 } }, newId)), takeOf([bird]))
    const speeds = surveyed(walked).get('bird')!.speeds
    expect(speeds.slice(0, 24).reduce((sum, speed) => sum + speed / FPS, 0)).toBeCloseTo(0.6, 9)
    expect([...speeds.slice(24, 48)]).toEqual(Array(24).fill(0))
    expect(surveyed(walked).get(null)!.speeds[10]).toBeCloseTo(0, 12)
    const along = { ...level('hat', 1, K), carrier: { kind: 'camera' as const } }
    expect(Math.max(...surveyed(travelling(takeOf([along]))).get('hat')!.speeds.filter((speed) => !Number.isNaN(speed)))).toBeLessThan(1e-9)
  })

  it('of what is on 2s goes evenly, and strobes by its steps', () => {
    const moved = (stepped: 2 | undefined) => [0, 40].reduce((so, frame, i) => done(so, keyLevel(so, T, 'cart', frame, { place: { x: i * 0.2, y: 0, depth: 0 } }, newId)), takeOf([level('cart', 1, 0, stepped === undefined ? {} : { stepped })]))
    const even = (take: ReturnType<typeof moved>) => ({ ...take, levelKeys: Object.fromEntries(Object.values(take.levelKeys).map((key) => [key.id, { ...key, move: EVEN }])) })
    // 0.2 fw in 40 frames are 0.12 fw a second: a step of 2 frames is seen as 0.24.
    const found = surveyed(even(moved(2))).get('cart')!
    expect([...found.speeds.slice(4, 8)].map((speed) => Number(speed.toFixed(9)))).toEqual([0.12, 0.12, 0.12, 0.12])
    expect(found.strobes).toHaveLength(1)
    expect(surveyed(even(moved(undefined))).get('cart')!.strobes).toEqual([])
  })

  it('is none over a cut: from camera to camera, or between two framings a frame apart', () => {
    const wall = level('wall', 1, 0)
    const jump = [{ ...REST, x: -3 }, { ...REST, x: 3 }].reduce((so, pose, i) => done(so, keyFraming(so, T, 'a', 20 + i, pose, `f${i}`)), takeOf([wall]))
    const found = surveyed(jump).get('wall')!
    expect(found.speeds[20]).toBeNaN()
    expect(found.strobes).toEqual([])
    const take = takeOf([wall])
    const two = { ...take, cameras: { ...take.cameras, b: { id: 'b', order: 'a2', letter: 'B', locked: false } }, framings: { fb: { id: 'fb', cameraId: 'b', panelId: 'p1', offsetFrames: 0, pose: { ...REST, x: 0.2 }, move: EVEN, locked: false } }, cuts: { c0: { id: 'c0', panelId: 'p1', offsetFrames: 0, cameraId: 'a', dissolveFrames: 0 }, c1: { id: 'c1', panelId: 'p1', offsetFrames: 20, cameraId: 'b', dissolveFrames: 0 } } }
    expect([...surveyed(two).get('wall')!.speeds.slice(18, 21)]).toEqual([0, NaN, 0])
  })
})

describe('strobing', () => {
  it('begins at a frame’s width in 7 s at 24 frames a second, at more with the rate, and says what would be safe', () => {
    expect(LIMIT).toBeCloseTo(1 / 7, 12)
    expect(strobingLimit(48)).toBeCloseTo(2 / 7, 12)
    expect(strobingLimit(24, 0.2)).toBeCloseTo(0.2, 12)
    // 0.6 fw/s for a level at the picture plane.
    const [strobe, ...others] = surveyed(travelling(takeOf([level('near', 1, 0)]))).get('near')!.strobes
    expect(others).toEqual([])
    expect(strobe).toMatchObject({ first: 0, last: 47 })
    expect(strobe!.speed).toBeCloseTo(0.6, 9)
    expect(longerBy(strobe!.speed, LIMIT)).toBeCloseTo(4.2, 9)
    expect(longerBy(0.01, LIMIT)).toBe(1)
    // In 48 frames at the limit: 2/7 fw.
    expect(surveyed(travelling(takeOf([level('near', 1, 0)]), 2 / 7 - 1e-6)).get('near')!.strobes).toEqual([])
    expect(surveyed(travelling(takeOf([level('near', 1, 0)]), 2 / 7 + 1e-3)).get('near')!.strobes).toHaveLength(1)
  })

  it('is not of what is nearly clear, out of focus, a reference or a stand-in', () => {
    const strobes = (fields: object, air = {}) => surveyed({ ...travelling(takeOf([level('near', 1, 0, fields)])), ...air }).get('near')?.strobes.length ?? 0
    expect(strobes({})).toBe(1)
    expect(strobes({ figure: true })).toBe(0)
    expect(strobes({ opacity: 0.2 })).toBe(0)
    expect(strobes({ kind: 'reference' })).toBe(0)
    expect(strobes({ standIn: true })).toBe(0)
    const focus = (strength: number) => ({ air: { focus: { id: 'focus' as const, sharp: 10, strength } } })
    expect(strobes({}, focus(0.1))).toBe(0)
    expect(strobes({}, focus(0.001))).toBe(1)
  })
})
