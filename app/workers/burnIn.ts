import { panelAtFrame, type TakeBody } from '@rubato/core/document'
import monoUrl from '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-500-normal.woff2?url'
import plainUrl from '@fontsource-variable/archivo/files/archivo-latin-wdth-normal.woff2?url'
import { BURNS, type Burn, type BurnIn, type Said } from '#shared/renders'

export type Context2D = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

/** What is written into a frame, of all that was chosen; nothing is said where there is nothing to say. */
export type BurnText = Partial<Record<Burn, string>>

/** What a choice writes at a frame of a shot. */
export function burnText(choice: BurnIn, facts: { readonly timecode: string; readonly label: string; readonly take: string; readonly said: Said }, take: TakeBody, shotFrame: number): BurnText {
  const placed = panelAtFrame(take, Math.max(0, shotFrame))
  const { said } = facts
  const all: Record<Burn, string> = {
    timecode: choice.timecode ? facts.timecode : '',
    label: choice.label ? facts.label : '',
    panel: choice.panel && placed !== null ? `panel ${placed.index + 1}` : '',
    take: choice.take && facts.take !== '' ? `take ${facts.take}` : '',
    version: choice.version ? said.version : '',
    date: choice.date ? said.date : '',
    text: choice.text.trim(),
    captions: choice.captions ? (placed?.panel.dialogue.trim() ?? '') : '',
  }
  return Object.fromEntries(Object.entries(all).filter(([, text]) => text !== ''))
}

export const anyBurnIn = (choice: BurnIn) => choice.text.trim() !== '' || BURNS.some((burn) => burn !== 'text' && choice[burn])

let loading: Promise<void> | null = null
/** The product's own faces, so that every painter writes alike. */
export function loadBurnFonts(): Promise<void> {
  const faces = (globalThis as unknown as { readonly fonts?: FontFaceSet }).fonts ?? document.fonts
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
/** Where what has not been moved stands: what shares a corner is one line of it. */
const CORNERS: readonly { readonly x: 0 | 1; readonly y: 0 | 1; readonly of: readonly Burn[] }[] = [
  { x: 0, y: 1, of: ['label', 'take', 'panel'] },
  { x: 1, y: 1, of: ['timecode'] },
  { x: 0, y: 0, of: ['text', 'version'] },
  { x: 1, y: 0, of: ['date'] },
]

/** Where something was written, px; for a hand to take it. */
export interface Written {
  readonly burns: readonly Burn[]
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** Writes into a frame, light on dark, whatever lies under it. What was moved stands with its middle there, and never beyond the edge. */
export function drawBurnIn(context: Context2D, widthPx: number, heightPx: number, texts: BurnText, { at, size: letters }: Pick<BurnIn, 'at' | 'size'>): readonly Written[] {
  const size = Math.max(9, Math.round(heightPx * letters))
  const margin = Math.round(size * 0.8)
  const written: Written[] = []
  context.textBaseline = 'alphabetic'
  context.textAlign = 'left'
  const write = (burns: readonly Burn[], text: string, x: number, baseline: number) => {
    const width = context.measureText(text).width
    const box = { left: x - size * 0.35, top: baseline - size, width: width + size * 0.7, height: size * 1.32 }
    context.fillStyle = 'rgb(20 18 15 / 0.72)'
    context.fillRect(box.left, box.top, box.width, box.height)
    context.fillStyle = '#fcfaf5'
    context.fillText(text, x, baseline)
    written.push({ burns, ...box })
  }
  const within = (value: number, most: number) => Math.max(0, Math.min(most, value))
  context.font = `500 ${size}px "Burn Mono", monospace`
  for (const { x, y, of } of CORNERS) {
    const burns = of.filter((burn) => texts[burn] !== undefined && at[burn] === undefined)
    if (burns.length === 0) continue
    const text = burns.map((burn) => texts[burn]).join('  ')
    write(burns, text, x === 0 ? margin + size * 0.35 : widthPx - margin - size * 0.35 - context.measureText(text).width, y === 0 ? margin + size : heightPx - margin)
  }
  for (const burn of BURNS) {
    const [text, place] = [texts[burn], at[burn]]
    if (text === undefined || place === undefined || burn === 'captions') continue
    const width = context.measureText(text).width + size * 0.7
    write([burn], text, within(place.x * widthPx - width / 2, widthPx - width) + size * 0.35, within(place.y * heightPx - size * 0.66, heightPx - size * 1.32) + size)
  }
  const { captions } = texts
  if (captions === undefined) return written
  context.font = `500 ${Math.round(size * 1.15)}px "Burn Plain", sans-serif`
  const lines = wrapped(captions, widthPx * 0.8, (line) => context.measureText(line).width).slice(0, MOST_LINES)
  const last = at.captions === undefined ? heightPx - margin - size * 1.9 : within(at.captions.y * heightPx + size * 0.34, heightPx - size * 0.32)
  const middle = at.captions === undefined ? widthPx / 2 : at.captions.x * widthPx
  lines.forEach((line, i) => {
    const width = context.measureText(line).width
    write(['captions'], line, within(middle - width / 2 - size * 0.35, widthPx - width - size * 0.7) + size * 0.35, last - (lines.length - 1 - i) * size * 1.5)
  })
  return written
}
