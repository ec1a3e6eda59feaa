import type { Mark } from '@rubato/core/document'
import type { NewMark } from '@rubato/core/edits'
import type { Point2 } from '@rubato/core/geometry'
import { carryingOf, carryMark, fittedAffine, flattened, IDENTITY, joinedByDirection, type PathStep } from '@rubato/core/ink'
import { isKeepable, SVG_SAYS, svgMark, svgPlace, svgShape, svgWay, type SvgWay } from '@rubato/core/interchange'
import svgpath from 'svgpath'

/** An SVG's lines and areas as marks. */
export interface SvgMarks {
  readonly marks: readonly NewMark[]
  readonly way: SvgWay | null
  /** What was left out, in words. */
  readonly leftOut: readonly string[]
}

const MOST_MARKS = 20_000
const MOST_POINTS = 39_000
/** How far outlines may lie from the curves of a file, fw. */
const TOLERANCE_FW = 0.00005
/** A path is the mark’s own, moved, where its points are this near to it, of its size. */
const SAME_SHAPE = 0.004
/** A mark stands where it stood, fw: a file has thousandths of a px. */
const STANDS_FW = 0.00002
const round = (value: number) => Math.round(value * 1e6) / 1e6

/**
 * Reads what is drawn in an SVG that is safe. `place` is how many px of the file a fw is and where the file’s corner lies, for one that does
 * not say. What went out of here is the marks it was, carried to where it was moved; all else is read as lines of even pressure and as areas.
 */
export function readSvgMarks(text: string, placeOf: (widthPx: number, heightPx: number) => { readonly pxPerFw: number; readonly left: number; readonly top: number }): SvgMarks {
  const parsed = new DOMParser().parseFromString(text, 'image/svg+xml')
  const host = document.createElement('div')
  // It must be laid out for its transforms and styles to be known.
  host.style.cssText = 'position:fixed;left:-99999px;top:0;opacity:0;pointer-events:none'
  const root = document.importNode(parsed.documentElement, true) as unknown as SVGSVGElement
  host.append(root)
  document.body.append(host)
  try {
    return readRoot(root, placeOf)
  } finally {
    host.remove()
  }
}

