import { describe, expect, it } from 'vitest'
import { capsuleOutline, FIGURE_POSES, FIGURE_VIEWS, mannequin, type Capsule } from './mannequin'
import { standInArt } from './standInArt'

const tops = (capsules: readonly Capsule[]) => Math.max(...capsules.flatMap(({ from, to, fromRadius, toRadius }) => [from.y + fromRadius, to.y + toRadius]))
const foot = (capsules: readonly Capsule[]) => Math.min(...capsules.flatMap(({ from, to, fromRadius, toRadius }) => [from.y - fromRadius, to.y - toRadius]))
const width = (capsules: readonly Capsule[]) => Math.max(...capsules.flatMap(({ from, to }) => [from.x, to.x])) - Math.min(...capsules.flatMap(({ from, to }) => [from.x, to.x]))

describe('a jointed figure', () => {
  it('stands on its lowest foot in every pose and view, and is as tall as asked for when it stands', () => {
    for (const heads of [2, 3.5, 5, 7.5, 9]) {
      for (const view of FIGURE_VIEWS) {
        for (const pose of FIGURE_POSES) expect(foot(mannequin(0.4, heads, view, pose))).toBeCloseTo(0, 12)
        expect(tops(mannequin(0.4, heads, view, 'standing'))).toBeCloseTo(0.4, 9)
        expect(tops(mannequin(0.4, heads, view, 'sitting'))).toBeLessThan(0.36)
      }
    }
  })

  it('has a head that goes into it so many times', () => {
    for (const heads of [3, 5, 8]) {
      const head = mannequin(1, heads, 'front', 'standing').filter(({ from, to, toRadius }) => from.x === 0 && to.x === 0 && toRadius > 0.3 / heads)
      const highest = head.reduce((a, b) => (b.to.y > a.to.y ? b : a))
      const tall = highest.to.y + highest.toRadius - (highest.from.y - highest.fromRadius)
      expect(1 / tall).toBeGreaterThan(heads * 0.7)
      expect(1 / tall).toBeLessThan(heads * 1.1)
    }
  })

  it('is narrow from the front and strides from the side; it looks the other way from behind', () => {
    expect(width(mannequin(1, 6, 'side', 'running'))).toBeGreaterThan(2 * width(mannequin(1, 6, 'front', 'running')))
    const face = (view: 'front' | 'back') => mannequin(1, 6, view, 'standing').findIndex(({ from, to }) => from.x === to.x && from.y === to.y)
    // Drawn last from the front, hidden by the head from behind.
    expect(face('front')).toBeGreaterThan(face('back'))
  })

  it('is drawn in areas that close: as many dark ones under it as there are limbs', () => {
    const art = standInArt({ kind: 'figure', height: 0.4, heads: 5, view: 'side', pose: 'walking' })
    expect(art.length).toBe(2 * mannequin(0.4, 5, 'side', 'walking').length)
    for (const { outlines } of art) for (const outline of outlines) expect(outline.length % 2 === 0 && outline.every(Number.isFinite)).toBe(true)
  })

  it('has capsules that hold both their circles', () => {
    const capsule = { from: { x: 0, y: 0 }, to: { x: 1, y: 0 }, fromRadius: 0.3, toRadius: 0.1 }
    const outline = capsuleOutline(capsule)
    for (let i = 0; i < outline.length; i += 2) {
      const [x, y] = [outline[i]!, outline[i + 1]!]
      expect(Math.min(Math.abs(Math.hypot(x, y) - 0.3), Math.abs(Math.hypot(x - 1, y) - 0.1))).toBeLessThan(1e-9)
    }
    // One within the other is that one alone.
    expect(Math.max(...capsuleOutline({ ...capsule, to: { x: 0.05, y: 0 } }).filter((_, i) => i % 2 === 0))).toBeCloseTo(0.3, 3)
  })
})

describe('other stand-ins', () => {
  const extent = (shape: Parameters<typeof standInArt>[0]) => {
    const all = standInArt(shape).flatMap(({ outlines }) => outlines).flat()
    const of = (odd: number) => all.filter((_, i) => i % 2 === odd)
    return [Math.min(...of(0)), Math.min(...of(1)), Math.max(...of(0)), Math.max(...of(1))].map((value) => Number(value.toFixed(6)))
  }
  it('are as large as they are asked to be, with their foot at 0', () => {
    expect(extent({ kind: 'cylinder', width: 0.2, height: 0.5 })).toEqual([-0.1, 0, 0.1, 0.5])
    expect(extent({ kind: 'doorway', width: 0.3, height: 0.6 })).toEqual([-0.15, 0, 0.15, 0.6])
    const [left, bottom, right, top] = extent({ kind: 'grid', side: 4, step: 0.5 })
    for (const [edge, at] of [[left, -2], [bottom, -2], [right, 2], [top, 2]] as const) expect(edge).toBeCloseTo(at, 1)
    expect(standInArt({ kind: 'grid', side: 4, step: 0.5 })).toHaveLength(2 * 9)
  })
})
