import { describe, expect, it } from 'vitest'
import { ladderOf, ladderTicks } from './ladder'

describe('the rack’s ladder', () => {
  const ladder = ladderOf([0.8, 1.4, 7.4], 26, 500)

  it('takes distances to px and back, near at the top, by equal ratios', () => {
    expect(ladder.distance(ladder.y(2.3))).toBeCloseTo(2.3, 9)
    expect(ladder.y(1)).toBeLessThan(ladder.y(2))
    expect(ladder.y(2) - ladder.y(1)).toBeCloseTo(ladder.y(4) - ladder.y(2), 9)
  })

  it('shows every level ahead of the lens, and stands without any', () => {
    expect(ladder.y(0.8)).toBeGreaterThanOrEqual(26)
    expect(ladder.y(7.4)).toBeLessThanOrEqual(500)
    expect(Number.isFinite(ladderOf([], 26, 500).y(1))).toBe(true)
  })

  it('marks round distances that don’t crowd', () => {
    const ticks = ladderTicks(ladder)
    expect(ticks).toContain(1)
    for (let i = 1; i < ticks.length; i++) expect(ladder.y(ticks[i]!) - ladder.y(ticks[i - 1]!)).toBeGreaterThanOrEqual(20)
  })
})
