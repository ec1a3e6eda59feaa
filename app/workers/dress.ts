import type { Project } from '@rubato/core/document'
import type { FilmSpan } from '@rubato/core/stage'
import { timecodeOfFrame } from '@rubato/core/time'
import type { BurnIn, Dress, Said } from '#shared/renders'
import { drawBurnIn, wrapped, type BurnText, type Context2D, type Written } from './burnIn'

/** The size of what is handed over, and where the picture lies in it. */
export interface OutBox {
  readonly widthPx: number
  readonly heightPx: number
  readonly left: number
  readonly top: number
}

/** Whether anything is done to the picture itself. */
export const isDressed = ({ tone, aspect, border, safe, mark }: Dress): boolean => tone !== 'drawn' || aspect !== null || border > 0 || safe || mark.trim() !== ''

/** SMPTE ST 2046-1. */
const SAFE = [
  { share: 0.93, dash: [] },
  { share: 0.9, dash: [6, 4] },
] as const
const BARS = '#000000'

/** A finished picture as it is handed over; what was written and where. `scratch` is a canvas of the picture's size. */
export function drawDressed(to: Context2D, picture: CanvasImageSource & { readonly width: number; readonly height: number }, out: OutBox, dress: Dress, burnIn: BurnIn, texts: BurnText, scratch: () => Context2D, clear = false): readonly Written[] {
  const { widthPx, heightPx, left, top } = out
  const { width, height } = picture
  to.setTransform(1, 0, 0, 1, 0, 0)
  to.globalAlpha = 1
  to.globalCompositeOperation = 'source-over'
  to.filter = 'none'
  to.clearRect(0, 0, widthPx, heightPx)
  if (!clear && (widthPx !== width || heightPx !== height)) {
    to.fillStyle = BARS
    to.fillRect(0, 0, widthPx, heightPx)
  }
  if (dress.tone === 'drawn') to.drawImage(picture, left, top)
  else {
    const grey = scratch()
    grey.filter = 'none'
    grey.clearRect(0, 0, width, height)
    grey.filter = 'grayscale(1)'
    grey.drawImage(picture, 0, 0)
    grey.filter = 'none'
    to.drawImage(grey.canvas, left, top)
    if (dress.tone === 'line') {
      // What is as light as what is around it becomes white, what is darker a line.
      to.save()
      to.beginPath()
      to.rect(left, top, width, height)
      to.clip()
      to.globalCompositeOperation = 'color-dodge'
      to.filter = `invert(1) blur(${Math.max(1, width * 0.003)}px)`
      to.drawImage(grey.canvas, left, top)
      to.restore()
      to.filter = 'none'
    }
  }
  if (dress.border > 0) {
    const line = Math.max(1, Math.round(width * dress.border))
    to.strokeStyle = '#14120f'
    to.lineWidth = line
    to.strokeRect(left + line / 2, top + line / 2, width - line, height - line)
  }
  if (dress.safe) {
    for (const { share, dash } of SAFE) {
      const box = [left + (width * (1 - share)) / 2, top + (height * (1 - share)) / 2, width * share, height * share] as const
      to.setLineDash([...dash])
      for (const [style, line] of [['rgb(20 18 15 / 0.6)', 3], ['#fcfaf5', 1]] as const) {
        to.strokeStyle = style
        to.lineWidth = line
        to.strokeRect(...box)
      }
    }
    to.setLineDash([])
  }
  if (dress.mark.trim() !== '') drawMark(to, out, width, height, dress.mark.trim())
  return drawBurnIn(to, widthPx, heightPx, texts, burnIn)
}

