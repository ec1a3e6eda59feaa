import type { StripInk } from '~/timeline/stripInk'
import { CAMERAS_PX, COLUMN_PX, columnsSeen, FRAMES_PX, HEAD_PX, LEFT_PX, levelsRight, ROW_PX, rowsSeen, SOUND_PX, xOfColumn, yOfFrame, type SheetScale } from './sheetScale'

/** A drawing (or nothing) from a frame to the next exposure. */
export interface ShownRun {
  readonly from: number
  readonly to: number
  /** Of the drawing; null where nothing is shown. */
  readonly name: string | null
  /** Past this it only holds, over the end of the panel that it began in. */
  readonly holdsFrom: number
}

export interface SheetColumn {
  readonly id: string
  readonly name: string
  readonly locked: boolean
  readonly selected: boolean
  /** Those that are seen in some rows. */
  readonly runs: (first: number, last: number) => readonly ShownRun[]
}

export interface SheetScene {
  readonly columns: readonly SheetColumn[]
  readonly panels: readonly { readonly startFrame: number; readonly number: number }[]
  readonly cameras: readonly { readonly from: number; readonly to: number; readonly letter: string; readonly tone: number }[]
  /** The loudest of what is heard in parts of a frame, 0…1: `parts` for each frame from `first` on. */
  readonly sound: (first: number, last: number, parts: number) => Float32Array
  readonly said: readonly { readonly from: number; readonly to: number; readonly who: string; readonly line: string }[]
  readonly playhead: number
  /** Chosen frames of a level. */
  readonly span: { readonly column: number; readonly from: number; readonly to: number } | null
  /** What is being typed at its first frame. */
  readonly typed: string | null
  /** Where the chosen run, or what fills on from it, is taken hold of. */
  readonly end: { readonly column: number; readonly frame: number } | null
}

/** Parts of a frame that the wave is drawn by. */
const WAVE_PARTS = 4
const SEEN_TONES = 2

export const endHandle = (scale: SheetScale, { column, frame }: { readonly column: number; readonly frame: number }) => ({ x: xOfColumn(scale, column) + COLUMN_PX / 2, y: yOfFrame(scale, frame) })

/** Draws what is in view, and nothing else: what a redraw costs does not grow with the film. */
export function drawExposures(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, ink: StripInk) {
  const rows = rowsSeen(scale)
  const right = levelsRight(scale)
  const bottom = Math.min(scale.heightPx, yOfFrame(scale, scale.frames))
  context.fillStyle = ink.paper
  context.fillRect(0, 0, scale.widthPx, scale.heightPx)
  context.textBaseline = 'middle'
  context.fillStyle = ink.sheet
  for (let frame = rows.first; frame <= rows.last; frame++) if (frame % 2 === 0) context.fillRect(FRAMES_PX, yOfFrame(scale, frame), right - FRAMES_PX, ROW_PX)
  inside(context, LEFT_PX, HEAD_PX, right, bottom, () => drawColumns(context, scale, scene, rows, bottom, ink))
  drawPanels(context, scale, scene, rows, ink)
  drawFrames(context, scale, scene, rows, ink)
  inside(context, FRAMES_PX, HEAD_PX, LEFT_PX, bottom, () => drawCameras(context, scale, scene, ink))
  inside(context, right, HEAD_PX, scale.widthPx, bottom, () => {
    drawSound(context, scale, scene, rows, right, ink)
    drawSaid(context, scale, scene, right + SOUND_PX, ink)
  })
  drawHead(context, scale, scene, right, ink)
  drawPlayhead(context, scale, scene, right, ink)
}

function inside(context: CanvasRenderingContext2D, left: number, top: number, right: number, bottom: number, draw: () => void) {
  if (right <= left || bottom <= top) return
  context.save()
  context.beginPath()
  context.rect(left, top, right - left, bottom - top)
  context.clip()
  draw()
  context.restore()
}

