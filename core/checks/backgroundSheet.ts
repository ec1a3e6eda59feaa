import { meetPlane } from '../camera/projection'
import type { Point2 } from '../geometry/point'
import { grown, heightOf, rectangleAround, union, widthOf, type Rectangle } from '../geometry/rectangle'
import type { TakeStage } from '../stage/takeStage'
import { frameOnPlane, sizePx, type ArtNeed, type SeenThere } from './needed'
import { INK, NEED, needMarks, SHOTS, type SheetSight } from './needMarks'
import type { SheetMark, SheetPage } from './sheetPage'

export type SheetPaper = 'a4' | 'a3' | 'letter'
/** Points: short side, long side. */
const PAPERS: Readonly<Record<SheetPaper, readonly [number, number]>> = { a4: [595.28, 841.89], a3: [841.89, 1190.55], letter: [612, 792] }
const MARGIN = 30
const HEAD = 46
/** Beside the drawing, or under it. */
const WORDS = { width: 168, height: 150 }
const STEPS = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50]
const MOST_LINES = 26
const QUIET = '#6b6455'
const GRID = '#d9d2c4'
const PAPER = '#9b8f7a'

/** What is on a sheet beside what is worked out. Words are in the artist's own language. */
export interface SheetWords {
  readonly title: string
  readonly film: string
  readonly date: string
  /** Of the level's kind and what it has to do. */
  readonly about: string
}

export interface SheetAsk {
  readonly paper: SheetPaper
  readonly words: SheetWords
  readonly need: ArtNeed
  readonly margin: number
  readonly widthPx: number
  readonly fps: number
  readonly sights: readonly SheetSight[]
  /** Where its rough lies, if there is any: `rough` among the pictures. */
  readonly rough: Rectangle | null
  readonly laid: Rectangle | null
  /** Of the panel's picture, `panel` among the pictures; null for none. */
  readonly panelAspect: number | null
}

/** What a camera of a shot sees of a level while it is seen there. */
export function sightOf(stage: TakeStage, label: string, seen: SeenThere): SheetSight {
  const framings = seen.cameraId === null ? [] : stage.framings(seen.cameraId)
  const planeAt = (frame: number) => {
    const view = stage.through(frame, seen.cameraId)
    const placed = view.levels.find(({ level, copy }) => level.id === seen.levelId && copy === 0)
    return placed === undefined ? null : { lens: view.lens, plane: placed.plane }
  }
  const numbered = framings.map(({ frame }, i) => ({ frame, number: `${i + 1}` })).filter(({ frame }) => frame >= seen.first && frame <= seen.last)
  // A camera that follows has its ends between its framings.
  const ends = [seen.first, seen.last].filter((frame, i, all) => all.indexOf(frame) === i && !numbered.some((each) => each.frame === frame)).map((frame) => ({ frame, number: '' }))
  return {
    label,
    seen,
    framings: [...numbered, ...ends]
      .sort((a, b) => a.frame - b.frame)
      .flatMap(({ frame, number }) => {
        const at = planeAt(frame)
        const found = at === null ? null : frameOnPlane(at.lens, at.plane, 0)
        return found === null ? [] : [{ number, frame, corners: found.corners }]
      }),
    way: Array.from({ length: seen.last - seen.first + 1 }, (_, i) => {
      const at = planeAt(seen.first + i)
      return at === null ? null : meetPlane(at.lens, 0, 0, at.plane)
    }),
  }
}

