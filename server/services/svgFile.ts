import { SaxesParser } from 'saxes'
import { SVG_SIDE_PX } from '#shared/assets'
import { refuse } from './refusals'

const MOST_ELEMENTS = 200_000
const DEEPEST = 200
/** Elements that can run, load or embed something, and those that move by themselves. */
const FORBIDDEN = new Set(['script', 'foreignobject', 'iframe', 'object', 'embed', 'audio', 'video', 'canvas', 'handler', 'listener', 'animate', 'animatemotion', 'animatetransform', 'set', 'discard', 'a'])
const danger = (what: string) => refuse(415, 'unsafe-svg', `The SVG holds ${what}, which could run or load something, so it is not taken. Save it as plain SVG or as PNG and try again.`)

/** A picture inside the file itself may be embedded; nothing may lead out of it. */
const insideOnly = (link: string) => /^#/.test(link.trim()) || /^data:image\/(png|jpeg|webp);base64,/i.test(link.trim())
const leadsOut = (css: string) => /@import|expression\s*\(|javascript:/i.test(css) || [...css.matchAll(/url\(\s*['"]?([^'")]*)/gi)].some((found) => !insideOnly(found[1]!))

/**
 * The size of an SVG's picture, scaled so that its longest side is `SVG_SIDE_PX`. Refuses whatever is not plain
 * drawing: browsers are sent pixels made from it, never the file, and this is the second lock.
 */
export function inspectSvg(text: string): { readonly widthPx: number; readonly heightPx: number } {
  const parser = new SaxesParser({ xmlns: true })
  let elements = 0
  let depth = 0
  let inStyle = false
  let root: { readonly width: number; readonly height: number } | null = null
  parser.on('error', (error) => {
    throw refuse(415, 'not-a-picture', `The SVG is damaged (${error.message.slice(0, 120)}). Save it again and try again.`)
  })
  parser.on('doctype', (doctype) => {
    if (/\[|entity/i.test(doctype)) throw danger('definitions of its own')
  })
  parser.on('processinginstruction', ({ target }) => {
    if (target.toLowerCase() !== 'xml') throw danger(`an instruction (${target.slice(0, 40)})`)
  })
  parser.on('opentag', (tag) => {
    const name = tag.local.toLowerCase()
    if (++elements > MOST_ELEMENTS || ++depth > DEEPEST) throw refuse(413, 'too-many-parts', `The SVG has more than ${MOST_ELEMENTS} parts or nests deeper than ${DEEPEST}. Save it as PNG and try again.`)
    if (FORBIDDEN.has(name)) throw danger(`<${name}>`)
    inStyle = name === 'style'
    const values = new Map<string, string>()
    for (const attribute of Object.values(tag.attributes)) {
      const key = attribute.local.toLowerCase()
      values.set(key, attribute.value)
      if (/^on/.test(key)) throw danger(key)
      if ((key === 'href' || key === 'src') && attribute.prefix !== 'xmlns' && !insideOnly(attribute.value)) throw danger('a link')
      if (leadsOut(attribute.value)) throw danger('a link')
    }
    if (depth !== 1) return
    if (name !== 'svg') throw refuse(415, 'not-a-picture', 'The file is not an SVG picture.')
    root = sizeOf(values)
  })
  parser.on('closetag', () => {
    depth--
    inStyle = false
  })
  const styles = (css: string) => {
    if (inStyle && leadsOut(css)) throw danger('a link')
  }
  parser.on('text', styles)
  parser.on('cdata', styles)
  parser.write(text).close()
  if (root === null) throw refuse(415, 'not-a-picture', 'The file is not an SVG picture.')
  const { width, height } = root as { width: number; height: number }
  const scale = SVG_SIDE_PX / Math.max(width, height)
  return { widthPx: Math.max(1, Math.round(width * scale)), heightPx: Math.max(1, Math.round(height * scale)) }
}

function sizeOf(values: ReadonlyMap<string, string>): { readonly width: number; readonly height: number } {
  const box = (values.get('viewbox') ?? '').trim().split(/[\s,]+/).map(Number)
  const [width, height] = [length(values.get('width')), length(values.get('height'))]
  const [boxWidth, boxHeight] = [box[2] ?? 0, box[3] ?? 0]
  const aspect = boxWidth > 0 && boxHeight > 0 ? boxWidth / boxHeight : null
  if (width !== null && height !== null) return { width, height }
  if (aspect !== null) return width !== null ? { width, height: width / aspect } : height !== null ? { width: height * aspect, height } : { width: boxWidth, height: boxHeight }
  throw refuse(415, 'not-a-picture', 'The SVG says no size. Save it with a width and height or a view box, then try again.')
}

function length(text: string | undefined): number | null {
  const found = /^\s*(\d*\.?\d+(?:e[+-]?\d+)?)\s*(px|pt|pc|mm|cm|in|q)?\s*$/i.exec(text ?? '')
  const value = found === null ? 0 : Number(found[1])
  return Number.isFinite(value) && value > 0 ? value : null
}
