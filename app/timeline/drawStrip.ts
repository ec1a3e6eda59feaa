import { drawBead } from '../plan/drawBead'
import type { StripInk } from './stripInk'
import { STRIP_ROWS, type StripRow, type StripRows } from './stripRows'
import { drawRuler } from './drawRuler'
import { drawCuts } from './drawCuts'
import { drawSpans } from './drawSpans'
import { drawTransitions } from './drawTransitions'
import { heightOf } from './stripLanes'
import { frameOfX, xOfFrame, type StripScale } from './stripScale'
import { panelKey, type StripBody, type StripScene, type StripShot } from './stripScene'

/** A speed that fills the ribbon: the frame's width in this many seconds. */
const FULL_SPEED_SECONDS = 1.6
const RIBBON_HALF_PX = 15

/** `lanes` draws the lanes of sound: they change less often than the rest. */
export function drawStrip(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk, lanes: () => void) {
  context.fillStyle = ink.paper
  const heightPx = heightOf(scene)
  context.fillRect(0, 0, scale.widthPx, heightPx)
  drawRules(context, scale, scene, ink)
  drawRuler(context, scale, scene, ink)
  for (const shot of scene.shots) {
    drawShot(context, scale, shot, scene, ink)
    if (shot.body === null) {
      drawUnloaded(context, scale, shot, ink)
      continue
    }
    drawPanels(context, scale, shot, shot.body, scene, ink)
    drawCuts(context, scene.rows, scale, shot, shot.body.cuts, ink)
    drawCamera(context, scene.rows, scale, shot, shot.body, scene.framesPerSecond, ink)
    drawSpans(context, scene.rows, scale, shot, shot.body.spans, ink)
    drawLevel(context, scene.rows, scale, shot.startFrame, shot.body, ink)
  }
  drawTransitions(context, scale, scene, ink)
  lanes()
  drawDrop(context, scale, scene, ink)
  drawLive(context, scale, scene, ink)
}

function drawRules(context: CanvasRenderingContext2D, scale: StripScale, { rows }: StripScene, ink: StripInk) {
  context.fillStyle = ink.rule
  for (const row of Object.values<StripRow>(rows)) if (row.height > 0) context.fillRect(0, row.top + row.height - 1, scale.widthPx, 1)
}

function drawShot(context: CanvasRenderingContext2D, scale: StripScale, shot: StripShot, scene: StripScene, ink: StripInk) {
  const { top, height } = STRIP_ROWS.shots
  const x = xOfFrame(scale, shot.startFrame)
  const width = shot.lengthFrames * scale.pxPerFrame
  context.fillStyle = shot.current ? ink.ink : ink.faint
  context.fillRect(x, top + 2, Math.max(1, width - 1), height - 5)
  if (shot.chosen) {
    context.strokeStyle = ink.blue
    context.lineWidth = 2
    context.strokeRect(x + 1, top + 3, Math.max(1, width - 3), height - 7)
  }
  drawFound(context, scale, shot, ink)
  if (width < 14) return
  context.save()
  context.beginPath()
  context.rect(x, top, width - 2, height)
  context.clip()
  context.fillStyle = shot.current ? ink.sheet : ink.ink
  context.textBaseline = 'middle'
  // Beside the transitions at its ends.
  const end = shot.startFrame + shot.lengthFrames
  const inset = scene.transitions.find(({ cutFrame }) => cutFrame === shot.startFrame)
  const outset = scene.transitions.find(({ cutFrame }) => cutFrame === end)
  const left = Math.max(inset === undefined ? x : xOfFrame(scale, inset.to), 0) + 7
  const right = Math.min(outset === undefined ? x + width : xOfFrame(scale, outset.from), scale.widthPx)
  context.font = `700 12px ${ink.font}`
  context.textAlign = 'left'
  context.fillText(shot.label, left, top + height / 2)
  const labelWidth = context.measureText(shot.label).width
  const frames = `${shot.lengthFrames}f`
  context.font = `11px ${ink.mono}`
  const framesWidth = context.measureText(frames).width
  const room = right - left - labelWidth - framesWidth - 22
  if (room > 16 && shot.title !== '') {
    context.font = `12px ${ink.font}`
    context.save()
    context.beginPath()
    context.rect(left + labelWidth + 6, top, room, height)
    context.clip()
    context.fillText(shot.title, left + labelWidth + 6, top + height / 2)
    context.restore()
  }
  if (right - left > labelWidth + framesWidth + 17) {
    context.font = `11px ${ink.mono}`
    context.textAlign = 'right'
    context.fillText(frames, right - 6, top + height / 2)
  }
  context.restore()
}