/** One page for who paints a level: what is needed of it, seen when and how near, on a grid in its own fw. */
export function backgroundSheet(ask: SheetAsk): SheetPage {
  const { need, rough, laid, words, sights, fps } = ask
  const box = [rough === null ? null : clippedTo(rough, need.box), laid].reduce<Rectangle>((sum, each) => union(sum, each)!, need.box)
  const whole = grown(box, Math.max(widthOf(box), heightOf(box)) * 0.03)
  const [short, long] = PAPERS[ask.paper]
  const isWide = widthOf(whole) >= heightOf(whole)
  const [width, height] = isWide ? [long, short] : [short, long]
  const room = isWide ? { x: MARGIN, y: MARGIN + HEAD, width: width - 2 * MARGIN - WORDS.width - 16, height: height - 2 * MARGIN - HEAD } : { x: MARGIN, y: MARGIN + HEAD, width: width - 2 * MARGIN, height: height - 2 * MARGIN - HEAD - WORDS.height - 16 }
  const scale = Math.min(room.width / widthOf(whole), room.height / heightOf(whole))
  const left = room.x + (room.width - widthOf(whole) * scale) / 2
  const top = room.y + (isWide ? 0 : (room.height - heightOf(whole) * scale) / 2)
  const at = ({ x, y }: Point2): readonly [number, number] => [left + (x - whole.left) * scale, top + (whole.top - y) * scale]
  const { marks, line, text, outline, sight } = needMarks(at)

  if (rough !== null) {
    const [x, y] = at({ x: rough.left, y: rough.top })
    marks.push({ kind: 'picture', name: 'rough', x, y, width: widthOf(rough) * scale, height: heightOf(rough) * scale, opacity: 0.4 })
  }
  grid()
  if (laid !== null) line([{ x: laid.left, y: laid.bottom }, { x: laid.right, y: laid.bottom }, { x: laid.right, y: laid.top }, { x: laid.left, y: laid.top }].map(at), PAPER, 0.8, true)
  outline(need)
  sights.forEach((each, i) => sight(each, i, fps))
  head()
  beside()
  return { width, height, marks }

  function grid() {
    const step = STEPS.find((each) => Math.max(widthOf(whole), heightOf(whole)) / each <= MOST_LINES) ?? STEPS.at(-1)!
    const digits = step < 0.1 ? 2 : 1
    const lines = (from: number, to: number) => Array.from({ length: Math.floor(to / step + 1e-9) - Math.ceil(from / step - 1e-9) + 1 }, (_, i) => (Math.ceil(from / step - 1e-9) + i) * step)
    for (const x of lines(whole.left, whole.right)) {
      line([at({ x, y: whole.top }), at({ x, y: whole.bottom })], GRID, Math.abs(x) < 1e-9 ? 1 : 0.4)
      text(at({ x, y: whole.top })[0], top - 3, x.toFixed(digits), 6, QUIET, false, 'middle')
    }
    for (const y of lines(whole.bottom, whole.top)) {
      line([at({ x: whole.left, y }), at({ x: whole.right, y })], GRID, Math.abs(y) < 1e-9 ? 1 : 0.4)
      text(left - 3, at({ x: whole.left, y })[1] + 2, y.toFixed(digits), 6, QUIET, false, 'end')
    }
  }

  function head() {
    text(MARGIN, MARGIN + 14, clipped(words.title, 16, width * 0.5), 16, INK, true)
    const px = sizePx(need.box, need.magnification, ask.widthPx)
    text(MARGIN, MARGIN + 28, `${whole3(px.width)} × ${whole3(px.height)} px · ${widthOf(need.box).toFixed(3)} × ${heightOf(need.box).toFixed(3)} fw${ask.margin > 0 ? ` · ${(ask.margin * 100).toFixed(1).replace('.0', '')} % margin` : ''}`, 10, NEED, true)
    text(width - MARGIN, MARGIN + 14, clipped(words.film, 10, width * 0.35), 10, INK, true, 'end')
    text(width - MARGIN, MARGIN + 27, words.date, 8, QUIET, false, 'end')
  }

  function beside() {
    const x = isWide ? width - MARGIN - WORDS.width : MARGIN
    let y = isWide ? MARGIN + HEAD + 8 : height - MARGIN - WORDS.height + 8
    const bottom = height - MARGIN
    const pictureWidth = WORDS.width
    const pictureHeight = ask.panelAspect === null ? 0 : pictureWidth / ask.panelAspect
    const most = isWide ? bottom - pictureHeight - 54 : bottom - 30
    text(x, y, clipped(words.about, 8, WORDS.width), 8, QUIET)
    y += 13
    for (const [i, { label, seen }] of sights.entries()) {
      if (y > most) {
        text(x, y, `and ${sights.length - i} more`, 8, QUIET)
        break
      }
      text(x, y, label, 8, SHOTS[i % SHOTS.length]!, true)
      text(x + 56, y, `f ${seen.first}–${seen.last}`, 8)
      text(x + WORDS.width, y, `× ${seen.magnification.toFixed(2)}${seen.magnification >= need.magnification * (1 - 1e-9) ? ' closest' : ''}`, 8, INK, seen.magnification >= need.magnification * (1 - 1e-9), 'end')
      y += 11
    }
    // A bar of a round length.
    const length = STEPS.findLast((step) => step <= widthOf(whole) / 3 && step * scale <= WORDS.width) ?? STEPS[0]!
    const barX = isWide ? x : x + WORDS.width + 24
    const barY = isWide ? bottom - pictureHeight - 22 : height - MARGIN - WORDS.height + 14
    line([[barX, barY - 3], [barX, barY + 3]], INK, 0.8)
    line([[barX, barY], [barX + length * scale, barY]], INK, 1.2)
    line([[barX + length * scale, barY - 3], [barX + length * scale, barY + 3]], INK, 0.8)
    text(barX, barY - 6, `${length} fw = ${whole3(length * need.magnification * ask.widthPx)} px`, 7)
    if (ask.panelAspect === null) return
    const [px, py] = isWide ? [x, bottom - pictureHeight] : [width - MARGIN - pictureWidth, bottom - pictureHeight]
    marks.push({ kind: 'picture', name: 'panel', x: px, y: py, width: pictureWidth, height: pictureHeight, opacity: 1 })
    line([[px, py], [px + pictureWidth, py], [px + pictureWidth, py + pictureHeight], [px, py + pictureHeight]], INK, 0.6, true)
  }
}

