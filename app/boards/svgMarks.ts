import type { Mark, Picture } from '@rubato/core/document'
import type { NewMark } from '@rubato/core/edits'
import type { Point2 } from '@rubato/core/geometry'
import { carryingOf, carryMark, fittedAffine, flattened, IDENTITY, joinedByDirection, pictureCorners, type PathStep } from '@rubato/core/ink'
import { isKeepable, SVG_SAYS, svgMark, svgPlace, svgShape, svgWay, type SvgWay } from '@rubato/core/interchange'
import { carriedStep, linesAlong, stepsOf } from './svgPaths'

/** An SVG's lines and areas as marks. */
export interface SvgMarks {
  readonly marks: readonly NewMark[]
  readonly way: SvgWay | null
  /** What was left out, in words. */
  readonly leftOut: readonly string[]
}
export interface SvgReading {
  /** Of a file that doesn’t say: how many px a fw is, and where its left upper corner lies, fw. */
  placeOf(widthPx: number, heightPx: number): { readonly pxPerFw: number; readonly left: number; readonly top: number }
  /** Whether a picture that a mark names is at hand. */
  has(assetHash: string): boolean
}

const MOST_MARKS = 20_000
/** How far outlines may lie from the curves of a file, fw. */
const TOLERANCE_FW = 0.00005
/** A path is the mark’s own, moved, where its points are this near to it, of its size. */
const SAME_SHAPE = 0.004
/** A mark stands where it stood, fw: a file has thousandths of a px. */
const STANDS_FW = 0.00002
const SAME_OPACITY = 0.002
const DRAWN = 'path, rect, circle, ellipse, line, polyline, polygon, image, text'
const round = (value: number) => Math.round(value * 1e6) / 1e6

type Inked = Exclude<Mark, Picture>
/** A mark as it was found; `order` is its number in the drawing that went out, null for what was added. */
interface Found {
  readonly mark: NewMark
  readonly order: number | null
}
interface Gone {
  text: number
  pictures: number
  tones: number
  masks: number
  more: number
}

