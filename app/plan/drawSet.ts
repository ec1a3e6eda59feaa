import { rayThrough, type CameraPose, type Lens } from '@rubato/core/camera'
import { add, scale as scaled, type Point3 } from '@rubato/core/geometry'
import { drawBead } from './drawBead'
import { toPx, type DrawnScale, type Px } from './elevation'
import type { PathMark } from './pathMarks'

export interface DrawnLevel {
  readonly id: string
  readonly name: string
  readonly depth: number
  /** The ends of what is drawn, in the set; equal where nothing is. */
  readonly ends: readonly [Point3, Point3]
  /** The same of its copies, where it is shown many times. */
  readonly copies: readonly (readonly [Point3, Point3])[]
  readonly selected: boolean
  /** It can be turned in this view by the end of its bar. */
  readonly turns: boolean
  readonly visible: boolean
  readonly stays: LevelHold
  /** Where it stands, and what carries it. */
  readonly place: Point3
  readonly carriedFrom: Point3 | null
}

/** Told apart at a glance: stays in the set (a bar), is there to carry (a cross), travels with the camera (dashes), turns to it (a tip, or upright a dot). */
export type LevelHold = 'set' | 'carrier' | 'camera' | 'lens' | 'upright'

export interface DrawnFraming {
  readonly id: string
  readonly pose: CameraPose
  readonly number: number
  readonly shade: number
  readonly selected: boolean
  readonly locked: boolean
}

export interface DrawnSet extends DrawnStill {
  readonly lens: Lens
  /** The shot's other cameras, faint. */
  readonly others: readonly { readonly lens: Lens; readonly letter: string }[]
  readonly locked: boolean
  readonly live: string | null
  /** How long a frame width is; null while nobody has said. */
  readonly metresPerFw: number | null
}

/** What the camera's own movement leaves as it is. */
export interface DrawnStill {
  readonly levels: readonly DrawnLevel[]
  readonly path: readonly CameraPose[]
  readonly framings: readonly DrawnFraming[]
  readonly marks: readonly PathMark[]
}

export interface SetInk {
  readonly paper: string
  readonly ink: string
  readonly quiet: string
  readonly blue: string
  readonly rule: string
  readonly beads: readonly string[]
  readonly font: string
}

/** How far ahead of the camera the knob is that turns it, px. */
const KNOB_PX = 30

/**
 * Draws the set from above or from the side, over what lies there already: levels as bars, the camera with its field, its
 * path and its framings as beads. `putStill` draws, or puts there what it has kept of, what stays as it is.
 */
export function drawSet(context: CanvasRenderingContext2D, scale: DrawnScale, set: DrawnSet, ink: SetInk, putStill: (draw: (aside: CanvasRenderingContext2D) => void) => void) {
  drawGrid(context, scale, ink, set.metresPerFw)
  for (const other of set.others) drawOther(context, scale, other, ink)
  drawField(context, scale, set.lens, ink)
  putStill((aside) => {
    drawLevels(aside, scale, set.levels, ink)
    drawPath(aside, scale, set, ink)
  })
  drawCamera(context, scale, set, ink)
  if (set.live !== null) drawTold(context, set.live, scale.heightPx, ink)
}

/** Between two lines of a grid, frame widths or metres. */
const STEPS = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000]

/** What a drag comes to, at the view's foot. */
export function drawTold(context: CanvasRenderingContext2D, text: string, heightPx: number, ink: SetInk) {
  context.font = `600 12px ${ink.font}`
  const width = context.measureText(text).width + 14
  context.fillStyle = ink.ink
  context.fillRect(6, heightPx - 26, width, 20)
  context.fillStyle = ink.paper
  context.fillText(text, 13, heightPx - 12)
}

