import { drawBead } from '../plan/drawBead'
import { CURVE_FIELDS, curveHandles, keysOf, xOf, yOf, type Curve, type CurveScene } from './curveScene'

export interface CurveInk {
  readonly paper: string
  readonly sheet: string
  readonly ink: string
  readonly quiet: string
  readonly faint: string
  readonly rule: string
  readonly blue: string
  readonly vermilion: string
  readonly ribbon: string
  readonly beads: readonly string[]
  readonly font: string
  readonly mono: string
}

/** A speed that fills its band: the frame's width in this many seconds. */
const FULL_SPEED_SECONDS = 1.6
export const SPEED_BAND_PX = 30

/** Draws the curves: a grid with the active value's scale, every value's line, beads, handles, bumps, and the speed at the foot. */
export function drawCurves(context: CanvasRenderingContext2D, scene: CurveScene, widthPx: number, heightPx: number, fps: number, ink: CurveInk) {
  context.fillStyle = ink.paper
  context.fillRect(0, 0, widthPx, heightPx)
  const { area } = scene
  context.fillStyle = ink.sheet
  context.fillRect(area.left, area.top, area.width, area.height)
  drawScale(context, scene, ink)
  drawSpeed(context, scene, fps, ink)
  const active = scene.curves.find(({ field }) => field === scene.active)
  for (const curve of scene.curves) if (curve !== active) drawCurve(context, scene, curve, ink, false)
  if (active === undefined) return
  drawCurve(context, scene, active, ink, true)
  context.lineWidth = 1
  for (const handle of curveHandles(scene)) {
    context.strokeStyle = ink.blue
    context.fillStyle = ink.sheet
    context.beginPath()
    context.moveTo(handle.fromX, handle.fromY)
    context.lineTo(handle.x, handle.y)
    context.stroke()
    context.beginPath()
    context.arc(handle.x, handle.y, 4, 0, Math.PI * 2)
    context.fill()
    context.stroke()
  }
}

function drawScale(context: CanvasRenderingContext2D, scene: CurveScene, ink: CurveInk) {
  const { area, lengthFrames } = scene
  const active = scene.curves.find(({ field }) => field === scene.active)
  context.lineWidth = 1
  context.font = `10px ${ink.mono}`
  context.strokeStyle = ink.rule
  context.fillStyle = ink.quiet
  if (active !== undefined) {
    const step = niceStep((active.range.high - active.range.low) / Math.max(2, area.height / 34))
    for (let value = Math.ceil(active.range.low / step) * step; value <= active.range.high; value += step) {
      const y = Math.round(yOf(area, active.range, value)) + 0.5
      context.globalAlpha = 0.5
      context.beginPath()
      context.moveTo(area.left, y)
      context.lineTo(area.left + area.width, y)
      context.stroke()
      context.globalAlpha = 1
      context.textAlign = 'right'
      context.fillText(String(Number(value.toFixed(4))).replace('-', '−'), area.left - 4, y + 3)
    }
  }
  context.textAlign = 'center'
  const every = [1, 2, 4, 6, 12, 24, 48, 96, 240, 480, 960].find((frames) => (frames / Math.max(1, lengthFrames)) * area.width > 44) ?? 1920
  for (let frame = 0; frame < lengthFrames; frame += every) {
    const x = Math.round(xOf(scene, frame)) + 0.5
    context.globalAlpha = 0.5
    context.beginPath()
    context.moveTo(x, area.top)
    context.lineTo(x, area.top + area.height)
    context.stroke()
    context.globalAlpha = 1
    context.fillText(String(frame), x, area.top - 4)
  }
  context.textAlign = 'left'
}

function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1e-9, rough)))
  return ([1, 2, 5].find((unit) => unit * power >= rough) ?? 10) * power
}

