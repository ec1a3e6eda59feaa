import type { Finding } from '@rubato/core/checks'
import { describe, expect, it } from 'vitest'
import { findingFacts, findingTitle, frameRanges } from './findings'
import { fwWords, pxWords } from './sizes'
import { CHART_MARGINS, speedChart, type SpeedLine } from './speedChart'

const LOOK = { ink: '#111111', rule: '#cccccc', camera: '#0000ff', wrong: '#ff0000', width: 300, height: 150 }
const line = (name: string, speeds: readonly number[], more: Partial<SpeedLine> = {}): SpeedLine => ({ name, speeds: Float64Array.from(speeds), isCamera: false, isChosen: false, strobes: [], ...more })
const strobe = (first: number, last: number) => ({ first, last, worstFrame: first, speed: 1 })

describe('frames in words', () => {
  it('are one, a run, or some and how many more', () => {
    expect(frameRanges([[7, 7]])).toBe('frame 7')
    expect(frameRanges([[188, 204]])).toBe('frames 188–204')
    expect(frameRanges([[3, 3], [8, 12], [20, 20], [30, 31], [40, 40]])).toBe('frames 3, 8–12, 20 and 2 more')
  })

  it('stand in what was found, with how much and where it is worst', () => {
    const finding: Finding = { id: 'sea.right', kind: 'runs-out', levelId: 'sea', side: 'right', ranges: [[45, 48]], worstFrame: 48, cameraId: 'a', amount: 0.027845, artFw: 0.076667, about: 'x', bare: null }
    expect(findingTitle(finding, (id) => id.toUpperCase())).toBe('SEA runs out at right')
    expect(findingFacts(finding)).toBe('frames 45–48 · 0.03 fw · worst 48')
    expect(findingFacts({ ...finding, amount: 0.0021, ranges: [[48, 48]] })).toBe('frame 48 · 0.0021 fw')
    const gap: Finding = { ...finding, kind: 'gap', levelId: null, side: 'inside', amount: 0.0034 }
    expect(findingTitle(gap, String)).toBe('Bare paper inside the frame')
    expect(findingFacts(gap)).toBe('frames 45–48 · 0.34 % of the frame · worst 48')
  })
})

describe('sizes in words', () => {
  it('are whole px, never less than is needed, and fw', () => {
    expect(pxWords({ width: 3207.75, height: 1080 })).toBe('3,208 × 1,080 px')
    // What rounding leaves is no px more.
    expect(pxWords({ width: 720.0000000001, height: 0.2 })).toBe('720 × 1 px')
    expect(fwWords({ left: -0.55, right: 0.95, bottom: -0.33, top: 0.33 })).toBe('1.50 × 0.66 fw')
  })
})

describe('the chart of speeds', () => {
  it('has a line each, gaps where nothing is seen, and its frames from end to end', () => {
    const { traces, layout } = speedChart([line('Camera', [0.1, 0.2, NaN], { isCamera: true }), line('Sea', [0.1, NaN, NaN], { isChosen: true })], 0.14)(LOOK)
    expect(traces.map(({ y }) => y)).toEqual([[0.1, 0.2, null], [0.1, null, null]])
    expect(traces[0]!.line.color).toBe(LOOK.camera)
    expect(traces[1]!.line.width).toBeGreaterThan(traces[0]!.line.width)
    expect(layout.xaxis.range).toEqual([0, 2])
    expect([layout.margin.l, layout.margin.r]).toEqual([CHART_MARGINS.left, CHART_MARGINS.right])
  })

  it('marks the limit, and where anything strobes once, whatever strobes there', () => {
    const chart = speedChart([line('a', [1, 1, 1], { strobes: [strobe(0, 4), strobe(20, 22)] }), line('b', [1, 1, 1], { strobes: [strobe(3, 8), strobe(9, 9)] })], 0.14)
    const shapes = chart(LOOK).layout.shapes
    expect(shapes).toHaveLength(chart.shapes)
    expect(shapes[0]).toMatchObject({ type: 'line', y0: 0.14 })
    expect(shapes.slice(1).map(({ x0, x1 }) => [x0, x1])).toEqual([[0, 10], [20, 23]])
  })

  it('says a name as it is, whatever is in it', () => {
    const [trace] = speedChart([line('<b>Sea</b>', [1])], 1)(LOOK).traces
    expect(trace!.hovertemplate).not.toContain('<b>')
  })
})