/** Words in slanting rows all over the picture, so faint that it is still seen. */
function drawMark(to: Context2D, { left, top }: OutBox, width: number, height: number, words: string) {
  const size = Math.max(10, height * 0.05)
  to.save()
  to.beginPath()
  to.rect(left, top, width, height)
  to.clip()
  to.translate(left + width / 2, top + height / 2)
  to.rotate(-Math.PI / 9)
  to.font = `500 ${size}px "Burn Plain", sans-serif`
  to.textBaseline = 'alphabetic'
  to.textAlign = 'left'
  const step = to.measureText(words).width + size * 3
  const reach = Math.hypot(width, height) / 2
  for (let y = -reach, row = 0; y < reach + size; y += size * 4, row++) {
    for (let x = -reach - (row % 2) * (step / 2); x < reach; x += step) {
      to.fillStyle = 'rgb(252 250 245 / 0.2)'
      to.fillText(words, x + 1, y + 1)
      to.fillStyle = 'rgb(20 18 15 / 0.14)'
      to.fillText(words, x, y)
    }
  }
  to.restore()
}

const CARD_PAPER = '#14120f'
const CARD_INK = '#fcfaf5'

/** Words of one's own in the middle of a dark frame; its first line is larger. */
export function drawCard(to: Context2D, { widthPx, heightPx }: OutBox, text: string): void {
  blank(to, widthPx, heightPx)
  const [first = '', ...rest] = text.trim().split('\n')
  const size = heightPx * 0.045
  const rows: { readonly text: string; readonly size: number }[] = []
  for (const [words, letters] of [[first, size * 2], [rest.join('\n').trim(), size]] as const) {
    if (words === '') continue
    to.font = `500 ${letters}px "Burn Plain", sans-serif`
    for (const line of wrapped(words, widthPx * 0.8, (each) => to.measureText(each).width)) rows.push({ text: line, size: letters })
  }
  const tall = rows.reduce((sum, row) => sum + row.size * 1.4, 0)
  let y = (heightPx - tall) / 2
  to.textAlign = 'center'
  for (const row of rows) {
    to.font = `500 ${row.size}px "Burn Plain", sans-serif`
    to.fillText(row.text, widthPx / 2, y + row.size)
    y += row.size * 1.4
  }
}

/** What a slate says. `of`: the shot or frames that the file is of. */
export function slateLines(project: Project, of: string, lengthFrames: number, out: OutBox, said: Said): readonly (readonly [what: string, says: string])[] {
  const rate = `${Math.round((project.rate.numerator / project.rate.denominator) * 1000) / 1000} frames a second`
  const length = `${timecodeOfFrame(lengthFrames, project.rate, project.dropFrame ?? false)}, ${lengthFrames} frames`
  const lines = [['Film', project.title], ['Of it', of], ['Length', length], ['Rate', rate], ['Size', `${out.widthPx} × ${out.heightPx}`], ['Version', said.version], ['Date', said.date], ['By', said.who]] as const
  return lines.filter(([, says]) => says !== '')
}
export const slateOf = (span: FilmSpan, shot: { readonly label: string; readonly letter: string } | null): string => (shot !== null ? `shot ${shot.label}, take ${shot.letter}` : `frames ${span.start}–${span.end - 1}`)

/** What a file is of, in two columns. */
export function drawSlate(to: Context2D, { widthPx, heightPx }: OutBox, lines: readonly (readonly [what: string, says: string])[]): void {
  blank(to, widthPx, heightPx)
  const size = Math.max(8, heightPx * 0.042)
  let y = (heightPx - lines.length * size * 1.7) / 2
  to.textAlign = 'left'
  for (const [what, says] of lines) {
    y += size * 1.7
    to.font = `500 ${size * 0.8}px "Burn Plain", sans-serif`
    to.globalAlpha = 0.7
    to.fillText(what, widthPx * 0.14, y)
    to.globalAlpha = 1
    to.font = `500 ${size}px "Burn Mono", monospace`
    to.fillText(wrapped(says, widthPx * 0.56, (each) => to.measureText(each).width)[0] ?? '', widthPx * 0.32, y)
  }
}

function blank(to: Context2D, widthPx: number, heightPx: number) {
  to.setTransform(1, 0, 0, 1, 0, 0)
  to.globalAlpha = 1
  to.globalCompositeOperation = 'source-over'
  to.filter = 'none'
  to.fillStyle = CARD_PAPER
  to.fillRect(0, 0, widthPx, heightPx)
  to.fillStyle = CARD_INK
  to.textBaseline = 'alphabetic'
}
