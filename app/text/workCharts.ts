import type { ThingSort } from '@rubato/core/checks'

/** Colours of the page that charts stand on. */
export interface WorkLook {
  readonly ink: string
  readonly rule: string
  readonly done: string
  readonly left: string
  readonly size: string
  readonly over: string
  readonly width: number
  readonly height: number
}
export interface WorkChart {
  readonly traces: readonly object[]
  readonly layout: object
}
/** One sequence: days of work and how many of them are done, frames and how many they are meant to be. */
export interface SequenceWork {
  readonly name: string
  readonly days: number
  readonly doneDays: number
  readonly seconds: number
  readonly targetSeconds: number | null
}
const FONT = 'Archivo Variable, Archivo, sans-serif'
/** Names are the artist's: nothing in them is read as more. */
const plain = (name: string) => name.replaceAll('<', '‹').replaceAll('&', '＆')
/** What a bar is called is its place: of two of one name each has its own. */
function namesOf(sequences: readonly SequenceWork[]): readonly string[] {
  const times = new Map<string, number>()
  return sequences.map(({ name }) => {
    const time = (times.get(name) ?? 0) + 1
    times.set(name, time)
    return plain(time === 1 ? name : `${name} (${time})`)
  })
}
const layoutOf = ({ ink, rule, width, height }: WorkLook, more: object) => ({
  width,
  height,
  margin: { l: 8, r: 34, t: 4, b: 18 },
  showlegend: false,
  barmode: 'overlay',
  bargap: 0.35,
  hovermode: 'closest',
  hoverlabel: { font: { family: FONT, size: 12 } },
  dragmode: false,
  paper_bgcolor: 'rgba(0,0,0,0)',
  plot_bgcolor: 'rgba(0,0,0,0)',
  font: { family: FONT, size: 11, color: ink },
  xaxis: { fixedrange: true, zeroline: false, showgrid: false, gridcolor: rule, nticks: 5 },
  yaxis: { fixedrange: true, zeroline: false, showgrid: false, gridcolor: rule, automargin: true, nticks: 4 },
  ...more,
})
const bars = (x: readonly unknown[], y: readonly unknown[], color: string | readonly string[], more: object = {}) => ({ type: 'bar', x, y, marker: { color }, ...more })
const sideways = (look: WorkLook) => layoutOf(look, { yaxis: { fixedrange: true, autorange: 'reversed', automargin: true, showgrid: false }, xaxis: { fixedrange: true, zeroline: false, showgrid: false, showticklabels: false }, margin: { l: 8, r: 44, t: 2, b: 2 } })

/** Bars that can be told apart, one over the other. */
export const MOST_BARS = 8
/** Those of which there is most, in the film's order, and all others together: a film of a hundred sequences is read as one of eight is. */
function mostOf(sequences: readonly SequenceWork[], muchOf: (sequence: SequenceWork) => number): readonly SequenceWork[] {
  if (sequences.length <= MOST_BARS) return sequences
  const kept = new Set(sequences.toSorted((a, b) => muchOf(b) - muchOf(a)).slice(0, MOST_BARS - 1))
  const others = sequences.filter((each) => !kept.has(each))
  const sum = (of: (sequence: SequenceWork) => number) => others.reduce((total, each) => total + of(each), 0)
  const isMeant = others.some(({ targetSeconds }) => targetSeconds !== null)
  return [
    ...sequences.filter((each) => kept.has(each)),
    { name: `${others.length} others`, days: sum(({ days }) => days), doneDays: sum(({ doneDays }) => doneDays), seconds: sum(({ seconds }) => seconds), targetSeconds: isMeant ? sum(({ seconds, targetSeconds }) => targetSeconds ?? seconds) : null },
  ]
}

