import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, project, type CameraPose } from '../camera'
import type { Repeat } from '../depth'
import type { Level, TakeBody } from '../document'
import { faceLevels, fastenLevels, keyLevel, sendLevels, setLevelDepth, setPivot, spreadLevels, type Made } from '../edits'
import { done, level, newId, OPTICS, REST, sampleTake, T } from '../edits/testing'
import { pointOnPlane } from '../depth'
import { createTakeStage, frameSignature, placedLevel, type PlacedLevel } from '.'

const NONE = { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }
const repeat = (fields: Partial<Repeat> = {}): Repeat => ({ count: 5, seed: 3, about: { x: 0, y: -0.2 }, lay: { kind: 'step', x: 0.3, y: 0.02 }, depth: 0.2, rollDegrees: 5, size: 0.9, scatter: { ...NONE, x: 0.02, rollDegrees: 4, mirrored: 0.5 }, stagger: 0.2, ...fields })
const film = (fields: Partial<Level>): TakeBody => {
  const take = sampleTake()
  return { ...take, levels: { ...take.levels, reeds: level('reeds', 3, 1, { pivot: { x: 0.1, y: -0.2 }, ...fields }) } }
}
const copies = (take: TakeBody, frame: number, camera: Partial<CameraPose> = {}) => createTakeStage(take, OPTICS).withPose(frame, { ...REST, ...camera }).levels.filter((placed) => placed.level.id === 'reeds')
const ART = [{ x: -0.3, y: -0.2 }, { x: 0.3, y: -0.2 }, { x: 0.3, y: 0.4 }, { x: -0.3, y: 0.4 }]
const corners = (placed: PlacedLevel, camera: CameraPose) => ART.map((art) => project(lensOf(camera, OPTICS), pointOnPlane(placed.plane, art)))

describe('a level shown many times', () => {
  it('is placed as often, itself among them; hidden, not at all', () => {
    const placed = copies(film({ repeat: repeat() }), 0)
    expect(placed.map(({ copy }) => copy).sort()).toEqual([0, 1, 2, 3, 4])
    const stage = createTakeStage(film({ repeat: repeat() }), OPTICS).at(0)
    expect(placedLevel(stage, 'reeds')!.plane).toEqual(copies(film({}), 0)[0]!.plane)
    expect(copies(film({ repeat: repeat(), visible: false }), 0)).toEqual([])
  })

  it('sorts by the depth of each among all others', () => {
    const take = film({ repeat: repeat({ count: 3, depth: -0.8, size: 1, scatter: NONE, rollDegrees: 0 }) })
    expect(createTakeStage(take, OPTICS).at(0).levels.map(({ level: { id }, copy }) => `${id}${copy}`)).toEqual(['sky0', 'reeds0', 'reeds1', 'tilda0', 'reeds2'])
    const equal = film({ depth: 0, repeat: repeat({ count: 3, depth: 0, size: 1, scatter: NONE }) })
    // By steps the first is nearest; all of them lie where the level is listed.
    expect(createTakeStage(equal, OPTICS).at(0).levels.map(({ level: { id }, copy }) => `${id}${copy}`)).toEqual(['sky0', 'reeds2', 'reeds1', 'reeds0', 'tilda0'])
  })

  it('sways one after the other, as a level of its own would that begins so much later', () => {
    const sways = { swing: { amount: 4, periodFrames: 48, phase: 0.25 }, bob: { amount: 0.1, periodFrames: 30, phase: 0 }, drift: { amount: 0.05, periodFrames: 40, phase: 0, seed: 9 } }
    const laid = repeat({ count: 3, depth: 0, rollDegrees: 0, size: 1, scatter: NONE, about: { x: 0, y: 0 }, lay: { kind: 'step', x: 0.3, y: 0 }, stagger: 0.2 })
    for (const frame of [0, 7, 31]) {
      for (const copy of [0, 1, 2]) {
        const later = <S extends { phase: number }>(sway: S): S => ({ ...sway, phase: sway.phase + 0.2 * copy })
        const alone = copies(film({ x: 0.3 * copy, ...Object.fromEntries(Object.entries(sways).map(([name, sway]) => [name, later(sway)])) }), frame)[0]!
        const own = copies(film({ ...sways, repeat: laid }), frame).find((placed) => placed.copy === copy)!
        for (const [i, corner] of corners(own, REST).entries()) expect(corner.u).toBeCloseTo(corners(alone, REST)[i]!.u, 9)
      }
    }
  })

  it('is another picture where a copy is, and the same where it is the same', () => {
    const signature = (take: TakeBody) => frameSignature(createTakeStage(take, OPTICS).at(0), (id) => id, new Set())
    const shown = (fields: Partial<Repeat>) => {
      const take = film({ repeat: repeat(fields) })
      return signature({ ...take, cells: { ...take.cells, 'reeds.p1': { id: 'reeds.p1', levelId: 'reeds', panelId: 'p1', drawingId: 'd-reeds' } } })
    }
    expect(shown({})).toBe(shown({}))
    expect(new Set([shown({}), shown({ count: 6 }), shown({ seed: 4 }), shown({ depth: 0.3 })]).size).toBe(4)
  })
})