/** A piece of a set on the sheet of the whole. */
export interface PieceOnSheet {
  readonly name: string
  readonly need: ArtNeed
  /** What is needed of it, seen in the picture: u, v in turn. */
  readonly rings: readonly (readonly number[])[]
}
export interface TogetherAsk {
  readonly paper: SheetPaper
  readonly words: SheetWords
  readonly pieces: readonly PieceOnSheet[]
  readonly widthPx: number
  readonly halfHeight: number
  /** `040 A · f 0` */
  readonly seenFrom: string
  /** The part of the picture that is drawn: `together` among the pictures. */
  readonly window: Rectangle
}

/** The part of the picture in which all that is needed of a set's pieces lies, with the frame. What goes far beside it is cut off. */
export function togetherWindow(pieces: readonly Pick<PieceOnSheet, 'rings'>[], halfHeight: number): Rectangle {
  const frame = { left: -0.5, right: 0.5, bottom: -halfHeight, top: halfHeight }
  const held = (value: number, most: number) => Math.min(most, Math.max(-most, value))
  const points = pieces.flatMap(({ rings }) => rings.flatMap((ring) => Array.from({ length: ring.length / 2 }, (_, i) => ({ x: held(ring[i * 2]!, WINDOW_MOST), y: held(ring[i * 2 + 1]!, WINDOW_MOST) }))))
  return grown(union(frame, rectangleAround(points))!, 0.02)
}
/** Fw from the frame's middle. */
const WINDOW_MOST = 4

