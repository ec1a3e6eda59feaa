import { describe, expect, it } from 'vitest'
import { dragged, fitScale, fromPx, PLAN_AXES, SIDE_AXES, toPx, zoomedAt } from './elevation'

describe.each([PLAN_AXES, SIDE_AXES])('the scale of a drawn view: $id', (axes) => {
  const points = [{ x: -2, y: -1, depth: -1.4 }, { x: 1, y: 2, depth: 6 }]
  const scale = fitScale(axes, points, 300, 240)

  it('takes places to px and back, and drags to distances', () => {
    const at = toPx(scale, { x: 0.3, y: 0.7, depth: 2 })
    const back = fromPx(scale, at.x, at.y)
    expect(back.across).toBeCloseTo(axes.id === 'plan' ? 0.3 : 2, 9)
    expect(back.up).toBeCloseTo(axes.id === 'plan' ? 2 : 0.7, 9)
    const to = toPx(scale, { x: 0.5, y: 0.6, depth: 2.4 })
    const by = dragged(scale, to.x - at.x, to.y - at.y)
    expect(by[axes.across]).toBeCloseTo(axes.id === 'plan' ? 0.2 : 0.4, 9)
    expect(by[axes.up]).toBeCloseTo(axes.id === 'plan' ? 0.4 : -0.1, 9)
  })

  it('shows every point, with one factor both ways', () => {
    for (const point of points) {
      const at = toPx(scale, point)
      expect(at.x).toBeGreaterThanOrEqual(0)
      expect(at.x).toBeLessThanOrEqual(300)
      expect(at.y).toBeGreaterThanOrEqual(0)
      expect(at.y).toBeLessThanOrEqual(240)
    }
    const [a, b, c] = [toPx(scale, {}), toPx(scale, { [axes.across]: 1 }), toPx(scale, { [axes.up]: 1 })]
    expect(b.x - a.x).toBeCloseTo(a.y - c.y, 9)
  })

  it('keeps what is under the pointer there while it zooms, and stands for an empty set', () => {
    const before = fromPx(scale, 40, 200)
    const after = fromPx(zoomedAt(scale, 40, 200, 1.7), 40, 200)
    expect(after.across).toBeCloseTo(before.across, 9)
    expect(after.up).toBeCloseTo(before.up, 9)
    expect(Number.isFinite(fitScale(axes, [], 300, 240).pxPerFw)).toBe(true)
  })
})
