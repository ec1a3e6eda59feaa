import { flattened, type PathStep } from '@rubato/core/ink'
import type { Point2 } from '@rubato/core/geometry'
import svgpath from 'svgpath'

/** More points are several lines. */
const MOST_POINTS = 39_000
/** Farther off, a file's own units, nothing is drawn. */
const FARTHEST = 1e7
const round = (value: number) => Math.round(value * 1e6) / 1e6

/** A path's steps carried elsewhere, point by point. */
export function carriedStep(step: PathStep, to: (x: number, y: number) => Point2): PathStep {
  const at = ([x, y]: readonly [number, number]) => ((point) => [point.x, point.y] as const)(to(x, y))
  switch (step.kind) {
    case 'close':
      return step
    case 'quadratic':
      return { kind: 'quadratic', by: at(step.by), to: at(step.to) }
    case 'cubic':
      return { kind: 'cubic', by: at(step.by), then: at(step.then), to: at(step.to) }
    default:
      return { kind: step.kind, to: at(step.to) }
  }
}

function pathOf(element: SVGGraphicsElement): string {
  const number = (name: string, otherwise = 0) => ((value) => (Number.isFinite(value) ? value : otherwise))(parseFloat(element.getAttribute(name) ?? ''))
  const oval = (cx: number, cy: number, rx: number, ry: number) => {
    const half = (to: number) => `A${rx} ${ry} 0 1 0 ${to} ${cy}`
    return rx <= 0 || ry <= 0 ? '' : `M${cx - rx} ${cy}${half(cx + rx)}${half(cx - rx)}Z`
  }
  switch (element.localName) {
    case 'rect': {
      const [x, y, w, h] = [number('x'), number('y'), number('width'), number('height')]
      const [rx, ry] = ((a, b) => [Math.min(w / 2, a), Math.min(h / 2, b)] as const)(number('rx', number('ry')), number('ry', number('rx')))
      if (w <= 0 || h <= 0) return ''
      if (rx <= 0 || ry <= 0) return `M${x} ${y}h${w}v${h}h${-w}Z`
      const corner = (dx: number, dy: number) => `a${rx} ${ry} 0 0 1 ${dx} ${dy}`
      const [across, down] = [w - 2 * rx, h - 2 * ry]
      return `M${x + rx} ${y}h${across}${corner(rx, ry)}v${down}${corner(-rx, ry)}h${-across}${corner(-rx, -ry)}v${-down}${corner(rx, -ry)}Z`
    }
    case 'circle':
      return oval(number('cx'), number('cy'), number('r'), number('r'))
    case 'ellipse':
      return oval(number('cx'), number('cy'), number('rx'), number('ry'))
    case 'line':
      return `M${number('x1')} ${number('y1')}L${number('x2')} ${number('y2')}`
    case 'polyline':
    case 'polygon': {
      const values = (element.getAttribute('points') ?? '').trim().split(/[\s,]+/).map(Number)
      if (values.length < 4 || values.some((value) => !Number.isFinite(value))) return ''
      const points = Array.from({ length: Math.floor(values.length / 2) }, (_, i) => `${values[i * 2]!} ${values[i * 2 + 1]!}`)
      return `M${points.join('L')}${element.localName === 'polygon' ? 'Z' : ''}`
    }
    default:
      return element.getAttribute('d') ?? ''
  }
}

/** What any shape of an SVG is as a path; none where it is damaged from its start. */
export function stepsOf(element: SVGGraphicsElement): PathStep[] {
  const steps: PathStep[] = []
  // What is damaged further on is drawn up to there, as browsers do.
  svgpath(pathOf(element)).abs().unshort().unarc().iterate((segment, _, x, y) => {
    const [kind, ...v] = segment as unknown as [string, ...number[]]
    if (kind === 'M') steps.push({ kind: 'move', to: [v[0]!, v[1]!] })
    else if (kind === 'L') steps.push({ kind: 'line', to: [v[0]!, v[1]!] })
    else if (kind === 'H') steps.push({ kind: 'line', to: [v[0]!, y] })
    else if (kind === 'V') steps.push({ kind: 'line', to: [x, v[0]!] })
    else if (kind === 'C') steps.push({ kind: 'cubic', by: [v[0]!, v[1]!], then: [v[2]!, v[3]!], to: [v[4]!, v[5]!] })
    else if (kind === 'Q') steps.push({ kind: 'quadratic', by: [v[0]!, v[1]!], to: [v[2]!, v[3]!] })
    else if (kind === 'Z' || kind === 'z') steps.push({ kind: 'close' })
  })
  return steps.every((step) => step.kind === 'close' || step.to.every((value) => Number.isFinite(value) && Math.abs(value) < FARTHEST)) ? steps : []
}

/** Lines along a path, within `toleranceFw` of it: x, y, pressure …, even. */
export function linesAlong(steps: readonly PathStep[], toleranceFw: number): number[][] {
  const lines: number[][] = []
  let part: PathStep[] = []
  const over = (closed: boolean) => {
    const [first] = part
    if (first !== undefined && first.kind !== 'close' && part.length > 1) {
      // The end is said, not closed: a polygon’s last side is a line of its own. Said twice, a line of two points is a ring as well.
      const end: PathStep = { kind: 'line', to: closed ? first.to : lastOf(part) }
      const [ring] = flattened([...part, end, end], toleranceFw)
      if (ring !== undefined) for (let at = 0; at < ring.length - 2; at += (MOST_POINTS - 1) * 2) lines.push(pressed(ring.slice(at, at + MOST_POINTS * 2)))
    }
    part = []
  }
  for (const step of steps) {
    if (step.kind === 'close') over(true)
    else {
      if (step.kind === 'move') over(false)
      part.push(step)
    }
  }
  over(false)
  return lines
}
function pressed(pairs: readonly number[]): number[] {
  const points: number[] = []
  for (let i = 0; i + 1 < pairs.length; i += 2) {
    const [x, y] = [round(pairs[i]!), round(pairs[i + 1]!)]
    if (points.at(-3) !== x || points.at(-2) !== y) points.push(x, y, 0.5)
  }
  return points
}


const lastOf = (part: readonly PathStep[]) => (part.at(-1) as Extract<PathStep, { readonly to: unknown }>).to