/** One page for a set as it is seen together from one camera: what is needed of each piece, by name and size. */
export function togetherSheet({ paper, words, pieces, widthPx, halfHeight, seenFrom, window }: TogetherAsk): SheetPage {
  const [short, long] = PAPERS[paper]
  const [width, height] = [long, short]
  const room = { x: MARGIN, y: MARGIN + HEAD, width: width - 2 * MARGIN - WORDS.width - 16, height: height - 2 * MARGIN - HEAD }
  const scale = Math.min(room.width / widthOf(window), room.height / heightOf(window))
  const at = (u: number, v: number): readonly [number, number] => [room.x + (Math.min(window.right, Math.max(window.left, u)) - window.left) * scale, room.y + (window.top - Math.min(window.top, Math.max(window.bottom, v))) * scale]
  const ringAt = (ring: readonly number[]) => Array.from({ length: ring.length / 2 }, (_, i) => at(ring[i * 2]!, ring[i * 2 + 1]!)).flat()
  const marks: SheetMark[] = [{ kind: 'picture', name: 'together', x: room.x, y: room.y, width: widthOf(window) * scale, height: heightOf(window) * scale, opacity: 0.55 }]
  marks.push({ kind: 'line', rings: [[...at(-0.5, -halfHeight), ...at(0.5, -halfHeight), ...at(0.5, halfHeight), ...at(-0.5, halfHeight)]], closed: true, stroke: INK, width: 1.2 })
  const x = width - MARGIN - WORDS.width
  pieces.forEach(({ name, need, rings }, i) => {
    const colour = SHOTS[i % SHOTS.length]!
    marks.push({ kind: 'line', rings: rings.map(ringAt), closed: true, stroke: colour, width: 1, dash: [6, 3] })
    const first = rings[0]
    if (first !== undefined) {
      const points = Array.from({ length: first.length / 2 }, (_, n) => at(first[n * 2]!, first[n * 2 + 1]!))
      const [px, py] = points.reduce((best, each) => (each[0] + each[1] < best[0] + best[1] ? each : best))
      marks.push({ kind: 'text', x: px + 3 + i * 11, y: py + 9, text: `${i + 1}`, size: 8, bold: true, colour, anchor: 'start' })
    }
    const px = sizePx(need.box, need.magnification, widthPx)
    const y = MARGIN + HEAD + 22 + i * 22
    if (y > height - MARGIN) return
    marks.push({ kind: 'text', x, y, text: `${i + 1} ${clipped(name, 8, WORDS.width - 10)}`, size: 8, bold: true, colour, anchor: 'start' })
    marks.push({ kind: 'text', x, y: y + 10, text: `${whole3(px.width)} × ${whole3(px.height)} px`, size: 8, bold: false, colour: INK, anchor: 'start' })
  })
  marks.push({ kind: 'text', x: MARGIN, y: MARGIN + 14, text: clipped(words.title, 16, width * 0.5), size: 16, bold: true, colour: INK, anchor: 'start' })
  marks.push({ kind: 'text', x: MARGIN, y: MARGIN + 28, text: `${words.about} · seen from ${seenFrom}`, size: 10, bold: true, colour: NEED, anchor: 'start' })
  marks.push({ kind: 'text', x: width - MARGIN, y: MARGIN + 14, text: clipped(words.film, 10, width * 0.35), size: 10, bold: true, colour: INK, anchor: 'end' })
  marks.push({ kind: 'text', x: width - MARGIN, y: MARGIN + 27, text: words.date, size: 8, bold: false, colour: QUIET, anchor: 'end' })
  return { width, height, marks }
}

/** What of a rough is far from what is needed would make that small. */
const clippedTo = (rough: Rectangle, box: Rectangle): Rectangle | null => {
  const near = grown(box, Math.max(widthOf(box), heightOf(box)) * 0.25)
  return rectangleAround([{ x: Math.max(rough.left, near.left), y: Math.max(rough.bottom, near.bottom) }, { x: Math.min(rough.right, near.right), y: Math.min(rough.top, near.top) }])
}
const whole3 = (px: number) => Math.ceil(px - 1e-6).toLocaleString('en')
/** As many letters as a width has room for, by what letters take on the whole. */
const clipped = (text: string, size: number, width: number) => {
  const most = Math.max(4, Math.floor(width / (size * 0.52)))
  return text.length <= most ? text : `${text.slice(0, most - 1)}…`
}