function drawSpeed(context: CanvasRenderingContext2D, scene: CurveScene, fps: number, ink: CurveInk) {
  const foot = scene.area.top + scene.area.height + SPEED_BAND_PX + 2
  context.beginPath()
  context.moveTo(xOf(scene, 0), foot)
  scene.speeds.forEach((speed, frame) => {
    const high = Math.min(1, speed * fps * FULL_SPEED_SECONDS) ** 0.7 * SPEED_BAND_PX
    context.lineTo(xOf(scene, frame), foot - high)
    context.lineTo(xOf(scene, Math.min(scene.lengthFrames - 1, frame + 1)), foot - high)
  })
  context.lineTo(xOf(scene, scene.lengthFrames - 1), foot)
  context.closePath()
  context.fillStyle = ink.ribbon
  context.fill()
  context.fillStyle = ink.quiet
  context.font = `10px ${ink.font}`
  context.fillText('speed', scene.area.left + 3, foot - 3)
}

/** Beside what is seen: what the framings alone say, and where the figure would have the camera at once. */
function drawBeside(context: CanvasRenderingContext2D, scene: CurveScene, { range, keyed, goals }: Curve, ink: CurveInk) {
  for (const [line, dash, colour] of [[keyed, [3, 4], ink.quiet], [goals, [1, 3], ink.blue]] as const) {
    if (line === undefined) continue
    context.beginPath()
    let down = false
    line.forEach((value, frame) => {
      const at = Number.isFinite(value)
      if (at && down) context.lineTo(xOf(scene, frame), yOf(scene.area, range, value))
      else if (at) context.moveTo(xOf(scene, frame), yOf(scene.area, range, value))
      down = at
    })
    context.setLineDash([...dash])
    context.strokeStyle = colour
    context.lineWidth = 1.2
    context.stroke()
  }
  context.setLineDash([])
}

function drawCurve(context: CanvasRenderingContext2D, scene: CurveScene, curve: Curve, ink: CurveInk, active: boolean) {
  const { area } = scene
  const { field, range, values } = curve
  context.save()
  context.beginPath()
  context.rect(area.left - 8, area.top - 8, area.width + 16, area.height + 16)
  context.clip()
  if (active) drawBeside(context, scene, curve, ink)
  context.beginPath()
  values.forEach((value, frame) => {
    const [x, y] = [xOf(scene, frame), yOf(area, range, value)]
    if (frame === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  })
  context.setLineDash([...CURVE_FIELDS[field].dash])
  context.strokeStyle = active ? ink.blue : ink.quiet
  context.lineWidth = active ? 2.2 : 1.2
  context.globalAlpha = active ? 1 : 0.75
  context.stroke()
  context.setLineDash([])
  context.globalAlpha = 1
  context.restore()
  const keys = keysOf(scene.keys, field)
  const total = keys.length
  for (const [i, { id, frame, locked, numbers }] of keys.entries()) {
    const [x, y] = [xOf(scene, frame), yOf(area, range, numbers[field]!)]
    const shade = total < 2 ? 1 : i / (total - 1)
    if (active) {
      drawBead(context, x, y, ink.beads[Math.round(shade * (ink.beads.length - 1))]!, scene.selectedIds.includes(id) ? ink.ink : null)
      context.fillStyle = ink.ink
      context.font = `11px ${ink.font}`
      context.fillText(`${i + 1}${locked ? ' locked' : ''}`, x + 8, y - 7)
    } else {
      context.beginPath()
      context.arc(x, y, 3, 0, Math.PI * 2)
      context.fillStyle = ink.quiet
      context.fill()
    }
    if (scene.going.has(id)) drawCross(context, x, y, ink.vermilion)
  }
  for (const bump of scene.bumps) {
    if (bump.field !== field || values[bump.frame] === undefined) continue
    drawBump(context, xOf(scene, bump.frame), yOf(area, range, values[bump.frame]!), ink.vermilion)
  }
}

function drawCross(context: CanvasRenderingContext2D, x: number, y: number, colour: string) {
  context.strokeStyle = colour
  context.lineWidth = 2
  context.beginPath()
  context.moveTo(x - 7, y - 7)
  context.lineTo(x + 7, y + 7)
  context.moveTo(x + 7, y - 7)
  context.lineTo(x - 7, y + 7)
  context.stroke()
}

/** A little roof over the place where a value turns back. */
function drawBump(context: CanvasRenderingContext2D, x: number, y: number, colour: string) {
  context.strokeStyle = colour
  context.lineWidth = 2
  context.beginPath()
  context.moveTo(x - 7, y - 7)
  context.lineTo(x, y - 13)
  context.lineTo(x + 7, y - 7)
  context.stroke()
}
