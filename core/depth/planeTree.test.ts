import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lensOf, meetPlane, NEAREST_Z, project, rayThrough, untouchedPose } from '../camera'
import { cross, dot, scale, subtract, type Point3 } from '../geometry/point'
import { levelPlane, pointOnPlane, type LevelPlane } from './levelPlane'
import { seenArt } from './onScreen'
import { cutLine, planeTree, type ArtPart, type FlatArt } from './planeTree'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const RUNS = Number(process.env.RUBATO_RUNS ?? 60)

const within = (min: number, max: number) => fc.integer({ min: 0, max: 1_000_000 }).map((n) => min + ((max - min) * n) / 1_000_000)
const plane = fc.record({ x: within(-0.8, 0.8), y: within(-0.5, 0.5), depth: within(0, 2), scale: within(0.6, 2), panDegrees: within(-180, 180), tiltDegrees: within(-90, 90), rollDegrees: within(-180, 180) }).map(levelPlane)
const bounds = fc.record({ left: within(-1, -0.1), bottom: within(-0.6, -0.1), right: within(0.1, 1), top: within(0.1, 0.6) })
const art = (least: number, most: number) => fc.array(fc.record({ plane, bounds }), { minLength: least, maxLength: most }).map((list): FlatArt[] => list.map((each, rackIndex) => ({ ...each, rackIndex })))
const pose = fc.record({ x: within(-1, 1), y: within(-0.6, 0.6), depth: within(-2.5, 1.5), panDegrees: within(-30, 30), tiltDegrees: within(-20, 20), rollDegrees: within(-180, 180) }).map((placed) => ({ ...untouchedPose(OPTICS), ...placed }))
const ray = fc.record({ u: within(-0.5, 0.5), v: within(-0.28, 0.28) })

const normalOf = ({ axisX, axisY }: LevelPlane): Point3 => {
  const n = cross(axisX, axisY)
  return scale(n, 1 / Math.sqrt(dot(n, n)))
}
/** How far from the nearest edge or cut a ray may fall and still be sure to be on one side, fw. */
const CLEAR = 1e-5

/** Where a ray meets each piece of art, far to near; null where it falls on an edge or meets two at once. */
function met(list: readonly FlatArt[], eye: Point3, direction: Point3, at: (of: FlatArt) => { x: number; y: number } | null): number[] | null {
  const hits: { of: number; t: number }[] = []
  for (const [of, piece] of list.entries()) {
    const hit = at(piece)
    if (hit === null) continue
    const { left, right, bottom, top } = piece.bounds
    const inside = Math.min(hit.x - left, right - hit.x, hit.y - bottom, top - hit.y)
    if (Math.abs(inside) < CLEAR) return null
    const n = normalOf(piece.plane)
    if (inside > 0) hits.push({ of, t: dot(n, subtract(piece.plane.origin, eye)) / dot(n, direction) })
  }
  hits.sort((a, b) => b.t - a.t)
  return hits.some((hit, i) => hit.t < NEAREST_Z || (i > 0 && hits[i - 1]!.t - hit.t < CLEAR)) ? null : hits.map(({ of }) => of)
}

/** True where the part is not cut off at a ray. */
const holds = (part: ArtPart, list: readonly FlatArt[], lens: ReturnType<typeof lensOf>, u: number, v: number) =>
  part.cuts.every(({ by, before }) => {
    const { a, b, c } = cutLine(lens, list[part.of]!.plane, list[by]!.plane)
    return a * u + b * v + c > 0 === before
  })