/** What a check found, along the foot of the shot: a line where art runs out, a broken one where paper is bare. */
function drawFound(context: CanvasRenderingContext2D, scale: StripScale, shot: StripShot, ink: StripInk) {
  const { top, height } = STRIP_ROWS.shots
  for (const { kind, from, to } of shot.found) {
    const [x0, x1] = [xOfFrame(scale, shot.startFrame + from), xOfFrame(scale, shot.startFrame + to + 1)]
    context.fillStyle = kind === 'gap' ? ink.ochre : ink.vermilion
    const y = top + height - 6
    if (kind === 'runs-out') context.fillRect(x0, y, Math.max(2, x1 - x0), 3)
    else for (let x = x0; x < Math.max(x0 + 2, x1); x += 5) context.fillRect(x, y - 3, Math.min(3, Math.max(2, x1 - x)), 3)
  }
}

function drawUnloaded(context: CanvasRenderingContext2D, scale: StripScale, shot: StripShot, ink: StripInk) {
  const { top, height } = STRIP_ROWS.panels
  context.fillStyle = ink.faint
  context.globalAlpha = 0.5
  context.fillRect(xOfFrame(scale, shot.startFrame) + 1, top + 3, Math.max(1, shot.lengthFrames * scale.pxPerFrame - 3), height - 7)
  context.globalAlpha = 1
}

function drawPanels(context: CanvasRenderingContext2D, scale: StripScale, shot: StripShot, body: StripBody, scene: StripScene, ink: StripInk) {
  const { top, height } = STRIP_ROWS.panels
  for (const panel of body.panels) {
    const x = xOfFrame(scale, shot.startFrame + panel.startFrame)
    const width = panel.lengthFrames * scale.pxPerFrame
    if (x + width < 0 || x > scale.widthPx) continue
    const key = panelKey(shot.takeId, panel.id)
    const current = key === scene.currentPanel
    const chosen = scene.chosen.has(key)
    const [left, right] = [x + 1, x + width - 1]
    if (right - left < 3) {
      context.fillStyle = current || chosen ? ink.blue : ink.faint
      context.fillRect(x, top + 3, Math.max(0.6, width - 0.6), height - 7)
      continue
    }
    context.save()
    context.beginPath()
    context.roundRect(left, top + 3, right - left, height - 7, 4)
    context.fillStyle = ink.panel
    context.fill()
    context.clip()
    const source = shot.thumbs.get(panel.id)
    if (source !== undefined) {
      const h = height - 7
      context.drawImage(source, left, top + 3, (h * source.width) / source.height, h)
    }
    if (chosen) {
      context.fillStyle = ink.blue
      context.globalAlpha = 0.16
      context.fillRect(left, top, right - left, height)
      context.globalAlpha = 1
    }
    if (right - left > 22) drawPanelWords(context, panel, left, right, ink)
    context.restore()
    context.strokeStyle = current || chosen ? ink.blue : ink.rule
    context.lineWidth = current ? 2.5 : chosen ? 1.5 : 1
    context.beginPath()
    context.roundRect(left, top + 3, right - left, height - 7, 4)
    context.stroke()
  }
}

function drawPanelWords(context: CanvasRenderingContext2D, panel: StripBody['panels'][number], left: number, right: number, ink: StripInk) {
  const { top, height } = STRIP_ROWS.panels
  context.textBaseline = 'middle'
  context.font = `600 11px ${ink.font}`
  const number = String(panel.number)
  context.fillStyle = 'rgb(252 250 245 / 0.92)'
  context.fillRect(left + 3, top + 6, context.measureText(number).width + 9, 15)
  context.fillStyle = '#27241e'
  context.textAlign = 'left'
  context.fillText(number, left + 7.5, top + 14)
  const frames = String(panel.lengthFrames)
  context.font = `11px ${ink.mono}`
  const width = context.measureText(frames).width + 8 + (panel.locked ? 15 : 0)
  if (right - left < width + 24) return
  context.fillStyle = 'rgb(252 250 245 / 0.92)'
  context.fillRect(right - width - 3, top + height - 21, width, 14)
  context.fillStyle = '#27241e'
  context.textAlign = 'right'
  context.fillText(frames, right - 7, top + height - 13.5)
  if (panel.locked) drawFermata(context, right - width + 5, top + height - 10)
}