function drawGrid(context: CanvasRenderingContext2D, scale: DrawnScale, ink: SetInk, metresPerFw: number | null) {
  // In metres where a length was declared, else in frame widths.
  const unit = metresPerFw === null ? 1 : 1 / metresPerFw
  const size = STEPS.find((each) => (metresPerFw !== null || each >= 0.5) && each * unit * scale.pxPerFw > (metresPerFw === null ? 26 : 34)) ?? STEPS.at(-1)!
  const step = size * unit
  context.strokeStyle = ink.rule
  context.globalAlpha = 0.6
  context.lineWidth = 1
  context.beginPath()
  // Lines of equal depth: across in the plan, upright from the side.
  const upright = scale.axes.id === 'side'
  const [centre, span] = upright ? [scale.centreAcross, scale.widthPx] : [scale.centreUp, scale.heightPx]
  const first = Math.ceil((centre - span / 2 / scale.pxPerFw) / step) * step
  context.fillStyle = ink.quiet
  // A font is found in the page's styles, so it is asked for only where something is written.
  if (metresPerFw !== null) context.font = `10px ${ink.font}`
  for (let depth = first; depth <= centre + span / 2 / scale.pxPerFw; depth += step) {
    const at = toPx(scale, { depth })
    context.moveTo(upright ? Math.round(at.x) + 0.5 : 0, upright ? 0 : Math.round(at.y) + 0.5)
    context.lineTo(upright ? Math.round(at.x) + 0.5 : scale.widthPx, upright ? scale.heightPx : Math.round(at.y) + 0.5)
    if (metresPerFw === null) continue
    const told = `${Number((depth * metresPerFw).toFixed(2))} m`.replace('-', '−')
    context.fillText(told, upright ? at.x + 3 : 4, upright ? scale.heightPx - 5 : at.y - 3)
  }
  context.stroke()
  context.globalAlpha = 1
}

/** Where the lens's field ends, as two directions in the set. */
export function fieldRays(scale: DrawnScale, lens: Lens): readonly [Point3, Point3] {
  return scale.axes.id === 'plan' ? [rayThrough(lens, -0.5, 0), rayThrough(lens, 0.5, 0)] : [rayThrough(lens, 0, -lens.halfHeight), rayThrough(lens, 0, lens.halfHeight)]
}

function drawField(context: CanvasRenderingContext2D, scale: DrawnScale, lens: Lens, ink: SetInk) {
  const reach = (scale.heightPx + scale.widthPx) / scale.pxPerFw
  const apex = toPx(scale, lens.position)
  const [a, b] = fieldRays(scale, lens).map((ray) => toPx(scale, add(lens.position, scaled(ray, reach)))) as [Px, Px]
  context.beginPath()
  context.moveTo(a.x, a.y)
  context.lineTo(apex.x, apex.y)
  context.lineTo(b.x, b.y)
  context.fillStyle = ink.blue
  context.globalAlpha = 0.22
  context.fill()
  context.globalAlpha = 0.55
  context.strokeStyle = ink.blue
  context.lineWidth = 1
  context.stroke()
  context.globalAlpha = 1
}

function drawOther(context: CanvasRenderingContext2D, scale: DrawnScale, { lens, letter }: DrawnSet['others'][number], ink: SetInk) {
  const reach = (scale.heightPx + scale.widthPx) / scale.pxPerFw
  const apex = toPx(scale, lens.position)
  context.strokeStyle = ink.quiet
  context.lineWidth = 1
  context.globalAlpha = 0.45
  context.setLineDash([4, 4])
  context.beginPath()
  for (const ray of fieldRays(scale, lens)) {
    const end = toPx(scale, add(lens.position, scaled(ray, reach)))
    context.moveTo(apex.x, apex.y)
    context.lineTo(end.x, end.y)
  }
  context.stroke()
  context.setLineDash([])
  context.globalAlpha = 0.7
  drawBody(context, scale, lens, ink.quiet)
  context.fillStyle = ink.quiet
  context.font = `600 11px ${ink.font}`
  context.textAlign = 'left'
  context.fillText(letter, apex.x + 9, apex.y + 10)
  context.globalAlpha = 1
}

const shortName = (name: string) => (name.length > 22 ? `${name.slice(0, 21)}…` : name)

