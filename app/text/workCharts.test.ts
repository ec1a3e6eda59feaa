import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { daysChart, hardnessChart, MOST_BARS, sizesChart, timeChart, type SequenceWork, type WorkChart, type WorkLook } from './workCharts'

const LOOK: WorkLook = { ink: '#111', rule: '#ccc', done: '#0a0', left: '#ddd', size: '#06c', over: '#c00', width: 300, height: 130 }
interface Bars {
  readonly x: readonly (number | string)[]
  readonly y: readonly (number | string)[]
  readonly text?: readonly string[]
  readonly marker: { readonly color: string | readonly string[] }
}
const traces = ({ traces: all }: WorkChart) => all as readonly Bars[]
const sequence = (name: string, more: Partial<SequenceWork> = {}): SequenceWork => ({ name, days: 0, doneDays: 0, seconds: 0, targetSeconds: null, ...more })

describe('charts of the work', () => {
  it('days: all of a sequence’s, and over them those that are done', () => {
    const [all, done] = traces(daysChart([sequence('Pier', { days: 5.54, doneDays: 2 }), sequence('Tower', { days: 3 })], LOOK))
    expect([all!.x, all!.y, all!.text]).toEqual([[5.54, 3], ['Pier', 'Tower'], ['5.5', '3']])
    expect([done!.x, done!.marker.color]).toEqual([[2, 0], '#0a0'])
  })

  it('names are the artist’s: nothing in them is read as more', () => {
    for (const chart of [daysChart, timeChart]) for (const { y } of traces(chart([sequence('<a href="x">&amp;')], LOOK))) expect(y.join('')).not.toMatch(/[<&]/)
  })

  it('of two sequences of one name have a bar for each', () => {
    for (const chart of [daysChart, timeChart]) expect(traces(chart([sequence('Pier', { days: 1 }), sequence('Pier', { days: 2 }), sequence('Kite')], LOOK))[0]!.y).toEqual(['Pier', 'Pier (2)', 'Kite'])
  })

  it('of many sequences show those of which there is most, in the film’s order, and all others together', () => {
    const many = Array.from({ length: 100 }, (_, i) => sequence(`Q${i}`, { days: i % 10 === 0 ? 50 + i : 1, doneDays: i === 90 ? 140 : 0, seconds: 10 + (i % 20), targetSeconds: i < 50 ? 12 : null }))
    const [all, done] = traces(daysChart(many, LOOK))
    // 90 has most days, and hardly any left.
    expect(all!.y).toEqual(['Q20', 'Q30', 'Q40', 'Q50', 'Q60', 'Q70', 'Q80', '93 others'])
    expect(all!.y).toHaveLength(MOST_BARS)
    const sum = (values: readonly (number | string)[]) => values.reduce<number>((total, value) => total + Number(value), 0)
    expect(sum(all!.x)).toBeCloseTo(many.reduce((total, { days }) => total + days, 0), 9)
    expect(sum(done!.x)).toBe(140)
    const [, meant, is] = traces(timeChart(many, LOOK))
    expect(sum(is!.x)).toBeCloseTo(many.reduce((total, { seconds }) => total + seconds, 0), 9)
    // What nothing is said of is meant to be as long as it is.
    expect(is!.x).toHaveLength(MOST_BARS)
    expect(Number(meant!.x.at(-1))).toBeGreaterThan(0)
    expect(traces(timeChart(many.map((each) => ({ ...each, targetSeconds: null })), LOOK))[0]!.text!.at(-1)).toMatch(/^\d+ s$/)
    const few = many.slice(0, MOST_BARS)
    expect(traces(daysChart(few, LOOK))[0]!.y).toEqual(few.map(({ name }) => name))
  })

  it('sizes: of backgrounds, overlays and sets, each in the narrowest that it fits in', () => {
    const widths = [999, 1000, 1001, 2000, 2999, 3500, 8000, 8001, 40_000].map((width) => ({ sort: 'background' as const, width }))
    const [bars] = traces(sizesChart([...widths, { sort: 'prop', width: 10 }, { sort: 'figure', width: 10 }, { sort: 'set', width: 10 }, { sort: 'overlay', width: 10 }], LOOK))
    expect(bars!.x).toEqual(['<1k', '2k', '3k', '4k', '6k', '8k', '>8k'])
    expect(bars!.y).toEqual([4, 2, 1, 1, 0, 1, 2])
  })

  it('difficulty: every shot is counted once, in ten steps at most, whatever the points', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 1000, noNaN: true }), { maxLength: 60 }), (points) => {
        const [bars] = traces(hardnessChart(points, LOOK))
        expect(bars!.y.reduce<number>((sum, count) => sum + Number(count), 0)).toBe(points.length)
        expect(bars!.x.length).toBe(bars!.y.length)
        expect(bars!.x.length).toBeGreaterThanOrEqual(1)
        expect(bars!.x.length).toBeLessThanOrEqual(11)
        // None stands under a step that it is over.
        const ends = bars!.x.map((name) => Number(String(name).split('–')[1]))
        expect(Math.max(0, ...points)).toBeLessThanOrEqual(ends.at(-1)! + 1e-9)
      }),
    )
    expect(traces(hardnessChart([], LOOK))[0]).toMatchObject({ x: ['0–1'], y: [0] })
    expect(traces(hardnessChart([0.5, 12, 31], LOOK))[0]!.x).toEqual(['0–4', '4–8', '8–12', '12–16', '16–20', '20–24', '24–28', '28–32'])
  })

  it('running time: what is meant is told where it is, and what goes past it by more than half a second stands out', () => {
    const [words, meant, is] = traces(timeChart([sequence('Pier', { seconds: 20.04, targetSeconds: 18 }), sequence('Tower', { seconds: 18.4, targetSeconds: 18 }), sequence('Kite', { seconds: 4 })], LOOK))
    expect(words!.text).toEqual(['20/18 s', '18.4/18 s', '4 s'])
    expect(words!.x).toEqual([20.04, 18.4, 4])
    expect(meant!.x).toEqual([18, 18, 0])
    expect(is!.marker.color).toEqual(['#c00', '#0a0', '#0a0'])
  })
})
