import { isForPrint, OUTLINE_UNITS_PER_FW } from '@rubato/core/ink'
import type { Drawing, Mark } from '@rubato/core/document'
import type { PlacedLevel } from '@rubato/core/stage'
import { inkFill, inkStroke, type Context2D } from './paint'

/**
 * How a drawing is shown: as inked; turned towards a tint, lighter or darker, with less colour; flat black; or as the ghost of a neighbouring panel, blue and
 * whole before this one, ochre and dashed after it; as its shadow, black with edges `soft` fw wide.
 */
export type Look =
  | { readonly kind: 'ink' }
  | { readonly kind: 'toned'; readonly tint: PlacedLevel['tint']; readonly tone: PlacedLevel['tone'] }
  | { readonly kind: 'silhouette' }
  | { readonly kind: 'shadow'; readonly soft: number }
  | { readonly kind: 'ghost'; readonly side: 'before' | 'after' }

export const INK: Look = Object.freeze({ kind: 'ink' })
export const SILHOUETTE: Look = Object.freeze({ kind: 'silhouette' })

export function lookName(look: Look): string {
  if (look.kind === 'toned') return `toned ${look.tint?.colour} ${look.tint?.strength} ${look.tone?.light} ${look.tone?.colour}`
  if (look.kind === 'shadow') return `shadow ${look.soft}`
  return look.kind === 'ghost' ? `ghost ${look.side}` : look.kind
}

/** As a level is shown in the picture: inked, or tinted and toned. */
export function lookOf({ tint, tone }: Pick<PlacedLevel, 'tint' | 'tone'>): Look {
  const isTinted = tint !== null && tint.strength > 0
  const isToned = tone !== null && (tone.light !== 0 || tone.colour !== 1)
  return isTinted || isToned ? { kind: 'toned', tint: isTinted ? tint : null, tone: isToned ? tone : null } : INK
}

/** Blue pencil and ochre, as the rest of the interface has them by day. */
const GHOST_COLOURS = Object.freeze({ before: '#2a6a99', after: '#b27b1b' })
const DASH = 5
const LIGHT = 0.82
const FILL_ALPHA = 0.2

/** The luminance of a tone, 0…1, by the weights of Rec. 709 on sRGB values: enough to tell ink from paper. */
function lightness(colour: string): number {
  const [r, g, b] = [1, 3, 5].map((i) => Number.parseInt(colour.slice(i, i + 2), 16) / 255)
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!
}

/** Paints the ghost of a drawing: its lines in the ghost's colour; what is as light as paper hides lines and shows nothing. */
export function paintGhost(context: Context2D, drawing: Drawing, side: 'before' | 'after', pxPerFw: number, left: number, top: number, padPx: number) {
  const scale = pxPerFw / OUTLINE_UNITS_PER_FW
  context.setTransform(scale, 0, 0, -scale, padPx - left * pxPerFw, padPx + top * pxPerFw)
  context.lineCap = 'butt'
  context.lineJoin = 'round'
  for (const mark of drawing.marks) if (mark.kind !== 'picture' && !isForPrint(mark)) ghostMark(context, mark, side)
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.globalCompositeOperation = 'source-over'
  context.globalAlpha = 1
  context.setLineDash([])
}

function ghostMark(context: Context2D, mark: Exclude<Mark, { kind: 'picture' }>, side: 'before' | 'after') {
  const light = mark.mode !== 'erase' && lightness(mark.colour) > LIGHT
  if (light && mark.mode === 'behind') return
  context.fillStyle = context.strokeStyle = GHOST_COLOURS[side]
  const hides = mark.mode === 'erase' || light
  context.globalCompositeOperation = hides ? 'destination-out' : mark.mode === 'behind' ? 'destination-over' : 'source-over'
  if (mark.kind === 'fill') {
    context.globalAlpha = hides ? mark.opacity : mark.opacity * FILL_ALPHA
    inkFill(context, mark)
    return
  }
  context.globalAlpha = mark.opacity
  if (hides || side === 'before') {
    inkStroke(context, mark)
    return
  }
  const width = Math.max(1.2, mark.widthFw * OUTLINE_UNITS_PER_FW * 0.7)
  context.lineWidth = width
  context.setLineDash([width * DASH * 0.6 + 4, width * DASH * 0.4 + 3])
  const { points } = mark
  context.beginPath()
  for (let i = 0; i + 2 < points.length; i += 3) context.lineTo(points[i]! * OUTLINE_UNITS_PER_FW, points[i + 1]! * OUTLINE_UNITS_PER_FW)
  context.stroke()
}