describe('what lies before what', () => {
  it('is right along every ray, from any eye, and no part is there twice or missing', () => {
    let looked = 0
    fc.assert(
      fc.property(art(2, 9), pose, fc.array(ray, { minLength: 40, maxLength: 40 }), (list, camera, rays) => {
        const lens = lensOf(camera, OPTICS)
        const parts = planeTree(list).farToNear(lens.position)
        for (const { u, v } of rays) {
          const wanted = met(list, lens.position, rayThrough(lens, u, v), (piece) => meetPlane(lens, u, v, piece.plane))
          if (wanted === null) continue
          const hit = (of: number) => wanted.includes(of)
          const found = parts.filter((part) => hit(part.of) && holds(part, list, lens, u, v)).map((part) => part.of)
          expect(found).toEqual(wanted)
          if (wanted.length > 1) looked++
        }
      }),
      { numRuns: RUNS },
    )
    expect(looked).toBeGreaterThan(RUNS / 4)
  })

  it('keeps whole what only touches: a room of six walls is in six parts, seen from inside and out', () => {
    const wall = (x: number, y: number, depth: number, panDegrees: number, tiltDegrees: number): FlatArt => ({ plane: levelPlane({ x, y, depth, scale: 1, panDegrees, tiltDegrees, rollDegrees: 0 }), bounds: { left: -0.5, bottom: -0.5, right: 0.5, top: 0.5 }, rackIndex: 0 })
    const [far, near, left, right, floor, ceiling] = [0, 1, 2, 3, 4, 5]
    const room = [wall(0, 0, 0.5, 0, 0), wall(0, 0, -0.5, 0, 0), wall(-0.5, 0, 0, -90, 0), wall(0.5, 0, 0, 90, 0), wall(0, -0.5, 0, 0, -90), wall(0, 0.5, 0, 0, 90)]
    const tree = planeTree(room)
    expect(tree.parts).toBe(6)
    const seen = (x: number, y: number, depth: number) => tree.farToNear({ x, y, depth }).map((part) => part.of)
    const before = (order: readonly number[], a: number, b: number) => order.indexOf(a) < order.indexOf(b)
    // From the front the near wall hides all others; the far one lies behind all.
    expect(before(seen(0, 0, -3), far, near)).toBe(true)
    for (const side of [left, right, floor, ceiling]) expect(before(seen(0, 0, -3), side, near) && before(seen(0, 0, -3), far, side)).toBe(true)
    // From the left, high up: the left wall and the ceiling hide the rest.
    for (const hidden of [far, near, right, floor]) expect(before(seen(-4, 3, 0), hidden, left) && before(seen(-4, 3, 0), hidden, ceiling)).toBe(true)
  })

  it('lists what lies in one plane as the rack does, from either side', () => {
    const flat = (rackIndex: number): FlatArt => ({ plane: levelPlane({ x: rackIndex * 0.1, y: 0, depth: 1, scale: 1 + rackIndex, panDegrees: 30, tiltDegrees: 0, rollDegrees: rackIndex * 40 }), bounds: { left: -0.5, bottom: -0.5, right: 0.5, top: 0.5 }, rackIndex })
    // All stand on one vertical plane, panned by 30°.
    const list = [flat(0), flat(1), flat(2)].map((piece, i) => ({ ...piece, plane: { ...piece.plane, origin: { x: 0.1 * i * Math.cos(Math.PI / 6), y: 0, depth: 1 - 0.1 * i * Math.sin(Math.PI / 6) } } }))
    const tree = planeTree(list)
    expect(tree.parts).toBe(3)
    for (const depth of [-4, 4]) expect(tree.farToNear({ x: 0, y: 0, depth }).map((part) => part.of)).toEqual([2, 1, 0])
  })

  it('leaves out what has no extent, and has nothing for nothing', () => {
    const none: LevelPlane = { origin: { x: 0, y: 0, depth: 0 }, axisX: { x: 0, y: 0, depth: 0 }, axisY: { x: 0, y: 0, depth: 0 } }
    expect(planeTree([]).farToNear({ x: 0, y: 0, depth: 0 })).toEqual([])
    expect(planeTree([{ plane: none, bounds: { left: 0, bottom: 0, right: 1, top: 1 }, rackIndex: 0 }]).parts).toBe(0)
  })
})

describe('what of turned art is seen', () => {
  const window = { left: -0.5, bottom: -0.3, right: 0.5, top: 0.3 }
  it('holds every ray of the window that meets the art, and is no wider than the art', () => {
    let met = 0
    fc.assert(
      fc.property(plane, bounds, pose, fc.array(ray, { minLength: 30, maxLength: 30 }), (flat, art, camera, rays) => {
        const lens = lensOf(camera, OPTICS)
        const seen = seenArt(lens, flat, art, window)
        for (const { u, v } of rays) {
          const at = meetPlane(lens, u, v, flat)
          if (at === null || at.x < art.left || at.x > art.right || at.y < art.bottom || at.y > art.top) continue
          const { z } = project(lens, pointOnPlane(flat, at))
          if (z < NEAREST_Z) continue
          met++
          expect(seen).not.toBeNull()
          const { art: part, nearest, farthest } = seen!
          for (const inside of [at.x - part.left, part.right - at.x, at.y - part.bottom, part.top - at.y, z - nearest, farthest - z]) expect(inside).toBeGreaterThan(-1e-9)
          for (const wider of [part.left - art.left, art.right - part.right, part.bottom - art.bottom, art.top - part.top]) expect(wider).toBeGreaterThan(-1e-9)
        }
      }),
      { numRuns: RUNS },
    )
    expect(met).toBeGreaterThan(RUNS / 4)
  })

  it('sees nothing of what stands beside, and of a floor what is before the lens', () => {
    const lens = lensOf({ ...untouchedPose(OPTICS), depth: 0 }, OPTICS)
    const square = { left: -0.5, bottom: -0.5, right: 0.5, top: 0.5 }
    expect(seenArt(lens, levelPlane({ x: 5, y: 0, depth: 2, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }), square, window)).toBeNull()
    expect(seenArt(lens, levelPlane({ x: 0, y: 0, depth: -2, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0 }), square, window)).toBeNull()
    // A floor 0.3 below the lens, 8 deep: at 50 mm on 36 the window's lower edge meets it 0.3 · k / 0.3 = k ahead.
    const floor = levelPlane({ x: 0, y: -0.3, depth: 0, scale: 8, panDegrees: 0, tiltDegrees: -90, rollDegrees: 0 })
    const seen = seenArt(lens, floor, square, window)!
    expect(seen.nearest).toBeCloseTo(50 / 36, 9)
    expect(seen.farthest).toBeCloseTo(4, 9)
  })
})
