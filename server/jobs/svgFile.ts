// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- the page's types come here by way of the routes, and know no file that nobody names
/// <reference path="./cssTree.d.ts" />
import { ident, string, url } from 'css-tree/utils'
import { tokenize, tokenTypes } from 'css-tree/tokenizer'
import { SaxesParser } from 'saxes'
import { SVG_SIDE_PX } from '#shared/assets'
import { refuse } from '../services/refusals'

const MOST_ELEMENTS = 200_000
const DEEPEST = 200
/** What setting text costs grows with the square of its length. */
const MOST_LETTERS = 4000
/** A thinner picture has no px across at any size that is made. */
const MOST_ASPECT = SVG_SIDE_PX
/** Elements that can run, load or embed something, and those that move by themselves. */
const FORBIDDEN = new Set(['script', 'foreignobject', 'iframe', 'object', 'embed', 'audio', 'video', 'canvas', 'handler', 'listener', 'animate', 'animatemotion', 'animatetransform', 'set', 'discard', 'a'])
const TEXT = new Set(['text', 'tspan', 'textpath', 'tref'])
/** Functions of style sheets whose strings are places to load from. */
const LOADING = new Set(['url', 'src', 'image', 'image-set', '-webkit-image-set', 'cross-fade', 'element'])
const danger = (what: string) => refuse(415, 'unsafe-svg', `The SVG holds ${what}, which could run or load something, so it is not taken. Save it as plain SVG or as PNG and try again.`)

/** A picture inside the file itself may be embedded; nothing may lead out of it. */
const insideOnly = (link: string) => /^#/.test(link.trim()) || /^data:image\/(png|jpeg|webp);base64,/i.test(link.trim())

/** Whether a style sheet, or a piece of one, loads something; read as CSS is (Syntax Module Level 3), escapes and comments resolved. */
function leadsOut(css: string): boolean {
  const open: boolean[] = []
  let out = false
  tokenize(css, (type, start, end) => {
    const raw = css.slice(start, end)
    const inLoading = open.at(-1) === true
    if (type === tokenTypes.AtKeyword) out ||= ['import', 'font-face', 'namespace'].includes(ident.decode(raw.slice(1)).toLowerCase())
    else if (type === tokenTypes.Url) out ||= !insideOnly(url.decode(raw))
    else if (type === tokenTypes.BadUrl || type === tokenTypes.BadString) out = true
    else if (type === tokenTypes.Function) {
      const name = ident.decode(raw.slice(0, -1)).toLowerCase()
      out ||= name === 'expression'
      open.push(LOADING.has(name))
    } else if (type === tokenTypes.LeftParenthesis) open.push(inLoading)
    else if (type === tokenTypes.RightParenthesis) open.pop()
    else if (type === tokenTypes.String) out ||= inLoading && !insideOnly(string.decode(raw))
    // `url` with an escape in it, and no quotes: its address is not one token.
    else if (inLoading && type !== tokenTypes.WhiteSpace && type !== tokenTypes.Comma && type !== tokenTypes.Dimension && type !== tokenTypes.Hash && type !== tokenTypes.Comment) out = true
    else if (type === tokenTypes.Ident) out ||= /^(javascript|-moz-binding|behavior)$/i.test(ident.decode(raw))
  })
  return out
}

export interface PlainSvg {
  readonly widthPx: number
  readonly heightPx: number
  /** The file, its root made `sidePx` along its longest side: lines are drawn at the size wanted, not drawn small and enlarged. */
  readonly at: (sidePx: number) => string
}

/**
 * An SVG's picture, scaled so that its longest side is `SVG_SIDE_PX`. Refuses whatever is not plain drawing: browsers are
 * sent pixels made from it, never the file, and this is the second lock.
 */
