import type { StripInk } from './stripInk'
import { STRIP_ROWS } from './stripRows'
import { xOfFrame, type StripScale } from './stripScale'
import type { StripScene, StripTransition } from './stripScene'

/** Transitions, over the shots that they join: each kind has a shape of its own. */
export function drawTransitions(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk) {
  for (const transition of scene.transitions) drawTransition(context, scale, transition, ink)
}

function drawTransition(context: CanvasRenderingContext2D, scale: StripScale, { kind, at, from, to, cutFrame, colour, chosen }: StripTransition, ink: StripInk) {
  const [x0, x1, cut] = [xOfFrame(scale, from), xOfFrame(scale, to), xOfFrame(scale, cutFrame)]
  if (x1 < 0 || x0 > scale.widthPx) return
  const top = STRIP_ROWS.shots.top + 2
  const height = STRIP_ROWS.shots.height - 5
  context.save()
  context.beginPath()
  context.rect(x0, top, Math.max(2, x1 - x0), height)
  context.fillStyle = ink.plum
  context.fill()
  context.clip()
  context.lineWidth = 1.5
  context.strokeStyle = ink.sheet
  context.fillStyle = ink.sheet
  context.beginPath()
  if (kind === 'colour') {
    // The colour stands where it is full: between, or at the film's end.
    const middle = at === 'start' ? x0 : at === 'end' ? x1 : (x0 + x1) / 2
    context.moveTo(x0, at === 'start' ? top : top + height)
    context.lineTo(middle, top)
    context.lineTo(x1, at === 'end' ? top : top + height)
    context.stroke()
    context.beginPath()
    context.arc(Math.min(x1 - 6, Math.max(x0 + 6, middle)), top + height / 2, 5, 0, Math.PI * 2)
    context.fillStyle = colour
    context.fill()
    context.stroke()
  } else if (kind === 'wipe') {
    context.moveTo(x0 + (x1 - x0) * 0.62, top)
    context.lineTo(x1, top)
    context.lineTo(x1, top + height)
    context.lineTo(x0 + (x1 - x0) * 0.38, top + height)
    context.globalAlpha = 0.45
    context.fill()
    context.globalAlpha = 1
  } else {
    context.moveTo(x0, top + height)
    context.lineTo(x1, top)
    context.moveTo(x0, top)
    context.lineTo(x1, top + height)
    context.stroke()
  }
  if (at === 'cut') {
    context.fillStyle = ink.sheet
    context.fillRect(Math.round(cut) - 0.5, top, 1, height)
  }
  context.restore()
  if (!chosen) return
  context.strokeStyle = ink.blue
  context.lineWidth = 2
  context.strokeRect(x0, top - 1, Math.max(2, x1 - x0), height + 2)
}