describe('keep the picture, of all corners of all levels', () => {
  const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
  const cameras = fc.record({ x: number(-0.4, 0.4), y: number(-0.4, 0.4), depth: number(-3, -1.2), panDegrees: number(-15, 15), tiltDegrees: number(-15, 15), rollDegrees: number(-180, 180), focalLengthMm: number(20, 120) })
  const repeats = fc.record({
    count: fc.integer({ min: 2, max: 9 }), seed: fc.integer({ min: 0, max: 0xffff_ffff }), about: fc.record({ x: number(-0.3, 0.3), y: number(-0.3, 0.3) }),
    lay: fc.oneof(fc.record({ kind: fc.constant('step' as const), x: number(-0.5, 0.5), y: number(-0.5, 0.5) }), fc.record({ kind: fc.constantFrom('line' as const, 'region' as const), points: fc.array(number(-1, 1), { minLength: 6, maxLength: 6 }) })),
    depth: number(-0.1, 0.3), rollDegrees: number(-40, 40), size: number(0.8, 1.2),
    scatter: fc.record({ x: number(0, 0.2), y: number(0, 0.2), depth: number(0, 0.1), rollDegrees: number(0, 60), size: number(0, 0.5), mirrored: number(0, 1) }), stagger: number(-1, 1),
  })
  const sway = fc.record({ amount: number(-3, 3), periodFrames: number(4, 90), phase: number(0, 1) })
  const setUps = fc.record({ repeat: fc.option(repeats, { nil: undefined }), swing: fc.option(sway, { nil: undefined }), bob: fc.option(sway.map((each) => ({ ...each, amount: each.amount / 20 })), { nil: undefined }), panDegrees: number(-50, 50), tiltDegrees: number(-50, 50), rollDegrees: number(-180, 180), scale: number(0.3, 3), x: number(-1, 1) })

  it('holds for levels that move, are carried, turned, facing and shown many times, to 1e-9, on 1,000 random set-ups', () => {
    fc.assert(
      fc.property(cameras, setUps, fc.constantFrom('none' as const, 'set' as const, 'camera' as const, 'lens' as const), number(0.3, 12), fc.integer({ min: 0, max: 70 }), (camera, own, hangs, depth, frame) => {
        let take = film({ ...own, depth: 1.5 })
        take = done(take, keyLevel(take, T, 'reeds', 3, { place: { x: own.x, y: 0.1, depth: 1.5 }, size: own.scale }, newId))
        take = done(take, keyLevel(take, T, 'reeds', 60, { place: { x: own.x + 0.5, y: -0.1, depth: 2 }, size: own.scale * 1.3 }, newId))
        const seenIn = (now: TakeBody) => createTakeStage(now, OPTICS).seen(frame, camera)
        if (hangs === 'set') take = done(take, fastenLevels(take, T, ['reeds'], { kind: 'level', levelId: 'tilda', turn: true, size: true }, seenIn(take)))
        if (hangs === 'camera') take = done(take, fastenLevels(take, T, ['reeds'], { kind: 'camera' }, seenIn(take)))
        if (hangs === 'lens') take = done(take, faceLevels(take, T, ['reeds'], 'lens'))
        const here = seenIn(take)
        const picture = (now: TakeBody) => new Map(createTakeStage(now, OPTICS).withPose(frame, camera).levels.map((placed) => [`${placed.level.id}${placed.copy}`, corners(placed, camera)]))
        const before = picture(take)
        const made: Made[] = [setLevelDepth(take, T, 'reeds', depth, here), spreadLevels(take, T, ['tilda', 'reeds', 'sky'], 0.5, depth + 1, 'ratio', here), sendLevels(take, T, new Map(['tilda', 'reeds', 'sky'].map((id) => [id, { depth: 0 }])), here)]
        // Copies swing about their own pivots: one of another size goes a little elsewhere about another.
        if (own.repeat === undefined || own.swing === undefined) made.push(setPivot(take, T, 'reeds', { x: 0.2, y: 0.1 }, here))
        for (const each of made) {
          if (!each.ok) continue
          const after = picture(done(take, each))
          for (const [id, was] of before) {
            // What is at the lens or behind it is not seen.
            if (was.some(({ z }) => z < 0.05)) continue
            for (const [i, corner] of (after.get(id) ?? []).entries()) {
              const off = Math.hypot(corner.u - was[i]!.u, corner.v - was[i]!.v) / Math.max(1, Math.hypot(was[i]!.u, was[i]!.v))
              if (!(off < 1e-9)) throw new Error(`corner ${i} of ${id} is off by ${off}`)
            }
          }
        }
      }),
      { numRuns: 1000 },
    )
  }, 240_000)
})
