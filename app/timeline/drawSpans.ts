import type { StripInk } from './stripInk'
import type { StripRows } from './stripRows'
import { xOfFrame, type StripScale } from './stripScale'
import type { StripShot, StripSpan } from './stripScene'

const GAP_PX = 1

/** Where a span's bar lies, px. */
export function spanBox(rows: StripRows, scale: StripScale, shotStart: number, { fromFrame, toFrame, lane, lanes }: Pick<StripSpan, 'fromFrame' | 'toFrame' | 'lane' | 'lanes'>) {
  const { top, height } = rows.work
  const room = (height - 4) / lanes
  return { left: xOfFrame(scale, shotStart + fromFrame), right: xOfFrame(scale, shotStart + toFrame + 1), top: top + 2 + lane * room, height: room - GAP_PX }
}

/** Lower than this a bar has no room for words. */
const WORDS_PX = 11

/** As high as each frame shows of it: cushions are slopes. A follow is full, an aim an outline, a hand is shaken. */
export function drawSpans(context: CanvasRenderingContext2D, rows: StripRows, scale: StripScale, shot: StripShot, spans: readonly StripSpan[], ink: StripInk) {
  for (const span of spans) {
    const { left, right, top, height } = spanBox(rows, scale, shot.startFrame, span)
    if (right < 0 || left > scale.widthPx) continue
    const foot = top + height
    const xOf = (frame: number) => xOfFrame(scale, shot.startFrame + frame + 0.5)
    context.beginPath()
    context.moveTo(left, foot)
    context.lineTo(left, foot - height * (span.weights[0]?.weight ?? 1))
    for (const { frame, weight } of span.weights) context.lineTo(Math.min(right, Math.max(left, xOf(frame))), foot - height * weight)
    context.lineTo(right, foot - height * (span.weights.at(-1)?.weight ?? 1))
    context.lineTo(right, foot)
    context.closePath()
    context.fillStyle = ink.ribbon
    context.globalAlpha = span.kind === 'aim' ? 0.18 : span.kind === 'hand' ? 0.4 : 0.75
    context.fill()
    context.globalAlpha = 1
    context.strokeStyle = span.selected ? ink.ink : ink.blue
    context.lineWidth = span.selected ? 2 : 1
    context.setLineDash(span.kind === 'aim' ? [4, 2] : [])
    context.stroke()
    context.setLineDash([])
    if (span.kind === 'hand') drawShake(context, left, right, top + height / 2, height, ink)
    if (height < WORDS_PX || right - left < 30) continue
    context.save()
    context.beginPath()
    context.rect(left, top, right - left - 4, height)
    context.clip()
    context.font = `${height < 16 ? 10.5 : 12}px ${ink.font}`
    context.textAlign = 'left'
    context.textBaseline = 'middle'
    context.fillStyle = ink.ink
    const inset = Math.max(left, 0) + 8 + Math.min(40, (right - left) / 8)
    if (span.kind === 'hand') {
      const width = context.measureText(span.name).width
      context.fillStyle = ink.paper
      context.fillRect(inset - 3, top + 2, width + 6, height - 4)
      context.fillStyle = ink.ink
    }
    context.fillText(span.name, inset, top + height / 2 + 0.5)
    context.restore()
  }
}

function drawShake(context: CanvasRenderingContext2D, left: number, right: number, middle: number, height: number, ink: StripInk) {
  context.strokeStyle = ink.blue
  context.lineWidth = 1
  context.beginPath()
  for (let x = Math.max(left, -10); x <= Math.min(right, left + 4000); x += 3) {
    const y = middle + Math.sin(x * 0.31) * Math.sin(x * 0.083) * height * 0.32
    if (x === Math.max(left, -10)) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.stroke()
}
