import { xmlText } from '../document/text'

/** A page of lines, words and pictures; points (72 to an inch), from its upper left corner. Written as SVG here, as PDF by whoever has fonts. */
export interface SheetPage {
  readonly width: number
  readonly height: number
  readonly marks: readonly SheetMark[]
}
export interface SheetLine {
  readonly kind: 'line'
  /** x, y in turn; rings are closed and filled even-odd together. */
  readonly rings: readonly (readonly number[])[]
  readonly closed: boolean
  /** #rrggbb */
  readonly stroke: string
  readonly width: number
  readonly dash?: readonly number[]
}
export interface SheetText {
  readonly kind: 'text'
  readonly x: number
  /** Of the line that letters stand on. */
  readonly y: number
  readonly text: string
  readonly size: number
  readonly bold: boolean
  readonly colour: string
  readonly anchor: 'start' | 'middle' | 'end'
}
export interface SheetPicture {
  readonly kind: 'picture'
  readonly name: string
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  /** 0…1 */
  readonly opacity: number
}
export type SheetMark = SheetLine | SheetText | SheetPicture

const number = (value: number) => String(Number(value.toFixed(3)))

/** The page as an SVG of real lines and words; `pictures` has each picture's address (a data URL), by name. One that has none is left out. */
export function sheetSvg({ width, height, marks }: SheetPage, pictures: ReadonlyMap<string, string>): string {
  const parts = marks.map((mark) => {
    if (mark.kind === 'picture') {
      const href = pictures.get(mark.name)
      return href === undefined ? '' : `<image x="${number(mark.x)}" y="${number(mark.y)}" width="${number(mark.width)}" height="${number(mark.height)}" opacity="${number(mark.opacity)}" preserveAspectRatio="none" href="${xmlText(href)}"/>`
    }
    if (mark.kind === 'text') return `<text x="${number(mark.x)}" y="${number(mark.y)}" font-size="${number(mark.size)}"${mark.bold ? ' font-weight="600"' : ''} fill="${mark.colour}" text-anchor="${mark.anchor}">${xmlText(mark.text)}</text>`
    const d = mark.rings.map((ring) => ring.map((value, i) => `${i === 0 ? 'M' : i % 2 === 0 ? 'L' : ' '}${number(value)}`).join('') + (mark.closed ? 'Z' : '')).join('')
    return `<path d="${d}" fill="none" stroke="${mark.stroke}" stroke-width="${number(mark.width)}"${mark.dash === undefined ? '' : ` stroke-dasharray="${mark.dash.map(number).join(' ')}"`}/>`
  })
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${number(width)}pt" height="${number(height)}pt" viewBox="0 0 ${number(width)} ${number(height)}" font-family="Archivo, Arial, sans-serif">\n<rect width="100%" height="100%" fill="#ffffff"/>\n${parts.filter((part) => part !== '').join('\n')}\n</svg>\n`
}