/** The pictures that an SVG’s marks name. */
export const picturesIn = (text: string): readonly string[] => [...new Set([...text.matchAll(/assetHash(?:"|&#34;|&quot;):(?:"|&#34;|&quot;)([0-9a-f]{64})/g)].map(([, hash]) => hash!))]

/**
 * Reads what is drawn in an SVG that is safe. What went out of here is the marks it was, carried to where it was moved, one over the other as
 * they lay; all else is read as lines of even pressure and as areas, and lies right over what stands before it.
 */
export function readSvgMarks(text: string, reading: SvgReading): SvgMarks {
  const parsed = new DOMParser().parseFromString(text, 'image/svg+xml')
  const host = document.createElement('div')
  // It must be laid out for its transforms and styles to be known.
  host.style.cssText = 'position:fixed;left:-99999px;top:0;opacity:0;pointer-events:none'
  const root = document.importNode(parsed.documentElement, true) as unknown as SVGSVGElement
  host.append(root)
  document.body.append(host)
  try {
    return new Reader(root, reading).read()
  } finally {
    host.remove()
  }
}

class Reader {
  readonly #root: SVGSVGElement
  readonly #has: SvgReading['has']
  readonly #toFw: (matrix: DOMMatrix, x: number, y: number) => Point2
  readonly #pxPerFw: number
  readonly #back: DOMMatrix
  readonly #found: Found[] = []
  readonly #ids = new Set<string>()
  readonly #gone: Gone = { text: 0, pictures: 0, tones: 0, masks: 0, more: 0 }

  constructor(root: SVGSVGElement, { placeOf, has }: SvgReading) {
    this.#root = root
    this.#has = has
    const box = root.viewBox.baseVal
    const isSaid = box !== null && box.width > 0 && box.height > 0
    const [x, y] = isSaid ? [box.x, box.y] : [0, 0]
    const [width, height] = isSaid ? [box.width, box.height] : [root.width.baseVal.value, root.height.baseVal.value]
    if (!(width > 0 && height > 0)) throw new Error('It does not say how large it is.')
    // A px of the file is a px here.
    for (const [name, value] of Object.entries({ viewBox: `${x} ${y} ${width} ${height}`, width, height, preserveAspectRatio: 'none' })) root.setAttribute(name, String(value))
    const { pxPerFw, left, top } = svgPlace(root.getAttribute(SVG_SAYS.place) ?? '') ?? placeOf(width, height)
    this.#pxPerFw = pxPerFw
    this.#back = DOMMatrix.fromMatrix(root.getScreenCTM()!.inverse())
    this.#toFw = ({ a, b, c, d, e, f }, px, py) => ({ x: left + (a * px + c * py + e - x) / pxPerFw, y: top - (b * px + d * py + f - y) / pxPerFw })
  }

  read(): SvgMarks {
    for (const element of this.#root.querySelectorAll<SVGGraphicsElement>(DRAWN)) this.#take(element)
    const marks = inTheirOrder(this.#found)
    const leftOut = wordsOf(this.#gone)
    if (marks.length === 0) throw new Error(`It has no lines and no areas.${leftOut.length === 0 ? '' : ` Left out: ${leftOut.join('; ')}.`}`)
    return { marks, way: svgWay(this.#root.getAttribute(SVG_SAYS.way) ?? ''), leftOut }
  }

  #put(mark: NewMark, order: number | null = null) {
    if (this.#found.length >= MOST_MARKS || !isKeepable(mark)) return void this.#gone.more++
    // Copied elsewhere it says the same of itself twice.
    const own = this.#ids.has(mark.id) ? { ...mark, id: crypto.randomUUID() } : mark
    this.#ids.add(own.id)
    this.#found.push({ mark: own, order })
  }

  #take(element: SVGGraphicsElement) {
    if (element.closest('clipPath, pattern, symbol, marker') !== null) return
    const said = svgMark(element.getAttribute(SVG_SAYS.mark) ?? '')
    const mask = element.closest('mask')
    const style = getComputedStyle(element)
    if (mask !== null) return this.#takeRubbed(element, mask, said)
    if (style.display === 'none' || style.visibility === 'hidden') return
    if (element instanceof SVGTextElement) return void this.#gone.text++
    if (element instanceof SVGImageElement) return this.#takePicture(element, said)
    const matrix = this.#matrixOf(element)
    const steps = stepsOf(element).map((step) => carriedStep(step, (x, y) => this.#toFw(matrix, x, y)))
    if (steps.length === 0) return
    const own = said === null || said.mark.kind === 'picture' ? null : carriedOwn(said.mark, steps)
    const opacity = opacityOf(element, this.#root)
    if (own === null) return this.#takeNew(element, style, steps, matrix, opacity)
    const isLine = svgShape(own).lineFw !== null
    const tone = colourOf(isLine ? style.stroke : style.fill, this.#root)
    const seen = opacity * Number(isLine ? style.strokeOpacity : style.fillOpacity)
    this.#put(freshOf(tone === null ? own : { ...own, colour: tone, opacity: Math.abs(seen - own.opacity) < SAME_OPACITY ? own.opacity : round(Math.min(1, seen)) }), said!.order)
  }

  #matrixOf(element: SVGGraphicsElement): DOMMatrix {
    return this.#back.multiply(element.getScreenCTM()!)
  }

  /** What erases goes with what it is on. */
  #takeRubbed(element: SVGGraphicsElement, mask: Element, said: ReturnType<typeof svgMark>) {
    if (said === null || said.mark.kind === 'picture' || said.mark.mode !== 'erase') return
    const on = this.#root.querySelector<SVGGraphicsElement>(`[mask*="#${CSS.escape(mask.id)}"]`)
    const matrix = on === null ? new DOMMatrix() : this.#matrixOf(on)
    const own = carriedOwn(said.mark, stepsOf(element).map((step) => carriedStep(step, (x, y) => this.#toFw(matrix, x, y))))
    if (own !== null) this.#put(freshOf(own), said.order)
  }

  #takePicture(element: SVGImageElement, said: ReturnType<typeof svgMark>) {
    if (said?.mark.kind !== 'picture' || !this.#has(said.mark.assetHash)) return void this.#gone.pictures++
    const { mark } = said
    const matrix = this.#matrixOf(element)
    const [x, y, w, h] = [element.x, element.y, element.width, element.height].map(({ baseVal }) => baseVal.value) as [number, number, number, number]
    const corners = pictureCorners(mark)
    // From its own lower left, as the mark has them; mirrored, its right and left are changed about.
    const [left, right] = mark.mirrored === true ? [x + w, x] : [x, x + w]
    const now = [[left, y + h], [right, y + h], [right, y], [left, y]].map(([px, py]) => this.#toFw(matrix, px!, py!))
    this.#put(freshOf(carriedTo(mark, corners, now) ?? mark), said.order)
  }

  #takeNew(element: SVGGraphicsElement, style: CSSStyleDeclaration, steps: readonly PathStep[], { a, b, c, d }: DOMMatrix, opacity: number) {
    if (element.closest('[mask], [clip-path]') !== null && element.closest('[mask^="url(#rubbed-"]') === null) this.#gone.masks++
    if (style.fill.startsWith('url') || style.stroke.startsWith('url')) this.#gone.tones++
    const paintOf = (paint: string) => (paint === 'none' ? null : colourOf(paint, this.#root))
    const [area, line] = [paintOf(style.fill), paintOf(style.stroke)]
    const seen = (own: string) => round(Math.min(1, opacity * Number(own)))
    if (area !== null) {
      const rings = flattened(steps, TOLERANCE_FW)
      const outlines = (style.fillRule === 'evenodd' ? rings : joinedByDirection(rings)).map((ring) => ring.map(round))
      if (outlines.length > 0) this.#put({ id: crypto.randomUUID(), kind: 'fill', mode: 'ink', outlines, colour: area, opacity: seen(style.fillOpacity) })
    }
    if (line === null) return
    const widthFw = Math.min(10, Math.max(1e-6, (parseFloat(style.strokeWidth) * Math.sqrt(Math.abs(a * d - b * c))) / this.#pxPerFw))
    for (const points of linesAlong(steps, TOLERANCE_FW)) this.#put({ id: crypto.randomUUID(), kind: 'stroke', mode: 'ink', points, widthFw, colour: line, opacity: seen(style.strokeOpacity), thinning: 0 })
  }
}

/**
 * What went out of here lies as it lay. What was added lies right over what stood before it in the file: where that is behind all else, behind
 * all else too, and so it is where nothing stood before it.
 */
function inTheirOrder(found: readonly Found[]): NewMark[] {
  const own = found.filter(({ order }) => order !== null).sort((a, b) => a.order! - b.order!)
  if (own.length === 0) return found.map(({ mark }) => mark)
  const over = new Map<Found | null, NewMark[]>()
  let under: Found | null = null
  for (const each of found) {
    if (each.order === null) over.set(under, [...(over.get(under) ?? []), each.mark])
    else if (each.mark.kind === 'picture' || each.mark.mode !== 'erase') under = each
  }
  // Of what lies behind, the first in the pile is nearest.
  const behind = (marks: readonly NewMark[] = []) => marks.toReversed().map((mark): NewMark => (mark.kind === 'picture' ? mark : { ...mark, mode: 'behind' }))
  const isBehind = ({ mark }: Found) => mark.kind !== 'picture' && mark.mode === 'behind'
  return [...own.flatMap((each) => (isBehind(each) ? [...behind(over.get(each)), each.mark] : [each.mark, ...(over.get(each) ?? [])])), ...behind(over.get(null))]
}

function wordsOf({ text, pictures, tones, masks, more }: Gone): readonly string[] {
  const many = (count: number, one: string, several: string) => (count === 0 ? [] : [count === 1 ? one : several])
  return [
    ...many(text, 'a text: turn it to paths first', `${text} texts: turn them to paths first`),
    ...many(pictures, 'a picture', `${pictures} pictures`),
    ...many(tones, 'a gradient or pattern, in its first tone', `${tones} gradients or patterns, each in its first tone`),
    ...many(Math.min(masks, 1), 'masks and clips, of which all is shown', ''),
    ...many(more, 'a line that is too far off or too large', `${more} lines that are too far off, too large, or beyond ${MOST_MARKS.toLocaleString('en')}`),
  ]
}

function freshOf(mark: Mark): NewMark {
  const { order: _, ...rest } = mark
  return rest as NewMark
}

/** A mark where its path is now; null where that is another shape by now. */
function carriedOwn<M extends Inked>(mark: M, seen: readonly PathStep[]): M | null {
  const was = svgShape(mark).rings.flatMap((ring) => Array.from({ length: ring.length / 2 }, (_, i) => ({ x: ring[i * 2]!, y: ring[i * 2 + 1]! })))
  if (seen.some(({ kind }) => kind === 'quadratic' || kind === 'cubic')) return null
  return carriedTo(mark, was, seen.flatMap((step) => (step.kind === 'close' ? [] : [{ x: step.to[0], y: step.to[1] }])))
}

/** A mark carried as its points went; null where no move, turn and stretch does that. */
function carriedTo<M extends Mark>(mark: M, was: readonly Point2[], now: readonly Point2[]): M | null {
  if (was.length !== now.length || was.length === 0) return null
  if (was.every(({ x, y }, i) => Math.hypot(now[i]!.x - x, now[i]!.y - y) < STANDS_FW)) return mark
  const fit = was.length === 1 ? { affine: { ...IDENTITY, e: now[0]!.x - was[0]!.x, f: now[0]!.y - was[0]!.y }, off: 0 } : fittedAffine(was, now)
  const across = (of: (point: Point2) => number) => now.reduce((most, point) => Math.max(most, of(point)), -Infinity) - now.reduce((least, point) => Math.min(least, of(point)), Infinity)
  const size = Math.max(across(({ x }) => x), across(({ y }) => y))
  return fit === null || fit.off > SAME_SHAPE * size + STANDS_FW ? null : carryMark(mark, carryingOf(fit.affine))
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