function readRoot(root: SVGSVGElement, placeOf: Parameters<typeof readSvgMarks>[1]): SvgMarks {
  const box = root.viewBox.baseVal
  const size = box !== null && box.width > 0 && box.height > 0 ? { x: box.x, y: box.y, width: box.width, height: box.height } : { x: 0, y: 0, width: root.width.baseVal.value, height: root.height.baseVal.value }
  if (!(size.width > 0 && size.height > 0)) throw new Error('It does not say how large it is.')
  // A px of the file is a px here.
  root.setAttribute('viewBox', `${size.x} ${size.y} ${size.width} ${size.height}`)
  root.setAttribute('width', String(size.width))
  root.setAttribute('height', String(size.height))
  root.setAttribute('preserveAspectRatio', 'none')
  const { pxPerFw, left, top } = svgPlace(root.getAttribute(SVG_SAYS.place) ?? '') ?? placeOf(size.width, size.height)
  const back = root.getScreenCTM()!.inverse()
  const fw = (matrix: DOMMatrix, x: number, y: number): Point2 => ({ x: left + (matrix.a * x + matrix.c * y + matrix.e - size.x) / pxPerFw, y: top - (matrix.b * x + matrix.d * y + matrix.f - size.y) / pxPerFw })

  const found: { readonly mark: NewMark; readonly order: number | null }[] = []
  const gone = { text: 0, pictures: 0, tones: 0, more: 0, masks: 0 }
  const put = (mark: NewMark, order: number | null) => {
    if (found.length < MOST_MARKS && isKeepable(mark)) found.push({ mark, order })
    else gone.more++
  }
  for (const element of root.querySelectorAll<SVGGraphicsElement>('path, rect, circle, ellipse, line, polyline, polygon, image, text')) {
    const inMask = element.closest('mask')
    const said = svgMark(element.getAttribute(SVG_SAYS.mark) ?? '')
    if (element.closest('clipPath, pattern, symbol, marker') !== null || (inMask !== null && (said === null || said.mark.kind === 'picture' || said.mark.mode !== 'erase'))) continue
    if (element instanceof SVGTextElement) {
      gone.text++
      continue
    }
    if (element instanceof SVGImageElement) {
      if (said?.mark.kind === 'picture') put(freshOf(said.mark), said.order)
      else gone.pictures++
      continue
    }
    const style = getComputedStyle(element)
    if (inMask === null && (style.display === 'none' || style.visibility === 'hidden')) continue
    const steps = stepsOf(element)
    if (steps.length === 0) continue
    // A mask goes with what it is on.
    const stands = inMask === null ? element : root.querySelector<SVGGraphicsElement>(`[mask*="#${CSS.escape(inMask.id)}"]`)
    const matrix = stands === null ? new DOMMatrix() : DOMMatrix.fromMatrix(back.multiply(stands.getScreenCTM()!))
    const seen = steps.map((step) => carried(step, (x, y) => fw(matrix, x, y)))
    const own = said === null || said.mark.kind === 'picture' ? null : carriedOwn(said.mark, seen)
    const opacity = opacityOf(element, root)
    if (own !== null && said !== null) {
      const tone = colourOf(svgShape(own as Exclude<Mark, { kind: 'picture' }>).lineFw === null ? style.fill : style.stroke, root)
      put(freshOf(own.kind === 'picture' || own.mode === 'erase' || tone === null ? own : { ...own, colour: tone, opacity: near(opacity, own.opacity) }), said.order)
      continue
    }
    if (inMask !== null) continue
    if (element.closest('[mask], [clip-path]') !== null && element.closest('[mask^="url(#rubbed-"]') === null) gone.masks++
    const area = style.fill === 'none' ? null : colourOf(style.fill, root)
    const line = style.stroke === 'none' ? null : colourOf(style.stroke, root)
    if (style.fill.startsWith('url') || style.stroke.startsWith('url')) gone.tones++
    if (area !== null) {
      const rings = flattened(seen, TOLERANCE_FW)
      const outlines = (style.fillRule === 'evenodd' ? rings : joinedByDirection(rings)).map((ring) => ring.map(round)).filter((ring) => ring.length <= 120_000)
      if (outlines.length > 0) put({ id: crypto.randomUUID(), kind: 'fill', mode: 'ink', outlines, colour: area, opacity: round(Math.min(1, opacity * Number(style.fillOpacity))) }, null)
    }
    if (line !== null) {
      const grows = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) / pxPerFw
      const widthFw = Math.min(10, Math.max(1e-6, parseFloat(style.strokeWidth) * grows))
      for (const points of linesOf(seen)) put({ id: crypto.randomUUID(), kind: 'stroke', mode: 'ink', points, widthFw, colour: line, opacity: round(Math.min(1, opacity * Number(style.strokeOpacity))), thinning: 0 }, null)
    }
  }
  // What went out of here lies as it lay; what was added, over it, unless it says otherwise by where it stands.
  const numbered = found.filter(({ order }) => order !== null).sort((a, b) => a.order! - b.order!)
  const marks = [...numbered, ...found.filter(({ order }) => order === null)].map(({ mark }) => mark)
  const leftOut = [
    ...(gone.text > 0 ? [gone.text === 1 ? 'a text: turn it to paths first' : `${gone.text} texts: turn them to paths first`] : []),
    ...(gone.pictures > 0 ? [`${gone.pictures === 1 ? 'a picture' : `${gone.pictures} pictures`}`] : []),
    ...(gone.tones > 0 ? [`${gone.tones === 1 ? 'a gradient or pattern, in its first tone' : `${gone.tones} gradients or patterns, each in its first tone`}`] : []),
    ...(gone.masks > 0 ? ['masks and clips, of which all is shown'] : []),
    ...(gone.more > 0 ? [`${gone.more === 1 ? 'a line that is' : `${gone.more} lines that are`} too far off, too large, or beyond ${MOST_MARKS.toLocaleString('en')}`] : []),
  ]
  if (marks.length === 0) throw new Error(leftOut.length === 0 ? 'It has no lines and no areas.' : `It has no lines and no areas. Left out: ${leftOut.join('; ')}.`)
  return { marks, way: svgWay(root.getAttribute(SVG_SAYS.way) ?? ''), leftOut }
}

const near = (value: number, known: number) => (Math.abs(value - known) < 0.002 ? known : round(value))
function freshOf(mark: Mark): NewMark {
  const { order: _, ...rest } = mark
  return rest as NewMark
}