function drawColumns(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, rows: { first: number; last: number }, bottom: number, ink: StripInk) {
  const seen = columnsSeen(scale)
  for (let at = seen.first; at <= seen.last; at++) {
    const column = scene.columns[at]!
    const x = xOfColumn(scale, at)
    context.fillStyle = ink.rule
    context.fillRect(x, HEAD_PX, 1, bottom - HEAD_PX)
    context.globalAlpha = column.locked ? 0.5 : 1
    context.font = `600 12px ${ink.mono}`
    context.textAlign = 'center'
    for (const run of column.runs(rows.first, rows.last)) {
      const [top, end, holds] = [yOfFrame(scale, run.from), yOfFrame(scale, run.to), yOfFrame(scale, run.holdsFrom)]
      context.fillStyle = ink.ink
      if (run.name !== null) context.fillText(run.name, x + COLUMN_PX / 2, top + ROW_PX / 2 + 1, COLUMN_PX - 10)
      else {
        // From here on nothing is shown.
        context.strokeStyle = ink.quiet
        context.lineWidth = 1.5
        context.beginPath()
        context.moveTo(x + COLUMN_PX / 2 - 5, top + ROW_PX / 2 + 5)
        context.lineTo(x + COLUMN_PX / 2 + 5, top + ROW_PX / 2 - 5)
        context.stroke()
        continue
      }
      const middle = x + COLUMN_PX / 2 - 0.75
      context.fillStyle = ink.quiet
      if (Math.min(end, holds) > top + ROW_PX * 1.5) context.fillRect(middle, top + ROW_PX, 1.5, Math.min(end, holds) - top - ROW_PX - 3)
      // What only holds on is dotted.
      for (let y = Math.max(holds, HEAD_PX - 6); y < Math.min(end, bottom) - 3; y += 5) context.fillRect(middle, y, 1.5, 2)
    }
    context.globalAlpha = 1
  }
  const { span, typed, end } = scene
  if (span === null) return
  const [x, top] = [xOfColumn(scale, span.column), yOfFrame(scale, span.from)]
  const height = (span.to - span.from) * ROW_PX
  context.fillStyle = ink.blue
  context.globalAlpha = 0.16
  context.fillRect(x + 1, top, COLUMN_PX - 1, height)
  context.globalAlpha = 1
  context.strokeStyle = ink.blue
  context.lineWidth = 2
  context.strokeRect(x + 2, top + 1, COLUMN_PX - 3, height - 2)
  if (typed !== null) {
    context.fillStyle = ink.sheet
    context.fillRect(x + 3, top + 2, COLUMN_PX - 5, ROW_PX - 4)
    context.fillStyle = ink.blue
    context.font = `600 12px ${ink.mono}`
    context.fillText(`${typed}|`, x + COLUMN_PX / 2, top + ROW_PX / 2 + 1, COLUMN_PX - 10)
  }
  if (end === null) return
  const at = endHandle(scale, end)
  context.beginPath()
  context.arc(at.x, at.y, 5, 0, Math.PI * 2)
  context.fillStyle = ink.blue
  context.fill()
  context.strokeStyle = ink.sheet
  context.lineWidth = 1.5
  context.stroke()
}

function drawPanels(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, rows: { first: number; last: number }, ink: StripInk) {
  context.fillStyle = ink.ink
  for (const { startFrame } of scene.panels) if (startFrame > rows.first && startFrame <= rows.last) context.fillRect(0, yOfFrame(scale, startFrame) - 1, scale.widthPx, 1.5)
}

function drawFrames(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, rows: { first: number; last: number }, ink: StripInk) {
  const starts = new Map(scene.panels.map(({ startFrame, number }) => [startFrame, number]))
  context.textAlign = 'left'
  const lineOf = (frame: number) => yOfFrame(scale, frame) + ROW_PX / 2 + 1
  const isBold = (frame: number) => starts.has(frame) || frame % 8 === 0
  // A typeface costs more to take up than a number to write.
  for (const bold of [false, true]) {
    context.font = `${bold ? 600 : 400} 11px ${ink.mono}`
    context.fillStyle = bold ? ink.ink : ink.quiet
    for (let frame = rows.first; frame <= rows.last; frame++) if (isBold(frame) === bold) context.fillText(String(frame), 12, lineOf(frame))
  }
  context.font = `600 10px ${ink.font}`
  context.fillStyle = ink.blue
  context.textAlign = 'right'
  for (let frame = rows.first; frame <= rows.last; frame++) if (starts.has(frame)) context.fillText(`p ${starts.get(frame)}`, FRAMES_PX - 4, lineOf(frame))
  context.textAlign = 'left'
}

function drawCameras(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, ink: StripInk) {
  for (const { from, to, letter, tone } of scene.cameras) {
    const [top, end] = [yOfFrame(scale, from), yOfFrame(scale, to)]
    if (end < HEAD_PX || top > scale.heightPx) continue
    context.fillStyle = tone % SEEN_TONES === 0 ? ink.blue : ink.ochre
    context.globalAlpha = 0.2
    context.beginPath()
    context.roundRect(FRAMES_PX + 3, top + 1, CAMERAS_PX - 8, end - top - 2, 3)
    context.fill()
    context.globalAlpha = 1
    context.fillStyle = ink.ink
    context.font = `600 12px ${ink.font}`
    // The letter stays in view as long as its camera does.
    context.fillText(letter, FRAMES_PX + 11, Math.min(Math.max(top, HEAD_PX) + ROW_PX / 2 + 1, end - ROW_PX / 2))
  }
}

