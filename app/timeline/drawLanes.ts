import { peaksBetween, rampAt } from '@rubato/core/sound'
import type { StripInk } from './stripInk'
import { xOfFrame, type StripScale } from './stripScale'
import type { StripClip, StripLane, StripScene } from './stripScene'

/** The head of a clip with its name, where it is high enough for one. */
const CLIP_HEAD_PX = 13
const HEAD_FROM_PX = 28
/** The square by which a fade is dragged. */
const FADE_HANDLE_PX = 7

export const headOf = (lane: Pick<StripLane, 'height'>) => (lane.height >= HEAD_FROM_PX ? CLIP_HEAD_PX : 0)

/** Lanes with their clips: waves from peaks, so a redraw costs what there are pixels and nothing more. */
export function drawLanes(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk) {
  for (const lane of scene.lanes) {
    context.fillStyle = ink.rule
    context.fillRect(0, lane.top + lane.height - 1, scale.widthPx, 1)
    const colour = lane.kind === 'voices' ? ink.ochre : ink.sea
    context.globalAlpha = lane.heard ? 1 : 0.4
    for (const clip of lane.clips) drawClip(context, scale, lane, clip, colour, ink)
    context.globalAlpha = 1
  }
  for (const { clipId, frame } of scene.proposals) {
    const lane = scene.lanes.find((each) => each.clips.some((clip) => clip.id === clipId))
    if (lane === undefined) continue
    const x = Math.round(xOfFrame(scale, frame))
    context.fillStyle = ink.vermilion
    for (let y = lane.top + 2; y < lane.top + lane.height - 3; y += 5) context.fillRect(x, y, 1.5, 3)
  }
}

function drawClip(context: CanvasRenderingContext2D, scale: StripScale, lane: StripLane, clip: StripClip, colour: string, ink: StripInk) {
  const [x0, x1] = [xOfFrame(scale, clip.startFrame), xOfFrame(scale, clip.endFrame)]
  if (x1 < 0 || x0 > scale.widthPx) return
  const [left, right] = [Math.max(-4, x0), Math.min(scale.widthPx + 4, x1)]
  const [top, height] = [lane.top + 2, lane.height - 5]
  if (x1 - x0 < 3) {
    context.fillStyle = clip.chosen ? ink.blue : colour
    context.fillRect(x0, top, Math.max(1, x1 - x0), height)
    return
  }
  const head = headOf(lane)
  const alpha = context.globalAlpha
  context.save()
  context.beginPath()
  context.roundRect(x0, top, x1 - x0, height, 3)
  context.clip()
  context.fillStyle = ink.panel
  context.fillRect(left, top, right - left, height)
  context.fillStyle = colour
  context.globalAlpha = alpha * 0.16
  context.fillRect(left, top, right - left, height)
  context.globalAlpha = alpha * 0.3
  context.fillRect(left, top, right - left, head)
  context.globalAlpha = alpha
  drawWave(context, clip, x0, x1, Math.max(0, left), Math.min(scale.widthPx, right), top + head, height - head, clip.trouble === null ? colour : ink.vermilion)
  drawFades(context, scale, clip, x0, x1, top + head, height - head, ink)
  if (head > 0 && right - left > 20) drawName(context, clip, left, right, top, ink)
  context.restore()
  context.strokeStyle = clip.chosen ? ink.blue : colour
  context.lineWidth = clip.chosen ? 2 : 1
  context.beginPath()
  context.roundRect(x0 + 0.5, top + 0.5, x1 - x0 - 1, height - 1, 3)
  context.stroke()
  if (!clip.chosen || head === 0 || x1 - x0 < 24) return
  // What a fade is dragged by.
  context.fillStyle = ink.blue
  for (const x of fadeHandles(scale, clip)) context.fillRect(x - FADE_HANDLE_PX / 2, top + head - FADE_HANDLE_PX / 2, FADE_HANDLE_PX, FADE_HANDLE_PX)
}