/** A half circle over a dot, 12 px wide, its foot at (x, y). */
function drawFermata(context: CanvasRenderingContext2D, x: number, y: number) {
  context.strokeStyle = '#27241e'
  context.lineWidth = 1.4
  context.beginPath()
  context.arc(x + 4, y - 1, 5, Math.PI, 0)
  context.stroke()
  context.beginPath()
  context.arc(x + 4, y - 2.2, 1.4, 0, Math.PI * 2)
  context.fill()
}

/** The move as a ribbon: its width is the camera's speed on screen, so a cushion opens and a hard stop is a wall. */
function drawCamera(context: CanvasRenderingContext2D, rows: StripRows, scale: StripScale, shot: StripShot, body: StripBody, framesPerSecond: number, ink: StripInk) {
  const { top, height } = rows.camera
  const middle = top + height / 2 - 2
  const start = xOfFrame(scale, shot.startFrame)
  const end = xOfFrame(scale, shot.startFrame + shot.lengthFrames)
  context.fillStyle = ink.rule
  context.fillRect(Math.max(0, start + 2), middle, Math.min(end, scale.widthPx) - Math.max(0, start + 2) - 2, 1)
  drawRibbon(context, scale, shot, body, middle, framesPerSecond, ink)
  context.font = `italic 500 13.5px ${ink.serif}`
  context.textAlign = 'left'
  context.textBaseline = 'alphabetic'
  context.fillStyle = ink.ink
  for (const move of body.moves) {
    const left = Math.max(4, xOfFrame(scale, shot.startFrame + move.fromFrame) + 14)
    const right = xOfFrame(scale, shot.startFrame + move.toFrame) - 10
    if (move.name === 'hold' || right - left < 40 || left > scale.widthPx) continue
    context.save()
    context.beginPath()
    context.rect(left, top, right - left, height)
    context.clip()
    context.fillText(move.name, left, top + height - 5)
    context.restore()
  }
  for (const bead of body.beads) {
    const x = xOfFrame(scale, shot.startFrame + bead.frame)
    if (x < -12 || x > scale.widthPx + 12) continue
    drawBead(context, x, middle, ink.beads[Math.round(bead.shade * (ink.beads.length - 1))]!, bead.selected ? ink.ink : null)
    context.fillStyle = ink.quiet
    context.fillRect(x + 5, middle - 19, 1, 16)
    context.fillStyle = ink.ink
    context.font = `600 11px ${ink.font}`
    context.textAlign = 'left'
    context.fillText(`${bead.number}${bead.locked ? ' locked' : ''}`, x + 9, middle - 10)
  }
}

/** Narrower than this, runs can't be told apart any more. */
const RUN_PX = 2.5

/** The selected level: its keys and ways above, what it shows below: run by run in two tones, and thin where it only holds on past its panel. */
function drawLevel(context: CanvasRenderingContext2D, rows: StripRows, scale: StripScale, shotStart: number, body: StripBody, ink: StripInk) {
  const { top, height } = rows.level
  drawWays(context, scale, shotStart, body, top + 12, ink)
  const y = top + height - 8
  body.runs.forEach(({ fromFrame, toFrame, holdsFrom }, i) => {
    const [x0, x1] = [xOfFrame(scale, shotStart + fromFrame), xOfFrame(scale, shotStart + toFrame)]
    if (x1 < 0 || x0 > scale.widthPx) return
    const own = Math.max(x0, xOfFrame(scale, shotStart + holdsFrom))
    context.fillStyle = i % 2 === 0 ? ink.quiet : ink.faint
    context.fillRect(x0, y, Math.max(1, own - x0 - (own - x0 > RUN_PX ? 1 : 0)), 5)
    context.fillStyle = ink.faint
    if (x1 > own) context.fillRect(own, y + 2, x1 - own, 1.5)
  })
}

