import { z } from 'zod'
import { markSchema, type Mark, type Picture } from '../document/records'
import { xmlText } from '../document/text'
import type { Drawing } from '../document/units'
import { union, type Rectangle } from '../geometry/rectangle'
import { pictureCorners } from '../ink/select'
import { OUTLINE_UNITS_PER_FW, strokeOutline, USUAL_THINNING } from '../ink/outline'
import { drawingBounds, isForPrint, markBounds } from '../ink/bounds'
import type { LevelOwner } from '../document/units'

/** What the file says of whose drawing it is, to find back. */
const svgWaySchema = z.strictObject({ ownerKind: z.enum(['take', 'set']), ownerId: z.string().max(100), levelId: z.string().max(200), drawingId: z.string().max(100) })
export interface SvgWay {
  readonly owner: LevelOwner
  readonly levelId: string
  readonly drawingId: string
}

/** Attributes that carry what SVG has no words for: a mark; whose drawing it is; of the file, px a fw and where its corner lies, fw. */
export const SVG_SAYS = { mark: 'data-rubato-mark', way: 'data-rubato-way', place: 'data-rubato-place' } as const
const placeSchema = z.tuple([z.number().min(1e-3).max(1e6), z.number().min(-1e4).max(1e4), z.number().min(-1e4).max(1e4)])

const number = (value: number) => String(Math.round(value * 1e3) / 1e3)

/**
 * A drawing as SVG: lines, areas, words and arrows as paths, pictures as images (`hrefs` has each one’s address, by hash; one without is left
 * out). What erases is a mask over all that was there by then; what lies behind stands before it. Each element carries its mark as JSON, from
 * which it is read again with its pressure; px go down, fw go up. `order` numbers the marks as they lie in the drawing.
 */