export function readSvg(text: string): PlainSvg {
  const parser = new SaxesParser({ xmlns: true })
  let elements = 0
  let depth = 0
  let letters = 0
  let inStyle = false
  let inText = 0
  let begun = 0
  let root: { readonly width: number; readonly height: number; readonly from: number; readonly to: number; readonly box: string } | null = null
  parser.on('error', (error) => {
    throw refuse(415, 'not-a-picture', `The SVG is damaged (${error.message.slice(0, 120)}). Save it again and try again.`)
  })
  parser.on('doctype', (doctype) => {
    if (/\[|entity/i.test(doctype)) throw danger('definitions of its own')
  })
  parser.on('processinginstruction', ({ target }) => {
    if (target.toLowerCase() !== 'xml') throw danger(`an instruction (${target.slice(0, 40)})`)
  })
  parser.on('opentagstart', () => {
    if (depth === 0) begun = text.lastIndexOf('<', parser.position - 1)
  })
  parser.on('opentag', (tag) => {
    const name = tag.local.toLowerCase()
    if (++elements > MOST_ELEMENTS || ++depth > DEEPEST) throw refuse(413, 'too-many-parts', `The SVG has more than ${MOST_ELEMENTS} parts or nests deeper than ${DEEPEST}. Save it as PNG and try again.`)
    if (FORBIDDEN.has(name)) throw danger(`<${name}>`)
    inStyle = name === 'style'
    if (TEXT.has(name)) inText++
    const values = new Map<string, string>()
    for (const attribute of Object.values(tag.attributes)) {
      const key = attribute.local.toLowerCase()
      values.set(key, attribute.value)
      if (/^on/.test(key)) throw danger(key)
      if ((key === 'href' || key === 'src') && attribute.prefix !== 'xmlns' && !insideOnly(attribute.value)) throw danger('a link')
      if (/[\\(@]/.test(attribute.value) && leadsOut(attribute.value)) throw danger('a link')
    }
    if (depth !== 1) return
    if (name !== 'svg') throw refuse(415, 'not-a-picture', 'The file is not an SVG picture.')
    const size = sizeOf(values)
    root = { ...size, from: begun, to: parser.position, box: values.get('viewbox') ?? `0 0 ${size.width} ${size.height}` }
  })
  parser.on('closetag', (tag) => {
    depth--
    inStyle = false
    if (TEXT.has(tag.local.toLowerCase())) inText--
  })
  const words = (found: string) => {
    if (inStyle && leadsOut(found)) throw danger('a link')
    if (inText > 0 && (letters += found.length) > MOST_LETTERS) throw refuse(413, 'too-much-text', `The SVG holds more than ${MOST_LETTERS} letters of text. Turn its text into outlines or save it as PNG, then try again.`)
  }
  parser.on('text', words)
  parser.on('cdata', words)
  parser.write(text).close()
  if (root === null) throw refuse(415, 'not-a-picture', 'The file is not an SVG picture.')
  const { width, height, from, to, box } = root as { width: number; height: number; from: number; to: number; box: string }
  const sized = (sidePx: number) => {
    const scale = sidePx / Math.max(width, height)
    return [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))] as const
  }
  const [widthPx, heightPx] = sized(SVG_SIDE_PX)
  return {
    widthPx,
    heightPx,
    at(sidePx) {
      const [w, h] = sized(sidePx)
      const tag = text.slice(from, to).replace(/\s(?:width|height|viewBox)\s*=\s*(?:"[^"]*"|'[^']*')/gi, ' ')
      const end = tag.endsWith('/>') ? -2 : -1
      return `${text.slice(0, from)}${tag.slice(0, end)} width="${w}" height="${h}" viewBox="${box.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;')}"${tag.slice(end)}${text.slice(to)}`
    },
  }
}

const unusable = () => refuse(415, 'not-a-picture', 'The SVG says no size that a picture can have. Save it with a width and height or a view box, then try again.')

function sizeOf(values: ReadonlyMap<string, string>): { readonly width: number; readonly height: number } {
  const box = (values.get('viewbox') ?? '').trim().split(/[\s,]+/).map(Number)
  const positive = (value: number | undefined) => (value !== undefined && Number.isFinite(value) && value > 0 ? value : null)
  const [boxWidth, boxHeight] = [positive(box[2]), positive(box[3])]
  const aspect = boxWidth === null || boxHeight === null ? null : boxWidth / boxHeight
  const [width, height] = [length(values.get('width')), length(values.get('height'))]
  const size =
    width !== null && height !== null ? { width, height }
    : aspect === null ? null
    : width !== null ? { width, height: width / aspect }
    : height !== null ? { width: height * aspect, height }
    : { width: boxWidth!, height: boxHeight! }
  const thin = size === null ? Infinity : Math.max(size.width, size.height) / Math.min(size.width, size.height)
  if (size === null || !(thin <= MOST_ASPECT)) throw unusable()
  return size
}

function length(text: string | undefined): number | null {
  const found = /^\s*(\d*\.?\d+(?:e[+-]?\d+)?)\s*(px|pt|pc|mm|cm|in|q)?\s*$/i.exec(text ?? '')
  const value = found === null ? 0 : Number(found[1])
  return Number.isFinite(value) && value > 0 ? value : null
}