/** Where a level is taken to be turned: past the end of its bar, so that the bar itself can still be caught there. */
export function turnKnobAt(scale: DrawnScale, { ends, place }: Pick<DrawnLevel, 'ends' | 'place'>): Px {
  const [end, middle] = [toPx(scale, ends[1]), toPx(scale, place)]
  const [dx, dy] = [end.x - middle.x, end.y - middle.y]
  const length = Math.hypot(dx, dy)
  if (length < 1) return scale.axes.id === 'plan' ? { x: middle.x + TURN_KNOB_PX, y: middle.y } : { x: middle.x, y: middle.y - TURN_KNOB_PX }
  return { x: end.x + (dx / length) * TURN_KNOB_PX, y: end.y + (dy / length) * TURN_KNOB_PX }
}
const TURN_KNOB_PX = 12

function drawTurnKnob(context: CanvasRenderingContext2D, { x, y }: Px, ink: SetInk) {
  context.globalAlpha = 1
  context.lineWidth = 1.5
  context.strokeStyle = ink.blue
  context.fillStyle = ink.paper
  context.beginPath()
  context.arc(x, y, 4.5, 0, Math.PI * 2)
  context.fill()
  context.stroke()
}

/** What is shown many times, fainter than itself. */
function drawCopies(context: CanvasRenderingContext2D, scale: DrawnScale, { copies, visible }: DrawnLevel) {
  context.globalAlpha = visible ? 0.45 : 0.15
  context.lineWidth = 1.5
  context.beginPath()
  for (const [from, to] of copies) {
    const [a, b] = [toPx(scale, from), toPx(scale, to)]
    context.moveTo(a.x, a.y)
    context.lineTo(b.x, b.y)
  }
  context.stroke()
}

function drawLevels(context: CanvasRenderingContext2D, scale: DrawnScale, levels: readonly DrawnLevel[], ink: SetInk) {
  context.font = `11px ${ink.font}`
  const side = scale.axes.id === 'side'
  context.textAlign = side ? 'left' : 'right'
  let lastY = Infinity
  const rowEnds: number[] = []
  for (const level of [...levels].sort((a, b) => a.depth - b.depth)) {
    const [a, b] = level.ends.map((end) => toPx(scale, end)) as [Px, Px]
    context.strokeStyle = level.selected ? ink.blue : ink.quiet
    drawCopies(context, scale, level)
    context.globalAlpha = level.visible ? 1 : 0.35
    context.lineWidth = level.selected ? 4 : 2.5
    context.lineCap = 'round'
    context.beginPath()
    context.moveTo(a.x, a.y)
    const point = Math.hypot(b.x - a.x, b.y - a.y) < 3
    context.lineTo(point && !side ? a.x + 3 : b.x, point && side ? a.y - 3 : b.y)
    if (level.stays === 'camera') context.setLineDash([1, 6])
    if (level.stays !== 'carrier') context.stroke()
    context.setLineDash([])
    drawHold(context, level.stays, toPx(scale, level.place), level.carriedFrom === null ? null : toPx(scale, level.carriedFrom), ink)
    if (level.turns) drawTurnKnob(context, turnKnobAt(scale, level), ink)
    context.fillStyle = level.selected ? ink.blue : ink.ink
    if (side) {
      // Names stand in rows over each other where bars are close.
      const x = (a.x + b.x) / 2 + 3
      const found = rowEnds.findIndex((end) => end < x - 6)
      const row = found < 0 ? rowEnds.length : found
      context.fillText(shortName(level.name), x, 14 + row * 12)
      rowEnds[row] = x + context.measureText(shortName(level.name)).width
    } else {
      const y = Math.min((a.y + b.y) / 2 - 4, lastY - 11)
      context.fillText(shortName(level.name), scale.widthPx - 5, y)
      lastY = y
    }
  }
  context.globalAlpha = 1
  context.textAlign = 'left'
}

/** What a level is told apart by, and the thread to what carries it. */
function drawHold(context: CanvasRenderingContext2D, stays: LevelHold, at: Px, from: Px | null, ink: SetInk) {
  context.lineWidth = 1.5
  if (from !== null) {
    context.strokeStyle = ink.blue
    context.beginPath()
    context.moveTo(from.x, from.y)
    context.lineTo(at.x, at.y)
    context.stroke()
    context.beginPath()
    context.arc(from.x, from.y, 2.5, 0, Math.PI * 2)
    context.stroke()
  }
  context.strokeStyle = ink.ink
  context.fillStyle = ink.paper
  context.beginPath()
  if (stays === 'carrier') {
    context.moveTo(at.x - 6, at.y)
    context.lineTo(at.x + 6, at.y)
    context.moveTo(at.x, at.y - 6)
    context.lineTo(at.x, at.y + 6)
  } else if (stays === 'lens') {
    context.moveTo(at.x - 5, at.y + 1)
    context.lineTo(at.x, at.y + 8)
    context.lineTo(at.x + 5, at.y + 1)
    context.closePath()
  } else if (stays === 'upright') context.arc(at.x, at.y, 4, 0, Math.PI * 2)
  else return
  context.fill()
  context.stroke()
}

