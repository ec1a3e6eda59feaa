import { panelAtFrame, type TakeBody } from '@rubato/core/document'
import monoUrl from '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-500-normal.woff2?url'
import plainUrl from '@fontsource-variable/archivo/files/archivo-latin-wdth-normal.woff2?url'
import type { BurnIn } from '#shared/renders'

type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

/** What is written into a frame. */
export interface BurnText {
  readonly left: string
  readonly right: string
  readonly caption: string
}

/** What a choice writes at a frame of a shot. */
export function burnText(choice: BurnIn, timecode: string, label: string, take: TakeBody, shotFrame: number): BurnText {
  const placed = panelAtFrame(take, Math.max(0, shotFrame))
  const number = placed === null ? '' : String(placed.index + 1)
  return {
    left: [choice.label ? label : '', choice.panel && number !== '' ? `panel ${number}` : ''].filter((each) => each !== '').join('  '),
    right: choice.timecode ? timecode : '',
    caption: choice.captions ? (placed?.panel.dialogue.trim() ?? '') : '',
  }
}

export const anyBurnIn = (choice: BurnIn) => choice.timecode || choice.label || choice.panel || choice.captions

let loading: Promise<void> | null = null
/** The product's own faces, so that every painter writes alike. */
export function loadBurnFonts(): Promise<void> {
  const faces = (self as unknown as { readonly fonts: FontFaceSet }).fonts
  return (loading ??= Promise.all([new FontFace('Burn Mono', `url(${monoUrl})`), new FontFace('Burn Plain', `url(${plainUrl})`)].map(async (face) => void faces.add(await face.load()))).then(() => undefined))
}

/** Lines of text no wider than `most`, broken at spaces; what has none is broken where it must be. */
export function wrapped(text: string, most: number, widthOf: (line: string) => number): string[] {
  const lines: string[] = []
  for (const paragraph of text.split('\n')) {
    let line = ''
    for (const word of paragraph.split(/\s+/)) {
      const longer = line === '' ? word : `${line} ${word}`
      if (line === '' || widthOf(longer) <= most) line = longer
      else {
        lines.push(line)
        line = word
      }
      while (widthOf(line) > most && line.length > 1) {
        let fits = line.length - 1
        while (fits > 1 && widthOf(line.slice(0, fits)) > most) fits--
        lines.push(line.slice(0, fits))
        line = line.slice(fits)
      }
    }
    lines.push(line)
  }
  return lines
}

const MOST_LINES = 4

/** Writes into the lower part of a frame, light on dark, whatever lies under it. */
export function drawBurnIn(context: Context, widthPx: number, heightPx: number, { left, right, caption }: BurnText): void {
  const size = Math.max(9, Math.round(heightPx * 0.032))
  const margin = Math.round(size * 0.8)
  context.textBaseline = 'alphabetic'
  const write = (text: string, x: number, baseline: number, align: 'left' | 'right' | 'center') => {
    if (text === '') return
    const width = context.measureText(text).width
    const from = align === 'left' ? x : align === 'right' ? x - width : x - width / 2
    context.fillStyle = 'rgb(20 18 15 / 0.72)'
    context.fillRect(from - size * 0.35, baseline - size, width + size * 0.7, size * 1.32)
    context.fillStyle = '#fcfaf5'
    context.textAlign = 'left'
    context.fillText(text, from, baseline)
  }
  context.font = `500 ${size}px "Burn Mono", monospace`
  write(left, margin + size * 0.35, heightPx - margin, 'left')
  write(right, widthPx - margin - size * 0.35, heightPx - margin, 'right')
  if (caption === '') return
  context.font = `500 ${Math.round(size * 1.15)}px "Burn Plain", sans-serif`
  const lines = wrapped(caption, widthPx * 0.8, (line) => context.measureText(line).width).slice(0, MOST_LINES)
  lines.forEach((line, i) => write(line, widthPx / 2, heightPx - margin - size * 1.9 - (lines.length - 1 - i) * size * 1.5, 'center'))
}
