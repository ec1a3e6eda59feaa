import { describe, expect, it } from 'vitest'
import { length, subtract, type Point3 } from '../geometry/point'
import { createPath, fitPath } from '.'

const line = (count: number, at: (t: number) => readonly [number, number, number]): Point3[] => Array.from({ length: count }, (_, i) => {
  const [x, y, depth] = at(i / (count - 1))
  return { x, y, depth }
})
/** How far the drawn points lie from the fitted paths, at most. */
function farthest(points: readonly Point3[], tolerance: number): number {
  const { knots, paths } = fitPath(points, tolerance)!
  return Math.max(...paths.map((path, i) => {
    const solved = createPath(points[knots[i]!]!, points[knots[i + 1]!]!, path)
    const on = Array.from({ length: 401 }, (_, n) => solved.at(n / 400))
    return Math.max(...points.slice(knots[i]!, knots[i + 1]! + 1).map((point) => Math.min(...on.map((place) => length(subtract(place, point))))))
  }))
}

describe('a drawn line', () => {
  it('is fitted by few paths, within the tolerance, from its first point to its last', () => {
    const arc = line(60, (t) => [Math.cos(t * 3), Math.sin(t * 3), t * 0.4])
    const wave = line(200, (t) => [t * 3, 0.4 * Math.sin(t * 14), 0])
    const zigzag = line(120, (t) => [t, Math.abs(((t * 3) % 2) - 1) * 0.5, 0])
    for (const [points, most] of [[arc, 3], [wave, 12], [zigzag, 16]] as const) {
      for (const tolerance of [0.02, 0.005]) {
        const { knots, paths } = fitPath(points, tolerance)!
        expect([knots[0], knots.at(-1), knots.length]).toEqual([0, points.length - 1, paths.length + 1])
        expect(knots.every((knot, i) => i === 0 || knot > knots[i - 1]!)).toBe(true)
        expect(farthest(points, tolerance)).toBeLessThan(tolerance * 1.05)
        expect(paths.length).toBeLessThanOrEqual(tolerance === 0.02 ? most : most * 2)
      }
    }
  })

  it('is one straight path where it is straight, and passes its knots without a corner', () => {
    const straight = fitPath(line(30, (t) => [t, 0.5 * t, 0]), 0.001)!
    expect(straight.paths).toHaveLength(1)
    const wave = line(200, (t) => [t * 3, 0.4 * Math.sin(t * 14), 0])
    const { paths } = fitPath(wave, 0.005)!
    paths.slice(1).forEach((path, i) => {
      const before = paths[i]!
      if (path.kind !== 'bent' || before.kind !== 'bent') throw new Error()
      const [a, b] = [length(before.arrive), length(path.leave)]
      expect((before.arrive.x * path.leave.x + before.arrive.y * path.leave.y) / (a * b)).toBeLessThan(-0.999999)
    })
  })

  it('needs two points that differ; points that repeat are one', () => {
    expect(fitPath([], 0.1)).toBeNull()
    expect(fitPath(line(5, () => [1, 2, 3]), 0.1)).toBeNull()
    const points = [{ x: 0, y: 0, depth: 0 }, { x: 0, y: 0, depth: 0 }, { x: 1, y: 0, depth: 0 }, { x: 1, y: 0, depth: 0 }]
    expect(fitPath(points, 0.1)!.knots).toEqual([0, 2])
  })
})
