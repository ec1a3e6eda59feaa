import type { MarkMeaning } from '@rubato/core/document'
import type { StripInk } from './stripInk'
import { heightOf } from './stripLanes'
import { RULER, STRIP_ROWS } from './stripRows'
import { frameOfX, rulerStep, xOfFrame, type StripScale } from './stripScale'
import type { StripMark, StripScene, StripShot } from './stripScene'

/** The ruler: its figures, the range, marks with their names, and the band of finished frames. */
export function drawRuler(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk) {
  drawRange(context, scale, scene, ink)
  const step = rulerStep(scale.pxPerFrame, scene.framesPerSecond, 96)
  const half = rulerStep(scale.pxPerFrame, scene.framesPerSecond, 12)
  context.font = `11px ${ink.mono}`
  context.textAlign = 'left'
  context.textBaseline = 'middle'
  const last = Math.min(scene.lengthFrames, frameOfX(scale, scale.widthPx))
  for (let frame = Math.floor(Math.max(0, scale.firstFrame) / half) * half; frame <= last; frame += half) {
    const x = Math.round(xOfFrame(scale, frame))
    const labelled = frame % step === 0
    context.fillStyle = ink.rule
    context.fillRect(x, labelled ? 4 : RULER.figuresPx - 5, 1, labelled ? RULER.figuresPx - 4 : 5)
    if (!labelled) continue
    context.fillStyle = ink.quiet
    context.fillText(scene.timecode(frame), x + 4, 9)
  }
  const heightPx = heightOf(scene)
  for (const shot of scene.shots) drawBand(context, scale, shot, ink)
  drawMarks(context, scale, scene.marks, heightPx, ink)
}

function drawRange(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk) {
  if (scene.range === null) return
  const [from, to] = [xOfFrame(scale, scene.range.start), xOfFrame(scale, scene.range.end)]
  context.fillStyle = ink.blue
  context.globalAlpha = 0.14
  context.fillRect(from, 0, to - from, RULER.figuresPx)
  context.globalAlpha = 0.05
  context.fillRect(from, RULER.figuresPx, to - from, heightOf(scene) - RULER.figuresPx)
  context.globalAlpha = 1
  // Brackets, as round a repeated passage.
  for (const [x, inward] of [[from, 1], [to, -1]] as const) {
    context.fillRect(x - 1, 0, 2, RULER.figuresPx)
    context.fillRect(inward > 0 ? x : x - 6, 0, 6, 2)
    context.fillRect(inward > 0 ? x : x - 6, RULER.figuresPx - 2, 6, 2)
  }
}

/** Runs of finished frames, a line each. */
function drawBand(context: CanvasRenderingContext2D, scale: StripScale, shot: StripShot, ink: StripInk) {
  const { ready } = shot
  if (ready === null) return
  const top = STRIP_ROWS.ruler.height - RULER.bandPx - 1
  context.fillStyle = ink.sea
  const first = Math.max(0, Math.floor(frameOfX(scale, 0) - shot.startFrame))
  const last = Math.min(ready.length, Math.ceil(frameOfX(scale, scale.widthPx) - shot.startFrame))
  for (let frame = first; frame < last; ) {
    if (ready[frame] === 0) {
      frame++
      continue
    }
    let end = frame
    while (end < last && ready[end] === 1) end++
    const x = xOfFrame(scale, shot.startFrame + frame)
    context.fillRect(x, top, Math.max(0.5, (end - frame) * scale.pxPerFrame), RULER.bandPx)
    frame = end
  }
}

/** Each meaning has a sign of its own, so that none is told by colour alone. */
function drawSign(context: CanvasRenderingContext2D, meaning: MarkMeaning, x: number, y: number) {
  context.beginPath()
  if (meaning === 'note') context.rect(x - 4, y - 4, 8, 8)
  else if (meaning === 'voice') context.ellipse(x, y, 5, 4, 0, 0, Math.PI * 2)
  else if (meaning === 'sound') {
    for (const [dx, h] of [[-4, 4], [-1, 9], [2, 6]] as const) context.rect(x + dx, y - h / 2, 2, h)
  } else if (meaning === 'change') {
    context.moveTo(x - 5, y - 5)
    context.lineTo(x + 5, y + 5)
    context.lineTo(x + 5, y - 5)
    context.lineTo(x - 5, y + 5)
  } else {
    context.moveTo(x, y - 5)
    context.lineTo(x + 5, y + 4)
    context.lineTo(x - 5, y + 4)
  }
  context.closePath()
  context.fill()
}

export const markInk = (ink: StripInk, meaning: MarkMeaning) => ({ note: ink.ink, voice: ink.ochre, sound: ink.sea, change: ink.plum, mend: ink.vermilion })[meaning]

function drawMarks(context: CanvasRenderingContext2D, scale: StripScale, marks: readonly StripMark[], heightPx: number, ink: StripInk) {
  const y = RULER.figuresPx + RULER.marksPx / 2 - 1
  context.font = `11px ${ink.font}`
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  marks.forEach((mark, i) => {
    const x = xOfFrame(scale, mark.frame)
    if (x < -200 || x > scale.widthPx + 8) return
    context.fillStyle = markInk(ink, mark.meaning)
    // A thread down through the rows, so that one sees what it stands over.
    context.globalAlpha = mark.selected ? 0.7 : 0.28
    context.fillRect(Math.round(x), RULER.figuresPx, 1, heightPx - RULER.figuresPx)
    context.globalAlpha = 1
    drawSign(context, mark.meaning, x, y)
    if (mark.selected) {
      context.strokeStyle = ink.blue
      context.lineWidth = 1.5
      context.strokeRect(x - 7, y - 7, 14, 13)
    }
    const next = marks[i + 1]
    const room = (next === undefined ? scale.widthPx : xOfFrame(scale, next.frame) - 8) - x - 9
    if (mark.name === '' || room < 24) return
    context.save()
    context.beginPath()
    context.rect(x + 8, RULER.figuresPx - 1, room, RULER.marksPx)
    context.clip()
    context.fillStyle = ink.ink
    context.fillText(mark.name, x + 9, y + 0.5)
    context.restore()
  })
}
