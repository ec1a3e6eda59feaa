import type { CameraPose, Lens } from '@rubato/core/camera'
import { rayThrough } from '@rubato/core/camera'
import { toPlanPx, type PlanScale } from './planScale'

export interface PlanLevel {
  readonly id: string
  readonly name: string
  readonly depth: number
  /** The ends of what is drawn, in the set; equal where nothing is. */
  readonly ends: readonly [{ readonly x: number; readonly depth: number }, { readonly x: number; readonly depth: number }]
  readonly selected: boolean
  readonly visible: boolean
}

export interface PlanScene {
  readonly lens: Lens
  readonly levels: readonly PlanLevel[]
  readonly path: readonly CameraPose[]
  readonly framings: readonly { readonly id: string; readonly pose: CameraPose; readonly number: number; readonly shade: number; readonly selected: boolean }[]
  readonly live: string | null
}

export interface PlanInk {
  readonly paper: string
  readonly ink: string
  readonly quiet: string
  readonly blue: string
  readonly rule: string
  readonly beads: readonly string[]
  readonly font: string
}

/** Draws the set from above: levels as bars, the camera with its field, its path and its framings as beads. */
export function drawPlan(context: CanvasRenderingContext2D, scale: PlanScale, scene: PlanScene, ink: PlanInk) {
  const { widthPx, heightPx } = scale
  context.fillStyle = ink.paper
  context.fillRect(0, 0, widthPx, heightPx)
  drawGrid(context, scale, ink)
  drawField(context, scale, scene.lens, ink)
  drawLevels(context, scale, scene.levels, ink)
  drawPath(context, scale, scene, ink)
  drawCamera(context, scale, scene.lens, ink)
  if (scene.live !== null) {
    context.font = `600 12px ${ink.font}`
    const width = context.measureText(scene.live).width + 14
    context.fillStyle = ink.ink
    context.fillRect(6, heightPx - 26, width, 20)
    context.fillStyle = ink.paper
    context.fillText(scene.live, 13, heightPx - 12)
  }
}

function drawGrid(context: CanvasRenderingContext2D, scale: PlanScale, ink: PlanInk) {
  const step = [0.5, 1, 2, 5, 10, 20, 50].find((size) => size * scale.pxPerFw > 26) ?? 100
  context.strokeStyle = ink.rule
  context.globalAlpha = 0.6
  context.lineWidth = 1
  context.beginPath()
  const firstDepth = Math.ceil((scale.centreDepth - scale.heightPx / 2 / scale.pxPerFw) / step) * step
  for (let depth = firstDepth; ; depth += step) {
    const { y } = toPlanPx(scale, 0, depth)
    if (y < 0) break
    context.moveTo(0, Math.round(y) + 0.5)
    context.lineTo(scale.widthPx, Math.round(y) + 0.5)
  }
  context.stroke()
  context.globalAlpha = 1
}

function drawField(context: CanvasRenderingContext2D, scale: PlanScale, lens: Lens, ink: PlanInk) {
  const reach = (scale.heightPx + scale.widthPx) / scale.pxPerFw
  const apex = toPlanPx(scale, lens.position.x, lens.position.depth)
  context.beginPath()
  context.moveTo(apex.x, apex.y)
  for (const u of [-0.5, 0.5]) {
    const ray = rayThrough(lens, u, 0)
    const far = toPlanPx(scale, lens.position.x + ray.x * reach, lens.position.depth + ray.depth * reach)
    context.lineTo(far.x, far.y)
  }
  context.closePath()
  context.fillStyle = ink.blue
  context.globalAlpha = 0.22
  context.fill()
  context.globalAlpha = 1
}

function drawLevels(context: CanvasRenderingContext2D, scale: PlanScale, levels: readonly PlanLevel[], ink: PlanInk) {
  context.font = `11px ${ink.font}`
  context.textAlign = 'right'
  let lastLabelY = Infinity
  for (const level of [...levels].sort((a, b) => a.depth - b.depth)) {
    const [a, b] = level.ends.map((end) => toPlanPx(scale, end.x, end.depth)) as [{ x: number; y: number }, { x: number; y: number }]
    context.globalAlpha = level.visible ? 1 : 0.35
    context.strokeStyle = level.selected ? ink.blue : ink.quiet
    context.lineWidth = level.selected ? 4 : 2.5
    context.lineCap = 'round'
    context.beginPath()
    context.moveTo(a.x, a.y)
    context.lineTo(Math.abs(b.x - a.x) < 3 ? a.x + 3 : b.x, b.y)
    context.stroke()
    const y = Math.min((a.y + b.y) / 2 - 4, lastLabelY - 11)
    context.fillStyle = level.selected ? ink.blue : ink.ink
    context.fillText(level.name.length > 22 ? `${level.name.slice(0, 21)}…` : level.name, scale.widthPx - 5, y)
    lastLabelY = y
  }
  context.globalAlpha = 1
  context.textAlign = 'left'
}

function drawPath(context: CanvasRenderingContext2D, scale: PlanScale, scene: PlanScene, ink: PlanInk) {
  context.strokeStyle = ink.blue
  context.lineWidth = 1.2
  context.setLineDash([3, 2])
  context.beginPath()
  scene.path.forEach((pose, i) => {
    const { x, y } = toPlanPx(scale, pose.x, pose.depth)
    if (i === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  })
  context.stroke()
  context.setLineDash([])
  for (const framing of scene.framings) {
    const { x, y } = toPlanPx(scale, framing.pose.x, framing.pose.depth)
    drawBead(context, x, y, ink.beads[Math.round(framing.shade * (ink.beads.length - 1))]!, framing.selected ? ink.ink : null)
    context.fillStyle = ink.ink
    context.font = `11px ${ink.font}`
    context.fillText(String(framing.number), x - 3, y + 17)
  }
}

/** A slanted bead; ringed where it is selected. */
export function drawBead(context: CanvasRenderingContext2D, x: number, y: number, colour: string, ring: string | null) {
  context.beginPath()
  context.ellipse(x, y, 6.5, 4.6, -0.42, 0, Math.PI * 2)
  context.fillStyle = colour
  context.fill()
  if (ring === null) return
  context.strokeStyle = ring
  context.lineWidth = 2
  context.stroke()
}

function drawCamera(context: CanvasRenderingContext2D, scale: PlanScale, lens: Lens, ink: PlanInk) {
  const { x, y } = toPlanPx(scale, lens.position.x, lens.position.depth)
  context.save()
  context.translate(x, y)
  context.rotate(Math.atan2(lens.forward.x, lens.forward.depth))
  context.fillStyle = ink.ink
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