/** A mark where its path is now; null where that is another shape by now. */
function carriedOwn(mark: Exclude<Mark, { kind: 'picture' }>, seen: readonly PathStep[]): Mark | null {
  const { rings } = svgShape(mark)
  const was = rings.flatMap((ring) => Array.from({ length: ring.length / 2 }, (_, i) => ({ x: ring[i * 2]!, y: ring[i * 2 + 1]! })))
  const now = seen.flatMap((step) => (step.kind === 'close' ? [] : [{ x: step.to[0], y: step.to[1] }]))
  if (seen.some(({ kind }) => kind === 'quadratic' || kind === 'cubic') || was.length !== now.length) return null
  if (was.every(({ x, y }, i) => Math.hypot(now[i]!.x - x, now[i]!.y - y) < STANDS_FW)) return mark
  const fit = was.length === 1 ? { affine: { ...IDENTITY, e: now[0]!.x - was[0]!.x, f: now[0]!.y - was[0]!.y }, off: 0 } : fittedAffine(was, now)
  if (fit === null) return null
  const [xs, ys] = [now.map(({ x }) => x), now.map(({ y }) => y)]
  const size = Math.max(...[xs, ys].map((values) => values.reduce((most, value) => Math.max(most, value), -Infinity) - values.reduce((least, value) => Math.min(least, value), Infinity)))
  return fit.off > SAME_SHAPE * size + STANDS_FW ? null : carryMark(mark, carryingOf(fit.affine))
}

function carried(step: PathStep, to: (x: number, y: number) => Point2): PathStep {
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
  const oval = (cx: number, cy: number, rx: number, ry: number) => (rx <= 0 || ry <= 0 ? '' : `M${cx - rx} ${cy}A${rx} ${ry} 0 1 0 ${cx + rx} ${cy}A${rx} ${ry} 0 1 0 ${cx - rx} ${cy}Z`)
  switch (element.localName) {
    case 'rect': {
      const [x, y, w, h] = [number('x'), number('y'), number('width'), number('height')]
      const [rx, ry] = ((a, b) => [Math.min(w / 2, a), Math.min(h / 2, b)] as const)(number('rx', number('ry')), number('ry', number('rx')))
      if (w <= 0 || h <= 0) return ''
      if (rx <= 0 || ry <= 0) return `M${x} ${y}h${w}v${h}h${-w}Z`
      return `M${x + rx} ${y}h${w - 2 * rx}a${rx} ${ry} 0 0 1 ${rx} ${ry}v${h - 2 * ry}a${rx} ${ry} 0 0 1 ${-rx} ${ry}h${2 * rx - w}a${rx} ${ry} 0 0 1 ${-rx} ${-ry}v${2 * ry - h}a${rx} ${ry} 0 0 1 ${rx} ${-ry}Z`
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

function stepsOf(element: SVGGraphicsElement): PathStep[] {
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
  return steps.every((step) => step.kind === 'close' || step.to.every((value) => Number.isFinite(value) && Math.abs(value) < 1e7)) ? steps : []
}

/** Lines along a path, x, y, pressure …, even. */
function linesOf(steps: readonly PathStep[]): number[][] {
  const lines: number[][] = []
  let part: PathStep[] = []
  const over = (closed: boolean) => {
    const [first] = part
    if (first !== undefined && first.kind !== 'close' && part.length > 1) {
      // The end is said, not closed: a polygon’s last side is a line of its own.
      const whole = closed ? [...part, { kind: 'line' as const, to: first.to }] : part
      const ring = flattened([...whole, ...(whole.length < 3 ? [{ kind: 'line' as const, to: whole.at(-1)!.kind === 'close' ? first.to : (whole.at(-1) as Extract<PathStep, { to: unknown }>).to }] : [])], TOLERANCE_FW)[0]
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

/** As #rrggbb; null for none. Of a gradient its first tone. */
function colourOf(paint: string, root: SVGSVGElement): string | null {
  const named = /url\(["']?#([^"')]+)/.exec(paint)
  if (named !== null) {
    const stop = root.querySelector(`#${CSS.escape(named[1]!)} stop`)
    return stop === null ? '#808080' : colourOf(getComputedStyle(stop).stopColor, root)
  }
  const values = /rgba?\((\d+),\s*(\d+),\s*(\d+)(?:,\s*([\d.]+))?/.exec(paint)
  if (values === null || values[4] === '0') return null
  return `#${[1, 2, 3].map((i) => Number(values[i]).toString(16).padStart(2, '0')).join('')}`
}

/** Of an element and all that it lies in. */
function opacityOf(element: Element, root: Element): number {
  let opacity = 1
  for (let at: Element | null = element; at !== null && at !== root; at = at.parentElement) opacity *= Number(getComputedStyle(at).opacity)
  return opacity
}
