import type { Point2 } from '../geometry/point'
import type { ArtNeed, SeenThere } from './needed'
import type { SheetMark } from './sheetPage'

export const INK = '#27241e'
export const NEED = '#2e7a68'
const WAY = '#2a6a99'
/** Framings of one shot in one colour, of the next in another. */
export const SHOTS = ['#2a6a99', '#77476f', '#a86a1d', '#c2452d', '#4c6b2f']

/** What one shot's camera sees of a level: its framings and its way, in the art's own fw. */
export interface SheetSight {
  /** `040 A` */
  readonly label: string
  readonly seen: SeenThere
  readonly framings: readonly { readonly number: string; readonly frame: number; readonly corners: readonly Point2[] }[]
  /** Where the frame's middle falls, frame by frame from `seen.first` on; null where it does not meet the plane. */
  readonly way: readonly (Point2 | null)[]
}

type OnPage = readonly [number, number]

/** What is needed of a level and what sees it, as marks: `at` says where on the page a point of the art lies, `unit` how many of the page's own units a point of a printed page is. */
export function needMarks(at: (point: Point2) => OnPage, unit = 1) {
  const marks: SheetMark[] = []
  const taken: { readonly x: number; readonly y: number; readonly width: number }[] = []
  const line = (points: readonly OnPage[], stroke: string, thick: number, closed = false, dash?: readonly number[]) => void marks.push({ kind: 'line', rings: [points.flat()], closed, stroke, width: thick * unit, ...(dash === undefined ? {} : { dash: dash.map((each) => each * unit) }) })
  const text = (x: number, y: number, said: string, size: number, colour = INK, bold = false, anchor: 'start' | 'middle' | 'end' = 'start') => void marks.push({ kind: 'text', x, y, text: said, size: size * unit, bold, colour, anchor })

  /** A label where none is yet: the next goes under the one before. */
  function free(x: number, asked: number, said: string, size: number, colour: string) {
    let y = asked
    const width = said.length * size * unit * 0.55
    for (let tries = 0; tries < 12 && taken.some((box) => box.x < x + width && x < box.x + box.width && Math.abs(box.y - y) < size * unit); tries++) y += (size + 1) * unit
    taken.push({ x, y, width })
    text(x, y, said, size, colour, true)
  }

  const outline = ({ rings }: ArtNeed) => void marks.push({ kind: 'line', rings: rings.map((ring) => Array.from({ length: ring.length / 2 }, (_, i) => at({ x: ring[i * 2]!, y: ring[i * 2 + 1]! })).flat()), closed: true, stroke: NEED, width: 1.4 * unit, dash: [6 * unit, 3.5 * unit] })

  function sight({ label, framings, way, seen }: SheetSight, index: number, fps: number) {
    const colour = SHOTS[index % SHOTS.length]!
    for (const { number, frame, corners } of framings) {
      line(corners.map(at), colour, number === '' ? 0.5 : 1, true, number === '' ? [2, 2] : undefined)
      const corner = corners.reduce((best, each) => (each.y - each.x > best.y - best.x ? each : best))
      const [x, y] = at(corner)
      free(x + 3 * unit, y + 8 * unit, `${label}${number === '' ? '' : ` ${number}`} · f ${frame}`, 7, colour)
    }
    const points = way.flatMap((point, i) => (point === null ? [] : [{ point, frame: seen.first + i }]))
    if (points.length < 2) return
    const seenAt = points.map(({ point }) => at(point))
    if (seenAt.every(([x, y]) => Math.hypot(x - seenAt[0]![0], y - seenAt[0]![1]) < unit)) return
    line(seenAt, WAY, 0.9)
    // A tick each half second, its frame at each whole one.
    const each = Math.max(1, Math.round(fps / 2))
    points.forEach(({ frame }, i) => {
      if (frame % each !== 0 || i === 0) return
      const [[x0, y0], [x, y]] = [seenAt[i - 1]!, seenAt[i]!]
      const long = Math.hypot(x - x0, y - y0)
      if (long < 1e-6) return
      const [nx, ny] = [(-(y - y0) / long) * 4 * unit, ((x - x0) / long) * 4 * unit]
      line([[x - nx, y - ny], [x + nx, y + ny]], WAY, 0.7)
      if (frame % (each * 2) !== 0 || taken.some((box) => Math.abs(box.x - x) < 14 * unit && Math.abs(box.y - y) < 7 * unit)) return
      taken.push({ x, y, width: 10 * unit })
      text(x + nx * 1.6, y + ny * 1.6 + 2 * unit, `${frame}`, 6, WAY, false, 'middle')
    })
  }
  return { marks, line, text, outline, sight }
}