/** Where the squares of a clip's fades are, px: at its ends where it has none. */
export function fadeHandles(scale: StripScale, clip: Pick<StripClip, 'startFrame' | 'endFrame' | 'fadeInFrames' | 'fadeOutFrames'>): readonly [number, number] {
  const inset = FADE_HANDLE_PX / 2 + 2
  const [x0, x1] = [xOfFrame(scale, clip.startFrame), xOfFrame(scale, clip.endFrame)]
  return [Math.max(x0 + inset, Math.min(x1 - inset, xOfFrame(scale, clip.startFrame + clip.fadeInFrames))), Math.min(x1 - inset, Math.max(x0 + inset, xOfFrame(scale, clip.endFrame - clip.fadeOutFrames)))]
}

function drawWave(context: CanvasRenderingContext2D, clip: StripClip, x0: number, x1: number, left: number, right: number, top: number, height: number, colour: string) {
  const columns = Math.ceil(right - left)
  if (clip.wave === null || columns < 1 || height < 4) return
  const { peaks, fromSeconds, lengthSeconds } = clip.wave
  const secondsAt = (x: number) => fromSeconds + ((x - x0) / (x1 - x0)) * lengthSeconds
  const found = peaksBetween(peaks, secondsAt(left), secondsAt(left + columns), columns)
  const middle = top + height / 2
  const half = (height / 2) * Math.min(8, clip.gain)
  context.fillStyle = colour
  context.beginPath()
  for (let i = 0; i < columns; i++) {
    const up = Math.min(height / 2, found[i * 2 + 1]! * half)
    const down = Math.min(height / 2, -found[i * 2]! * half)
    context.rect(left + i, middle - up, 1, Math.max(1, up + down))
  }
  context.fill()
}

/** The gain of fades as a line, with what is taken away greyed. */
function drawFades(context: CanvasRenderingContext2D, scale: StripScale, clip: StripClip, x0: number, x1: number, top: number, height: number, ink: StripInk) {
  const sides = [
    { from: x0, to: xOfFrame(scale, clip.startFrame + clip.fadeInFrames), kind: 'in' as const },
    { from: xOfFrame(scale, clip.endFrame - clip.fadeOutFrames), to: x1, kind: 'out' as const },
  ]
  for (const { from, to, kind } of sides) {
    if (to - from < 1.5) continue
    context.beginPath()
    context.moveTo(kind === 'in' ? from : to, top)
    for (let i = 0; i <= 16; i++) {
      const x = from + ((to - from) * i) / 16
      context.lineTo(x, top + height * (1 - rampAt({ kind, fromSeconds: from, toSeconds: to }, Math.min(x, to - 1e-3))))
    }
    context.lineTo(kind === 'in' ? to : from, top)
    context.closePath()
    context.fillStyle = ink.paper
    const alpha = context.globalAlpha
    context.globalAlpha = alpha * 0.6
    context.fill()
    context.globalAlpha = alpha
    context.strokeStyle = ink.quiet
    context.lineWidth = 1
    context.stroke()
  }
}

function drawName(context: CanvasRenderingContext2D, clip: StripClip, left: number, right: number, top: number, ink: StripInk) {
  context.fillStyle = clip.trouble === null ? ink.onPanel : ink.wrongOnPanel
  context.font = `600 10.5px ${ink.font}`
  context.textAlign = 'left'
  context.textBaseline = 'middle'
  let x = Math.max(left, 0) + 5
  if (clip.free) {
    // Tied to the film: a pin, where a shot's clip has none.
    context.fillRect(x, top + 3, 5, 2)
    context.fillRect(x + 2, top + 5, 1, 5)
    x += 8
  }
  const line = clip.trouble !== null ? `silent: ${clip.trouble}` : clip.line === '' ? '' : `“${clip.line}”`
  context.fillText(clip.name, x, top + 7)
  if (line === '') return
  const after = x + context.measureText(clip.name).width + 6
  if (after > right - 16) return
  context.font = `italic 500 11.5px ${ink.serif}`
  context.fillText(line, after, top + 7)
}
