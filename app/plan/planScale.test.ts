import { describe, expect, it } from 'vitest'
import { fitPlan, fromPlanPx, toPlanPx } from './planScale'

describe('the plan’s scale', () => {
  const scale = fitPlan([{ x: -2, depth: -1.4 }, { x: 1, depth: 6 }], 300, 240)

  it('takes places to px and back, depth upwards', () => {
    const at = toPlanPx(scale, 0.3, 2)
    const back = fromPlanPx(scale, at.x, at.y)
    expect(back.x).toBeCloseTo(0.3, 9)
    expect(back.depth).toBeCloseTo(2, 9)
    expect(toPlanPx(scale, 0, 3).y).toBeLessThan(toPlanPx(scale, 0, 2).y)
  })

  it('shows every point, with one factor both ways', () => {
    for (const [x, depth] of [[-2, -1.4], [1, 6]] as const) {
      const at = toPlanPx(scale, x, depth)
      expect(at.x).toBeGreaterThanOrEqual(0)
      expect(at.x).toBeLessThanOrEqual(300)
      expect(at.y).toBeGreaterThanOrEqual(0)
      expect(at.y).toBeLessThanOrEqual(240)
    }
    const [a, b, c] = [toPlanPx(scale, 0, 0), toPlanPx(scale, 1, 0), toPlanPx(scale, 0, 1)]
    expect(b.x - a.x).toBeCloseTo(a.y - c.y, 9)
  })

  it('stands for an empty set', () => {
    expect(Number.isFinite(fitPlan([], 300, 240).pxPerFw)).toBe(true)
  })
})