export function writeDrawingSvg(drawing: Drawing, name: string, pxPerFw: number, way: SvgWay | null, hrefs: ReadonlyMap<string, string>): string {
  const bounds: Rectangle = drawing.marks.reduce<Rectangle | null>((all, mark) => (isForPrint(mark) ? union(all, markBounds(mark)) : all), drawingBounds(drawing)) ?? { left: -0.5, right: 0.5, bottom: -0.28125, top: 0.28125 }
  const pad = 2 / pxPerFw
  const [left, top] = [bounds.left - pad, bounds.top + pad]
  const [width, height] = [(bounds.right - bounds.left + 2 * pad) * pxPerFw, (bounds.top - bounds.bottom + 2 * pad) * pxPerFw]
  const x = (fw: number) => number((fw - left) * pxPerFw)
  const y = (fw: number) => number((top - fw) * pxPerFw)
  const ring = (points: readonly number[]) => {
    let path = ''
    for (let i = 0; i + 1 < points.length; i += 2) path += `${i === 0 ? 'M' : 'L'}${x(points[i]!)} ${y(points[i + 1]!)}`
    return path
  }
  const said = (mark: Mark, order: number) => `${SVG_SAYS.mark}="${xmlText(JSON.stringify({ ...mark, order }))}"`
  const shape = (mark: Exclude<Mark, Picture>, order: number, colour: string) => {
    const { rings, lineFw } = svgShape(mark)
    const opacity = mark.opacity === 1 ? '' : ` opacity="${number(mark.opacity)}"`
    if (lineFw === null) return `<path d="${rings.map((outline) => `${ring(outline)}Z`).join('')}" fill="${colour}"${mark.kind === 'fill' ? ' fill-rule="evenodd"' : ''}${opacity} ${said(mark, order)}/>`
    return `<path d="${rings.map(ring).join('')}" fill="none" stroke="${colour}" stroke-width="${number(lineFw * pxPerFw)}" stroke-linecap="round" stroke-linejoin="round"${opacity} ${said(mark, order)}/>`
  }
  const masks: string[] = []
  const notes: string[] = []
  let parts: string[] = []
  drawing.marks.forEach((mark, order) => {
    if (mark.kind === 'picture') {
      const href = hrefs.get(mark.assetHash)
      if (href !== undefined) parts.push(imageOf(mark, order, href))
    } else if (isForPrint(mark)) notes.push(shape(mark, order, mark.colour))
    else if (mark.mode === 'erase') {
      const id = `rubbed-${masks.length + 1}`
      masks.push(`<mask id="${id}" maskUnits="userSpaceOnUse" x="0" y="0" width="${number(width)}" height="${number(height)}"><rect width="${number(width)}" height="${number(height)}" fill="#ffffff"/>${shape(mark, order, '#000000')}</mask>`)
      if (parts.length > 0) parts = [`<g mask="url(#${id})">`, ...parts, '</g>']
    } else if (mark.mode === 'behind') parts.unshift(shape(mark, order, mark.colour))
    else parts.push(shape(mark, order, mark.colour))
  })

  function imageOf(mark: Picture, order: number, href: string): string {
    const corners = pictureCorners(mark)
    const [a, b, c] = [corners[3]!, corners[2]!, corners[0]!]
    const flip = mark.mirrored === true
    const [origin, across, down] = flip ? [b, a, corners[1]!] : [a, b, c]
    // From the image’s own unit square.
    const px = (value: { readonly x: number; readonly y: number }) => [(value.x - left) * pxPerFw, (top - value.y) * pxPerFw] as const
    const [[ox, oy], [ax, ay], [dx, dy]] = [px(origin), px(across), px(down)]
    return `<image width="1" height="1" preserveAspectRatio="none" transform="matrix(${[ax - ox, ay - oy, dx - ox, dy - oy, ox, oy].map(number).join(' ')})" href="${xmlText(href)}" ${said(mark, order)}/>`
  }

  const owner = way === null ? '' : ` ${SVG_SAYS.way}="${xmlText(JSON.stringify({ ownerKind: way.owner.kind, ownerId: way.owner.id, levelId: way.levelId, drawingId: way.drawingId }))}"`
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<svg xmlns="http://www.w3.org/2000/svg" width="${number(width)}" height="${number(height)}" viewBox="0 0 ${number(width)} ${number(height)}" ${SVG_SAYS.place}="${pxPerFw} ${left} ${top}"${owner}>`,
    `<title>${xmlText(name)}</title>`,
    ...(masks.length > 0 ? [`<defs>${masks.join('')}</defs>`] : []),
    ...parts,
    ...(notes.length > 0 ? ['<g id="for-print">', ...notes, '</g>'] : []),
    '</svg>',
    '',
  ].join('\n')
}

/**
 * How a mark is drawn as SVG, fw: a line of even pressure as what it is, `lineFw` wide (a pressure p makes 1 − t + 2·t·p of the width, t the
 * thinning); all else as outlines, to be filled.
 */
export function svgShape(mark: Exclude<Mark, Picture>): { readonly rings: readonly (readonly number[])[]; readonly lineFw: number | null } {
  if (mark.kind === 'fill') return { rings: mark.outlines, lineFw: null }
  const { points, widthFw, thinning = USUAL_THINNING } = mark
  const isEven = points.length > 3 && points.every((value, i) => i % 3 !== 2 || value === points[2])
  if (isEven) return { rings: [points.filter((_, i) => i % 3 !== 2)], lineFw: widthFw * (1 - thinning + 2 * thinning * points[2]!) }
  return { rings: [[...strokeOutline(points, widthFw, mark.thinning)].map((value) => value / OUTLINE_UNITS_PER_FW)], lineFw: null }
}

/** Whether a mark, whatever its order, can be kept. */
export const isKeepable = (mark: object): boolean => markSchema.safeParse({ ...mark, order: 'a1' }).success

/** The mark that an element carries, with its number in the drawing; null where that is none that can be kept. */
export function svgMark(json: string): { readonly mark: Mark; readonly order: number } | null {
  try {
    const { order, ...rest } = JSON.parse(json) as { readonly order: unknown }
    const parsed = markSchema.safeParse({ ...rest, order: 'a1' })
    return parsed.success && typeof order === 'number' && Number.isInteger(order) && order >= 0 ? { mark: parsed.data as Mark, order } : null
  } catch {
    return null
  }
}

/** How many px a fw is in a file, and where its left upper corner lies, fw; null where that is not said. */
export function svgPlace(said: string): { readonly pxPerFw: number; readonly left: number; readonly top: number } | null {
  const parsed = placeSchema.safeParse(said.trim().split(/\s+/).map(Number))
  return parsed.success ? { pxPerFw: parsed.data[0], left: parsed.data[1], top: parsed.data[2] } : null
}

export function svgWay(json: string): SvgWay | null {
  try {
    const parsed = svgWaySchema.safeParse(JSON.parse(json))
    if (!parsed.success) return null
    const { ownerKind, ownerId, levelId, drawingId } = parsed.data
    return { owner: { kind: ownerKind, id: ownerId }, levelId, drawingId }
  } catch {
    return null
  }
}
