import type { StripInk } from './stripInk'
import type { StripRows } from './stripRows'
import { xOfFrame, type StripScale } from './stripScale'
import type { StripCut, StripShot } from './stripScene'

/** Two tones, turn and turn about, so that a camera is told from the one before it by more than its letter. */
const toneOf = ({ index }: StripCut, ink: StripInk) => (index % 2 === 0 ? ink.ribbon : ink.faint)

/** Which camera is live: a picture at each cut, its letter and length, and a cross where one dissolves into the next. */
export function drawCuts(context: CanvasRenderingContext2D, rows: StripRows, scale: StripScale, shot: StripShot, cuts: readonly StripCut[], ink: StripInk) {
  const { top, height } = rows.cuts
  if (height === 0) return
  for (const cut of cuts) {
    const [left, right] = [xOfFrame(scale, shot.startFrame + cut.fromFrame) + 0.5, xOfFrame(scale, shot.startFrame + cut.toFrame) - 0.5]
    if (right < 0 || left > scale.widthPx) continue
    context.save()
    context.beginPath()
    context.roundRect(left, top + 2, Math.max(1, right - left), height - 5, 3)
    context.fillStyle = toneOf(cut, ink)
    context.globalAlpha = cut.index % 2 === 0 ? 0.55 : 0.5
    context.fill()
    context.globalAlpha = 1
    context.clip()
    const h = height - 5
    const pictured = cut.picture !== null && right - left > 26
    const width = pictured ? (h * cut.picture!.width) / cut.picture!.height : 0
    if (pictured) context.drawImage(cut.picture!, left, top + 2, width, h)
    const at = left + width + 6
    if (right - at > 10) {
      context.textAlign = 'left'
      context.textBaseline = 'middle'
      context.font = `700 12px ${ink.font}`
      context.fillStyle = ink.ink
      context.fillText(cut.letter, at, top + height / 2)
      const letter = context.measureText(cut.letter).width
      context.font = `11px ${ink.mono}`
      context.fillStyle = ink.quiet
      if (right - at > letter + 34) context.fillText(`${cut.toFrame - cut.fromFrame} f`, at + letter + 5, top + height / 2)
    }
    context.restore()
    if (!cut.selected && !cut.atWork) continue
    context.strokeStyle = cut.selected ? ink.ink : ink.blue
    context.lineWidth = cut.selected ? 2 : 1
    context.beginPath()
    context.roundRect(left, top + 2, Math.max(1, right - left), height - 5, 3)
    context.stroke()
  }
  for (const { dissolve } of cuts) {
    if (dissolve === null) continue
    const [a, b] = [xOfFrame(scale, shot.startFrame + dissolve.from), xOfFrame(scale, shot.startFrame + dissolve.to)]
    context.fillStyle = ink.paper
    context.globalAlpha = 0.72
    context.fillRect(a, top + 2, b - a, height - 5)
    context.globalAlpha = 1
    context.strokeStyle = ink.ink
    context.lineWidth = 1
    context.strokeRect(a + 0.5, top + 2.5, Math.max(1, b - a - 1), height - 6)
    context.beginPath()
    context.moveTo(a, top + height - 3)
    context.lineTo(b, top + 2)
    context.moveTo(a, top + 2)
    context.lineTo(b, top + height - 3)
    context.stroke()
  }
}
