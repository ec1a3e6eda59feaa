import { describe, expect, it } from 'vitest'
import { newLevel } from '@rubato/core/document'
import { factsText, ladderOf, ladderTicks, rackOrder } from './ladder'

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

describe('what is listed in the rack', () => {
  const at = (name: string, depth: number, fields: { group?: string; on?: string } = {}) => ({
    level: { ...newLevel({ id: name, name, depth, scale: 1 }), order: 'a0', ...(fields.group === undefined ? {} : { group: fields.group }), ...(fields.on === undefined ? {} : { carrier: { kind: 'level' as const, levelId: fields.on, turn: true, size: true } }) },
    depth,
  })
  const listed = (folded: readonly string[], ...levels: ReturnType<typeof at>[]) =>
    rackOrder(levels, (group) => group !== undefined && folded.includes(group)).map((each) => (each.kind === 'fold' ? `[${each.group}: ${each.of.map(({ level }) => level.name).join(' ')}]` : `${'·'.repeat(each.indent)}${each.of.level.name}`))
  const film = [at('near reeds', -0.5, { group: 'reeds' }), at('tilda', 0), at('lantern', 0.1, { on: 'tilda' }), at('far reeds', 1, { group: 'reeds' }), at('sky', 6)]

  it('is near first, what hangs on another under that', () => {
    expect(listed([], ...film)).toEqual(['near reeds', 'tilda', '·lantern', 'far reeds', 'sky'])
  })
  it('has a folded group where its nearest lies', () => {
    expect(listed(['reeds'], ...film)).toEqual(['[reeds: near reeds far reeds]', 'tilda', '·lantern', 'sky'])
    expect(listed(['reeds'], at('sky', -2), ...film)).toEqual(['sky', '[reeds: near reeds far reeds]', 'tilda', '·lantern', 'sky'])
    expect(listed(['all'], at('a', 1, { group: 'all' }), at('b', 2, { group: 'all' }))).toEqual(['[all: a b]'])
  })
  it('lists by itself what hangs on a level that is folded away', () => {
    expect(listed(['who'], at('tilda', 0, { group: 'who' }), at('lantern', 0.1, { on: 'tilda' }))).toEqual(['[who: tilda]', 'lantern'])
  })
})

describe('what a row tells of the field', () => {
  it('is its width, and what is to spare across and up', () => {
    expect(factsText({ fieldFw: 2.081, over: { left: 0.12, right: 0.3, bottom: -1.21, top: 0.004 } })).toEqual({
      short: '2.08 +.12 −1.2',
      long: 'The frame is 2.08 fw wide there. Its art goes past the frame, in fw (−: it ends inside): left +.12, right +.30, above +.00, below −1.2',
    })
    expect(factsText({ fieldFw: 12.34, over: null }).short).toBe('12.3')
  })
})