function drawPath(context: CanvasRenderingContext2D, scale: DrawnScale, set: DrawnStill, ink: SetInk) {
  context.strokeStyle = ink.blue
  context.lineWidth = 1.2
  context.setLineDash([3, 2])
  context.beginPath()
  set.path.forEach((pose, i) => {
    const { x, y } = toPx(scale, pose)
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  })
  context.stroke()
  context.setLineDash([])
  drawMarks(context, set.marks, ink)
  context.font = `11px ${ink.font}`
  for (const framing of set.framings) {
    const { x, y } = toPx(scale, framing.pose)
    drawBead(context, x, y, ink.beads[Math.round(framing.shade * (ink.beads.length - 1))]!, framing.selected ? ink.ink : null)
    context.fillStyle = ink.ink
    context.fillText(`${framing.number}${framing.locked ? ' locked' : ''}`, x - 3, y + 17)
  }
}

function drawMarks(context: CanvasRenderingContext2D, marks: readonly PathMark[], ink: SetInk) {
  context.lineWidth = 1.2
  for (const mark of marks) {
    context.strokeStyle = ink.blue
    context.fillStyle = ink.paper
    context.beginPath()
    if (mark.kind === 'handle') {
      context.moveTo(mark.from.x, mark.from.y)
      context.lineTo(mark.at.x, mark.at.y)
      context.stroke()
      context.beginPath()
      context.arc(mark.at.x, mark.at.y, 4, 0, Math.PI * 2)
    } else {
      context.moveTo(mark.at.x, mark.at.y - 5)
      context.lineTo(mark.at.x + 5, mark.at.y)
      context.lineTo(mark.at.x, mark.at.y + 5)
      context.lineTo(mark.at.x - 5, mark.at.y)
      context.closePath()
    }
    context.fill()
    context.stroke()
  }
}

/** Which way the camera looks in the view, radians clockwise from up. */
function headingPx(scale: DrawnScale, lens: Lens): number {
  return Math.atan2(lens.forward[scale.axes.across], lens.forward[scale.axes.up])
}

export function knobAt(scale: DrawnScale, lens: Lens): Px {
  const { x, y } = toPx(scale, lens.position)
  const heading = headingPx(scale, lens)
  return { x: x + Math.sin(heading) * KNOB_PX, y: y - Math.cos(heading) * KNOB_PX }
}

function drawCamera(context: CanvasRenderingContext2D, scale: DrawnScale, { lens, locked }: DrawnSet, ink: SetInk) {
  const { x, y } = toPx(scale, lens.position)
  if (!locked) {
    const knob = knobAt(scale, lens)
    context.strokeStyle = ink.ink
    context.lineWidth = 1
    context.beginPath()
    context.moveTo(x, y)
    context.lineTo(knob.x, knob.y)
    context.stroke()
    context.beginPath()
    context.arc(knob.x, knob.y, 4, 0, Math.PI * 2)
    context.fillStyle = ink.paper
    context.fill()
    context.stroke()
  }
  drawBody(context, scale, lens, ink.ink)
}

function drawBody(context: CanvasRenderingContext2D, scale: DrawnScale, lens: Lens, colour: string) {
  const { x, y } = toPx(scale, lens.position)
  context.save()
  context.translate(x, y)
  context.rotate(headingPx(scale, lens))
  context.fillStyle = colour
  context.fillRect(-6, -3, 12, 14)
  context.beginPath()
  context.moveTo(-4, -3)
  context.lineTo(4, -3)
  context.lineTo(6, -9)
  context.lineTo(-6, -9)
  context.closePath()
  context.fill()
  context.restore()
}