function drawSound(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, rows: { first: number; last: number }, left: number, ink: StripInk) {
  const loud = scene.sound(rows.first, rows.last, WAVE_PARTS)
  const middle = left + SOUND_PX / 2
  const half = SOUND_PX / 2 - 6
  context.fillStyle = ink.ochre
  context.beginPath()
  loud.forEach((share, i) => {
    const width = Math.max(0.5, Math.min(1, share) * half)
    context.rect(middle - width, yOfFrame(scale, rows.first) + (i * ROW_PX) / WAVE_PARTS, width * 2, ROW_PX / WAVE_PARTS - 1)
  })
  context.fill()
}

function drawSaid(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, left: number, ink: StripInk) {
  const width = scale.widthPx - left - 16
  for (const { from, to, who, line } of scene.said) {
    const [top, end] = [yOfFrame(scale, from), yOfFrame(scale, to)]
    if (end < HEAD_PX - 80 || top > scale.heightPx) continue
    context.fillStyle = ink.plum
    context.fillRect(left + 2, top, 2.5, Math.max(2, end - top))
    context.textAlign = 'left'
    context.font = `600 11px ${ink.font}`
    let y = Math.max(top, HEAD_PX) + 9
    if (who !== '') {
      context.fillText(who, left + 11, y, width)
      y += 15
    }
    context.font = `italic 500 13px ${ink.serif}`
    for (const part of wrapped(context, line, width, 3)) {
      context.fillText(part, left + 11, y)
      y += 15
    }
  }
}

function wrapped(context: CanvasRenderingContext2D, text: string, width: number, most: number): string[] {
  const lines: string[] = []
  let now = ''
  for (const word of text.split(/\s+/)) {
    const next = now === '' ? word : `${now} ${word}`
    if (now !== '' && context.measureText(next).width > width) {
      lines.push(now)
      now = word
    } else now = next
    if (lines.length === most) return [...lines.slice(0, -1), `${lines.at(-1)!}…`]
  }
  return now === '' ? lines : [...lines, now]
}

function drawHead(context: CanvasRenderingContext2D, scale: SheetScale, scene: SheetScene, right: number, ink: StripInk) {
  context.fillStyle = ink.paper
  context.fillRect(0, 0, scale.widthPx, HEAD_PX)
  const seen = columnsSeen(scale)
  const y = HEAD_PX / 2
  inside(context, LEFT_PX, 0, right, HEAD_PX, () => {
    for (let at = seen.first; at <= seen.last; at++) {
      const { name, selected, locked } = scene.columns[at]!
      const x = xOfColumn(scale, at)
      context.fillStyle = selected ? ink.blue : ink.sheet
      context.globalAlpha = selected ? 0.22 : 1
      context.beginPath()
      context.roundRect(x + 3, 4, COLUMN_PX - 6, HEAD_PX - 9, 4)
      context.fill()
      context.globalAlpha = 1
      context.fillStyle = locked ? ink.quiet : ink.ink
      context.font = `600 12px ${ink.font}`
      context.textAlign = 'left'
      context.fillText(fitted(context, locked ? `${name}, locked` : name, COLUMN_PX - 18), x + 10, y)
    }
  })
  context.fillStyle = ink.ink
  context.font = `600 12px ${ink.font}`
  context.fillText('Frame', 10, y)
  context.fillText('Camera', FRAMES_PX + 6, y)
  context.fillText('Sound', right + 12, y)
  context.fillText('Said', right + SOUND_PX + 10, y)
  context.fillRect(0, HEAD_PX - 1.5, scale.widthPx, 1.5)
}

function fitted(context: CanvasRenderingContext2D, text: string, width: number): string {
  if (context.measureText(text).width <= width) return text
  let kept = text.length
  while (kept > 1 && context.measureText(`${text.slice(0, kept)}…`).width > width) kept--
  return `${text.slice(0, kept)}…`
}

function drawPlayhead(context: CanvasRenderingContext2D, scale: SheetScale, { playhead }: SheetScene, right: number, ink: StripInk) {
  const top = yOfFrame(scale, playhead)
  if (top < HEAD_PX - ROW_PX || top > scale.heightPx) return
  if (top + ROW_PX / 2 < HEAD_PX) return
  // Beside the words, not through them.
  context.fillStyle = ink.vermilion
  context.globalAlpha = 0.16
  context.fillRect(FRAMES_PX - 6, Math.max(HEAD_PX, top), right - FRAMES_PX + 6, ROW_PX)
  context.globalAlpha = 1
  context.fillRect(FRAMES_PX - 6, top + ROW_PX - 1, right - FRAMES_PX + 6, 1)
  context.beginPath()
  context.roundRect(4, top + 1, FRAMES_PX - 10, ROW_PX - 2, 3)
  context.fill()
  context.fillStyle = '#ffffff'
  context.font = `600 11px ${ink.mono}`
  context.textAlign = 'left'
  context.fillText(String(playhead), 12, top + ROW_PX / 2 + 1)
}