/** Days of work a sequence, and how many of them are done; of many sequences those with most left to do. */
export function daysChart(all: readonly SequenceWork[], look: WorkLook): WorkChart {
  const sequences = mostOf(all, ({ days, doneDays }) => days - doneDays)
  const names = namesOf(sequences)
  const label = (value: number) => String(Number(value.toFixed(1)))
  return {
    traces: [
      bars(sequences.map(({ days }) => days), names, look.left, { orientation: 'h', text: sequences.map(({ days }) => label(days)), textposition: 'outside', cliponaxis: false, hovertemplate: '%{y}: %{x:.1f} days<extra></extra>' }),
      bars(sequences.map(({ doneDays }) => doneDays), names, look.done, { orientation: 'h', hovertemplate: '%{y}: %{x:.1f} days done<extra></extra>' }),
    ],
    layout: sideways(look),
  }
}

const SIZES = [1000, 2000, 3000, 4000, 6000, 8000]
/** How many backgrounds, overlays and sets are how wide, px. */
export function sizesChart(widths: readonly { readonly sort: ThingSort; readonly width: number }[], look: WorkLook): WorkChart {
  const names = ['<1k', ...SIZES.slice(1).map((size) => `${size / 1000}k`), '>8k']
  const counts = names.map(() => 0)
  for (const { sort, width } of widths) if (sort === 'background' || sort === 'overlay' || sort === 'set') counts[(((at) => (at < 0 ? SIZES.length : at))(SIZES.findIndex((size) => width <= size)))]!++
  return { traces: [bars(names, counts, look.size, { hovertemplate: '%{y} of up to %{x}<extra></extra>' })], layout: layoutOf(look, { xaxis: { fixedrange: true, type: 'category', showgrid: false }, yaxis: { fixedrange: true, showgrid: false, nticks: 3, tickformat: 'd', automargin: true, rangemode: 'tozero' } }) }
}

/** How many shots are how hard: ten steps from nothing to the hardest. */
export function hardnessChart(points: readonly number[], look: WorkLook): WorkChart {
  const step = Math.max(1, Math.ceil(Math.max(1, ...points) / 10))
  const counts = Array.from({ length: Math.max(1, Math.ceil((Math.max(0, ...points) + 1e-9) / step)) }, () => 0)
  for (const each of points) counts[Math.min(counts.length - 1, Math.floor(each / step))]!++
  return { traces: [bars(counts.map((_, i) => `${i * step}–${(i + 1) * step}`), counts, look.size, { hovertemplate: '%{y} of %{x} points<extra></extra>' })], layout: layoutOf(look, { xaxis: { fixedrange: true, type: 'category', showgrid: false }, yaxis: { fixedrange: true, showgrid: false, nticks: 3, tickformat: 'd', automargin: true, rangemode: 'tozero' } }) }
}

/** Running time against what it is meant to be; of many sequences the longest. */
export function timeChart(all: readonly SequenceWork[], look: WorkLook): WorkChart {
  const sequences = mostOf(all, ({ seconds, targetSeconds }) => Math.max(seconds, targetSeconds ?? 0))
  const names = namesOf(sequences)
  const isOver = ({ seconds, targetSeconds }: SequenceWork) => targetSeconds !== null && seconds > targetSeconds + 0.5
  const round = (value: number) => String(Number(value.toFixed(1)))
  return {
    traces: [
      bars(sequences.map(({ seconds, targetSeconds }) => Math.max(seconds, targetSeconds ?? 0)), names, 'rgba(0,0,0,0)', { orientation: 'h', text: sequences.map(({ seconds, targetSeconds }) => (targetSeconds === null ? `${round(seconds)} s` : `${round(seconds)}/${round(targetSeconds)} s`)), textposition: 'outside', cliponaxis: false, hoverinfo: 'skip' }),
      bars(sequences.map(({ targetSeconds }) => targetSeconds ?? 0), names, look.left, { orientation: 'h', hovertemplate: '%{y}: %{x:.1f} s meant<extra></extra>' }),
      bars(sequences.map(({ seconds }) => seconds), names, sequences.map((each) => (isOver(each) ? look.over : look.done)), { orientation: 'h', width: 0.3, hovertemplate: '%{y}: %{x:.1f} s<extra></extra>' }),
    ],
    layout: { ...sideways(look), margin: { l: 8, r: 74, t: 2, b: 2 } },
  }
}
