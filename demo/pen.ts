import { orderOfNumber } from '@rubato/core/document'
import type { Drawing, Mark } from '@rubato/core/document'

export type Place = readonly [x: number, y: number]

export const INK = '#27241e'
export const SOFT_INK = '#8d877a'
export const PALE_INK = '#b9b3a3'
export const PAPER = '#fbf9f3'

/** Chance that is always the same for a seed (mulberry32). */
function seededChance(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

export interface LineStyle {
  readonly width?: number
  readonly colour?: string
  readonly opacity?: number
  /** How far the hand strays, fw. */
  readonly wobble?: number
  /** 0 keeps full pressure to the ends. */
  readonly taper?: number
}

/** A hand that draws on one drawing, in fw, y up. */
export class Pen {
  readonly #chance: () => number
  readonly #marks: Mark[] = []
  #count = 0

  constructor(seed: number) {
    this.#chance = seededChance(seed)
  }

  chance(low: number, high: number): number {
    return low + (high - low) * this.#chance()
  }

  /** An inked line through the places, smoothed between them. */
  line(places: readonly Place[], style: LineStyle = {}): this {
    const { width = 0.0042, colour = INK, opacity = 1, wobble = 0.0011, taper = 0.5 } = style
    const through = this.#strayed(smoothed(places), wobble)
    const points: number[] = []
    const last = through.length - 1
    const lean = this.chance(-0.12, 0.12)
    through.forEach(([x, y], i) => {
      const t = last === 0 ? 0 : i / last
      const ends = Math.min(1, Math.min(t, 1 - t) * 7 + (1 - taper))
      const pressure = Math.min(1, Math.max(0.05, ends * (0.82 + lean * (t - 0.5) + this.chance(-0.05, 0.05))))
      points.push(round(x), round(y), Math.round(pressure * 100) / 100)
    })
    return this.#put({ kind: 'stroke', mode: 'ink', points, widthFw: width, colour, opacity })
  }

  /** A closed shape of one tone, its edge a little unsteady. */
  fill(places: readonly Place[], colour: string, opacity = 1, wobble = 0.0008): this {
    const edge = this.#strayed(smoothed([...places, places[0]!]), wobble)
    return this.#put({ kind: 'fill', mode: 'ink', outlines: [edge.flatMap(([x, y]) => [round(x), round(y)])], colour, opacity })
  }

  /** A closed shape with straight sides. */
  wash(places: readonly Place[], colour: string, opacity = 1): this {
    return this.#put({ kind: 'fill', mode: 'ink', outlines: [places.flatMap(([x, y]) => [round(x), round(y)])], colour, opacity })
  }

  /** Filled with paper and outlined. */
  shape(places: readonly Place[], style: LineStyle & { readonly fill?: string } = {}): this {
    return this.fill(places, style.fill ?? PAPER).line([...places, places[0]!], { taper: 0.15, ...style })
  }

  ellipse(cx: number, cy: number, rx: number, ry = rx, turns = 0): Place[] {
    return Array.from({ length: 16 }, (_, i) => {
      const angle = ((i / 16) * 2 + turns) * Math.PI
      return [cx + rx * Math.cos(angle), cy + ry * Math.sin(angle)] as const
    })
  }

  /** Short parallel strokes that make a tone. */
  hatch(left: number, right: number, bottom: number, top: number, lines: number, slope: number, style: LineStyle = {}): this {
    for (let i = 0; i < lines; i++) {
      const x = left + ((right - left) * (i + this.chance(0.2, 0.8))) / lines
      const y0 = bottom + this.chance(0, (top - bottom) * 0.15)
      const y1 = top - this.chance(0, (top - bottom) * 0.2)
      this.line([[x, y0], [x + slope * (y1 - y0), y1]], { width: 0.0022, colour: SOFT_INK, ...style })
    }
    return this
  }

  drawing(): Drawing {
    return { marks: this.#marks }
  }

  #put(mark: Omit<Mark, 'id' | 'order'> | Record<string, unknown>): this {
    this.#count += 1
    const id = `m${String(this.#count).padStart(4, '0')}`
    this.#marks.push({ id, order: orderOfNumber(this.#count), ...mark } as Mark)
    return this
  }

  #strayed(places: readonly Place[], wobble: number): Place[] {
    const phase = this.chance(0, 6.28)
    const pace = this.chance(0.35, 0.6)
    return places.map(([x, y], i) => [
      x + wobble * (Math.sin(i * pace + phase) + this.chance(-0.35, 0.35)),
      y + wobble * (Math.cos(i * pace * 1.3 + phase) + this.chance(-0.35, 0.35)),
    ])
  }
}

/** Catmull–Rom through the places, a point about every 0.012 fw. Two places stay a straight line. */
function smoothed(places: readonly Place[]): Place[] {
  const closed = places.length > 3 && same(places[0]!, places.at(-1)!)
  const at = (i: number): Place => {
    const n = places.length
    if (closed) return places[(((i % (n - 1)) + (n - 1)) % (n - 1))]!
    return places[Math.min(n - 1, Math.max(0, i))]!
  }
  const out: Place[] = []
  for (let i = 0; i + 1 < places.length; i++) {
    const [p0, p1, p2, p3] = [at(i - 1), at(i), at(i + 1), at(i + 2)]
    const steps = Math.min(80, Math.max(2, Math.ceil(Math.hypot(p2[0] - p1[0], p2[1] - p1[1]) / 0.012)))
    for (let s = 0; s < steps; s++) {
      const t = s / steps
      const mix = (a: number, b: number, c: number, d: number) =>
        0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t * t + (3 * b - a - 3 * c + d) * t * t * t)
      out.push([mix(p0[0], p1[0], p2[0], p3[0]), mix(p0[1], p1[1], p2[1], p3[1])])
    }
  }
  out.push(places.at(-1)!)
  return out
}

function same(a: Place, b: Place): boolean {
  return a[0] === b[0] && a[1] === b[1]
}

function round(value: number): number {
  return Math.round(value * 1e5) / 1e5
}
