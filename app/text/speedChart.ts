import type { Strobe } from '@rubato/core/checks'

/** One line of the chart. */
export interface SpeedLine {
  readonly name: string
  readonly speeds: Float64Array
  readonly isCamera: boolean
  readonly isChosen: boolean
  readonly strobes: readonly Strobe[]
}
/** Colours and size of the page that it stands on. */
export interface ChartLook {
  readonly ink: string
  readonly rule: string
  readonly camera: string
  readonly wrong: string
  readonly width: number
  readonly height: number
}
export interface ChartTrace {
  readonly type: 'scatter'
  readonly mode: 'lines'
  readonly name: string
  readonly x: readonly number[]
  readonly y: readonly (number | null)[]
  readonly line: { readonly color: string; readonly width: number; readonly dash: string }
  readonly hovertemplate: string
}
export interface ChartLayout extends Record<string, unknown> {
  readonly xaxis: { readonly range: readonly number[] } & Record<string, unknown>
  readonly margin: { readonly l: number; readonly r: number; readonly t: number; readonly b: number }
  readonly shapes: readonly { readonly type: string; readonly x0: number; readonly x1: number; readonly y0: number; readonly y1: number }[]
}
export interface SpeedChart {
  (look: ChartLook): { readonly traces: readonly ChartTrace[]; readonly layout: ChartLayout }
  /** How many shapes it has of its own. */
  readonly shapes: number
}

/** Of the frames' axis, CSS px. */
export const CHART_MARGINS = Object.freeze({ left: 34, right: 8 })

/** Lines of one hue, told apart by how dark they are: near levels are drawn dark, far ones light. */
const SHADES = ['#3f5f57', '#5b7d74', '#789a90', '#96b4ac', '#b3cbc5']

/** Where anything strobes. */
function joined(strobes: readonly Strobe[]): readonly Pick<Strobe, 'first' | 'last'>[] {
  const all: { first: number; last: number }[] = []
  for (const { first, last } of strobes.toSorted((a, b) => a.first - b.first)) {
    const before = all.at(-1)
    if (before !== undefined && first <= before.last + 1) before.last = Math.max(before.last, last)
    else all.push({ first, last })
  }
  return all
}

/** Speed on screen over frames, with the limit and where it is passed. The camera is a line of its own colour. */
export function speedChart(lines: readonly SpeedLine[], limit: number): SpeedChart {
  const strobes = joined(lines.flatMap((line) => line.strobes))
  const levels = lines.filter((line) => !line.isCamera)
  const make: (look: ChartLook) => { traces: readonly ChartTrace[]; layout: ChartLayout } = ({ ink, rule, camera, wrong, width, height }) => ({
    traces: lines.map((line) => ({
      type: 'scatter',
      mode: 'lines',
      name: line.name,
      // What is not there is a gap in the line.
      x: Array.from(line.speeds, (_, frame) => frame),
      y: Array.from(line.speeds, (value) => (Number.isNaN(value) ? null : value)),
      line: { color: line.isCamera ? camera : SHADES[Math.min(SHADES.length - 1, levels.indexOf(line))]!, width: line.isChosen ? 3 : 1.5, dash: line.isCamera ? 'dot' : 'solid' },
      hovertemplate: `${line.name.replaceAll('<', '‹')}: %{y:.3f} fw/s<extra></extra>`,
    })),
    layout: {
      width,
      height,
      margin: { l: CHART_MARGINS.left, r: CHART_MARGINS.right, t: 6, b: 22 },
      showlegend: false,
      hovermode: 'closest',
      hoverlabel: { font: { family: 'Archivo Variable, Archivo, sans-serif', size: 12 } },
      dragmode: false,
      paper_bgcolor: 'rgba(0,0,0,0)',
      plot_bgcolor: 'rgba(0,0,0,0)',
      font: { family: 'Archivo Variable, Archivo, sans-serif', size: 11, color: ink },
      xaxis: { gridcolor: rule, zeroline: false, fixedrange: true, range: [0, Math.max(1, (lines[0]?.speeds.length ?? 1) - 1)] },
      yaxis: { gridcolor: rule, zeroline: false, fixedrange: true, rangemode: 'tozero', nticks: 5 },
      shapes: [
        { type: 'line', xref: 'paper', x0: 0, x1: 1, y0: limit, y1: limit, line: { color: wrong, width: 1, dash: 'dash' } },
        ...strobes.map(({ first, last }) => ({ type: 'rect', yref: 'paper', y0: 0, y1: 1, x0: first, x1: last + 1, line: { width: 0 }, fillcolor: wrong, opacity: 0.12 })),
      ],
    },
  })
  return Object.assign(make, { shapes: 1 + strobes.length })
}