/** A level's ways as a line, thick where it is under way, its keys as flags on it. */
function drawWays(context: CanvasRenderingContext2D, scale: StripScale, shotStart: number, body: StripBody, y: number, ink: StripInk) {
  context.fillStyle = ink.ink
  const [first, last] = [body.keys[0], body.keys.at(-1)]
  if (first !== undefined && last !== undefined && last !== first) {
    const [x0, x1] = [xOfFrame(scale, shotStart + first.frame), xOfFrame(scale, shotStart + last.frame)]
    context.fillRect(Math.max(-2, x0), y, Math.min(scale.widthPx + 2, x1) - Math.max(-2, x0), 1)
  }
  for (const { fromFrame, toFrame } of body.ways) {
    const [x0, x1] = [Math.max(-2, xOfFrame(scale, shotStart + fromFrame)), Math.min(scale.widthPx + 2, xOfFrame(scale, shotStart + toFrame))]
    if (x1 > x0) context.fillRect(x0, y - 1, x1 - x0, 3)
  }
  for (const { frame, selected, locked } of body.keys) {
    const x = xOfFrame(scale, shotStart + frame)
    if (x < -8 || x > scale.widthPx + 8) continue
    context.beginPath()
    context.moveTo(x - 4.5, y - 10)
    context.lineTo(x + 4.5, y - 10)
    context.lineTo(x + 4.5, y - 3)
    context.lineTo(x, y + 2)
    context.lineTo(x - 4.5, y - 3)
    context.closePath()
    context.fillStyle = selected ? ink.blue : ink.ink
    context.fill()
    if (!locked) continue
    context.fillStyle = ink.sheet
    context.fillRect(x - 1.5, y - 8, 3, 3)
  }
}

function drawRibbon(context: CanvasRenderingContext2D, scale: StripScale, shot: StripShot, body: StripBody, middle: number, framesPerSecond: number, ink: StripInk) {
  const first = Math.max(0, Math.floor(frameOfX(scale, 0) - shot.startFrame))
  const last = Math.min(body.speeds.length - 1, Math.ceil(frameOfX(scale, scale.widthPx) - shot.startFrame))
  if (last <= first) return
  const half = (frame: number) => Math.min(1, body.speeds[frame]! * framesPerSecond * FULL_SPEED_SECONDS) ** 0.7 * RIBBON_HALF_PX
  // One column a pixel at most, whatever the zoom.
  const stride = Math.max(1, Math.floor(1 / scale.pxPerFrame))
  const upper: [number, number][] = []
  for (let frame = first; frame <= last; frame += stride) {
    const h = half(frame)
    // A frame's speed holds until the next: the ribbon has walls where the speed jumps.
    upper.push([xOfFrame(scale, shot.startFrame + frame + 0.5), h])
  }
  context.beginPath()
  upper.forEach(([x, h], i) => (i === 0 ? context.moveTo(x, middle - h) : context.lineTo(x, middle - h)))
  for (const [x, h] of upper.reverse()) context.lineTo(x, middle + h + 1)
  context.closePath()
  context.fillStyle = ink.ribbon
  context.globalAlpha = 0.85
  context.fill()
  context.globalAlpha = 1
}

/** Where what is carried goes, and what a drag snapped to. */
function drawDrop(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk) {
  if (scene.snapFrame !== null) {
    context.fillStyle = ink.blue
    for (let y = 0; y < heightOf(scene); y += 6) context.fillRect(Math.round(xOfFrame(scale, scene.snapFrame)), y, 1, 3)
  }
  if (scene.drop === null) return
  const { top, height } = STRIP_ROWS[scene.drop.row]
  const x = xOfFrame(scale, scene.drop.frame)
  context.fillStyle = ink.blue
  context.fillRect(x - 1.5, top, 3, height)
  context.fillRect(x - 5, top, 10, 3)
}

function drawLive(context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk) {
  if (scene.live === null) return
  const { row: where } = scene.live
  const row = typeof where === 'string' ? scene.rows[where] : scene.lanes.find((lane) => lane.id === where.lane)
  if (row === undefined) return
  context.font = `600 12px ${ink.mono}`
  const width = context.measureText(scene.live.text).width + 12
  const x = Math.min(scale.widthPx - width - 2, Math.max(2, xOfFrame(scale, scene.live.frame) - width / 2))
  context.fillStyle = ink.ink
  context.beginPath()
  context.roundRect(x, row.top + 4, width, 19, 4)
  context.fill()
  context.fillStyle = ink.sheet
  context.textAlign = 'left'
  context.textBaseline = 'middle'
  context.fillText(scene.live.text, x + 6, row.top + 14)
}
